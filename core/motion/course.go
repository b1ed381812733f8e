package motion

import (
	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Course is a track of a part made ready to be asked at many times. It may be used from several goroutines.
type Course struct {
	of       value     // what it is a course of
	from, to float64   // times of its first pin and its last
	starts   []float64 // of what follows
	runs     []run
	arcs     []arc
	places   []stretch
	track    *shot.Track
	tracks   [3]*shot.Track // of a place
}

// stretch is how a place goes from one pin to the next: a run for each axis, where time goes evenly.
type stretch struct {
	from, rate float64
	c          [3]cubic
}

func (s *stretch) at(t float64) (v geom.Vec3) {
	x := (t - s.from) * s.rate
	for k := range v {
		v[k] = s.c[k].at(x)
	}
	return v
}

// NewCourses makes the tracks of a part ready. The three of its place are one course where they can be, so that the time is
// looked up once.
func NewCourses(tracks []shot.Track) (list []Course) {
	var axes [3]*shot.Track
	for i := range tracks {
		if k := values[tracks[i].Value]; k >= alongX && k <= alongZ {
			axes[k-alongX] = &tracks[i]
		}
	}
	c, ok := newPlace(axes)
	if ok {
		list = append(list, c)
	}
	for i := range tracks {
		if !ok || values[tracks[i].Value] > alongZ {
			list = append(list, NewCourse(&tracks[i]))
		}
	}
	return list
}

// newPlace makes one course of three tracks, if all have their pins at the same times and time goes evenly between them.
func newPlace(axes [3]*shot.Track) (c Course, ok bool) {
	for k, tr := range axes {
		if tr == nil || len(tr.Pins) != len(axes[0].Pins) {
			return c, false
		}
		one := NewCourse(tr)
		if k == 0 {
			c = Course{of: together, tracks: axes, from: one.from, to: one.to, starts: one.starts, places: make([]stretch, len(one.runs))}
		}
		if one.from != c.from || one.to != c.to {
			return c, false
		}
		for i := range one.runs {
			r, s := &one.runs[i], &c.places[i]
			if k == 0 {
				s.from, s.rate = r.from, r.rate
			}
			if r.from != s.from || r.x1 >= 0 {
				return c, false
			}
			s.c[k] = r.c
		}
	}
	return c, true
}

// value is what a track changes, as a number: names would be compared letter by letter for each part and frame.
type value int

const (
	alongX value = iota + 1
	alongY
	alongZ
	orientation
	together // all three, of tracks whose pins stand at the same times
	aboutX
	aboutY
	aboutZ
	width
	height
	depth
)

var values = map[shot.Value]value{
	shot.TrackX: alongX, shot.TrackY: alongY, shot.TrackZ: alongZ, shot.TrackOrientation: orientation, shot.TrackTurnX: aboutX, shot.TrackTurnY: aboutY,
	shot.TrackTurnZ: aboutZ, shot.TrackWidth: width, shot.TrackHeight: height, shot.TrackDepth: depth,
}

// NewCourse takes time in proportion to the pins. The track must not change while the course is in use.
func NewCourse(tr *shot.Track) Course {
	c := Course{of: values[tr.Value], track: tr, from: tr.Pins[0].Time, to: tr.Pins[len(tr.Pins)-1].Time}
	for i := range len(tr.Pins) - 1 {
		c.starts = append(c.starts, tr.Pins[i].Time)
		if tr.Value == shot.TrackOrientation {
			c.arcs = append(c.arcs, arcOf(tr, i))
		} else {
			c.runs = append(c.runs, runOf(tr, i))
		}
	}
	return c
}

// last returns the last stretch that begins at or before a time, which lies in one of them.
func (c *Course) last(t float64) int {
	low, high := 0, len(c.starts)
	for high-low > 8 {
		if mid := (low + high) / 2; c.starts[mid] > t {
			high = mid
		} else {
			low = mid
		}
	}
	for high--; c.starts[high] > t; high-- {
	}
	return high
}

func (c *Course) value(t float64) float64 {
	if t < c.from || t >= c.to {
		return Sample(c.track, t)
	}
	return c.runs[c.last(t)].at(t)
}

func (c *Course) place(t float64) (v geom.Vec3) {
	if t < c.from || t >= c.to {
		for k, tr := range c.tracks {
			v[k] = Sample(tr, t)
		}
		return v
	}
	return c.places[c.last(t)].at(t)
}

func (c *Course) turn(t float64) geom.Quat {
	if t < c.from || t >= c.to {
		return SampleTurn(c.track, t)
	}
	return c.arcs[c.last(t)].at(t)
}

// Apply changes a part's pose by what its pins say at time t. Poses are in the parent's frame, of whose unit a metre of the
// room has so many.
func (c *Course) Apply(t Time, metre float64, p *shot.Rest) {
	switch c.of {
	case alongX:
		p.Position[0] += metre * c.value(t.T)
	case alongY:
		p.Position[1] += metre * c.value(t.T)
	case alongZ:
		p.Position[2] += metre * c.value(t.T)
	case together:
		p.Position = p.Position.Add(c.place(t.T).Mul(metre))
	case orientation:
		if q := c.turn(t.T); p.Rotation == geom.NoTurn {
			p.Rotation = q
		} else {
			p.Rotation = q.Mul(p.Rotation)
		}
	case aboutX:
		p.Rotation = p.Rotation.Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, c.value(t.T)))
	case aboutY:
		p.Rotation = p.Rotation.Mul(geom.AxisAngle(geom.Vec3{0, 1, 0}, c.value(t.T)))
	case aboutZ:
		p.Rotation = p.Rotation.Mul(geom.AxisAngle(geom.Vec3{0, 0, 1}, c.value(t.T)))
	case width:
		p.Size[0] *= c.value(t.T)
	case height:
		p.Size[1] *= c.value(t.T)
	case depth:
		p.Size[2] *= c.value(t.T)
	}
}
