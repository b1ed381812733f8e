package move

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// SkimKind is named where the library cuts its contour.
const SkimKind shot.MoveKind = "skim"

// Skim travels along the cut of a part's surface by a plane, upright on it.
type Skim struct {
	On      string      `json:"on"`                // part
	Normal  geom.Vec3   `json:"normal"`            // of the plane, in that part's frame
	Offset  float64     `json:"offset"`            // of the plane from that part's pivot, metres
	Away    float64     `json:"away"`              // from the surface, metres
	Flip    bool        `json:"flip"`              // the other way round
	Laps    float64     `json:"laps"`              // round the cut; one where a document does not say
	Contour []geom.Vec3 `json:"contour,omitempty"` // the cut, in that part's frame and unit; the library's
	Normals []geom.Vec3 `json:"normals,omitempty"` // of the surface there
	Key     string      `json:"key,omitempty"`     // what the contour was cut from
}

var _ = define(Spec[Skim]{
	Kind: SkimKind, Note: "over another surface, along a cut", Find: "surface slide along contour",
	Suits: func(s *Subject) bool { return s.Other(anyPart) != nil },
	First: func(s *Subject) (Skim, Timing) {
		on := s.Other(func(p *shot.Part) bool { return p.Mesh != nil || p.Shape != nil })
		if on == nil {
			on = s.Other(anyPart)
		}
		return Skim{On: on.ID, Normal: geom.Vec3{1, 0, 0}, Away: s.Large() / 50, Laps: 1}, throughout()
	},
	Words: []Value[Skim]{
		{Name: "on", Label: "Surface", As: AsPart, Str: func(m *Skim) *string { return &m.On }},
		{Name: "normal", Label: "Plane", As: AsAxis, Vec: func(m *Skim) *geom.Vec3 { return &m.Normal }},
		{Name: "offset", Label: "Offset", Unit: Length, At: func(m *Skim) *float64 { return &m.Offset }},
		{Name: "away", Label: "Away", Unit: Length, Pins: true, At: func(m *Skim) *float64 { return &m.Away }},
		{Name: "round", Label: "Round", As: AsChoice, Options: []Option{{"one", "one way round"}, {"other", "the other way round"}},
			Get: func(m *Skim, _ *shot.Part) any { return chosen(m.Flip, "other", "one") },
			Set: choose(func(m *Skim, v string, _ *Subject) { m.Flip = v == "other" })},
		{Name: "laps", Label: "Laps", In: &Range{0.001, 10_000}, Ones: "lap", Many: "laps", Pins: true, At: func(m *Skim) *float64 { return &m.Laps }},
		{Name: "cut", As: Hidden, Label: "Cut", Get: func(m *Skim, _ *shot.Part) any { return len(m.Contour) >= 3 }},
	},
	Sentence: say(part, " skims over ", val("on"), " where a plane across its ", val("normal"), ", off its pivot by ", val("offset"), ", cuts it, ", val("away"), " away, ", val("laps"), " ", val("round"), timing,
		when("cut", false, " The plane does not cut the surface in a closed line.")),
	Needs: func(m *Skim) []string { return []string{m.On} },
	Prepare: func(m *Skim, _ *shot.Part) any {
		if len(m.Contour) < 3 || len(m.Normals) != len(m.Contour) {
			return nil
		}
		return motion.Polyline(m.Contour)
	},
	Apply: func(m *Skim, c *Context, p *shot.Rest) {
		if path, ok := c.Ready.(*motion.Path); ok && path != nil {
			m.skim(c, path, p)
		}
	},
	Blank: func(m *Skim) { m.Laps = 1 },
	Laps:  func(m *Skim) float64 { return m.Laps },
	Mends: func(m *Skim, b *Mending) {
		b.Rounded("lap", m.Laps, func(data any, k float64) { data.(*Skim).Laps = k })
	},
	Bar: func(m *Skim) string { return counted("lap", m.Laps) },
})

// skim goes along the contour that a plane cuts from a surface, its y along the surface's normal and its z along the
// way.
func (m *Skim) skim(c *Context, path *motion.Path, p *shot.Rest) {
	place, _ := c.Room.Place(m.On, c.Time)
	share := c.Progress() * m.Laps
	if m.Flip {
		share = -share
	}
	at, d := path.At(share)
	normal := m.normalAt(path, share)
	if m.Flip {
		d = d.Mul(-1)
	}
	n := place.Vector(normal).Unit()
	ahead := place.Vector(d)
	ahead = ahead.Sub(n.Mul(ahead.Dot(n))).Unit()
	p.Position = place.Point(at).Add(n.Mul(m.Away * c.Metre))
	p.Rotation = geom.QuatFromAxes(n.Cross(ahead), n, ahead)
}

// normalAt mixes the normals of the contour's corners.
func (m *Skim) normalAt(path *motion.Path, share float64) geom.Vec3 {
	i, k := path.Piece(share - math.Floor(share))
	a, b := m.Normals[i], m.Normals[(i+1)%len(m.Normals)]
	return a.Mul(1 - k).Add(b.Mul(k)).Unit()
}
