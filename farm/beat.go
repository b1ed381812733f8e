package farm

import (
	"context"
	"encoding/json"
	"fmt"
	"runtime"
	"time"

	"perigyre/core/render/bvh"
	"perigyre/runs"
)

// test draws the reference picture: the first program sees whether it is right.
func (w *Worker) test(ctx context.Context) error {
	set := func(on bool) {
		w.mu.Lock()
		w.testing = on
		w.mu.Unlock()
	}
	set(true)
	defer set(false)
	var spoil func(*runs.Order)
	if w.Stand.Wrong > 0 && w.orders >= w.Stand.Wrong {
		spoil = w.Stand.spoil
	}
	hash, took, err := test(ctx, w.props, w.Threads, spoil)
	if err != nil {
		return fmt.Errorf("the reference picture cannot be drawn: %w", err)
	}
	took = w.slow(ctx, took)
	w.mu.Lock()
	if w.hash = hash; w.millis == 0 || took.Milliseconds() < w.millis {
		w.millis = took.Milliseconds()
	}
	w.tests++
	w.since, w.testing = 0, false
	w.mu.Unlock()
	w.beat()
	return nil
}

// slow waits as a slower machine would take longer.
func (w *Worker) slow(ctx context.Context, took time.Duration) time.Duration {
	if v := w.Stand.Speed; v > 0 && v < 1 {
		more := time.Duration(float64(took) * (1/v - 1))
		select {
		case <-ctx.Done():
		case <-time.After(more):
		}
		took += more
	}
	return took
}

// beats says once a second how the worker is.
func (w *Worker) beats(ctx context.Context) {
	t := time.NewTicker(time.Second)
	defer t.Stop()
	for {
		w.beat()
		select {
		case <-ctx.Done():
			return
		case <-t.C:
		}
	}
}

// beat says how the worker is, and asks what is wished.
func (w *Worker) beat() {
	w.mu.Lock()
	threads := w.Threads
	if threads == 0 {
		threads = runtime.GOMAXPROCS(0)
	}
	m := beat{w.id, w.Name, threads, bvh.Kernel(), runs.Program(), w.hash, w.millis, w.tests, w.testing, w.on, w.share, w.told.Wish, w.told.From, time.Now().Add(w.Stand.Clock).UnixMilli()}
	w.mu.Unlock()
	if data, err := json.Marshal(m); err == nil {
		_ = w.nc.PublishRequest(beatSubject, w.answers, data) // what does not get through is said again
	}
}
