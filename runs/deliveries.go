package runs

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"os"
	"path/filepath"
	"sync"

	"perigyre/store"
)

// deliveries bring the runs that are to be delivered to a drive, one after another, while they are rendered and afterwards.
type deliveries struct {
	to    Drive
	wake  chan struct{}
	ended chan struct{}

	mu      sync.Mutex
	count   map[string]int    // frames that are there, by run
	trouble map[string]string // what holds a run up
}

// DeliverTo has runs whose settings ask for it delivered to a drive. It is called once, before runs are started.
func (q *Queue) DeliverTo(d Drive) {
	q.deliveries = &deliveries{to: d, wake: make(chan struct{}, 1), ended: make(chan struct{}), count: map[string]int{}, trouble: map[string]string{}}
	go q.deliver()
	q.deliveries.poke()
}

func (d *deliveries) poke() {
	if d == nil {
		return
	}
	select {
	case d.wake <- struct{}{}:
	default:
	}
}

// status returns how many frames of a run are delivered, and what holds it up.
func (d *deliveries) status(id string) (int, string) {
	if d == nil {
		return 0, ""
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.count[id], d.trouble[id]
}

// delivered is the file in a run's folder that says which frames have been delivered, so that they are not read back at every start.
const delivered = ".delivered"

// deliver goes round the runs whenever there may be something to bring.
func (q *Queue) deliver() {
	defer close(q.deliveries.ended)
	for {
		select {
		case <-q.ctx.Done():
			return
		case <-q.deliveries.wake:
		}
		list, err := q.store.Runs()
		if err != nil {
			slog.Error("Runs that are to be delivered cannot be looked up.", "error", err)
			continue
		}
		for i := len(list) - 1; i >= 0; i-- { // the oldest first
			var o Settings
			if r := &list[i]; json.Unmarshal([]byte(r.Settings), &o) == nil && o.Deliver && r.State != Cancelled {
				q.bring(q.ctx, r.ID, r.Folder)
			}
		}
	}
}

// bring delivers what is done of a run and has not been delivered.
func (q *Queue) bring(ctx context.Context, id, folder string) {
	d := q.deliveries
	frames, err := q.store.Frames(id)
	if err != nil {
		return
	}
	there := map[string]bool{} // by name and hash
	mark := func(f store.Frame) string { return f.File + " " + f.SHA256 }
	if data, err := os.ReadFile(filepath.Join(folder, delivered)); err == nil {
		var list []string
		_ = json.Unmarshal(data, &list) // what is damaged is delivered anew, and found to be there
		for _, h := range list {
			there[h] = true
		}
	}
	tell := func(change func()) {
		d.mu.Lock()
		change()
		d.mu.Unlock()
		if _, p, _, err := q.Status(id); err == nil {
			q.tell(p)
		}
	}
	c := Courier{To: d.to, Under: filepath.Base(folder), Say: func(name, trouble string) {
		if _, was := d.status(id); was != trouble {
			tell(func() { d.trouble[id] = trouble })
		}
	}}
	var left []store.Frame
	done := 0
	for _, f := range frames {
		switch {
		case f.State != store.FrameDone:
		case there[mark(f)]:
			done++
		default:
			left = append(left, f)
		}
	}
	d.mu.Lock()
	d.count[id] = done
	d.mu.Unlock()
	if len(left) == 0 {
		return
	}
	err = c.Bring(ctx, folder, left, func(f store.Frame) {
		there[mark(f)] = true
		tell(func() { d.count[id]++ })
	})
	if err != nil && !errors.Is(err, context.Canceled) {
		tell(func() { d.trouble[id] = err.Error() })
	} else if err == nil {
		tell(func() { delete(d.trouble, id) })
	}
	var list []string
	for _, f := range frames {
		if there[mark(f)] {
			list = append(list, mark(f))
		}
	}
	if data, err := json.Marshal(list); err == nil {
		if err := store.WriteFile(filepath.Join(folder, delivered), data); err != nil && ctx.Err() == nil {
			slog.Warn("What was delivered cannot be noted, and is read back at the next start.", "error", err)
		}
	}
}
