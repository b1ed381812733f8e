package motion

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

var up = geom.Vec3{0, 1, 0}

// Room is what moves that look at other parts ask for. All of it is at a time of the asker's.
type Room interface {
	// Turned returns the angle that a part's own moves have turned it by about their axes, in radians and
	// beyond whole turns.
	Turned(part string, t Time) float64
	// Moved returns what a part's own moves and pins have done to it since its rest pose: how far, turned
	// how, and resized by what, all in the frame of the asker's parent.
	Moved(part string, t Time) shot.Rest
	// Place returns the matrix of a part, and where its pivot is, in the frame of the asker's parent.
	Place(part string, t Time) (geom.Mat4, geom.Vec3)
	// Path returns the path of a travel or skim, measured once.
	Path(m *shot.Move) *Path
	// Inverse brings a point of the room into the frame of the asker's parent.
	Inverse(p geom.Vec3, t Time) geom.Vec3
}

// Apply changes the pose of a part by one of its moves at time t. Poses are in the parent's frame.
func Apply(m *shot.Move, t Time, part *shot.Part, p *shot.Rest, room Room) {
	if m.Muted {
		return
	}
	t = t.of(m)
	m = Pinned(m, t)
	switch {
	case m.Squash != nil:
		k := math.Max(1e-6, 1+m.Squash.Amount*Progress(t, m))
		for i := range p.Size {
			if i == m.Squash.Axis {
				p.Size[i] *= k
			} else {
				p.Size[i] /= math.Sqrt(k)
			}
		}
	case m.Turntable != nil:
		if m.Turntable.Moves == shot.ObjectMoves {
			p.Rotation = geom.AxisAngle(up, TurntableAngle(m.Turntable, t)).Mul(p.Rotation)
		}
	case m.Turn != nil || m.Swing != nil || m.Gear != nil:
		axis, frame := axisOf(m)
		turn(p, axis, frame, angle(m, t, room))
	case m.Slide != nil:
		by := m.Slide.By.Mul(Progress(t, m))
		if m.Slide.Frame == shot.OwnFrame {
			by = p.Rotation.Rotate(by)
		}
		p.Position = p.Position.Add(by)
	case m.Float != nil:
		f := m.Float
		sin, cos := math.Sincos(2 * math.Pi * t.T / f.Period)
		p.Position[1] += f.Height / 2 * (1 - cos)
		p.Rotation = geom.AxisAngle(geom.Vec3{0, 0, 1}, f.Tilt*sin).Mul(p.Rotation)
	case m.Roll != nil:
		roll(m, t, p)
	case m.Topple != nil:
		q, move := toppled(m.Topple, Progress(t, m), m.Pace)
		rigid(p, part.Pivot, q, move)
	case m.Travel != nil:
		travel(m, t, p, room)
	case m.Follow != nil:
		follow(m.Follow, t, p, room)
	case m.Orbit != nil:
		orbit(m, t, p, room)
	case m.Flight != nil:
		fly(m.Flight, t, p, room)
	case m.Skim != nil:
		skim(m, t, p, room)
	}
}

// Pinned returns the move with its parameters as their pins say at time t.
func Pinned(m *shot.Move, t Time) *shot.Move {
	if len(m.Pins) == 0 {
		return m
	}
	c := m.Copy()
	params := c.Params()
	for i := range c.Pins {
		if v := params[string(c.Pins[i].Value)]; v != nil {
			*v = Sample(&c.Pins[i], t.T)
		}
	}
	return c
}

func axisOf(m *shot.Move) (geom.Vec3, shot.Frame) {
	switch {
	case m.Swing != nil:
		return m.Swing.Axis, m.Swing.Frame
	case m.Gear != nil:
		return m.Gear.Axis, m.Gear.Frame
	}
	return m.Turn.Axis, m.Turn.Frame
}

// turn rotates a pose about an axis through the part's pivot.
func turn(p *shot.Rest, axis geom.Vec3, frame shot.Frame, angle float64) {
	q := geom.AxisAngle(axis, angle)
	if frame == shot.OwnFrame {
		p.Rotation = p.Rotation.Mul(q)
	} else {
		p.Rotation = q.Mul(p.Rotation)
	}
}

