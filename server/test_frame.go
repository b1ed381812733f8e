package server

import (
	"context"
	"slices"
	"sync"
	"time"

	"perigyre/runs"
)

// testFrames keeps one test frame a shot at work: a new one takes the place of the old.
type testFrames struct {
	mu    sync.Mutex
	stop  map[string]*context.CancelFunc
	early []string // what was stopped before it began, the last of it
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
	if k := slices.Index(t.early, id); k >= 0 {
		t.early = slices.Delete(t.early, k, k+1)
		cancel()
	}
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

// refuse cancels what has an id of its own, and what has not begun yet when it does: the word to stop may overtake a file on
// its way.
func (t *testFrames) refuse(id string) {
	t.mu.Lock()
	begun := t.stop[id] != nil
	if !begun {
		t.early = append(t.early[max(0, len(t.early)-63):], id)
	}
	t.mu.Unlock()
	if begun {
		t.cancel(id)
	}
}

// TestFrame renders one frame just as a run would, and says how long each of many takes.
func (st *Studio) TestFrame(id string, frame int, o runs.Settings) (data []byte, took time.Duration, err error) {
	v, err := st.open(id)
	if err != nil {
		return nil, 0, err
	}
	plan, err := runs.NewPlan(v.Document, runs.NamesOf(v.ProjectName, v.Document), o, "", st.stock)
	if err != nil {
		return nil, 0, refused{err}
	}
	plan.Single = true
	defer st.stock.Props.Rest() // a run that is under way samples two neighbours again
	ctx, end := st.tests.begin(st.ctx, id)
	defer end()
	start := time.Now()
	tell := st.hub.steps(func(doing string, share float64) Event { return Event{Test: &StepEvent{id, doing, share}} })
	order, err := plan.Order(frame)
	if err != nil {
		return nil, 0, err
	}
	files, preview, err := order.Draw(ctx, st.stock.Props, 0, func(share float64) { tell("Rendering", share) })
	if preview == nil && err == nil {
		preview = files[0]
	}
	return preview, time.Since(start) - order.Spare(), err
}
