package check

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"

	"perigyre/core/assembly"
	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Meter is a quantity of a part over the shot.
type Meter struct {
	Name   string    `json:"name"`
	Unit   string    `json:"unit"`
	Values []float64 `json:"values"`          // on each frame
	Lines  []Line    `json:"lines,omitempty"` // what is measured, on each frame
}

// Meters measure how a part goes, along all axes together, on every frame: the speed of its middle in the room and in the picture, how
// fast it turns, how far its box is from the picture's edge, how far its front is from its way, how much it slides where it is round and
// touches, and how far it is from another part, if one is named. What does not apply is left out.
func Meters(f *Facts, part, other string) ([]Meter, error) {
	e := f.Pose
	i, s := e.Index.Part(part), e.Shot
	if i < 0 {
		return nil, fmt.Errorf("there is no part %q", part)
	}
	rate := s.Rate.PerSecond()
	middle, box, err := f.middle(i)
	if err != nil {
		return nil, err
	}
	cam := e.Index.Part(s.Camera)
	speed, turn, pixels := Meter{Name: "Speed", Unit: "mm/s"}, Meter{Name: "Turning", Unit: "°/s"}, Meter{Name: "In the picture", Unit: "px/f"}
	margin, drift := Meter{Name: "Margin", Unit: "%"}, Meter{Name: "Drift", Unit: "°"}
	const little = 0.02
	for t := range s.Frames {
		a, b := e.World(motion.At(s, float64(t)-little)), e.World(motion.At(s, float64(t)+little))
		if s.Ending == shot.Once { // nothing is before it begins
			a, b = e.World(motion.At(s, math.Max(0, float64(t)-little))), e.World(motion.At(s, math.Max(0, float64(t)-little)+2*little))
		}
		p, q := a[i].Point(middle), b[i].Point(middle)
		v := q.Sub(p).Mul(1 / (2 * little))
		speed.Values = append(speed.Values, v.Len()*rate*1000)
		_, from, _, _ := a[i].Decompose()
		_, to, _, _ := b[i].Decompose()
		d := to.Unit().Mul(from.Unit().Inverse())
		angle := 2 * math.Atan2(geom.Vec3{d[0], d[1], d[2]}.Len(), math.Abs(d[3]))
		turn.Values = append(turn.Values, angle/(2*little)*rate*180/math.Pi)
		if cam >= 0 && cam != i {
			lens := s.Parts[cam].Camera
			x, y, _, in := framing.Project(a[cam], lens, s.Format, p)
			u, w, _, also := framing.Project(b[cam], lens, s.Format, q)
			way := 0.0
			if in && also {
				way = math.Hypot(u-x, w-y) / (2 * little)
			}
			pixels.Values = append(pixels.Values, way)
			if !box.Empty() {
				margin.Values = append(margin.Values, room(e.World(motion.At(s, float64(t)))[cam], lens, s.Format, e.World(motion.At(s, float64(t)))[i], box))
			}
		}
		if front := s.Parts[i].Front; front != (geom.Vec3{}) {
			off := 0.0
			if ahead := b[i].Vector(front); ahead.Len() > 0 && v.Len() > 1e-9 {
				off = math.Acos(math.Max(-1, math.Min(1, ahead.Unit().Dot(v.Unit())))) * 180 / math.Pi
			}
			drift.Values = append(drift.Values, off)
		}
	}
	out := []Meter{speed, turn}
	for _, m := range []Meter{pixels, margin, drift} {
		if len(m.Values) > 0 {
			out = append(out, m)
		}
	}
	more, err := f.touchings(i, e.Index.Part(other))
	return append(out, more...), err
}

// middle is the middle of the box round all that is seen of a part, in its own frame at rest, and that box; its pivot where nothing is.
func (f *Facts) middle(i int) (geom.Vec3, geom.Box, error) {
	e, box := f.Pose, geom.EmptyBox()
	back, ok := e.AtRest(i).Inverse()
	for k := range e.Shot.Parts {
		if p := &e.Shot.Parts[k]; ok && e.Index.Within(k, i) && (p.Mesh != nil || p.Shaped() != nil) {
			reach, err := f.Geometry.Support(p)
			if err != nil {
				return geom.Vec3{}, box, err
			}
			if b := reach.Bounds(); !b.Empty() {
				box = box.Union(b.Transformed(back.Mul(e.AtRest(k))))
			}
		}
	}
	if box.Empty() {
		return e.Shot.Parts[i].Pivot, box, nil
	}
	return box.Centre(), box, nil
}

