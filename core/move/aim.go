package move

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Aim keeps a camera, or anything else, looking at a part: it turns so that its -z points at that part's pivot, upright, wherever
// either goes.
type Aim struct {
	Target string    `json:"target"` // part
	Offset geom.Vec3 `json:"offset"` // in the room, added to its pivot, metres
}

var _ = define(Spec[Aim]{
	Kind: "aim", Note: "keeps looking at a part", Find: "look track face camera target",
	Suits: func(s *Subject) bool {
		return (s.Part().Kind == shot.Camera || s.Part().Kind == shot.Light) && s.Other(anyPart) != nil
	},
	First: func(s *Subject) (Aim, Timing) {
		of := s.Other(func(p *shot.Part) bool { return len(p.Moves) > 0 })
		if of == nil {
			of = s.Other(anyPart)
		}
		return Aim{Target: of.ID}, throughout()
	},
	Words: []Value[Aim]{
		{Name: "target", Label: "Target", As: AsPart, Str: func(m *Aim) *string { return &m.Target }},
		{Name: "offset", Label: "Beside its pivot", Unit: Length, Pins: true, Room: true, Vec: func(m *Aim) *geom.Vec3 { return &m.Offset }},
	},
	Sentence: say(part, " keeps looking at ", val("target"), ", ", val("offset"), " beside its pivot."),
	Needs:    func(m *Aim) []string { return []string{m.Target} },
	Apply: func(m *Aim, c *Context, p *shot.Rest) {
		_, pivot := c.Room.Place(m.Target, c.Time)
		to := pivot.Add(m.Offset.Mul(c.Metre)).Sub(p.Position)
		if to.Len() > 1e-12 {
			p.Rotation = geom.LookAlong(to)
		}
	},
	Bar: func(*Aim) string { return "" },
	Examples: []Example[Aim]{{
		Says: "from the middle of the room it looks to the right, a quarter turn clockwise from above", Move: Aim{Target: "t", Offset: geom.Vec3{2, 0, 0}}, Frame: 7,
		Turn: geom.AxisAngle(up, -math.Pi/2),
	}},
})
