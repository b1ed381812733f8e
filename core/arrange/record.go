package arrange

import (
	"fmt"
	"math"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// record pins parts at a time where a matrix in the room takes them, rather than changing how they rest. Turns
// about one of a part's own axes become turns, which may go beyond a whole one; others become orientations. A
// track that is new is pinned as it was on frame 0 too, so that what comes before is not carried along.
func (w *work) record(parts []string, at float64, m geom.Mat4) (string, error) {
	list, err := w.free(parts)
	if err != nil {
		return "", err
	}
	if math.IsNaN(at) || math.IsInf(at, 0) || at < 0 {
		return "", fmt.Errorf("a pin stands on a frame from 0 on")
	}
	e := pose.New(w.s)
	world := e.At(at)
	for _, i := range list {
		p := &w.s.Parts[i]
		up := geom.Identity
		if k := w.s.Index(p.Parent); k >= 0 {
			up = world[k]
		}
		inv, ok := up.Inverse()
		if !ok {
			return "", fmt.Errorf("%s is in something that has no size on this frame", p.Name)
		}
		was, now := inv.Mul(world[i]), inv.Mul(m.Mul(world[i]))
		_, r0, s0, _ := was.Decompose()
		_, r1, s1, _ := now.Decompose()
		by := now.Point(p.Pivot).Sub(was.Point(p.Pivot))
		for k, v := range []shot.Value{shot.TrackX, shot.TrackY, shot.TrackZ} {
			if math.Abs(by[k]) > 1e-12 {
				pin(p, v, at, 0, func(x float64) float64 { return x + by[k] })
			}
		}
		if turn := r0.Inverse().Mul(r1); math.Abs(turn[3]) < 1-1e-14 {
			recordTurn(p, at, turn)
		}
		for k, v := range []shot.Value{shot.TrackWidth, shot.TrackHeight, shot.TrackDepth} {
			if f := s1[k] / s0[k]; math.Abs(f-1) > 1e-9 {
				pin(p, v, at, 1, func(x float64) float64 { return x * f })
			}
		}
	}
	return fmt.Sprintf("Pin %s on frame %.4g", w.names(list), at), nil
}

// recordTurn pins a turn in the part's own frame after what its tracks say already.
func recordTurn(p *shot.Part, at float64, turn geom.Quat) {
	axis := geom.Vec3{turn[0], turn[1], turn[2]}
	angle := 2 * math.Atan2(axis.Len(), turn[3])
	axis = axis.Unit()
	names := []shot.Value{shot.TrackTurnX, shot.TrackTurnY, shot.TrackTurnZ}
	for k, v := range names {
		later := slices.ContainsFunc(names[k+1:], func(o shot.Value) bool { return trackOf(p, o) != nil })
		if math.Abs(axis[k]) < 1-1e-9 || later {
			continue
		}
		angle = math.Remainder(angle*math.Copysign(1, axis[k]), 2*math.Pi)
		pin(p, v, at, 0, func(x float64) float64 { return x + angle })
		return
	}
	// Before the turns: q' rest turns = q rest turns turn.
	q, own := geom.NoTurn, p.Rest.Rotation
	if t := trackOf(p, shot.TrackOrientation); t != nil {
		q = motion.SampleTurn(t, at)
	}
	for k, v := range names {
		if t := trackOf(p, v); t != nil {
			dir := geom.Vec3{}
			dir[k] = 1
			own = own.Mul(geom.AxisAngle(dir, motion.Sample(t, at)))
		}
	}
	to := q.Mul(own).Mul(turn).Mul(own.Inverse()).Unit()
	t := trackOf(p, shot.TrackOrientation)
	if t == nil {
		p.Tracks = append([]shot.Track{{Value: shot.TrackOrientation}}, p.Tracks...)
		t = &p.Tracks[0]
		if at > 0 {
			still := geom.NoTurn
			t.Pins = []shot.Pin{{Time: 0, Turn: &still}}
		}
	}
	place(t, shot.Pin{Time: at, Turn: &to})
}

func trackOf(p *shot.Part, v shot.Value) *shot.Track {
	for k := range p.Tracks {
		if p.Tracks[k].Value == v {
			return &p.Tracks[k]
		}
	}
	return nil
}

// pin sets the value of a track at a time from what it is there.
func pin(p *shot.Part, v shot.Value, at, rest float64, change func(float64) float64) {
	t := trackOf(p, v)
	value := rest
	if t == nil {
		order := []shot.Value{shot.TrackOrientation, shot.TrackX, shot.TrackY, shot.TrackZ, shot.TrackTurnX, shot.TrackTurnY, shot.TrackTurnZ, shot.TrackWidth, shot.TrackHeight, shot.TrackDepth}
		k := slices.IndexFunc(p.Tracks, func(o shot.Track) bool { return slices.Index(order, o.Value) > slices.Index(order, v) })
		if k < 0 {
			k = len(p.Tracks)
		}
		p.Tracks = slices.Insert(p.Tracks, k, shot.Track{Value: v})
		if t = &p.Tracks[k]; at > 0 {
			t.Pins = []shot.Pin{{Time: 0, Value: rest, Next: shot.Smooth}}
		}
	} else {
		value = motion.Sample(t, at)
	}
	place(t, shot.Pin{Time: at, Value: change(value), Next: shot.Smooth})
}

// place puts a pin among others; one that stands there already keeps how it goes on.
func place(t *shot.Track, p shot.Pin) {
	for k := range t.Pins {
		if math.Abs(t.Pins[k].Time-p.Time) < 1e-6 {
			t.Pins[k].Value, t.Pins[k].Turn = p.Value, p.Turn
			return
		}
	}
	k := slices.IndexFunc(t.Pins, func(o shot.Pin) bool { return o.Time > p.Time })
	if k < 0 {
		k = len(t.Pins)
	}
	if k > 0 {
		if before := t.Pins[k-1].Next; before != shot.Curves {
			p.Next = before
		} else {
			t.Pins[k-1].Next = shot.Smooth // its handles reached for another pin
			if p.Turn != nil {
				t.Pins[k-1].Next = shot.Straight
			}
		}
	}
	t.Pins = slices.Insert(t.Pins, k, p)
}
