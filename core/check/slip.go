package check

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// What counts as round, as touching and as slipping: so many equal turns about an axis; a share of the radius; a share of the
// speed, and of the radius a frame.
const (
	roundTurns  = 16
	touching    = 0.01
	slipOfSpeed = 0.02
	slipOfSize  = 1e-3
)

// Slip: what is round and touches the ground, a flat top or another round part slides on it, however it is moved. Rolling is when
// the point of contact stands still against what it touches: the speed of the middle is the radius times the speed of turning.
func init() {
	register(36, func(f *Facts) (out []Finding) {
		p, err := f.piecesOf(f.Pose, 1)
		if err != nil || f.Sight.Symmetry == nil {
			return nil
		}
		rolls := func(q piece) bool { return q.rides != -1 }
		if !slices.ContainsFunc(p.list, rolls) {
			return nil
		}
		rounds := p.rounds()
		worst := map[[2]int]*slipping{}
		var order [][2]int
		step := max(1, len(p.times)/200)
		for t := 0; t+1 < len(p.times); t += step {
			if f.ctx.Err() != nil {
				return nil
			}
			now, err := p.speeds(p.times[t] + 0.5*(p.times[1]-p.times[0]))
			if err != nil {
				return nil
			}
			for _, r := range rounds {
				if !rolls(p.list[r.piece]) {
					continue
				}
				for _, c := range p.contacts(r, rounds, now) {
					if c.slip <= slipOfSpeed*c.speed+slipOfSize*c.radius {
						continue
					}
					key := [2]int{p.list[r.piece].carrier, c.on}
					if worst[key] == nil {
						worst[key] = &slipping{from: p.times[t]}
						order = append(order, key)
					}
					w := worst[key]
					if w.to = p.times[t+1]; c.slip > w.slip {
						w.slip, w.when = c.slip, p.times[t]
					}
				}
			}
		}
		s := f.Pose.Shot
		for _, key := range order {
			w := worst[key]
			on, parts := "the floor", []string{s.Parts[key[0]].ID}
			if key[1] >= 0 {
				on, parts = s.Parts[key[1]].Name, append(parts, s.Parts[key[1]].ID)
			}
			out = append(out, Finding{
				Kind: "slip", Weight: Look, Parts: parts, Frames: &[2]float64{w.from, w.to}, Worst: &w.when, Value: w.slip * 1000, Unit: "mm a frame",
				Title: fmt.Sprintf("%s slides on %s", s.Parts[key[0]].Name, on),
				Why:   fmt.Sprintf("It is round and touches, and where it touches it slides by up to %.3g mm a frame (frame %.4g): what rolls stands still there. Its way is to be its radius times the angle that it turns by.", w.slip*1000, w.when),
			})
		}
		return out
	})
}

type slipping struct{ from, to, slip, when float64 }

// round is a piece that looks the same turned often about an axis, in its own frame.
type round struct {
	piece   int
	axis    int
	through geom.Vec3
	radius  float64 // in its own frame, before it is sized
	ball    bool    // about any axis
}

// rounds are the pieces that may roll, and what they may roll on.
func (p *pieces) rounds() (out []round) {
	for i := range p.list {
		if p.list[i].bends {
			continue
		}
		box, err := p.box(i)
		if err != nil || box.Empty() {
			continue
		}
		across := box.Size() // two of its sides are alike
		if even := func(a, b float64) bool { return math.Abs(a-b) < 0.01*a }; !even(across[0], across[1]) && !even(across[1], across[2]) && !even(across[2], across[0]) {
			continue
		}
		t := p.turns(i, geom.Vec3{1, 1, 1})
		if t.Often < roundTurns {
			continue
		}
		size := box.Size()
		r := round{piece: i, axis: t.Axis, through: t.Through, radius: size[(t.Axis+1)%3] / 2}
		r.ball = math.Abs(size[t.Axis]-2*r.radius) < 1e-3*r.radius && p.spherical(i, box)
		if !r.ball && size[t.Axis] < 1e-6*r.radius {
			continue
		}
		out = append(out, r)
	}
	return out
}

// spherical reports whether all points of a piece are as far from the middle of its box.
func (p *pieces) spherical(i int, box geom.Box) bool {
	points, _, err := p.f.Geometry.Surface(&p.e.Shot.Parts[p.list[i].part])
	r := box.Size()[0] / 2
	return err == nil && !slices.ContainsFunc(points, func(q geom.Vec3) bool { return math.Abs(q.Sub(box.Centre()).Len()-r) > 2e-3*r })
}

// speeds are where all pieces are a little before and after a time, and at it.
type speeds struct {
	before, at, after []geom.Mat4
	span              float64 // frames between before and after
}

func (p *pieces) speeds(t float64) (s speeds, err error) {
	const little = 0.02
	s.span = 2 * little
	for k, dst := range []*[]geom.Mat4{&s.before, &s.at, &s.after} {
		if *dst, err = p.at(motion.At(p.e.Shot, t+little*float64(k-1)), nil); err != nil {
			return s, err
		}
	}
	return s, nil
}

