package farm

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/hex"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"sync"
	"time"

	"perigyre/core/render"
	"perigyre/runs"
)

// Boss is the first program's side: it gives orders out, decides what of that which comes back is used, and knows the workers. It
// implements runs.Hands.
type Boss struct {
	*queue
	id    string
	open  func(hash string) ([]byte, error) // stored files
	props *render.Props
	local *Worker                                              // draws here, for the queue; nil for none
	file  string                                               // where wishes are kept
	give  func(ctx context.Context, w *wait, not string) error // puts an order into the queue
	tell  func()                                               // something of the workers has changed

	ctx  context.Context
	end  context.CancelFunc
	all  sync.WaitGroup
	once sync.Once

	mu      sync.Mutex
	hash    string // of the reference picture as it is here, empty before it is drawn
	millis  int64  // that it took
	members map[string]*member
	wishes  map[string]string   // by workers' names
	waits   map[string]*wait    // by key
	strays  map[string][]string // objects that nobody waits for, by key: of a run that is to go on
	kept    map[string]time.Time
	offered time.Time // when it was seen to last that orders can be taken
	changed bool
	along   bool // orders use their neighbours
}

// Config is what a first program needs.
type Config struct {
	Place
	Open  func(hash string) ([]byte, error) // stored files by content hash
	Props *render.Props                     // what this machine draws with
	Alone bool                              // this machine gives out work and draws none of it
	Tell  func()                            // told that something of the workers has changed; may be nil
}

// wait is an order, or a strip of one, that somebody waits for.
type wait struct {
	key      string
	order    *runs.Order
	strip    int // -1 for the whole
	since    time.Time
	asked    time.Time // when it was published last
	results  []*parcel
	twice    bool // a second worker was asked
	asks     int  // how often it was put into the queue
	judging  bool // it is being drawn here to see who is right
	progress func(float64)
	got      chan struct{} // closed when it is decided
	parcel   *parcel
	err      error
}

// Open starts the queue and, unless the first program is to draw nothing, this machine as its first worker.
func Open(ctx context.Context, c Config) (*Boss, error) {
	if err := os.MkdirAll(c.Folder, 0o700); err != nil {
		return nil, fmt.Errorf("the folder of the queue cannot be made: %w", err)
	}
	b := &Boss{open: c.Open, props: c.Props, file: filepath.Join(c.Folder, "workers.json"), tell: c.Tell, members: map[string]*member{}, wishes: map[string]string{},
		waits: map[string]*wait{}, strays: map[string][]string{}, kept: map[string]time.Time{}}
	b.give = b.publish
	b.load()
	var err error
	if b.queue, err = openQueue(ctx, c.Place, b.id); err != nil {
		return nil, err
	}
	b.ctx, b.end = context.WithCancel(context.WithoutCancel(ctx))
	if !c.Alone {
		name, _ := os.Hostname() // what other programs on the queue call it
		b.local = &Worker{Name: cmp.Or(name, thisMachine), queue: b.queue, props: c.Props, here: true, id: newID()}
	}
	if _, err := b.nc.Subscribe(beatSubject, b.onBeat); err != nil {
		b.Close()
		return nil, err
	}
	watch, err := b.done.Watch(b.ctx)
	if err != nil {
		b.Close()
		return nil, err
	}
	b.all.Go(func() { b.watch(watch) })
	b.all.Go(b.begin)
	return b, nil
}

// begin draws the reference picture, by which workers are judged, and then orders, if it is to.
func (b *Boss) begin() {
	hash, took, err := first(b.ctx, b.props, 0)
	if err != nil {
		if b.ctx.Err() == nil {
			slog.Error("The reference picture cannot be drawn here.", "error", err)
		}
		return
	}
	b.mu.Lock()
	b.hash, b.millis = hash, took.Milliseconds()
	b.mu.Unlock()
	b.all.Go(b.tick)
	if b.local != nil {
		b.local.hash, b.local.millis, b.local.tests = hash, took.Milliseconds(), 1
		if err := b.local.Run(b.ctx); err != nil && b.ctx.Err() == nil {
			slog.Error("This machine draws nothing for the queue any more.", "error", err)
		}
	}
}