// room is how much room is left between the corners of a box and the picture's edge, percent of its width or height.
func room(camera geom.Mat4, l *shot.Lens, f shot.Format, at geom.Mat4, box geom.Box) float64 {
	least := 50.0
	for k := range 8 {
		p := box.Min
		for axis := range p {
			if k>>axis&1 == 1 {
				p[axis] = box.Max[axis]
			}
		}
		x, y, _, seen := framing.Project(camera, l, f, at.Point(p))
		if !seen {
			return -100
		}
		w, h := float64(f.Width), float64(f.Height)
		least = math.Min(least, 100*math.Min(math.Min(x, w-x)/w, math.Min(y, h-y)/h))
	}
	return math.Max(least, -100)
}

// touchings are the sliding of a part that is round and touches, and its distance from another one, -1 for none.
func (f *Facts) touchings(i, other int) (out []Meter, err error) {
	e, s := f.Pose, f.Pose.Shot
	p, err := f.piecesOf(e, 1)
	if err != nil {
		return nil, err
	}
	slip, distance := Meter{Name: "Slip", Unit: "mm/f"}, Meter{Name: "Distance", Unit: "mm"}
	touches := false
	var rounds []round
	if f.Sight.Symmetry != nil && e.Moves(i) {
		rounds = p.rounds()
	}
	for t := range s.Frames {
		if len(rounds) > 0 {
			now, err := p.speeds(math.Min(float64(t)+little(s, t), float64(s.Frames)))
			if err != nil {
				return nil, err
			}
			most := 0.0
			for _, r := range rounds {
				if p.list[r.piece].carrier != i {
					continue
				}
				for _, c := range p.contacts(r, rounds, now) {
					touches, most = true, math.Max(most, c.slip*1000)
				}
			}
			slip.Values = append(slip.Values, most)
		}
		if other >= 0 && other != i {
			d, err := p.distance(i, other, motion.At(s, float64(t)))
			if err != nil {
				return nil, err
			}
			distance.Values = append(distance.Values, d.Distance*1000)
			between := []geom.Vec3{d.From, d.To}
			if d.Distance == 0 {
				between = nil
			}
			distance.Lines = append(distance.Lines, f.line(float64(t), between...))
		}
	}
	if touches {
		out = append(out, slip)
	}
	if len(distance.Values) > 0 {
		out = append(out, distance)
	}
	return out, nil
}

// little keeps what is measured on the first and the last frame of a shot that plays once inside of it.
func little(s *shot.Shot, t int) float64 {
	switch {
	case s.Ending == shot.Once && t == 0:
		return 0.05
	case s.Ending == shot.Once && t == s.Frames-1:
		return -0.05
	}
	return 0
}

// distance is the line between the nearest points of two parts, with all that is in them, at a time, in the room; of no length where
// they touch. What is in both is of the first.
func (p *pieces) distance(i, k int, t motion.Time) (assembly.Gap, error) {
	none := assembly.Gap{}
	at, err := p.at(t, nil)
	if err != nil {
		return none, err
	}
	type near struct {
		a, b int
		gap  float64
	}
	var list []near
	boxes := make([]geom.Box, len(p.list))
	for n := range p.list {
		if boxes[n], err = p.box(n); err != nil {
			return none, err
		}
		if !boxes[n].Empty() {
			boxes[n] = boxes[n].Transformed(at[n])
		}
	}
	in := func(n, root int) bool { return !boxes[n].Empty() && p.e.Index.Within(p.list[n].carrier, root) }
	for a := range p.list {
		for b := range p.list {
			if in(a, i) && in(b, k) && !in(b, i) {
				list = append(list, near{a, b, assembly.Apart(boxes[a], boxes[b])})
			}
		}
	}
	slices.SortFunc(list, func(x, y near) int { return cmp.Compare(x.gap, y.gap) })
	least := assembly.Gap{Distance: math.Inf(1)}
	for _, n := range list {
		if n.gap >= least.Distance || least.Distance < 1e-6 {
			break
		}
		x, sx, okA := rigid(at[n.a])
		y, sy, okB := rigid(at[n.b])
		back, ok := x.Inverse()
		if !okA || !okB || !ok {
			continue
		}
		first, err1 := p.solid(n.a, sx)
		second, err2 := p.solid(n.b, sy)
		if err1 != nil || err2 != nil {
			return none, errors.Join(err1, err2)
		}
		if assembly.Nearer(first, second, back.Mul(y), 0) {
			return none, nil
		}
		if g, ok := assembly.Nearest(first, second, back.Mul(y), least.Distance); ok && g.Distance < least.Distance {
			least = assembly.Gap{Distance: g.Distance, From: x.Point(g.From), To: x.Point(g.To)}
		}
	}
	if math.IsInf(least.Distance, 1) || least.Distance < 1e-6 {
		return none, nil
	}
	return least, nil
}
