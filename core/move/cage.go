package move

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/shot"
)

// Cage deforms the meshes of a part, and of all in it as they are at rest, by points round it that are moved.
type Cage struct {
	N      [3]int      `json:"n"`      // points along the part's own x, y and z
	Low    geom.Vec3   `json:"low"`    // of the box, along the part's own axes from its origin, metres
	Size   geom.Vec3   `json:"size"`   // metres
	Points []geom.Vec3 `json:"points"` // how far each has been moved, metres; x runs fastest, then y
	Amount float64     `json:"amount"` // share of it
	Mirror string      `json:"mirror"` // none, x, y or z: the side over which what is done to a point is done to its counterpart
}

var _ = define(Spec[Cage]{
	Kind: "cage", Note: "soft, by points round it that are dragged and pinned", Find: "lattice deform soft squish ffd control points",
	Suits: func(s *Subject) bool { return s.Part().Kind != shot.Camera && s.Part().Kind != shot.Light },
	First: func(s *Subject) (Cage, Timing) {
		_, _, own := s.Box()
		m := Cage{N: [3]int{3, 3, 3}, Low: own.Min, Size: own.Size(), Amount: 1, Mirror: "none"}
		m.Points = make([]geom.Vec3, 27)
		return m, throughout()
	},
	Words: []Value[Cage]{
		{Name: "points", Label: "Points", As: AsCage, Unit: Length, Get: func(m *Cage, _ *shot.Part) any {
			return map[string]any{"n": m.N, "low": m.Low, "size": m.Size, "points": m.Points}
		}, Set: func(m *Cage, raw json.RawMessage, _ *Subject) error {
			var n [3]int
			if json.Unmarshal(raw, &n) != nil {
				return fmt.Errorf("a cage has a number of points each way, not %s", raw)
			}
			return m.resize(n)
		}},
		{Name: "amount", Label: "Amount", Unit: Share, In: &Range{-10, 10}, Pins: true, At: func(m *Cage) *float64 { return &m.Amount }},
		{Name: "mirror", Label: "Mirrored", Options: []Option{{"none", "each point by itself"}, {"x", "left as right"}, {"y", "top as bottom"}, {"z", "front as back"}}, Str: func(m *Cage) *string { return &m.Mirror }},
	},
	Sentence: say("Let ", part, " follow a cage of ", val("points"), " by ", val("amount"), ", ", val("mirror"), "."),
	Check: func(m *Cage, _ *shot.Part) error {
		for k, n := range m.N {
			if n < 2 || n > mesh.MaxCage {
				return fmt.Errorf("a cage has 2 to %d points each way, not %d", mesh.MaxCage, n)
			}
			if !(m.Size[k] >= 0 && m.Size[k] <= most) || !(math.Abs(m.Low[k]) <= most) {
				return fmt.Errorf("a cage is round a box that can be worked with")
			}
		}
		if len(m.Points) != m.N[0]*m.N[1]*m.N[2] {
			return fmt.Errorf("a cage of %d x %d x %d points says where %d of them go", m.N[0], m.N[1], m.N[2], len(m.Points))
		}
		for _, p := range m.Points {
			for _, v := range p {
				if !(math.Abs(v) <= most) {
					return fmt.Errorf("a point of a cage goes nowhere that can be worked with")
				}
			}
		}
		return nil
	},
	Clone: func(m *Cage) *Cage {
		c := *m
		c.Points = slices.Clone(m.Points)
		return &c
	},
	Scale: func(m *Cage, k float64) {
		m.Low, m.Size = m.Low.Mul(k), m.Size.Mul(k)
		for i := range m.Points {
			m.Points[i] = m.Points[i].Mul(k)
		}
	},
	More: &More[Cage]{Unit: Length, Known: func(name string) bool { _, _, ok := cagePoint(name); return ok },
		At: func(m *Cage, name string) *float64 {
			if i, axis, ok := cagePoint(name); ok && i < len(m.Points) {
				return &m.Points[i][axis]
			}
			return nil
		}},
	Bend: func(m *Cage, c *Context) Bent {
		out := &mesh.Cage{Low: m.Low.Mul(c.Own), Size: m.Size.Mul(c.Own), N: m.N, Offsets: make([]geom.Vec3, len(m.Points))}
		if !c.Move.Muted {
			for i, p := range m.Points {
				out.Offsets[i] = p.Mul(c.Own * m.Amount)
			}
		}
		return Bent{Cage: out}
	},
	Bar:     func(m *Cage) string { return fmt.Sprintf("%d x %d x %d", m.N[0], m.N[1], m.N[2]) },
	Handles: []Handle{{Is: "cage", Name: "Point", Values: map[string]string{"cage": "points", "mirror": "mirror"}}},
})

// cagePoint reads the name of a number of a cage: "point 12 x".
func cagePoint(name string) (point, axis int, ok bool) {
	words := strings.Fields(name)
	if len(words) != 3 || words[0] != "point" {
		return 0, 0, false
	}
	i, err := strconv.Atoi(words[1])
	axis = slices.Index([]string{"x", "y", "z"}, words[2])
	return i, axis, err == nil && i >= 0 && i < mesh.MaxCage*mesh.MaxCage*mesh.MaxCage && axis >= 0
}

// resize gives the cage another number of points. Where they go follows from where the old ones did, as near as so many points come.
func (m *Cage) resize(n [3]int) error {
	for _, k := range n {
		if k < 2 || k > mesh.MaxCage {
			return fmt.Errorf("a cage has 2 to %d points each way, not %d", mesh.MaxCage, k)
		}
	}
	was := mesh.Cage{Size: geom.Vec3{1, 1, 1}, N: m.N, Offsets: m.Points}
	var to []geom.Vec3
	for z := range n[2] {
		for y := range n[1] {
			for x := range n[0] {
				at := geom.Vec3{float64(x) / float64(n[0]-1), float64(y) / float64(n[1]-1), float64(z) / float64(n[2]-1)}
				to = append(to, was.Point(at).Sub(at))
			}
		}
	}
	m.N, m.Points = n, to
	return nil
}