// Angle returns the angle in radians, beyond whole turns too, that a move turns its part by about its axis;
// 0 for one that does not turn.
func Angle(m *shot.Move, t Time, room Room) float64 {
	if m.Muted {
		return 0
	}
	return angle(Pinned(m, t.of(m)), t.of(m), room)
}

func angle(m *shot.Move, t Time, room Room) float64 {
	switch {
	case m.Turntable != nil && m.Turntable.Moves == shot.ObjectMoves:
		return TurntableAngle(m.Turntable, t)
	case m.Turn != nil:
		return m.Turn.Direction.Sign() * 2 * math.Pi * m.Turn.Turns * stopped(m.Turn, Progress(t, m), m.Pace)
	case m.Swing != nil:
		return swing(m.Swing, t)
	case m.Roll != nil:
		return rollAngle(m.Roll, Progress(t, m))
	case m.Gear != nil:
		// Teeth that mesh pass each other in equal numbers: outside one another they turn against each
		// other, inside and by a belt along with each other.
		ratio := float64(m.Gear.Num) / float64(m.Gear.Den)
		if m.Gear.Mesh == "outside" {
			ratio = -ratio
		}
		return ratio*room.Turned(m.Gear.Driver, t) + m.Gear.Phase
	}
	return 0
}

// stopped lays rests into a progress: the whole is cut into as many stops, each reached by the pace in what
// its rest leaves of its time. The progress it is given is paced already where there are no stops.
func stopped(m *shot.Turn, e float64, pace shot.Pace) float64 {
	if m.Stops == 0 {
		return e
	}
	n := float64(m.Stops)
	k := math.Floor(e * n)
	v := math.Min(1, (e*n-k)/(1-m.Rest))
	if pace.Kind == "" || pace.Kind == shot.Constant {
		v = v * v * (3 - 2*v) // a detent is left and reached gently
	} else {
		v, _ = Pace(pace, v)
	}
	return (k + v) / n
}

// TurntableAngle returns the angle of a turntable in radians: angle(t) = 2 pi k t / N in a loop, so
// that frame N - 1 is one step short of frame 0.
func TurntableAngle(m *shot.Turntable, t Time) float64 {
	return m.Direction.Sign() * 2 * math.Pi * float64(m.Turns) * t.whole()
}

// swing returns the angle of a swing; it begins in the middle, going the positive way.
func swing(s *shot.Swing, t Time) float64 {
	x := t.T/SwingPeriod(s, t.Rate) + s.Phase
	switch s.Shape {
	case "pendulum":
		return Pendulum(s.Amplitude, x)
	case "weighted": // lingers at the ends
		return s.Amplitude * math.Sin(math.Pi/2*math.Sin(2*math.Pi*x))
	}
	return s.Amplitude * math.Sin(2*math.Pi*x)
}

// SwingPeriod returns the period of a swing in frames: that of a pendulum with a length follows from it.
func SwingPeriod(s *shot.Swing, rate float64) float64 {
	if s.Shape == "pendulum" && s.Length > 0 {
		return PendulumPeriod(s.Length, s.Amplitude) * rate
	}
	return s.Period
}

// level returns the unit vector of a way along the floor, and the axis about which what goes there rolls.
func level(v geom.Vec3) (along, axis geom.Vec3) {
	along = geom.Vec3{v[0], 0, v[2]}.Unit()
	return along, up.Cross(along)
}

// rollAngle returns how far a roll has turned its part: on the ground its turns; round another part of
// radius R once for each lap and R / r times for the way along it, outside added and inside taken off
// (Coin rotation; Wolfram MathWorld, "Circle Rolling", from memory).
func rollAngle(r *shot.Roll, e float64) float64 {
	switch r.Contact {
	case "on":
		return 2 * math.Pi * r.Turns * e * (1 + r.Other/r.Radius)
	case "in":
		return 2 * math.Pi * r.Turns * e * (r.Other/r.Radius - 1)
	}
	return 2 * math.Pi * r.Turns * e
}

