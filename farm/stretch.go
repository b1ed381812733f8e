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
func (w *Worker) fetchOrders(sources []jetstream.Consumer, patient time.Duration) (list []jetstream.Msg, err error) {
	w.mu.Lock()
	n := min(stretch, max(1, w.told.Takes))
	w.mu.Unlock()
	if n > 1 || len(sources) > 1 { // those that are there already
		for _, from := range sources {
			batch, err := from.FetchNoWait(n)
			if err != nil {
				return nil, err
			}
			if list, err = taken(batch); err != nil || len(list) > 0 {
				return list, err
			}
		}
	}
	batch, err := sources[0].Fetch(1, jetstream.FetchMaxWait(patient/time.Duration(len(sources))))
	if err != nil {
		return nil, err
	}
	return taken(batch)
}

// taken are the orders of a batch; that there are none is no error.
func taken(batch jetstream.MessageBatch) (list []jetstream.Msg, err error) {
	for msg := range batch.Messages() {
		list = append(list, msg)
	}
	if len(list) == 0 {
		err = batch.Error()
	}
	return list, err
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
		w.held[fullName(msg)] = false
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
		name := fullName(msg)
		w.mu.Lock()
		dropped, rests := w.held[name], w.told.Wish != Work
		delete(w.held, name)
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
