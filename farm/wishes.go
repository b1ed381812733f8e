package farm

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"github.com/nats-io/nats.go"
	"github.com/nats-io/nats.go/jetstream"
)

// A queue may have several first programs, each with orders of its own and wishes of its own. A worker takes their orders by turns, of
// those that use what it draws, and rests where one of them wishes it.

// program is what a worker knows of a first program.
type program struct {
	told   answer
	at     time.Time
	orders jetstream.Consumer // nil before any were asked for
}

const (
	maxPrograms = 64        // that a worker listens to
	keptProgram = time.Hour // since one was heard of, until its orders are taken no more: it may be on its way back
)

// together is what a worker does with what several programs tell it: it rests where one that uses what it draws wishes it, and takes as many
// orders at a time as one of them lets it.
func together(list []answer) (out answer) {
	rank := []string{"", Work, Drain, Pause}
	for _, a := range list {
		if slices.Index(rank, a.Wish) > slices.Index(rank, out.Wish) {
			out.Wish, out.From = a.Wish, a.From
		}
		out.Takes = max(out.Takes, a.Takes)
	}
	if out.Wish == "" && len(list) > 0 {
		out.Why = list[0].Why
	}
	return out
}

// hear takes what a first program wishes. Where none answers the worker goes on as it was told.
func (w *Worker) hear(msg *nats.Msg) {
	var a answer
	if len(msg.Data) > 4096 || json.Unmarshal(msg.Data, &a) != nil || !properID(a.From) {
		return
	}
	w.mu.Lock()
	now := time.Now()
	p := w.programs[a.From]
	if p == nil {
		if len(w.programs) >= maxPrograms {
			w.mu.Unlock()
			return
		}
		p = new(program)
		w.programs[a.From] = p
	}
	p.told, p.at = a, now
	var list []answer
	for _, id := range w.known() {
		if p := w.programs[id]; now.Sub(p.at) > keptProgram {
			delete(w.programs, id)
		} else if now.Sub(p.at) < gone {
			list = append(list, p.told)
		}
	}
	was := w.told
	w.told = together(list)
	a = w.told
	if w.give != nil && (a.Wish == Pause || a.Wish == "") {
		w.give(errPaused)
	}
	tested := w.hash != ""
	w.mu.Unlock()
	if was.Takes, was.From = a.Takes, a.From; a == was {
		return
	}
	switch {
	case a.Wish == "":
		w.say("Nothing of what this machine draws is used: %s.", a.Why)
	case tested:
		w.say("%s: told to %s.", w.Name, a.Wish)
	}
	select {
	case w.changed <- struct{}{}:
	default:
	}
}

// known are the ids of the programs that were heard of, in order. The caller holds the lock.
func (w *Worker) known() (ids []string) {
	for id := range w.programs {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	return ids
}

// sources are where orders are taken from, of programs that use what the worker draws, another first each time.
func (w *Worker) sources(ctx context.Context) (list []jetstream.Consumer) {
	w.mu.Lock()
	var ids []string
	for _, id := range w.known() {
		if w.programs[id].told.Wish != "" {
			ids = append(ids, id)
		}
	}
	w.mu.Unlock()
	w.turn++
	for k := range ids {
		id := ids[(k+w.turn)%len(ids)]
		w.mu.Lock()
		p := w.programs[id]
		w.mu.Unlock()
		if p == nil {
			continue
		}
		if p.orders == nil {
			c, err := w.js.Consumer(ctx, workStream, ordersOf(id))
			if errors.Is(err, jetstream.ErrConsumerNotFound) {
				w.mu.Lock()
				delete(w.programs, id) // until it answers again
				w.mu.Unlock()
			}
			if err != nil {
				continue
			}
			p.orders = c
		}
		list = append(list, p.orders)
	}
	return list
}

// lose has the worker look anew where orders are taken from.
func (w *Worker) lose() {
	w.mu.Lock()
	defer w.mu.Unlock()
	for _, p := range w.programs {
		p.orders = nil
	}
}
