package edit

import (
	"fmt"
	"math"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// record pins parts at a time where a matrix in the room takes them, rather than changing how they rest. Turns
// about one of a part's own axes become turns, which may go beyond a whole one; others become orientations. A
// track that is new is pinned as it was on frame 0 too, so that what comes before is not carried along.
func (w *Work) record(parts []string, at float64, m geom.Mat4) (string, error) {
	list, err := w.free(parts)
	if err != nil {
		return "", err
	}
	if math.IsNaN(at) || math.IsInf(at, 0) || at < 0 {
		return "", fmt.Errorf("a pin stands on a frame from 0 on")
	}
	world := w.Pose().At(at)
	for _, i := range list {
		p := &w.Shot.Parts[i]
		up := geom.Identity
		if k := w.Index().Part(p.Parent); k >= 0 {
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
				pin(p, v, at, 0, func(x float64) float64 { return x + by[k]/w.Pose().Metre(i) })
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
		later := slices.ContainsFunc(names[k+1:], func(o shot.Value) bool { return p.Track(o) != nil })
		if math.Abs(axis[k]) < 1-1e-9 || later {
			continue
		}
		angle = math.Remainder(angle*math.Copysign(1, axis[k]), 2*math.Pi)
		pin(p, v, at, 0, func(x float64) float64 { return x + angle })
		return
	}
	// Before the turns: q' rest turns = q rest turns turn.
	q, own := geom.NoTurn, p.Rest.Rotation
	if t := p.Track(shot.TrackOrientation); t != nil {
		q = motion.SampleTurn(t, at)
	}
	for k, v := range names {
		if t := p.Track(v); t != nil {
			dir := geom.Vec3{}
			dir[k] = 1
			own = own.Mul(geom.AxisAngle(dir, motion.Sample(t, at)))
		}
	}
	to := q.Mul(own).Mul(turn).Mul(own.Inverse()).Unit()
	t := p.Track(shot.TrackOrientation)
	if t == nil {
		t = addTrack(p, shot.TrackOrientation)
		if at > 0 {
			still := geom.NoTurn
			t.Pins = []shot.Pin{{Time: 0, Turn: &still}}
		}
	}
	t.Put(shot.Pin{Time: at, Turn: &to})
}

// pin sets the value of a track at a time from what it is there.
func pin(p *shot.Part, v shot.Value, at, rest float64, change func(float64) float64) {
	t := p.Track(v)
	value := rest
	if t == nil {
		if t = addTrack(p, v); at > 0 {
			t.Pins = []shot.Pin{{Time: 0, Value: rest, Next: shot.Smooth}}
		}
	} else {
		value = motion.Sample(t, at)
	}
	t.Put(shot.Pin{Time: at, Value: change(value), Next: shot.Smooth})
}

// addTrack gives a part a track without pins, in the order in which they act.
func addTrack(p *shot.Part, v shot.Value) *shot.Track {
	k := slices.IndexFunc(p.Tracks, func(o shot.Track) bool { return slices.Index(shot.Values, o.Value) > slices.Index(shot.Values, v) })
	if k < 0 {
		k = len(p.Tracks)
	}
	p.Tracks = slices.Insert(p.Tracks, k, shot.Track{Value: v})
	return &p.Tracks[k]
}
