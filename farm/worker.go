package farm

import (
	"context"
	"crypto/tls"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/url"
	"os"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/klauspost/compress/zstd"
	"github.com/nats-io/nats.go"
	"github.com/nats-io/nats.go/jetstream"

	"perigyre/core/model"
	"perigyre/core/render"
	"perigyre/library"
	"perigyre/runs"
)

// Worker draws orders. It holds nothing that is needed elsewhere: whenever it ends, what it had is drawn by another.
type Worker struct {
	Name    string
	Address string // HOST:PORT, nats://... or tls://...
	Token   string
	TLS     *tls.Config
	Cache   string // folder for the assets that it fetched
	Threads int    // 0 for all processors
	Stand   Stand
	Say     func(format string, args ...any) // told what people want to know; may be nil

	*queue
	here  bool
	id    string
	props *render.Props

	mu       sync.Mutex
	hash     string // of the reference picture as it draws it
	millis   int64
	tests    int
	testing  bool
	told     answer              // by all first programs together
	programs map[string]*program // that were heard of, by id
	on       string              // name of the order that it draws, empty for none
	share    float64
	give     context.CancelCauseFunc // gives up what it draws
	held     map[string]bool         // orders that it has taken and does not draw yet, and whether nobody waits for them any more
	changed  chan struct{}

	orders  int           // so far
	since   time.Duration // that it has drawn since the last test
	every   time.Duration // times a test's time until the next
	turn    int           // whose orders are taken first
	answers string        // where first programs answer
}

// Stand is what is wrong with a worker that stands in for a real machine. The zero value is nothing.
type Stand struct {
	Speed float64       // below 1 it waits after each picture as if it were so much slower; 0 for as it is
	Wrong int           // from this order on, counted from 1, its pictures are wrong; 0 for never
	Clock time.Duration // that its clock is ahead
}

func (s *Stand) spoil(o *runs.Order) {
	c := *o.Scene.Camera
	c.Gain *= 1.01
	o.Scene.Camera = &c
}

// Work joins and draws until the context ends.
func (w *Worker) Work(ctx context.Context) error {
	w.id = newID()
	if w.Name == "" {
		w.Name, _ = os.Hostname()
	}
	address, user, token := w.Address, workerUser, w.Token
	if u, err := url.Parse(address); err == nil && u.User != nil {
		user, token = "", "" // the address has its own
	} else if token == "" {
		token = openHere
	}
	if !strings.Contains(address, "://") {
		address = "nats://" + address
	}
	if err := w.reach(ctx, address, user, token); err != nil {
		return err
	}
	defer w.close()
	if err := os.MkdirAll(w.Cache, 0o700); err != nil {
		return fmt.Errorf("the folder for what is fetched cannot be made: %w", err)
	}
	tidy(w.Cache)
	assets := &library.Assets{Open: func(hash string) ([]byte, error) { return w.fetch(ctx, hash) }, Limits: model.DefaultLimits}
	w.props = render.NewProps(assets)
	return w.Run(ctx)
}

// reach connects. Where nobody answers it tries again: the other side may be about to start.
func (w *Worker) reach(ctx context.Context, address, user, token string) error {
	told := ""
	for {
		nc, err := dial(address, user, token, w.TLS, nil)
		if err == nil {
			w.queue = &queue{nc: nc}
			short, cancel := context.WithTimeout(ctx, 10*time.Second)
			err = w.join(short)
			if cancel(); err == nil {
				return nil
			}
			w.close()
			err = fmt.Errorf("%s is no queue of Perigyre yet: %w", w.Address, err)
		}
		if ctx.Err() != nil || errors.Is(err, errToken) {
			return err
		}
		if err.Error() != told {
			told = err.Error()
			w.say("Not joined: %s; it is tried again.", told)
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(time.Second):
		}
	}
}

func (w *Worker) say(format string, args ...any) {
	if w.Say != nil {
		w.Say(format, args...)
	}
}

