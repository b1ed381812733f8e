package server

import (
	"errors"
	"net"
	"os"
	"strings"

	"github.com/gofiber/fiber/v3"

	"perigyre/farm"
	"perigyre/store"
)

// Workers returns the machines that render, and how another one joins.
func (st *Studio) Workers() *WorkersReply {
	if st.farm == nil {
		return &WorkersReply{Working: 1, Speed: 1, Members: []farm.Member{}}
	}
	out := &WorkersReply{Open: true, Apart: st.farmPlace.Join != "", Address: st.farm.Address(), Safe: st.farmPlace.TLS != nil, Members: st.farm.Members(), Working: st.farm.Working(), Speed: st.farm.Speed()}
	host, port, err := net.SplitHostPort(out.Address)
	if err == nil {
		ip := net.ParseIP(host)
		if out.Beyond = host != "localhost" && (ip == nil || !ip.IsLoopback()); ip != nil && ip.IsUnspecified() {
			if name, err := os.Hostname(); err == nil {
				host = name
			}
		}
		out.Address = net.JoinHostPort(host, port)
	}
	join := out.Address
	if out.Safe || strings.HasPrefix(st.farmPlace.Join, "tls://") {
		join = "tls://" + join
	}
	switch out.Line = "perigyre worker --join " + join; {
	case out.Apart:
		out.Line += " --token TOKEN" // this program's own secret is none for workers
	case st.farmPlace.Token != "":
		out.Line += " --token " + st.farmPlace.Token
	}
	return out
}

// addWorkers adds the routes of the page of workers.
func (st *Studio) addWorkers(api fiber.Router) {
	api.Get("/workers", func(c fiber.Ctx) error { return reply(c, st.Workers(), nil) })
	known := func(c fiber.Ctx, do func(id string) error) error {
		if st.farm == nil {
			return store.ErrMissing
		}
		switch err := do(c.Params("id")); {
		case errors.Is(err, farm.ErrNoWorker):
			return store.ErrMissing
		case err != nil:
			return refused{err}
		}
		return reply(c, st.Workers(), nil)
	}
	api.Put("/workers/:id", func(c fiber.Ctx) error {
		var r WishRequest
		if err := read(c, &r); err != nil {
			return err
		}
		return known(c, func(id string) error { return st.farm.Wish(id, r.Wish) })
	})
	api.Delete("/workers/:id", func(c fiber.Ctx) error {
		return known(c, func(id string) error { return st.farm.Forget(id) })
	})
}
