package server

import (
	"fmt"
	"log/slog"
	"runtime/debug"
	"strings"

	"github.com/gofiber/fiber/v3"

	"perigyre/core/check"
	"perigyre/core/fault"
)

// Findings looks for what would ruin a render of a shot as it is now, unless that is known, and tells every window how far it is.
// It ends when a newer version of the shot is looked at.
func (st *Studio) Findings(id string) (*FindingsReply, error) {
	v, facts, err := st.known(id)
	if err != nil {
		return nil, err
	}
	v.look.Lock()
	defer v.look.Unlock()
	if v.found == nil {
		ctx, end := st.checks.begin(st.ctx, id)
		defer end()
		tell := st.hub.steps(func(_ string, share float64) Event { return Event{Check: &CheckEvent{id, v.Version, share}} })
		own := *facts // others read what was measured
		found, err := find(func() ([]check.Finding, error) {
			return check.Find(ctx, &own, check.Watch{Memory: &st.passed, Share: func(share float64) { tell("", share) }})
		})
		if err != nil {
			return nil, err
		}
		v.found, v.shorter = found, own.Shorter
	}
	return &FindingsReply{v.Version, v.found, v.shorter}, nil
}

// find recovers from a fault in what looks at somebody else's geometry.
func find(look func() ([]check.Finding, error)) (found []check.Finding, err error) {
	defer func() {
		if r := recover(); r != nil {
			slog.Error("A check failed.", "fault", r, "stack", string(debug.Stack()))
			err = fmt.Errorf("what would ruin a render could not be found out: the check failed (%v)", r)
		}
	}()
	return look()
}

// getMeters measures how a part goes, on every frame.
func (st *Studio) getMeters(c fiber.Ctx) (err error) {
	defer fault.Catch(&err) // it measures somebody else's geometry
	v, facts, err := st.known(strings.Clone(c.Params("id")))
	if err != nil {
		return err
	}
	own := *facts // findings are looked for in it at the same time
	m, err := check.Meters(&own, c.Params("part"), c.Query("other"))
	if err != nil {
		return refused{err}
	}
	return reply(c, MetersReply{v.Version, m}, nil)
}

func (st *Studio) getFindings(c fiber.Ctx) error {
	r, err := st.Findings(strings.Clone(c.Params("id")))
	return reply(c, r, err)
}