// roll ties rotation and travel together: distance = radius x angle. On another part the rolling one begins
// on its top, in another at its bottom.
func roll(m *shot.Move, t Time, p *shot.Rest) {
	r, e := m.Roll, Progress(t, m)
	along, axis := level(r.Along)
	angle := rollAngle(r, e)
	switch r.Contact {
	case "on":
		sin, cos := math.Sincos(2 * math.Pi * r.Turns * e)
		d := r.Other + r.Radius
		p.Position = p.Position.Add(along.Mul(d * sin)).Add(up.Mul(d * (cos - 1)))
	case "in":
		sin, cos := math.Sincos(2 * math.Pi * r.Turns * e)
		d := r.Other - r.Radius
		p.Position = p.Position.Add(along.Mul(d * sin)).Add(up.Mul(d * (1 - cos)))
	default:
		p.Position = p.Position.Add(along.Mul(r.Radius * angle))
	}
	p.Rotation = geom.AxisAngle(axis, angle).Mul(p.Rotation)
}

// rigid moves a pose by a rotation about the parent's origin and then a translation.
func rigid(p *shot.Rest, pivot geom.Vec3, q geom.Quat, move geom.Vec3) {
	p.Position = q.Rotate(p.Position.Add(pivot)).Add(move).Sub(pivot)
	p.Rotation = q.Mul(p.Rotation)
}

// toppled returns the rigid motion of a prism that has rolled over some of its lower edges: at every moment
// it turns about the edge that lies on the floor. The whole progress is all its steps, each at the pace.
func toppled(m *shot.Topple, e float64, pace shot.Pace) (geom.Quat, geom.Vec3) {
	along, axis := level(m.Along)
	done := e * float64(m.Steps)
	whole := math.Floor(done)
	part := done - whole
	if pace.Kind != "" && pace.Kind != shot.Constant {
		part, _ = Pace(pace, part)
	}
	step := 2 * math.Pi / float64(m.Sides) // the angle between neighbouring sides
	side := func(k int) float64 {
		if m.Sides == 4 && k%2 != 0 {
			return m.High
		}
		return m.Width
	}
	// Steps are taken one by one; a topple is short.
	q, move := geom.NoTurn, geom.Vec3{}
	about := func(edge geom.Vec3, angle float64) {
		r := geom.AxisAngle(axis, angle)
		q = r.Mul(q)
		move = r.Rotate(move.Sub(edge)).Add(edge)
	}
	edge := m.Base.Add(along.Mul(side(0) / 2))
	n := int(whole)
	for k := 0; k < n; k++ {
		about(edge, step)
		edge = edge.Add(along.Mul(side(k + 1)))
	}
	if part > 0 {
		about(edge, step*part)
	}
	return q, move
}

// travel moves a part along its path; at rest it stands where the path begins.
func travel(m *shot.Move, t Time, p *shot.Rest, room Room) {
	path := room.Path(m)
	share := m.Travel.From + (m.Travel.To-m.Travel.From)*Progress(t, m)
	q, d := path.At(share)
	if m.Travel.Path == "points" || m.Travel.Path == "closed" {
		p.Position = p.Position.Add(q)
	} else {
		start, _ := path.At(0)
		p.Position = p.Position.Add(q).Sub(start)
	}
	if m.Travel.Lay {
		back := geom.AxisAngle(up, math.Atan2(d[0], d[2]))
		if flat := math.Hypot(d[0], d[2]); flat > 1e-9 {
			back = back.Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, -math.Atan2(d[1], flat)))
		}
		if m.Travel.Bank != 0 && m.Travel.Width > 0 {
			lean := m.Travel.Bank * path.Bend(share) * m.Travel.Width / 2
			back = back.Mul(geom.AxisAngle(geom.Vec3{0, 0, 1}, -lean))
		}
		p.Rotation = back.Mul(p.Rotation)
	}
}

// follow adds what another part's moves do.
func follow(f *shot.Follow, t Time, p *shot.Rest, room Room) {
	late := t.Later(-f.Lag)
	d := room.Moved(f.Of, late)
	if f.Position {
		p.Position = p.Position.Add(d.Position)
	}
	if f.Rotation {
		p.Rotation = d.Rotation.Mul(p.Rotation)
	}
	if f.Size {
		for k := range p.Size {
			p.Size[k] *= d.Size[k]
		}
	}
}

