package svg

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/outline"
	"perigyre/core/planar"
)

// corner is a point of a path that a marker may stand on, with the directions in which the path comes and goes.
type corner struct {
	at       geom.Vec2
	in, out  geom.Vec2
	comes    bool
	goes     bool
	position string
}

// cornersOf returns the points of a path's data in order (SVG 1.1, 11.6).
func cornersOf(p outline.Path) []corner {
	var out []corner
	for _, l := range p {
		first := len(out)
		out = append(out, corner{at: l.Start, position: "mid"})
		a := l.Start
		step := func(c outline.Piece) {
			from, to := geom.Vec2{c.End[0] - a[0], c.End[1] - a[1]}, geom.Vec2{c.End[0] - a[0], c.End[1] - a[1]}
			if !c.Straight {
				for _, q := range [...]geom.Vec2{c.End, c.C, c.B} { // the nearest that is elsewhere says where it leaves to
					if q != a {
						from = q.Sub(a)
					}
				}
				for _, q := range [...]geom.Vec2{a, c.B, c.C} {
					if q != c.End {
						to = c.End.Sub(q)
					}
				}
			}
			last := &out[len(out)-1]
			if !last.goes {
				last.out, last.goes = from, from != geom.Vec2{}
			}
			if c.Within { // an arc goes on: its end is the one that counts
				a = c.End
				return
			}
			out = append(out, corner{at: c.End, in: to, comes: to != geom.Vec2{}, position: "mid"})
			a = c.End
		}
		for _, c := range l.Pieces {
			step(c)
		}
		if l.Closed {
			if a != l.Start || len(l.Pieces) == 0 {
				step(outline.Piece{Straight: true, End: l.Start})
			}
			// Both ends of a closed line look the same way.
			end := &out[len(out)-1]
			end.out, end.goes = out[first].out, out[first].goes
			out[first].in, out[first].comes = end.in, end.comes
		}
	}
	if len(out) > 0 {
		out[0].position, out[len(out)-1].position = "start", "end"
	}
	return out
}

// angle returns the direction at a corner: halfway between coming and going.
func (c corner) angle() float64 {
	unit := func(v geom.Vec2) geom.Vec2 { return geom.Vec2{v[0] / v.Len(), v[1] / v.Len()} }
	switch {
	case c.comes && c.goes:
		u, v := unit(c.in), unit(c.out)
		if s := (geom.Vec2{u[0] + v[0], u[1] + v[1]}); s.Len() > 1e-9 {
			return math.Atan2(s[1], s[0])
		}
		return math.Atan2(u[1], u[0]) + math.Pi/2
	case c.comes:
		return math.Atan2(c.in[1], c.in[0])
	case c.goes:
		return math.Atan2(c.out[1], c.out[0])
	}
	return 0
}

// markers draws the markers of a path.
func (r *reader) markers(p outline.Path, n *node, s *state, depth int) error {
	switch n.name {
	case "path", "line", "polyline", "polygon":
	default:
		return nil
	}
	if s.fromMarker || s.set["marker-start"] == "none" && s.set["marker-mid"] == "none" && s.set["marker-end"] == "none" {
		return nil
	}
	corners := cornersOf(p)
	for i, c := range corners {
		positions := []string{c.position}
		if i == 0 && len(corners) == 1 {
			positions = []string{"start", "end"}
		}
		for _, at := range positions {
			in, ok := strings.CutPrefix(s.set["marker-"+at], "url(")
			href, _, _ := strings.Cut(in, ")")
			to := r.refer(strings.Trim(href, `"' `))
			if !ok || to == nil || to.name != "marker" || slices.Contains(r.using, to) {
				continue
			}
			r.using = append(r.using, to)
			err := r.marker(to, c, at, s, depth+1)
			r.using = r.using[:len(r.using)-1]
			if err != nil {
				return err
			}
		}
	}
	return nil
}

func (r *reader) marker(n *node, c corner, position string, s *state, depth int) error {
	if r.steps++; r.steps > maxSteps {
		return errTooMuch
	}
	v := s.view
	said := func(key string) float64 {
		if a := n.attrs[key]; a != "" {
			return v.along(a)
		}
		return 3
	}
	w, h := said("markerWidth"), said("markerHeight")
	if !(w > 0 && h > 0) {
		return nil
	}
	angle := 0.0
	switch orient := strings.TrimSpace(n.attrs["orient"]); orient {
	case "auto", "auto-start-reverse":
		if angle = c.angle(); orient == "auto-start-reverse" && position == "start" {
			angle += math.Pi
		}
	default:
		if deg, err := strconv.ParseFloat(strings.TrimSuffix(orient, "deg"), 64); err == nil {
			angle = deg * math.Pi / 180
		}
	}
	place := v.place.Mul(outline.Moved(c.at[0], c.at[1])).Mul(outline.Turned(angle))
	if n.attrs["markerUnits"] != "userSpaceOnUse" {
		k := v.along(s.set["stroke-width"])
		if !(k > 0) {
			return nil
		}
		place = place.Mul(outline.Scaled(k, k))
	}
	// What a marker looks like is inherited from where it stands, not from what it stands on (SVG 1.1, 11.6.2).
	in := &state{view: viewport{place, w, h}, set: inherited, color: s.color, opacity: s.opacity, group: s.group, name: s.name, fromMarker: true}
	in, _ = r.restyle(n, in)
	framed := within(viewport{place, w, h}, 0, 0, w, h, n)
	// The point of reference is in the units of the marker's view box, and stands on the corner.
	ref := geom.Vec2{framed.across(n.attrs["refX"]), framed.down(n.attrs["refY"])}
	at, was := framed.place.Point(ref), place.Point(geom.Vec2{})
	shift := outline.Moved(was[0]-at[0], was[1]-at[1])
	framed.place = shift.Mul(framed.place)
	in.view = framed
	if !in.view.place.Finite() || in.view.place.Det() == 0 {
		return nil
	}
	from := len(r.areas)
	if err := r.children(n, in, depth); err != nil {
		return err
	}
	if o := r.declared(n)["overflow"]; o == "visible" || o == "auto" {
		return nil
	}
	return r.cutTo(from, outline.Fill(rectangle(0, 0, w, h).Transform(shift.Mul(place)), planar.NonZero, r.tolerance))
}
