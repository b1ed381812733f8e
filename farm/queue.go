// Package farm spreads the frames of runs over machines. Orders are messages of a NATS JetStream work queue; what they need, and
// what comes of them, lies in its object store by content hash. The first program gives orders out and writes the files; workers
// draw. Every order is delivered at least once, and its fingerprint decides which file it is: there is exactly one.
package farm

import (
	"context"
	"crypto/rand"
	"crypto/tls"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"net"
	"net/url"
	"os"
	"strconv"
	"strings"
	"time"

	"github.com/nats-io/nats-server/v2/server"
	"github.com/nats-io/nats.go"
	"github.com/nats-io/nats.go/jetstream"
)

// Names on the queue.
const (
	workStream   = "PERIGYRE_WORK"
	workSubjects = "perigyre.work." // of an order: the first program's id, the order's key
	assetBucket  = "perigyre-assets"
	doneBucket   = "perigyre-done"
	beatSubject  = "perigyre.beat" // a worker says how it is, and is told what is wished
	dropSubject  = "perigyre.drop" // names of orders that nobody waits for any more
	workerUser   = "worker"
)

// ordersOf is the consumer that the orders of a first program are taken by.
func ordersOf(program string) string { return "orders-" + program }

// nameOf returns which program's an order is, and its key; together they are its name.
func nameOf(msg jetstream.Msg) (program, key string) {
	program, key, _ = strings.Cut(fullName(msg), ".")
	return program, key
}

func fullName(msg jetstream.Msg) string { return strings.TrimPrefix(msg.Subject(), workSubjects) }

const (
	patience  = 8 * time.Second  // without a sign of life an order is given to another worker
	maxInline = 512 << 10        // bytes of an order in its message; larger ones lie in the object store
	starting  = 40 * time.Second // that a queue which exists is waited for
	keptDone  = 24 * time.Hour   // what was drawn and is not fetched
	keptAsset = 7 * 24 * time.Hour
	keptOrder = 7 * 24 * time.Hour
	maxOrder  = 64 << 20 // bytes of an order
)

// Place is where the queue is.
type Place struct {
	Folder string      // of the embedded server's files
	Listen string      // address and port that workers join at; empty for an embedded server that nobody can join
	Join   string      // nats://... of a server or cluster that exists; then nothing is embedded
	Token  string      // that workers bring; may be empty on this machine alone
	TLS    *tls.Config // nil for none
}

// At reads an address: nats://HOST:PORT and tls://HOST:PORT are of a server that exists, HOST:PORT is to be listened at.
func At(address, token, folder string, secure *tls.Config) (Place, error) {
	p := Place{Folder: folder, Token: token, TLS: secure}
	if strings.Contains(address, "://") {
		p.Join = address
		return p, nil
	}
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return p, fmt.Errorf("%s is neither an address and a port such as 127.0.0.1:7742, for workers to join at, nor that of a queue that exists, such as nats://queue.example:4222", address)
	}
	if !loopback(host) && token == "" {
		return p, fmt.Errorf("listening for workers on %s, beyond this machine, needs a token that they bring", address)
	}
	p.Listen = address
	return p, nil
}

// Beyond reports whether other machines can join.
func (p *Place) Beyond() bool {
	host, _, err := net.SplitHostPort(p.Listen)
	return err == nil && !loopback(host)
}

func loopback(host string) bool {
	ip := net.ParseIP(host)
	return host == "localhost" || ip != nil && ip.IsLoopback()
}

// queue is a connection to the server, and what it keeps.
type queue struct {
	server *server.Server // nil where it is not ours
	nc     *nats.Conn
	js     jetstream.JetStream
	assets jetstream.ObjectStore
	done   jetstream.ObjectStore
}

// openQueue starts or joins the server as the first program of an id and makes what is not there yet.
func openQueue(ctx context.Context, p Place, id string) (*queue, error) {
	q := new(queue)
	var err error
	if p.Join != "" {
		for end := time.Now().Add(starting); ; time.Sleep(500 * time.Millisecond) { // it may be about to start, or to start again
			if q.nc, err = dial(p.Join, "", p.Token, p.TLS, nil); err == nil {
				if err = q.prepare(ctx, id); err != nil {
					q.close()
				}
			}
			if err == nil || errors.Is(err, errToken) || ctx.Err() != nil || time.Now().After(end) {
				break
			}
		}
	} else {
		secret := make([]byte, 16)
		_, _ = rand.Read(secret) // never fails (crypto/rand)
		first := hex.EncodeToString(secret)
		if q.server, err = embed(p, first); err != nil {
			return nil, err
		}
		if q.nc, err = dial("", "first", first, nil, q.server); err == nil {
			err = q.prepare(ctx, id)
		}
	}
	if err != nil {
		q.close()
		return nil, err
	}
	return q, nil
}