// orbit puts a part on its circle round the target and makes its -z look there.
func orbit(m *shot.Move, t Time, p *shot.Rest, room Room) {
	o, e := m.Orbit, Progress(t, m)
	target := room.Inverse(o.Point, t)
	if o.Target != "" {
		_, pivot := room.Place(o.Target, t)
		target = pivot.Add(o.Point)
	}
	angle := o.Start + 2*math.Pi*o.Turns*e
	sin, cos := math.Sincos(angle)
	height := o.Height + o.Wave*math.Sin(2*math.Pi*o.Waves*e)
	p.Position = target.Add(geom.Vec3{o.Radius * sin, height, o.Radius * cos})
	p.Rotation = geom.LookAlong(target.Sub(p.Position))
}

// fly goes smoothly through the stops of a flight: each component of the position along a monotone curve
// that is level at the stops that rest, the orientation on the shorter arc by the same share of the way.
func fly(f *shot.Flight, t Time, p *shot.Rest, room Room) {
	stops := f.Stops
	x := t.T
	if x <= stops[0].At {
		p.Position, p.Rotation = room.Inverse(stops[0].Position, t), stops[0].Rotation.Unit()
		return
	}
	for i := range stops {
		s := &stops[i]
		if i == len(stops)-1 || x <= s.At+s.Rest {
			p.Position, p.Rotation = room.Inverse(s.Position, t), s.Rotation.Unit()
			return
		}
		next := &stops[i+1]
		if x > next.At {
			continue
		}
		long := next.At - s.At - s.Rest
		u := (x - s.At - s.Rest) / long
		at := geom.Vec3{}
		for k := range at {
			at[k] = hermite(s.Position[k], next.Position[k], flightSlope(stops, i, k, true)*long, flightSlope(stops, i+1, k, false)*long, u)
		}
		p.Position = room.Inverse(at, t)
		p.Rotation = s.Rotation.Unit().Slerp(next.Rotation.Unit(), hermite(0, 1, eased(stops, i), eased(stops, i+1), u))
		return
	}
}

// eased is the slope of the share of the way at a stop: level where the flight rests or ends.
func eased(stops []shot.Stop, i int) float64 {
	if stops[i].Rest > 0 || i == 0 || i == len(stops)-1 {
		return 0
	}
	return 1
}

func flightSlope(stops []shot.Stop, i, k int, leaving bool) float64 {
	if stops[i].Rest > 0 || i == 0 || i == len(stops)-1 {
		return 0
	}
	a, b, c := &stops[i-1], &stops[i], &stops[i+1]
	h0, h1 := b.At-a.At-a.Rest, c.At-b.At
	return harmonic((b.Position[k]-a.Position[k])/h0, (c.Position[k]-b.Position[k])/h1, h0, h1)
}

func hermite(a, b, ma, mb, s float64) float64 { return cubic(a, a+ma/3, b-mb/3, b, s) }

// skim goes along the contour that a plane cuts from a surface, its y along the surface's normal and its z
// along the way.
func skim(m *shot.Move, t Time, p *shot.Rest, room Room) {
	s := m.Skim
	if len(s.Contour) < 3 {
		return
	}
	place, _ := room.Place(s.On, t)
	path := room.Path(m)
	share := Progress(t, m)
	if s.Flip {
		share = -share
	}
	at, d := path.At(share)
	normal := normalAt(s, path, share)
	if s.Flip {
		d = d.Mul(-1)
	}
	n := place.Vector(normal).Unit()
	ahead := place.Vector(d)
	ahead = ahead.Sub(n.Mul(ahead.Dot(n))).Unit()
	p.Position = place.Point(at).Add(n.Mul(s.Away))
	p.Rotation = geom.QuatFromAxes(n.Cross(ahead), n, ahead)
}

// normalAt mixes the normals of the contour's corners.
func normalAt(s *shot.Skim, path *Path, share float64) geom.Vec3 {
	n := len(s.Contour)
	share -= math.Floor(share)
	i := 0
	for i < n-1 && path.knots[i+1] <= share {
		i++
	}
	k := (share - path.knots[i]) / math.Max(1e-300, path.knots[i+1]-path.knots[i])
	a, b := s.Normals[i], s.Normals[(i+1)%n]
	return a.Mul(1 - k).Add(b.Mul(k)).Unit()
}