// Run draws until the context ends.
func (w *Worker) Run(ctx context.Context) error {
	w.changed = make(chan struct{}, 1)
	var all sync.WaitGroup
	defer all.Wait()
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	drop, err := w.nc.Subscribe(dropSubject, func(m *nats.Msg) {
		w.mu.Lock()
		defer w.mu.Unlock()
		if w.give != nil && string(m.Data) == w.on {
			w.give(errDropped)
		}
		if _, ok := w.held[string(m.Data)]; ok {
			w.held[string(m.Data)] = true
		}
	})
	if err != nil {
		return err
	}
	defer func() { _ = drop.Unsubscribe() }()
	w.programs, w.answers = map[string]*program{}, nats.NewInbox()
	told, err := w.nc.Subscribe(w.answers, w.hear)
	if err != nil {
		return err
	}
	defer func() { _ = told.Unsubscribe() }()
	all.Go(func() { w.beats(ctx) })
	if w.hash == "" {
		if _, _, err := first(ctx, w.props, w.Threads); err != nil {
			return fmt.Errorf("the reference picture cannot be drawn: %w", err)
		}
		if err := w.test(ctx); err != nil {
			return err
		}
	}
	w.every = testFirst
	idle := time.Now()
	for ctx.Err() == nil {
		w.mu.Lock()
		wish, untested := w.told.Wish, w.since > 0
		w.mu.Unlock()
		if wish != Work {
			if untested {
				_ = w.test(ctx)
			}
			w.rest(ctx)
			continue
		}
		patient := time.Second
		if untested {
			patient = 250 * time.Millisecond
		}
		sources := w.sources(ctx)
		if len(sources) == 0 {
			w.rest(ctx)
			continue
		}
		list, err := w.fetchOrders(sources, patient)
		if err != nil {
			w.lose()
			w.rest(ctx)
			continue
		}
		w.takeAll(ctx, list)
		took := len(list) > 0
		if took {
			idle = time.Now()
		} else if time.Since(idle) > 30*time.Second {
			w.props.Rest()
		}
		if w.since > 0 && (!took || w.since > w.every*time.Duration(w.millis)*time.Millisecond) {
			_ = w.test(ctx) // a test that fails to be drawn is not passed
			w.every = min(2*w.every, testEvery)
		}
		if !took {
			w.every = testFirst
		}
	}
	return ctx.Err()
}

// rest waits for news, a second at most.
func (w *Worker) rest(ctx context.Context) {
	select {
	case <-ctx.Done():
	case <-w.changed:
	case <-time.After(time.Second):
	}
}

// Why a worker gives up what it draws.
var (
	errDropped = errors.New("nobody waits for it any more")
	errPaused  = errors.New("the worker is paused")
)

// A worker is tested again when it has drawn for so many times as long as a test takes: what it drew is used then. Soon at first,
// so that a run's first frames are there to be seen, and then more and more rarely.
const (
	testFirst = 2
	testEvery = 60
)

// tooOften is how many workers an order may have ended. Of those that are taken several at a time most were not begun.
const tooOften = 6

func tooMany(o *runs.Order, times uint64) bool {
	if len(o.Beside) > 0 {
		return times > tooOften*stretch
	}
	return times > tooOften
}