// Close ends the work of this machine and the embedded server. Orders that are not drawn stay in the queue.
func (b *Boss) Close() {
	b.once.Do(func() {
		b.end()
		b.all.Wait()
		b.queue.close()
	})
}

// Address is where workers join, empty where they cannot.
func (b *Boss) Address() string { return b.queue.address() }

func newID() string {
	b := make([]byte, 6)
	_, _ = rand.Read(b) // never fails (crypto/rand)
	return hex.EncodeToString(b)
}

// Places implements runs.Hands: each worker has an order to draw and one that waits for it, so that none is idle and not the
// whole run lies in the queue. What is drawn and waits for a test takes no place, up to some pictures a worker, which are held in
// memory.
func (b *Boss) Places() int {
	b.mu.Lock()
	defer b.mu.Unlock()
	const most = 12
	n := b.hands()
	drawn := 0
	for _, w := range b.waits {
		if len(w.results) > 0 && w.strip < 0 {
			drawn++
		}
	}
	each := 2
	if b.along {
		each += stretch
	}
	return max(1, each*n+min(drawn, most*n))
}

// stretch is how many orders a worker takes at a time at most where they use their neighbours, which it then draws once for all of
// them.
const stretch = 8

// takes is how many orders a worker is to take at a time: fewer towards the end of a run. The caller holds the lock.
func (b *Boss) takes() int {
	if !b.along {
		return 1
	}
	open := 0
	for _, w := range b.waits {
		if len(w.results) == 0 {
			open++
		}
	}
	return min(stretch, max(1, open/max(1, 2*b.hands())))
}

// Draw implements runs.Hands.
func (b *Boss) Draw(ctx context.Context, o *runs.Order, progress func(float64)) (*runs.Drawn, error) {
	start := time.Now()
	key := o.Fingerprint()[:40]
	n := 1
	if k := o.Strips(); k > 1 && b.several() {
		n = k
	}
	b.mu.Lock()
	b.along = len(o.Beside) > 0
	b.mu.Unlock()
	if err := b.supply(ctx, o); err != nil {
		return nil, err
	}
	var list []*wait
	var mu sync.Mutex
	shares := make([]float64, n)
	for k := range n {
		w := &wait{key: key, order: o, strip: -1, since: time.Now(), got: make(chan struct{}), progress: func(share float64) {
			mu.Lock()
			shares[k] = share
			sum := 0.0
			for _, s := range shares {
				sum += s
			}
			mu.Unlock()
			if progress != nil {
				progress(sum / float64(n))
			}
		}}
		if n > 1 {
			w.key, w.strip = fmt.Sprintf("%s-%d", key, k), k
		}
		list = append(list, w)
	}
	defer func() {
		var left []string
		b.mu.Lock()
		for _, w := range list {
			if b.waits[w.key] == w {
				delete(b.waits, w.key)
			}
			if w.parcel == nil || w.asks > 1 {
				left = append(left, w.key)
			}
		}
		b.mu.Unlock()
		for _, key := range left {
			b.withdraw(key)
		}
	}()
	for _, w := range list {
		if err := b.ask(ctx, w); err != nil {
			return nil, err
		}
	}
	if progress != nil {
		progress(0)
	}
	for _, w := range list {
		select {
		case <-ctx.Done():
			return nil, ctx.Err()
		case <-b.ctx.Done():
			return nil, b.ctx.Err()
		case <-w.got:
			if w.err != nil {
				return nil, w.err
			}
		}
	}
	d := new(runs.Drawn)
	b.mu.Lock()
	for _, w := range list {
		d.Millis += w.parcel.Millis
		if m := b.members[w.parcel.Worker]; m != nil {
			d.Here += int64(float64(w.parcel.Millis) * b.speed(m))
		}
	}
	b.mu.Unlock()
	if n == 1 {
		d.Files, d.Preview = list[0].parcel.files, list[0].parcel.preview
		return d, nil
	}
	var strips []*render.Film
	for _, w := range list {
		strips = append(strips, w.parcel.strip)
	}
	var err error
	d.Files, d.Preview, err = o.Join(b.props, strips)
	d.Millis = time.Since(start).Milliseconds()
	return d, err
}

// several reports whether more than one worker can draw.
func (b *Boss) several() bool {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.hands() > 1
}