// embed starts a server in this process.
func embed(p Place, first string) (*server.Server, error) {
	o := &server.Options{
		ServerName: "perigyre", NoSigs: true, NoLog: true, JetStream: true, StoreDir: p.Folder, MaxPayload: 8 << 20, DontListen: p.Listen == "",
		PingInterval: 5 * time.Second, MaxPingsOut: 2,
		Users: []*server.User{{Username: "first", Password: first}},
	}
	if p.Listen != "" {
		host, port, err := net.SplitHostPort(p.Listen)
		if err != nil {
			return nil, err
		}
		o.Host = host
		if o.Port, err = strconv.Atoi(port); err != nil {
			return nil, fmt.Errorf("%s has no port", p.Listen)
		}
		if o.Port == 0 {
			o.Port = server.RANDOM_PORT
		}
		token := p.Token
		if token == "" {
			token = openHere
		}
		o.Users = append(o.Users, &server.User{Username: workerUser, Password: token, Permissions: rights()})
		if p.TLS != nil {
			o.TLSConfig, o.TLS, o.TLSTimeout = p.TLS, true, 10
		}
	}
	s, err := server.NewServer(o)
	if err != nil {
		return nil, fmt.Errorf("the queue for workers cannot be started: %w", err)
	}
	s.Start()
	if !s.ReadyForConnections(20 * time.Second) {
		s.Shutdown()
		return nil, fmt.Errorf("the queue for workers cannot be started at %s: the port may be in use, or %s cannot be written", p.Listen, p.Folder)
	}
	return s, nil
}

// Serve keeps a queue that others give work out at, with a secret. End ends it.
func Serve(p Place, secret string) (address string, end func(), err error) {
	if err := os.MkdirAll(p.Folder, 0o700); err != nil {
		return "", nil, fmt.Errorf("the folder of the queue cannot be made: %w", err)
	}
	s, err := embed(p, secret)
	if err != nil {
		return "", nil, err
	}
	return s.Addr().String(), func() {
		s.Shutdown()
		s.WaitForShutdown()
	}, nil
}

// openHere is what workers on this machine bring where no token is asked for.
const openHere = "this machine"

// rights are all that workers may do: take orders, read assets, hand in what they drew, say how they are.
func rights() *server.Permissions {
	objects := func(bucket string) string { return "OBJ_" + bucket }
	return &server.Permissions{
		Publish: &server.SubjectPermission{Allow: []string{
			beatSubject,
			"$JS.API.CONSUMER.INFO." + workStream + ".*", "$JS.API.CONSUMER.MSG.NEXT." + workStream + ".*", "$JS.ACK." + workStream + ".>",
			"$JS.API.STREAM.INFO." + objects(assetBucket), "$JS.API.STREAM.INFO." + objects(doneBucket),
			"$JS.API.DIRECT.GET." + objects(assetBucket) + ".>", "$JS.API.STREAM.MSG.GET." + objects(assetBucket),
			"$JS.API.CONSUMER.CREATE." + objects(assetBucket) + ".>", "$JS.API.CONSUMER.DELETE." + objects(assetBucket) + ".>", "$JS.FC.>",
			"$JS.API.DIRECT.GET." + objects(doneBucket) + ".>", "$JS.API.STREAM.PURGE." + objects(doneBucket), "$O." + doneBucket + ".>",
		}},
		Subscribe: &server.SubjectPermission{Allow: []string{"_INBOX.>", dropSubject}},
	}
}

// dial connects, and connects again for ever when the connection is lost.
func dial(address, user, secret string, secure *tls.Config, in *server.Server) (*nats.Conn, error) {
	o := []nats.Option{
		nats.Name("perigyre"), nats.MaxReconnects(-1), nats.ReconnectWait(500 * time.Millisecond), nats.PingInterval(4 * time.Second), nats.MaxPingsOutstanding(2),
		nats.Timeout(5 * time.Second), nats.RetryOnFailedConnect(false), nats.ErrorHandler(complain), nats.IgnoreAuthErrorAbort(),
	}
	if in != nil {
		o = append(o, nats.InProcessServer(in))
	}
	if user != "" {
		o = append(o, nats.UserInfo(user, secret))
	} else if secret != "" {
		o = append(o, nats.Token(secret))
	}
	if secure != nil {
		o = append(o, nats.Secure(secure))
	}
	nc, err := nats.Connect(address, o...)
	if err != nil {
		return nil, refusal(address, err)
	}
	return nc, nil
}

