package move

import (
	"encoding/json"
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Front is a side of a part that can be its front.
type Front struct {
	Name string    `json:"name"`
	Text string    `json:"text"` // as it reads in a sentence
	Way  geom.Vec3 `json:"way"`  // in the part's own frame
}

// Fronts are the sides that a part's front is chosen from.
var Fronts = []Front{
	{"forwards", "its z side", geom.Vec3{0, 0, 1}},
	{"right", "its x side", geom.Vec3{1, 0, 0}},
	{"up", "its y side", geom.Vec3{0, 1, 0}},
	{"back", "its -z side", geom.Vec3{0, 0, -1}},
	{"left", "its -x side", geom.Vec3{-1, 0, 0}},
	{"down", "its -y side", geom.Vec3{0, -1, 0}},
}

// front is the front of a move's part, which the part keeps: what it is told by one move, all others see.
func front[T any]() Value[T] {
	var options []Option
	for _, f := range Fronts {
		options = append(options, Option{f.Name, f.Text})
	}
	return Value[T]{Name: "front", Label: "Front", As: AsChoice, Options: append(options, Option{"", "what looks forwards"}),
		Get: func(_ *T, on *shot.Part) any {
			for _, f := range Fronts {
				if on.Front.Sub(f.Way).Len() < 1e-6 {
					return f.Name
				}
			}
			return ""
		},
		Set: func(_ *T, raw json.RawMessage, s *Subject) error {
			var name string
			if err := json.Unmarshal(raw, &name); err != nil {
				return fmt.Errorf("a front is a word, not %s", raw)
			}
			for _, f := range Fronts {
				if f.Name == name {
					s.Part().Front = f.Way
					return nil
				}
			}
			s.Part().Front = geom.Vec3{}
			return nil
		}}
}

// Front guesses the front of a part from its length: of its own axes, which lie level, the one that it is longest along,
// and z where it is as wide as long within a twentieth.
func (s *Subject) Front() geom.Vec3 {
	_, turn := s.Eye()
	_, _, own := s.Box()
	best, longest := geom.Vec3{0, 0, 1}, 0.0
	for _, f := range Fronts[:3] {
		long := own.Size().Dot(f.Way)
		if math.Abs(turn.Rotate(f.Way)[1]) < math.Sqrt2/2 && long > longest*1.05 {
			best, longest = f.Way, long
		}
	}
	return best
}

// ahead returns the way that a part's front looks at rest, level and in its parent's frame; z where nobody has said, or
// where it looks straight up.
func ahead(p *shot.Part) geom.Vec3 {
	if v := p.Rest.Rotation.Rotate(p.Front); math.Hypot(v[0], v[2]) > tiny {
		return geom.Vec3{v[0], 0, v[2]}.Unit()
	}
	return geom.Vec3{0, 0, 1}
}
