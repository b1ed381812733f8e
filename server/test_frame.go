package server

import (
	"context"
	"sync"
	"time"

	"perigyre/runs"
)

// testFrames keeps one test frame a shot at work: a new one takes the place of the old.
type testFrames struct {
	mu   sync.Mutex
	stop map[string]*context.CancelFunc
}

func (t *testFrames) begin(within context.Context, id string) (context.Context, func()) {
	ctx, cancel := context.WithCancel(within)
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.stop == nil {
		t.stop = map[string]*context.CancelFunc{}
	}
	if old := t.stop[id]; old != nil {
		(*old)()
	}
	mine := &cancel
	t.stop[id] = mine
	return ctx, func() {
		cancel()
		t.mu.Lock()
		defer t.mu.Unlock()
		if t.stop[id] == mine {
			delete(t.stop, id)
		}
	}
}

func (t *testFrames) cancel(id string) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if stop := t.stop[id]; stop != nil {
		(*stop)()
	}
}

// TestFrame renders one frame just as a run would, and says how long it took.
func (st *Studio) TestFrame(id string, frame int, o runs.Settings) (data []byte, took time.Duration, err error) {
	v, err := st.open(id)
	if err != nil {
		return nil, 0, err
	}
	plan, err := runs.NewPlan(v.Document, runs.NamesOf(v.Project, v.Document), o, "", st.stock)
	if err != nil {
		return nil, 0, refused{err}
	}
	ctx, end := st.tests.begin(st.ctx, id)
	defer end()
	start := time.Now()
	var mu sync.Mutex
	last := start
	files, preview, err := plan.Picture(ctx, frame, func(share float64) {
		mu.Lock()
		defer mu.Unlock()
		if time.Since(last) > 150*time.Millisecond {
			last = time.Now()
			st.hub.send(Event{Test: &StepEvent{Ticket: id, Doing: "Rendering", Share: share}})
		}
	})
	if preview == nil && err == nil {
		preview = files[0]
	}
	return preview, time.Since(start), err
}