var errToken = errors.New("refuses the token")

// refusal says why a connection did not come about.
func refusal(address string, err error) error {
	if u, e := url.Parse(address); e == nil && u.Host != "" {
		address = u.Host // without secrets
	}
	switch {
	case strings.Contains(err.Error(), "x509:"):
		return fmt.Errorf("the certificate of %s is not one that this machine trusts; where it is your own, --ca names its file: %w", address, err)
	case errors.Is(err, nats.ErrAuthorization):
		return fmt.Errorf("%s %w", address, errToken)
	case errors.Is(err, nats.ErrNoServers), errors.Is(err, io.EOF):
		return fmt.Errorf("nobody answers at %s: see whether the program that gives the work out is running and listens there", address)
	}
	return fmt.Errorf("%s cannot be joined: %w", address, err)
}

// prepare makes the streams that are not there yet, and opens them.
func (q *queue) prepare(ctx context.Context, id string) (err error) {
	ctx, cancel := context.WithTimeout(ctx, 20*time.Second) // of which a server that is just killed takes all
	defer cancel()
	if q.js, err = jetstream.New(q.nc); err != nil {
		return err
	}
	if _, err = q.js.CreateOrUpdateStream(ctx, jetstream.StreamConfig{
		Name: workStream, Subjects: []string{workSubjects + ">"}, Retention: jetstream.WorkQueuePolicy, Storage: jetstream.FileStorage, Duplicates: time.Second, MaxAge: keptOrder,
	}); err != nil {
		return fmt.Errorf("the queue of orders cannot be made: %w", err)
	}
	_ = q.js.DeleteConsumer(ctx, workStream, "workers") // of all programs together, which builds before this one made
	if err = q.offer(ctx, id); err != nil {
		return err
	}
	for bucket, to := range map[string]struct {
		store *jetstream.ObjectStore
		kept  time.Duration
	}{assetBucket: {&q.assets, keptAsset}, doneBucket: {&q.done, keptDone}} {
		if *to.store, err = q.js.CreateOrUpdateObjectStore(ctx, jetstream.ObjectStoreConfig{Bucket: bucket, TTL: to.kept}); err != nil {
			return fmt.Errorf("the store of %s cannot be made: %w", bucket, err)
		}
	}
	return nil
}

// offer makes the consumer by which a first program's orders are taken, unless it is there. One that nobody takes from for keptOrder goes by
// itself.
func (q *queue) offer(ctx context.Context, id string) error {
	_, err := q.js.CreateOrUpdateConsumer(ctx, workStream, jetstream.ConsumerConfig{
		Durable: ordersOf(id), FilterSubject: workSubjects + id + ".>", InactiveThreshold: keptOrder, AckPolicy: jetstream.AckExplicitPolicy, AckWait: patience, MaxDeliver: -1, MaxAckPending: 10_000,
	})
	if err != nil {
		err = fmt.Errorf("the queue of orders cannot be made: %w", err)
	}
	return err
}

// join opens the streams as a worker, who cannot make them.
func (q *queue) join(ctx context.Context) (err error) {
	if q.js, err = jetstream.New(q.nc); err != nil {
		return err
	}
	if q.assets, err = q.js.ObjectStore(ctx, assetBucket); err == nil {
		q.done, err = q.js.ObjectStore(ctx, doneBucket)
	}
	return err
}

func (q *queue) close() {
	if q.nc != nil {
		q.nc.Close()
	}
	if q.server != nil {
		q.server.Shutdown()
		q.server.WaitForShutdown()
	}
}

// address is where workers join, empty where they cannot.
func (q *queue) address() string {
	if q.server == nil {
		if u, err := url.Parse(q.nc.ConnectedUrl()); err == nil {
			return u.Host // without secrets
		}
		return ""
	}
	if a, ok := q.server.Addr().(*net.TCPAddr); ok && a != nil {
		return a.String()
	}
	return ""
}