// take carries an order out, hands in what came of it, and only then lets the queue forget the order.
func (w *Worker) take(parent context.Context, msg jetstream.Msg) {
	head := msg.Headers()
	name := fullName(msg)
	_, key := nameOf(msg)
	if head.Get("Not") == w.id {
		_ = msg.NakWithDelay(300 * time.Millisecond) // for another
		return
	}
	ctx, give := context.WithCancelCause(parent)
	defer give(nil)
	w.mu.Lock()
	w.on, w.share, w.give = name, 0, give
	w.mu.Unlock()
	defer func() {
		w.mu.Lock()
		w.on, w.share, w.give = "", 0, nil
		w.mu.Unlock()
	}()
	var all sync.WaitGroup
	defer all.Wait()
	defer give(nil)
	all.Go(func() { signs(ctx, func() { _ = msg.InProgress() }) }) // where one does not get through, another worker gets the order too
	start := time.Now()
	p := w.carryOut(ctx, key, head, msg)
	if ctx.Err() != nil {
		switch {
		case errors.Is(context.Cause(ctx), errDropped):
			_ = msg.Term()
		default:
			_ = msg.Nak() // for another; where it does not get through the queue's patience ends
		}
		return
	}
	took := w.slow(ctx, time.Since(start))
	w.orders++
	w.since += took
	p.Worker, p.Millis, p.Tests = w.id, took.Milliseconds(), w.tests
	data, err := p.pack()
	if err != nil {
		p = &parcel{Worker: w.id, Fault: "what was drawn cannot be handed in: " + err.Error()}
		if data, err = p.pack(); err != nil {
			return
		}
	}
	for ctx.Err() == nil {
		put, cancel := context.WithTimeout(ctx, time.Minute)
		_, err := w.done.PutBytes(put, name+"."+w.id, data)
		cancel()
		if err == nil {
			_ = msg.Ack() // where it does not get through the order is drawn again, and found to be done
			w.say("%s: %s in %.1f s", w.Name, key[:min(8, len(key))], took.Seconds())
			return
		}
		select {
		case <-ctx.Done():
		case <-time.After(500 * time.Millisecond):
		}
	}
	_ = msg.Nak()
}

// carryOut reads an order and draws it.
func (w *Worker) carryOut(ctx context.Context, key string, head nats.Header, msg jetstream.Msg) *parcel {
	fail := func(format string, args ...any) *parcel { return &parcel{Fault: fmt.Sprintf(format, args...)} }
	data := msg.Data()
	if hash := head.Get("Order"); hash != "" {
		var err error
		if data, err = w.fetchOrder(ctx, hash); err != nil {
			return fail("the frame's description %v", err)
		}
	}
	dec, err := zstd.NewReader(nil, zstd.WithDecoderMaxMemory(maxOrder), zstd.WithDecoderConcurrency(1))
	if err != nil {
		return fail("%v", err)
	}
	defer dec.Close()
	if data, err = dec.DecodeAll(data, nil); err != nil {
		return fail("the frame's description cannot be read: %v", err)
	}
	o := new(runs.Order)
	if err := json.Unmarshal(data, o); err != nil {
		return fail("the frame's description cannot be read: %v", err)
	}
	strip, err := strconv.Atoi(head.Get("Strip"))
	if err != nil || o.Scene == nil || !strings.HasPrefix(key, o.Fingerprint()[:40]) {
		return fail("the frame's description is not what it was when it was sent")
	}
	// An order that one worker is not to take goes past it many times, which says nothing of the order.
	if m, err := msg.Metadata(); err == nil && head.Get("Not") == "" && tooMany(o, m.NumDelivered) {
		return fail("workers stopped in the middle of it, %d times", m.NumDelivered-1)
	}
	if w.Stand.Wrong > 0 && w.orders+1 >= w.Stand.Wrong {
		w.Stand.spoil(o)
	}
	return draw(ctx, o, strip, w.props, w.Threads, func(share float64) {
		w.mu.Lock()
		w.share = share
		w.mu.Unlock()
	})
}

// draw draws an order, or a strip of it.
func draw(ctx context.Context, o *runs.Order, strip int, props *render.Props, threads int, progress func(float64)) *parcel {
	p := new(parcel)
	var err error
	if strip < 0 {
		p.files, p.preview, err = o.Draw(ctx, props, threads, progress)
	} else {
		p.strip, err = o.DrawStrip(ctx, props, strip, threads, progress)
	}
	if err != nil {
		return &parcel{Fault: err.Error()}
	}
	return p
}

// complain logs what goes wrong on a connection by itself.
func complain(_ *nats.Conn, _ *nats.Subscription, err error) {
	slog.Warn("The queue's connection.", "error", err)
}
