package server

import (
	"errors"
	"strings"

	"github.com/gofiber/fiber/v3"

	"perigyre/core/exploded"
	"perigyre/core/fault"
)

// planApart finds how a group of a shot comes apart. It ends when another is asked for, or when it is told to; how far it is, every
// window is told.
func (st *Studio) planApart(c fiber.Ctx) (err error) {
	defer fault.Catch(&err) // it looks at somebody else's geometry
	var w exploded.Wish
	if err := read(c, &w); err != nil {
		return err
	}
	id := strings.Clone(c.Params("id"))
	v, facts, err := st.known(id)
	if err != nil {
		return err
	}
	ctx, end := st.plans.begin(st.ctx, id)
	defer end()
	tell := st.hub.steps(func(_ string, share float64) Event { return Event{Apart: &CheckEvent{id, v.Version, share}} })
	p, err := exploded.Find(ctx, facts.Pose, st.assets, w, func(share float64) { tell("", share) })
	switch {
	case ctx.Err() != nil:
		return refused{errors.New("it was stopped before it had been found out how that comes apart")}
	case err != nil:
		return refused{err}
	}
	return reply(c, ApartReply{v.Version, p}, nil)
}

func (st *Studio) stopApart(c fiber.Ctx) error {
	st.plans.cancel(c.Params("id"))
	return c.SendStatus(fiber.StatusNoContent)
}
