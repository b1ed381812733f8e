package move

import (
	"fmt"

	"perigyre/core/shot"
)

// Follow goes along with what another part's own moves do.
type Follow struct {
	Of       string  `json:"of"` // part
	Position bool    `json:"position"`
	Rotation bool    `json:"rotation"`
	Size     bool    `json:"size"`
	Lag      float64 `json:"lag"` // frames

	Round bool `json:"round,omitempty"` // it goes round with what turns, as if it stood on it
}

var _ = define(Spec[Follow]{
	Kind: "follow", Note: "another part, later", Find: "lag delay offset copy parent",
	Suits: func(s *Subject) bool { return s.Other(anyPart) != nil },
	First: func(s *Subject) (Follow, Timing) {
		of := s.Other(func(p *shot.Part) bool { return len(p.Moves) > 0 })
		if of == nil {
			of = s.Other(anyPart)
		}
		return Follow{Of: of.ID, Position: true, Rotation: true, Lag: 6}, throughout()
	},
	Words: []Value[Follow]{
		{Name: "of", Label: "Leader", As: AsPart, Str: func(m *Follow) *string { return &m.Of }},
		{Name: "what", Label: "What follows", As: AsChoice, Options: []Option{{"both", "place and turn"}, {"position", "place"}, {"rotation", "turn"}, {"round", "place and turn, going round with it"}},
			Get: func(m *Follow, _ *shot.Part) any {
				if m.Round {
					return "round"
				}
				if m.Rotation && m.Position {
					return "both"
				}
				return chosen(m.Rotation, "rotation", "position")
			},
			Set: choose(func(m *Follow, v string, _ *Subject) {
				m.Position, m.Rotation, m.Round = v != "rotation", v != "position", v == "round"
			})},
		{Name: "lag", Label: "Lag", Unit: Frames, Pins: true, At: func(m *Follow) *float64 { return &m.Lag }},
	},
	Sentence: say(part, " follows ", val("of"), " in ", val("what"), ", ", val("lag"), " later."),
	Needs:    func(m *Follow) []string { return []string{m.Of} },
	Times:    func(m *Follow, _, long func(*float64)) { long(&m.Lag) },
	Apply: func(m *Follow, c *Context, p *shot.Rest) {
		d := c.Room.Moved(m.Of, c.Time.Later(-m.Lag))
		if m.Round {
			seat := c.Room.Seat(m.Of)
			arm := p.Position.Add(c.Part.Pivot).Sub(seat)
			p.Position = p.Position.Add(d.Rotation.Rotate(arm).Sub(arm))
		}
		if m.Position {
			p.Position = p.Position.Add(d.Position)
		}
		if m.Rotation {
			p.Rotation = d.Rotation.Mul(p.Rotation)
		}
		if m.Size {
			for k := range p.Size {
				p.Size[k] *= d.Size[k]
			}
		}
	},
	Bar: func(m *Follow) string { return fmt.Sprintf("%.4g f later", m.Lag) },
})

func anyPart(*shot.Part) bool { return true }
