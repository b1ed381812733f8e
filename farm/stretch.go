package farm

import (
	"context"
	"sync"
	"time"

	"github.com/nats-io/nats.go"
	"github.com/nats-io/nats.go/jetstream"
)

// Orders that use their neighbours are best drawn one after another by the same worker, which then draws each neighbour once. It
// takes as many at a time as the first program says, and gives signs of life for all of them.

// fetchOrders takes orders from the queue, and waits a moment where there are none.
func (w *Worker) fetchOrders(from jetstream.Consumer, patient time.Duration) (list []jetstream.Msg, err error) {
	w.mu.Lock()
	n := min(stretch, max(1, w.told.Takes))
	w.mu.Unlock()
	if n > 1 { // those that are there already
		batch, err := from.FetchNoWait(n)
		if err != nil {
			return nil, err
		}
		for msg := range batch.Messages() {
			list = append(list, msg)
		}
		if len(list) > 0 {
			return list, nil
		}
	}
	batch, err := from.Fetch(1, jetstream.FetchMaxWait(patient))
	if err != nil {
		return nil, err
	}
	for msg := range batch.Messages() {
		list = append(list, msg)
	}
	if err := batch.Error(); err != nil && len(list) == 0 && w.nc.Status() != nats.CONNECTED {
		return nil, err
	}
	return list, nil
}

// signs gives signs of life, often enough for the queue's patience, until the context ends.
func signs(ctx context.Context, give func()) {
	t := time.NewTicker(patience / 4)
	defer t.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-t.C:
			give()
		}
	}
}

// takeAll carries orders out one after another. Where the worker is told to rest it gives those back that it has not begun.
func (w *Worker) takeAll(parent context.Context, list []jetstream.Msg) {
	if len(list) == 1 {
		w.take(parent, list[0])
		return
	}
	ctx, cancel := context.WithCancel(parent)
	var all sync.WaitGroup
	defer all.Wait()
	defer cancel()
	var mu sync.Mutex
	next := 0
	w.mu.Lock()
	w.held = map[string]bool{}
	for _, msg := range list {
		w.held[msg.Headers().Get("Key")] = false
	}
	w.mu.Unlock()
	all.Go(func() {
		signs(ctx, func() {
			mu.Lock()
			defer mu.Unlock()
			for _, msg := range list[next:] {
				_ = msg.InProgress()
			}
		})
	})
	for _, msg := range list {
		mu.Lock()
		next++
		mu.Unlock()
		key := msg.Headers().Get("Key")
		w.mu.Lock()
		dropped, rests := w.held[key], w.told.Wish != Work
		delete(w.held, key)
		w.mu.Unlock()
		switch {
		case dropped:
			_ = msg.Term()
		case rests || ctx.Err() != nil || w.nc.Status() != nats.CONNECTED:
			_ = msg.Nak() // where it does not get through the queue's patience ends
		default:
			w.take(ctx, msg)
		}
	}
}
