package stage

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/model"
	"perigyre/core/shot"
)

// pinned turns the animation of a model into tracks of its nodes. Tracks add to the rest pose, so that
// what a file says of a node is seen from the node's own place: positions less it, orientations after
// undoing it, sizes over it. All three are linear in what the file says, which keeps every interpolation
// exact. An animation that ends as it begins repeats; others stay as they end.
func pinned(m *model.Model, rate shot.Rate) map[int][]shot.Track {
	out := map[int][]shot.Track{}
	if m.Animation == nil {
		return out
	}
	f := rate.PerSecond()
	for _, c := range m.Animation.Channels {
		n := m.Nodes[c.Node]
		switch c.Path {
		case "translation":
			for k, name := range []shot.Value{shot.TrackX, shot.TrackY, shot.TrackZ} {
				add(out, c.Node, numbers(c, name, k, f, func(v float64) float64 { return v - n.Position[k] }, 1), 0)
			}
		case "scale":
			for k, name := range []shot.Value{shot.TrackWidth, shot.TrackHeight, shot.TrackDepth} {
				add(out, c.Node, numbers(c, name, k, f, func(v float64) float64 { return v / n.Size[k] }, 1/n.Size[k]), 1)
			}
		case "rotation":
			add(out, c.Node, turns(c, f, n.Rotation.Inverse()), 0)
		}
	}
	repeat(out)
	return out
}

// repeat makes all tracks go round together if every one of them ends on the value it begins with: those
// that are shorter than the longest wait.
func repeat(tracks map[int][]shot.Track) {
	from, to := math.Inf(1), math.Inf(-1)
	for _, list := range tracks {
		for _, t := range list {
			first, last := t.Pins[0], t.Pins[len(t.Pins)-1]
			if first.Value != last.Value || first.Turn != nil && !same(*first.Turn, *last.Turn) {
				return
			}
			from, to = math.Min(from, first.Time), math.Max(to, last.Time)
		}
	}
	for _, list := range tracks {
		for i := range list {
			t := &list[i]
			if first := t.Pins[0]; first.Time > from {
				t.Pins = append([]shot.Pin{{Time: from, Value: first.Value, Turn: first.Turn}}, t.Pins...)
			}
			if last := &t.Pins[len(t.Pins)-1]; last.Time < to {
				last.Next = shot.Straight
				t.Pins = append(t.Pins, shot.Pin{Time: to, Value: last.Value, Turn: last.Turn})
			}
			t.After = shot.BeyondRepeat
		}
	}
}

// same reports whether two unit quaternions are one rotation: q and -q are.
func same(p, q geom.Quat) bool {
	return math.Abs(p[0]*q[0]+p[1]*q[1]+p[2]*q[2]+p[3]*q[3]) > 1-1e-12
}

// add keeps a track that does something: one whose values are not all what the rest pose has anyway.
func add(out map[int][]shot.Track, node int, t shot.Track, rest float64) {
	for _, o := range out[node] {
		if o.Value == t.Value {
			return // the standard allows one
		}
	}
	still := true
	for _, p := range t.Pins {
		if p.Turn != nil {
			still = still && *p.Turn == geom.NoTurn
		} else {
			still = still && p.Value == rest
		}
		for _, h := range []*shot.Handle{p.In, p.Out} {
			still = still && (h == nil || h.Value == 0 && (h.Turn == nil || *h.Turn == [4]float64{}))
		}
	}
	if still {
		return
	}
	out[node] = append(out[node], t)
}

// shape gives the layout of a channel: how many values stand at each time, and how pins run on.
func shape(c model.Channel, width int) (stride, value int, next shot.Between) {
	switch c.Interpolation {
	case "STEP":
		return width, 0, shot.Holds
	case "CUBICSPLINE":
		return 3 * width, width, shot.Curves
	}
	return width, 0, shot.Straight
}

// numbers is one component of a channel. Slope is the factor that the change from file to track has on
// differences.
func numbers(c model.Channel, name shot.Value, k int, f float64, to func(float64) float64, slope float64) shot.Track {
	t := shot.Track{Value: name}
	stride, value, next := shape(c, 3)
	for i, at := range c.Times {
		p := shot.Pin{Time: float64(at) * f, Value: to(float64(c.Values[i*stride+value+k])), Next: next}
		if next == shot.Curves { // tangents are by the second, handles a third of the way
			if i > 0 {
				third := float64(at-c.Times[i-1]) / 3
				p.In = &shot.Handle{Time: -third * f, Value: -third * slope * float64(c.Values[i*stride+k])}
			}
			if i+1 < len(c.Times) {
				third := float64(c.Times[i+1]-at) / 3
				p.Out = &shot.Handle{Time: third * f, Value: third * slope * float64(c.Values[i*stride+6+k])}
			}
		}
		t.Pins = append(t.Pins, p)
	}
	return t
}

func turns(c model.Channel, f float64, undo geom.Quat) shot.Track {
	t := shot.Track{Value: shot.TrackOrientation}
	stride, value, next := shape(c, 4)
	quat := func(at int) geom.Quat {
		v := c.Values[at:]
		return geom.Quat{float64(v[0]), float64(v[1]), float64(v[2]), float64(v[3])}.Mul(undo)
	}
	handle := func(time, k float64, at int) *shot.Handle {
		q := quat(at)
		for i := range q {
			q[i] *= k
		}
		return &shot.Handle{Time: time, Turn: (*[4]float64)(&q)}
	}
	for i, at := range c.Times {
		q := quat(i*stride + value).Unit()
		p := shot.Pin{Time: float64(at) * f, Turn: &q, Next: next}
		if next == shot.Curves {
			if i > 0 {
				third := float64(at-c.Times[i-1]) / 3
				p.In = handle(-third*f, -third, i*stride)
			}
			if i+1 < len(c.Times) {
				third := float64(c.Times[i+1]-at) / 3
				p.Out = handle(third*f, third, i*stride+8)
			}
		}
		t.Pins = append(t.Pins, p)
	}
	return t
}
