package farm

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"time"

	"github.com/nats-io/nats.go/jetstream"
)

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
			key, _, own := b.handed(info.Name)
			if !own {
				continue // for another program
			}
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

// handed takes the name of an object apart: which order it came of, and whose it is. It reports whether the order was this program's.
func (b *Boss) handed(name string) (key, worker string, own bool) {
	program, rest, _ := strings.Cut(name, ".")
	key, worker, _ = strings.Cut(rest, ".")
	return key, worker, program == b.id
}

// fetch takes an object in, checks it, and takes it out of the store.
func (b *Boss) fetch(name string) {
	key, worker, _ := b.handed(name)
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
		b.sift(w, time.Now(), worker)
	}
	b.changed = true
}

// sift drops the results of an order that cannot be used any more: of workers that are refused, also where they came after that was
// decided, and of those that are not heard of, which pass no test. Where none is left the order is given out again; not names a
// worker that is not to take it. The caller holds the lock.
func (b *Boss) sift(w *wait, now time.Time, not string) {
	n := len(w.results)
	w.results = slices.DeleteFunc(w.results, func(p *parcel) bool {
		m := b.members[p.Worker]
		return p.Worker != judge && (m == nil || m.refused != "" || now.Sub(m.seen) > gone)
	})
	if n > 0 && len(w.results) == 0 && !w.judging {
		b.again(w, not)
	}
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
		if b.hands() < 2 { // nobody else is there to try it
			b.judge(w)
		} else if time.Since(w.asked) > time.Second {
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
		if w.strip < 0 {
			m.pace.add(w.order, p.Millis)
		}
	}
	b.changed = true
	close(w.got)
}