// of is the speed of the point of a piece that is at a place of the room, metres a frame.
func (s *speeds) of(i int, at geom.Vec3) geom.Vec3 {
	back, ok := s.at[i].Inverse()
	if !ok {
		return geom.Vec3{}
	}
	own := back.Point(at)
	return s.after[i].Point(own).Sub(s.before[i].Point(own)).Mul(1 / s.span)
}

// contact is where something round touches.
type contact struct {
	on     int     // a part; -1 for the floor
	slip   float64 // metres a frame
	speed  float64 // of its middle, or of its rim, whichever is more
	radius float64 // metres
}

// contacts are where a round piece touches the floor, a flat top below it, or another round piece beside it.
func (p *pieces) contacts(r round, others []round, now speeds) (out []contact) {
	m := now.at[r.piece]
	middle, axis := m.Point(r.through), m.Column(r.axis)
	if axis.Len() == 0 {
		return nil
	}
	axis = axis.Unit()
	radius := r.radius * m.Column((r.axis+1)%3).Len()
	if radius == 0 || math.Abs(m.Column((r.axis+1)%3).Len()-m.Column((r.axis+2)%3).Len())*r.radius > 1e-4*radius {
		return nil
	}
	box, err := p.box(r.piece)
	if err != nil {
		return nil
	}
	if c := m.Point(box.Centre()); !r.ball { // the middle of its length
		middle = middle.Add(axis.Mul(axis.Dot(c.Sub(middle))))
	} else {
		middle = c
	}
	sets := p.e.Index.Sets()
	touch := func(on, other int, at geom.Vec3) {
		v := now.of(r.piece, at)
		rim := v.Sub(now.of(r.piece, middle)).Len()
		still := geom.Vec3{}
		if other >= 0 {
			still = now.of(other, at)
		}
		speed := math.Max(rim, now.of(r.piece, middle).Sub(still).Len())
		if spin := axis.Cross(at.Sub(middle)); !r.ball && other >= 0 && !sets[on] && spin.Len() > 0 && math.Abs(v.Sub(now.of(r.piece, middle)).Dot(spin.Unit())) < 0.1*speed {
			return // it does not turn about its axis, as what rolls does
		}
		if d := v.Sub(still); speed > 1e-5*radius {
			out = append(out, contact{on, d.Len(), speed, radius})
		}
	}
	// On the ground, lying: the lowest point of it.
	up := geom.Vec3{0, 1, 0}
	if r.ball || math.Abs(axis.Dot(up)) < 0.05 {
		low := middle.Sub(up.Mul(radius))
		for i := range p.e.Shot.Parts {
			if q := &p.e.Shot.Parts[i]; q.Kind == shot.Floor && math.Abs(p.e.AtRest(i)[13]-low[1]) < touching*radius {
				touch(-1, -1, low)
			}
		}
		for i := range p.list {
			b, err := p.box(i)
			if err != nil || b.Empty() || i == r.piece || p.list[i].bends || p.list[i].rides == p.list[r.piece].rides && p.list[i].rides != -2 {
				continue
			}
			box := b.Transformed(now.at[i])
			flat := math.Abs(box.Max[1]-low[1]) < touching*radius && low[0] > box.Min[0] && low[0] < box.Max[0] && low[2] > box.Min[2] && low[2] < box.Max[2]
			if flat && math.Abs(now.at[i].Column(1).Unit()[1]) > 1-1e-6 && !slices.ContainsFunc(others, func(o round) bool { return o.piece == i && (o.ball || o.axis != 1) }) {
				touch(p.list[i].carrier, i, low)
			}
		}
	}
	// Beside another round one with the same axis, or a ball with a ball; the smaller one is told to slide on the larger.
	for _, o := range others {
		if o.piece == r.piece {
			continue
		}
		n := now.at[o.piece]
		radius2 := o.radius * n.Column((o.axis+1)%3).Len()
		if radius2 < radius || radius2 == radius && o.piece < r.piece || p.list[o.piece].rides == p.list[r.piece].rides && p.list[o.piece].rides != -2 {
			continue
		}
		c := n.Point(o.through)
		way := c.Sub(middle)
		switch along := n.Column(o.axis).Unit(); {
		case r.ball && o.ball:
		case math.Abs(along.Dot(axis)) > 1-1e-6:
			ob, err := p.box(o.piece)
			if err != nil {
				continue
			}
			far := math.Abs(axis.Dot(n.Point(ob.Centre()).Sub(middle)))
			half := ob.Size()[o.axis]*n.Column(o.axis).Len()/2 + box.Size()[r.axis]*m.Column(r.axis).Len()/2
			if far > half {
				continue
			}
			way = way.Sub(axis.Mul(axis.Dot(way)))
		default:
			continue
		}
		switch d := way.Len(); {
		case d < 0.05*radius: // a shaft in its hole
		case math.Abs(d-radius-radius2) < touching*radius:
			touch(p.list[o.piece].carrier, o.piece, middle.Add(way.Mul(radius/d)))
		case math.Abs(radius2-radius-d) < touching*radius:
			touch(p.list[o.piece].carrier, o.piece, middle.Sub(way.Mul(radius/d)))
		}
	}
	slices.SortFunc(out, func(a, b contact) int { return cmp.Compare(a.slip, b.slip) })
	return out[:min(1, len(out))] // what it rolls on among what it touches
}
