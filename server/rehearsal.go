package server

import (
	"context"
	"errors"
	"strconv"
	"strings"
	"sync"

	"github.com/gofiber/fiber/v3"

	"perigyre/core/check"
	"perigyre/runs"
	"perigyre/store"
)

// rehearsals keep the last rehearsal of some shots.
type rehearsals struct {
	mu    sync.Mutex
	of    map[string]*rehearsal
	order []string
}

const maxRehearsals = 8

type rehearsal struct {
	version int
	state   string // running, done, stopped or failed
	problem string
	frames  []int
	shown   [][]byte
	found   []check.Finding
	stop    context.CancelFunc
}

// reply says how a rehearsal of a shot stands.
func (r *rehearsals) reply(id string) *RehearsalReply {
	r.mu.Lock()
	defer r.mu.Unlock()
	out := &RehearsalReply{State: "none", Frames: []int{}, Findings: []check.Finding{}}
	if w := r.of[id]; w != nil {
		out.Version, out.State, out.Problem, out.Done = w.version, w.state, w.problem, len(w.shown)
		out.Frames, out.Findings = append(out.Frames, w.frames...), append(out.Findings, w.found...)
	}
	return out
}

// Rehearse renders a shot very small, in the background. One of the same version that runs or is done is left as it is; one of an older
// version ends.
func (st *Studio) Rehearse(id string) (*RehearsalReply, error) {
	v, facts, err := st.known(id)
	if err != nil {
		return nil, err
	}
	h := &st.rehearsals
	ctx, stop := context.WithCancel(st.ctx)
	w := &rehearsal{version: v.Version, state: "running", stop: stop}
	h.mu.Lock()
	if h.of == nil {
		h.of = map[string]*rehearsal{}
	}
	old := h.of[id]
	if old != nil && old.version == v.Version && (old.state == "running" || old.state == "done") {
		h.mu.Unlock()
		stop()
		return h.reply(id), nil
	}
	if old != nil {
		old.stop()
	} else if h.order = append(h.order, id); len(h.order) > maxRehearsals {
		h.of[h.order[0]].stop()
		delete(h.of, h.order[0])
		h.order = h.order[1:]
	}
	h.of[id] = w
	h.mu.Unlock()
	tell := st.hub.steps(func(_ string, share float64) Event { return Event{Rehearsal: &CheckEvent{id, v.Version, share}} })
	go func() {
		defer stop()
		own := *facts // findings are looked for in it at the same time
		found, err := find(func() ([]check.Finding, error) {
			return runs.Rehearse(ctx, v.Document, &own, st.stock, func(r *runs.Rehearsal) {
				h.mu.Lock()
				w.frames, w.shown = r.Frames, append([][]byte{}, r.Pictures...)
				h.mu.Unlock()
				tell("", float64(len(r.Pictures))/float64(len(r.Frames)))
			})
		})
		h.mu.Lock()
		switch w.state = "done"; {
		case errors.Is(err, context.Canceled):
			w.state = "stopped"
		case err != nil:
			w.state, w.problem = "failed", err.Error()
		}
		w.found = found
		h.mu.Unlock()
		st.hub.send(Event{Rehearsal: &CheckEvent{id, v.Version, 1}})
	}()
	return h.reply(id), nil
}

// routeRehearsal adds the addresses of rehearsals.
func (st *Studio) routeRehearsal(api fiber.Router) {
	h := &st.rehearsals
	name := func(c fiber.Ctx) string { return strings.Clone(c.Params("id")) }
	api.Post("/shots/:id/rehearsal", func(c fiber.Ctx) error {
		r, err := st.Rehearse(name(c))
		return reply(c, r, err)
	})
	api.Get("/shots/:id/rehearsal", func(c fiber.Ctx) error {
		if _, err := st.open(name(c)); err != nil {
			return err
		}
		return reply(c, h.reply(name(c)), nil)
	})
	api.Delete("/shots/:id/rehearsal", func(c fiber.Ctx) error {
		h.mu.Lock()
		defer h.mu.Unlock()
		if w := h.of[name(c)]; w != nil {
			w.stop()
		}
		return c.SendStatus(fiber.StatusNoContent)
	})
	api.Get("/shots/:id/rehearsal/:version/:number", func(c fiber.Ctx) error {
		n, err1 := strconv.Atoi(c.Params("number"))
		version, err2 := strconv.Atoi(c.Params("version"))
		h.mu.Lock()
		defer h.mu.Unlock()
		w := h.of[name(c)]
		if err1 != nil || err2 != nil || w == nil || w.version != version || n < 0 || n >= len(w.shown) {
			return store.ErrMissing
		}
		c.Set("Content-Type", "image/png")
		c.Set("Cache-Control", "private, max-age=86400")
		return c.Send(w.shown[n])
	})
}
