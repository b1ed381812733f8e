package farm

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/nats-io/nats.go"

	"perigyre/store"
)

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
		one := Member{ID: id, Name: m.name(), Here: m.here, Processors: m.Processors, Kernel: m.Kernel, Speed: b.speed(m), Reference: m.Millis, State: b.state(m, now), Wish: m.wish,
			Why: m.refused, Share: m.Share, Done: m.done, Seen: now.Sub(m.seen).Seconds(), Clock: m.ahead.Seconds()}
		if one.Why == "" && b.follows(m) != m.wish {
			one.Why = "another program on the queue wishes it"
		}
		if strings.Contains(m.On, ".") && one.State != Away {
			one.On = "a frame of another program"
		}
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
	b.wishes[m.name()] = wish
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
	delete(b.wishes, m.name())
	b.save()
	return nil
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
