package move

import (
	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Slide moves a part along.
type Slide struct {
	By    geom.Vec3  `json:"by"` // metres, along the axes of the frame
	Frame shot.Frame `json:"frame"`
}

var _ = define(Spec[Slide]{
	Kind: "slide", Note: "along, there and back", Find: "translate position shift push",
	First: func(s *Subject) (Slide, Timing) {
		return Slide{By: geom.Vec3{s.Step(), 0, 0}, Frame: shot.ParentFrame}, gently()
	},
	Words: []Value[Slide]{
		{Name: "by", Label: "By", Unit: Length, Pins: true, Vec: func(m *Slide) *geom.Vec3 { return &m.By }},
		{Name: "frame", Label: "Whose axes", As: AsChoice, Options: frames, Str: func(m *Slide) *string { return (*string)(&m.Frame) }},
	},
	Sentence: say("Slide ", part, " by ", val("by"), " along ", val("frame"), " axes", timing),
	Apply: func(m *Slide, c *Context, p *shot.Rest) {
		by := m.By.Mul(c.Metre * c.Progress())
		switch m.Frame {
		case shot.OwnFrame:
			by = p.Rotation.Rotate(by)
		case shot.RoomFrame:
			by = c.fromRoom(m.By.Mul(c.Progress()))
		}
		p.Position = p.Position.Add(by)
	},
	Handles: []Handle{{Is: "point", Name: "Where it slides to", Values: map[string]string{"point": "by"}, When: &When{"frame", either("parent")}}},
	Examples: []Example[Slide]{{
		Says: "half of the way on frame 48 of 96", Move: Slide{By: geom.Vec3{1, 2, 3}, Frame: shot.ParentFrame}, Frame: 48, At: geom.Vec3{0.5, 1, 1.5}, Turn: geom.NoTurn,
	}},
})
