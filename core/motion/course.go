package motion

import (
	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Course is a track of a part made ready to be asked at many times. It may be used from several goroutines.
type Course struct {
	track    *shot.Track
	from, to float64   // times of its first pin and its last
	starts   []float64 // of what follows
	runs     []run
	arcs     []arc
}

// NewCourse takes time in proportion to the pins. The track must not change while the course is in use.
func NewCourse(tr *shot.Track) Course {
	c := Course{track: tr, from: tr.Pins[0].Time, to: tr.Pins[len(tr.Pins)-1].Time}
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

func (c *Course) turn(t float64) geom.Quat {
	if t < c.from || t >= c.to {
		return SampleTurn(c.track, t)
	}
	return c.arcs[c.last(t)].at(t)
}

// Apply changes a part's pose by what its pins say at time t. Poses are in the parent's frame, of whose unit a metre of the
// room has so many.
func (c *Course) Apply(t Time, metre float64, p *shot.Rest) {
	switch c.track.Value {
	case shot.TrackX:
		p.Position[0] += metre * c.value(t.T)
	case shot.TrackY:
		p.Position[1] += metre * c.value(t.T)
	case shot.TrackZ:
		p.Position[2] += metre * c.value(t.T)
	case shot.TrackOrientation:
		p.Rotation = c.turn(t.T).Mul(p.Rotation)
	case shot.TrackTurnX:
		p.Rotation = p.Rotation.Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, c.value(t.T)))
	case shot.TrackTurnY:
		p.Rotation = p.Rotation.Mul(geom.AxisAngle(geom.Vec3{0, 1, 0}, c.value(t.T)))
	case shot.TrackTurnZ:
		p.Rotation = p.Rotation.Mul(geom.AxisAngle(geom.Vec3{0, 0, 1}, c.value(t.T)))
	case shot.TrackWidth:
		p.Size[0] *= c.value(t.T)
	case shot.TrackHeight:
		p.Size[1] *= c.value(t.T)
	case shot.TrackDepth:
		p.Size[2] *= c.value(t.T)
	}
}
