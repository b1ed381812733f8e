package farm

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/klauspost/compress/zstd"
	"github.com/nats-io/nats.go"
	"github.com/nats-io/nats.go/jetstream"

	"perigyre/core/render"
	"perigyre/runs"
	"perigyre/store"
)

// Boss is the first program's side: it gives orders out, decides what of that which comes back is used, and knows the workers. It
// implements runs.Hands.
type Boss struct {
	*queue
	id    string
	open  func(hash string) ([]byte, error) // stored files
	props *render.Props
	local *Worker // draws here, for the queue; nil for none
	file  string  // where wishes are kept
	tell  func()  // something of the workers has changed

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
	changed bool
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
	b.load()
	var err error
	if b.queue, err = openQueue(ctx, c.Place); err != nil {
		return nil, err
	}
	b.ctx, b.end = context.WithCancel(context.WithoutCancel(ctx))
	if !c.Alone {
		b.local = &Worker{Name: "This machine", queue: b.queue, props: c.Props, here: true, id: newID()}
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
	hash, took, err := test(b.ctx, b.props, 0, nil)
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
		b.local.hash, b.local.millis = hash, took.Milliseconds()
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

// saved is what is kept of the workers.
type saved struct {
	ID     string            `json:"id"` // of the first program, on the queue
	Wishes map[string]string `json:"wishes"`
}

func (b *Boss) load() {
	var s saved
	if data, err := os.ReadFile(b.file); err == nil {
		_ = json.Unmarshal(data, &s) // what is damaged is made anew
	}
	if b.id = s.ID; !properID(b.id) {
		b.id = newID()
		defer b.save()
	}
	for name, w := range s.Wishes {
		if w == Pause || w == Drain {
			b.wishes[name] = w
		}
	}
}

func (b *Boss) save() {
	data, err := json.MarshalIndent(saved{b.id, b.wishes}, "", "  ")
	if err == nil {
		err = store.WriteFile(b.file, append(data, '\n'))
	}
	if err != nil {
		slog.Error("What is wished of workers cannot be kept.", "error", err)
	}
}

func (b *Boss) onBeat(msg *nats.Msg) {
	var m beat
	if len(msg.Data) > 4096 || json.Unmarshal(msg.Data, &m) != nil {
		return
	}
	b.mu.Lock()
	was := len(b.members)
	before := b.members[m.ID]
	var old beat
	if before != nil {
		old = before.beat
	}
	a := b.hear(m, time.Now())
	if before == nil || old.On != m.On || old.Tests != m.Tests {
		b.changed = true
	}
	var progress func(float64)
	if w := b.waits[m.On]; w != nil && m.On != "" {
		progress = w.progress
	}
	b.settleAll() // a test may have confirmed what it drew
	now := len(b.members)
	b.mu.Unlock()
	if progress != nil { // outside the lock: who is told may ask how fast the workers are
		progress(min(max(m.Share, 0), 1))
	}
	if data, err := json.Marshal(a); err == nil {
		_ = msg.Respond(data) // it asks again
	}
	if was != now && b.tell != nil {
		b.tell()
	}
}

// Members returns the workers, this machine first and then by name.
func (b *Boss) Members() []Member {
	b.mu.Lock()
	defer b.mu.Unlock()
	now := time.Now()
	out := []Member{}
	for id, m := range b.members {
		one := Member{ID: id, Name: m.Name, Here: m.here, Processors: m.Processors, Kernel: m.Kernel, Speed: b.speed(m), Reference: m.Millis, State: b.state(m, now), Wish: m.wish,
			Why: m.refused, Share: m.Share, Done: m.done, Seen: now.Sub(m.seen).Seconds(), Clock: m.ahead.Seconds()}
		if w := b.waits[m.On]; w != nil && one.State != Away {
			one.On = w.order.File
			if w.strip >= 0 {
				one.On += fmt.Sprintf(", strip %d", w.strip+1)
			}
		}
		out = append(out, one)
	}
	slices.SortFunc(out, func(a, c Member) int {
		if a.Here != c.Here {
			return map[bool]int{true: -1, false: 1}[a.Here]
		}
		return cmp.Or(strings.Compare(a.Name, c.Name), strings.Compare(a.ID, c.ID))
	})
	return out
}

// ErrNoWorker is returned for a worker that is not known.
var ErrNoWorker = errors.New("there is no such worker any more")

// Wish sets what a worker does: Work, Pause or Drain. It is kept by the worker's name.
func (b *Boss) Wish(id, wish string) error {
	if wish != Work && wish != Pause && wish != Drain {
		return fmt.Errorf("a worker can work, pause or drain, not %q", wish)
	}
	b.mu.Lock()
	m := b.members[id]
	if m == nil {
		b.mu.Unlock()
		return ErrNoWorker
	}
	m.wish = wish
	b.wishes[m.Name] = wish
	b.save()
	b.mu.Unlock()
	if b.tell != nil {
		b.tell()
	}
	return nil
}

// Forget takes a worker that is away, or refused, off the list.
func (b *Boss) Forget(id string) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	m := b.members[id]
	if m == nil {
		return ErrNoWorker
	}
	if s := b.state(m, time.Now()); s != Away && s != Refused {
		return fmt.Errorf("%s is there; stop it on its machine, or pause it", m.Name)
	}
	delete(b.members, id)
	delete(b.wishes, m.Name)
	b.save()
	return nil
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
	return max(1, 2*n+min(drawn, most*n))
}

// Working returns how many workers draw, or would if there were something to draw.
func (b *Boss) Working() int {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.hands()
}

// hands returns how many workers can be used. The caller holds the lock.
func (b *Boss) hands() (n int) {
	now := time.Now()
	for _, m := range b.members {
		if b.usable(m, now) {
			n++
		}
	}
	return n
}

// Speed implements runs.Hands.
func (b *Boss) Speed() float64 {
	b.mu.Lock()
	defer b.mu.Unlock()
	now, sum := time.Now(), 0.0
	for _, m := range b.members {
		if b.usable(m, now) {
			sum += b.speed(m)
		}
	}
	return sum
}

// Rest implements runs.Hands: orders of this program that are left in the queue are taken out.
func (b *Boss) Rest() {
	ctx, cancel := context.WithTimeout(b.ctx, 5*time.Second)
	defer cancel()
	if s, err := b.js.Stream(ctx, workStream); err == nil {
		_ = s.Purge(ctx, jetstream.WithPurgeSubject(workSubjects+b.id+".>")) // what stays is drawn for nothing
	}
	b.mu.Lock()
	strays := b.strays
	b.strays = map[string][]string{}
	b.mu.Unlock()
	for _, list := range strays {
		for _, name := range list {
			_ = b.done.Delete(ctx, name)
		}
	}
}

// Draw implements runs.Hands.
func (b *Boss) Draw(ctx context.Context, o *runs.Order, progress func(float64)) (*runs.Drawn, error) {
	start := time.Now()
	key := o.Fingerprint()[:40]
	n := 1
	if k := o.Strips(); k > 1 && b.several() {
		n = k
	}
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

// withdraw takes an order out of the queue, and tells who draws it that nobody waits for it. Who does not hear it draws for nothing.
func (b *Boss) withdraw(key string) {
	if b.ctx.Err() != nil || b.nc.Status() != nats.CONNECTED {
		return
	}
	ctx, cancel := context.WithTimeout(b.ctx, 5*time.Second)
	defer cancel()
	if s, err := b.js.Stream(ctx, workStream); err == nil {
		_ = s.Purge(ctx, jetstream.WithPurgeSubject(workSubjects+b.id+"."+key))
	}
	_ = b.nc.Publish(dropSubject, []byte(key))
}

// several reports whether more than one worker can draw.
func (b *Boss) several() bool {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.hands() > 1
}

// ask puts an order into the queue, unless what came of it is there already or it is in the queue from before.
func (b *Boss) ask(ctx context.Context, w *wait) error {
	b.mu.Lock()
	b.waits[w.key] = w
	w.asked = time.Now()
	strays := b.strays[w.key]
	delete(b.strays, w.key)
	b.mu.Unlock()
	for _, name := range strays {
		b.fetch(name)
	}
	if len(strays) > 0 || b.queued(ctx)[w.key] {
		return nil
	}
	return b.publish(ctx, w, "")
}

// queued are the keys of the orders that lie in the queue, drawn or not.
func (b *Boss) queued(ctx context.Context) map[string]bool {
	ctx, cancel := context.WithTimeout(ctx, 5*time.Second)
	defer cancel()
	s, err := b.js.Stream(ctx, workStream)
	if err != nil {
		return nil
	}
	subject := workSubjects + b.id + "."
	info, err := s.Info(ctx, jetstream.WithSubjectFilter(subject+">"))
	if err != nil {
		return nil
	}
	out := map[string]bool{}
	for s := range info.State.Subjects {
		out[strings.TrimPrefix(s, subject)] = true
	}
	return out
}

var packer, _ = zstd.NewWriter(nil) // EncodeAll may be used by several at a time

// publish puts an order into the queue. Not names a worker that is not to take it.
func (b *Boss) publish(ctx context.Context, w *wait, not string) error {
	data, err := json.Marshal(w.order)
	if err != nil {
		return fmt.Errorf("the frame cannot be described: %w", err)
	}
	data = packer.EncodeAll(data, nil)
	b.mu.Lock()
	w.asks++
	b.mu.Unlock()
	msg := &nats.Msg{Subject: workSubjects + b.id + "." + w.key, Header: nats.Header{"Key": {w.key}, "Strip": {fmt.Sprint(w.strip)}, "Not": {not}}, Data: data}
	if len(data) > maxInline {
		hash := hashOf(data)
		if err := b.keep(ctx, hash, func() ([]byte, error) { return data, nil }); err != nil {
			return err
		}
		msg.Header.Set("Order", hash)
		msg.Data = nil
	}
	for {
		_, err := b.js.PublishMsg(ctx, msg)
		if err == nil {
			return nil
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
		select { // the server of the queue may be on its way back
		case <-ctx.Done():
			return ctx.Err()
		case <-b.ctx.Done():
			return b.ctx.Err()
		case <-time.After(time.Second):
		}
	}
}

// supply sees to it that workers find what an order needs.
func (b *Boss) supply(ctx context.Context, o *runs.Order) error {
	for _, hash := range o.Scene.Assets() {
		if err := b.keep(ctx, hash, func() ([]byte, error) { return b.open(hash) }); err != nil {
			return err
		}
	}
	return nil
}

// keep puts something into the object store, unless it is there.
func (b *Boss) keep(ctx context.Context, hash string, open func() ([]byte, error)) error {
	b.mu.Lock()
	known := time.Since(b.kept[hash]) < time.Hour
	b.mu.Unlock()
	if known {
		return nil
	}
	if _, err := b.assets.GetInfo(ctx, hash); err != nil {
		data, err := open()
		if err != nil {
			return err
		}
		if _, err := b.assets.PutBytes(ctx, hash, data); err != nil {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			return fmt.Errorf("what the frame needs cannot be handed to the workers: %w", err)
		}
	}
	b.mu.Lock()
	b.kept[hash] = time.Now()
	b.mu.Unlock()
	return nil
}

// watch takes what workers hand in.
func (b *Boss) watch(w jetstream.ObjectWatcher) {
	defer func() { _ = w.Stop() }()
	for {
		select {
		case <-b.ctx.Done():
			return
		case info, ok := <-w.Updates():
			if !ok {
				return
			}
			if info == nil || info.Deleted {
				continue
			}
			key, _, _ := strings.Cut(info.Name, ".")
			b.mu.Lock()
			wanted := b.waits[key] != nil
			if !wanted && len(b.strays) < 10_000 {
				b.strays[key] = append(b.strays[key], info.Name)
			}
			b.mu.Unlock()
			if wanted {
				b.all.Go(func() { b.fetch(info.Name) })
			}
		}
	}
}

// fetch takes an object in, checks it, and takes it out of the store.
func (b *Boss) fetch(name string) {
	key, worker, _ := strings.Cut(name, ".")
	b.mu.Lock()
	w := b.waits[key]
	b.mu.Unlock()
	if w == nil {
		return
	}
	var data []byte
	var err error
	for range 5 {
		ctx, cancel := context.WithTimeout(b.ctx, time.Minute)
		info, ierr := b.done.GetInfo(ctx, name)
		if err = ierr; err == nil && info.Size > uint64(most(w.order)) {
			err = fmt.Errorf("it has %d bytes, more than the frame can have", info.Size)
		} else if err == nil {
			data, err = b.done.GetBytes(ctx, name)
		}
		cancel()
		if err == nil || b.ctx.Err() != nil || errors.Is(err, jetstream.ErrObjectNotFound) {
			break
		}
		time.Sleep(200 * time.Millisecond)
	}
	if errors.Is(err, jetstream.ErrObjectNotFound) || b.ctx.Err() != nil {
		return
	}
	p := &parcel{Worker: worker}
	if err == nil && !properID(worker) {
		err = errors.New("no worker has that name")
	}
	if err == nil {
		p, err = unpack(data, most(w.order))
	}
	if err == nil && p.Fault == "" && w.strip < 0 {
		err = w.order.Sound(p.files, p.preview)
	}
	if err == nil && p.Fault == "" && w.strip >= 0 && p.strip == nil {
		err = errors.New("a strip came without its picture")
	}
	if err == nil && p.Worker != worker {
		err = errors.New("it says that another worker made it")
	}
	ctx, cancel := context.WithTimeout(b.ctx, 10*time.Second)
	_ = b.done.Delete(ctx, name) // it would go by itself
	cancel()
	b.mu.Lock()
	defer b.mu.Unlock()
	if err != nil {
		slog.Warn("What a worker handed in is not used.", "worker", worker, "order", key, "error", err)
		if m := b.members[worker]; m != nil && !m.here {
			m.refused = "what it handed in cannot be used: " + err.Error()
			b.distrust(worker)
		}
		b.again(w, "")
		return
	}
	if b.waits[key] != w {
		return
	}
	w.results = append(w.results, p)
	b.settle(w)
}

// distrust drops what a worker drew and what is not decided yet. The caller holds the lock.
func (b *Boss) distrust(worker string) {
	for _, w := range b.waits {
		n := len(w.results)
		w.results = slices.DeleteFunc(w.results, func(p *parcel) bool { return p.Worker == worker })
		if len(w.results) < n && len(w.results) == 0 {
			b.again(w, worker)
		}
	}
	b.changed = true
}

// again gives an order out once more. The caller holds the lock.
func (b *Boss) again(w *wait, not string) {
	if w.parcel != nil || w.err != nil || b.ctx.Err() != nil {
		return
	}
	w.asked = time.Now()
	b.all.Go(func() { _ = b.publish(b.ctx, w, not) }) // it ends with the program alone
}

// settleAll decides what can be decided. The caller holds the lock.
func (b *Boss) settleAll() {
	for _, w := range b.waits {
		b.settle(w)
	}
}

// one of so many frames is drawn by two workers, and compared.
const sampleOf = 64

// Extra is the share of the work of a run that goes into seeing whether it is right: tests, and frames that are drawn twice.
const Extra = 1.0/testEvery + 1.0/sampleOf

// sampled reports whether an order is drawn twice.
func sampled(key string) bool {
	n := 0
	for _, c := range key[:8] {
		n = n*31 + int(c)
	}
	return n%sampleOf == 0
}

// maxFaults is how many workers may fail at an order before it is taken to be the order's fault.
const maxFaults = 3

// settle decides whether one of the results of an order is used. Results of this machine are; those of others once they have passed
// a test after it, and, of a sample, once another worker has drawn the same. Where two differ, this machine draws it too, and
// who is wrong is not used any more. The caller holds the lock.
func (b *Boss) settle(w *wait) {
	if w.parcel != nil || w.err != nil || len(w.results) == 0 {
		return
	}
	faults := map[string]bool{}
	var here *parcel
	var good []*parcel
	for _, p := range w.results {
		m := b.members[p.Worker]
		own := b.local != nil && p.Worker == b.local.id || p.Worker == judge
		switch {
		case p.Fault != "":
			if faults[p.Worker] = true; own {
				here = p
			}
		case own:
			here = p
			good = append(good, p)
		case m != nil && m.refused == "":
			good = append(good, p)
		}
	}
	for _, p := range good {
		if p.hash != good[0].hash && here == nil {
			b.judge(w)
			return
		}
	}
	if here != nil && here.Fault == "" {
		for _, p := range good {
			if m := b.members[p.Worker]; p.hash != here.hash && m != nil {
				slog.Warn("A worker drew another picture than this machine.", "worker", m.Name, "frame", w.order.File)
				m.refused = fmt.Sprintf("what it drew of %s differs from what this machine draws", w.order.File)
				defer b.distrust(p.Worker)
			}
		}
		b.decide(w, here)
		return
	}
	for _, p := range good {
		if b.members[p.Worker].passed <= p.Tests {
			continue // it has still to be tested
		}
		if sampled(w.key) && len(good) < 2 {
			if b.hands() < 2 {
				b.judge(w)
			} else if !w.twice {
				w.twice = true
				b.again(w, p.Worker)
			}
			continue
		}
		b.decide(w, p)
		return
	}
	if n := len(faults); n > 0 && len(good) == 0 {
		if here != nil || n >= maxFaults {
			w.err = errors.New(w.results[len(w.results)-1].Fault)
			close(w.got)
			return
		}
		if len(w.results) > 0 && time.Since(w.asked) > time.Second {
			b.again(w, w.results[len(w.results)-1].Worker)
		}
	}
}

// judge is the worker that draws here what two others do not agree on. No worker can have that id.
const judge = "this machine"

func (b *Boss) judge(w *wait) {
	if w.judging {
		return
	}
	w.judging = true
	b.all.Go(func() {
		p := draw(b.ctx, w.order, w.strip, b.props, 0, nil)
		if b.ctx.Err() != nil {
			return
		}
		p.Worker = judge
		if data, err := p.pack(); err == nil {
			if p, err = unpack(data, most(w.order)); err != nil {
				return
			}
		}
		b.mu.Lock()
		defer b.mu.Unlock()
		w.results = append(w.results, p)
		b.settle(w)
	})
}

func (b *Boss) decide(w *wait, p *parcel) {
	w.parcel = p
	if m := b.members[p.Worker]; m != nil {
		m.done++
	}
	b.changed = true
	close(w.got)
}

// tick looks once a second after what does not go on by itself.
func (b *Boss) tick() {
	t := time.NewTicker(time.Second)
	defer t.Stop()
	for {
		select {
		case <-b.ctx.Done():
			return
		case <-t.C:
		}
		b.mu.Lock()
		now := time.Now()
		for _, w := range b.waits {
			// What a worker drew that is not heard of any more has not passed a test, and is drawn again.
			n := len(w.results)
			w.results = slices.DeleteFunc(w.results, func(p *parcel) bool {
				m := b.members[p.Worker]
				return p.Worker != judge && (m == nil || now.Sub(m.seen) > gone)
			})
			if n > 0 && len(w.results) == 0 && !w.judging {
				b.again(w, "")
			}
			b.settle(w)
		}
		lost := b.lost(now)
		idle := b.idle(now)
		changed := b.changed
		b.changed = false
		b.mu.Unlock()
		var queued map[string]bool
		if len(lost) > 0 {
			queued = b.queued(b.ctx)
		}
		for _, w := range lost {
			if !queued[w.key] {
				b.mu.Lock()
				not := ""
				if len(w.results) > 0 {
					not = w.results[0].Worker
				}
				b.again(w, not)
				b.mu.Unlock()
			}
		}
		if idle != nil {
			b.mu.Lock()
			idle.twice = true
			b.again(idle, "")
			b.mu.Unlock()
		}
		if changed && b.tell != nil {
			b.tell()
		}
	}
}

// lost are orders that nobody draws, of which nothing came, or one result where two are wanted, and that were asked for a while ago:
// they are asked for again unless they are in the queue. The caller holds the lock.
func (b *Boss) lost(now time.Time) (out []*wait) {
	on := map[string]bool{}
	for _, m := range b.members {
		if now.Sub(m.seen) < gone {
			on[m.On] = true
		}
	}
	for key, w := range b.waits {
		if wanted := len(w.results) == 0 || w.twice && len(w.results) < 2; wanted && !on[key] && now.Sub(w.asked) > 3*time.Second {
			w.asked = now
			out = append(out, w)
		}
	}
	return out
}

// idle returns an order that takes so long that a worker that waits may be done with it first: more than twice what it would
// take there. The caller holds the lock.
func (b *Boss) idle(now time.Time) *wait {
	waiting := slices.Collect(maps.Values(b.members))
	waiting = slices.DeleteFunc(waiting, func(m *member) bool { return !b.usable(m, now) || m.On != "" })
	if len(waiting) == 0 {
		return nil
	}
	var oldest *wait
	for _, w := range b.waits {
		if len(w.results) == 0 && !w.twice && (oldest == nil || w.since.Before(oldest.since)) {
			oldest = w
		}
	}
	if oldest == nil {
		return nil
	}
	var share, speed float64
	for _, m := range b.members {
		if m.On == oldest.key {
			share, speed = m.Share, b.speed(m)
		}
	}
	if speed == 0 || now.Sub(oldest.since) < patience {
		return nil
	}
	best := slices.MaxFunc(waiting, func(a, c *member) int { return cmp.Compare(b.speed(a), b.speed(c)) })
	if left, anew := (1-share)/speed, 1/max(0.001, b.speed(best)); left < 2*anew {
		return nil
	}
	return oldest
}
