package check

import (
	"fmt"
	"math"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// A stop at the seam: something that turns or travels one way through the whole loop slows down to nothing where it begins
// anew, and starts again, once each lap. A turntable that does is ruined; anything else may mean it. What turns back at the
// seam stops there because it must.
func init() {
	register(14, func(f *Facts) (out []Finding) {
		s := f.Pose.Shot
		if s.Ending != shot.Loop {
			return nil
		}
		for i := range s.Parts {
			p := &s.Parts[i]
			if len(p.Moves) == 0 && len(p.Tracks) == 0 || f.Pose.Index.Hidden()[i] {
				continue
			}
			w := wayOf(f.Pose, i)
			one := Finding{Kind: "stop", Parts: []string{p.ID}, Frames: f.seam(), Value: 100 - w.seam*100, Unit: "%", Mends: constant(f, p)}
			switch {
			case w.stopsTurning():
				one.Weight, one.Title = Blocks, p.Name+" stops each lap"
				one.Why = fmt.Sprintf("It turns one way through the whole loop, and at the seam at %.0f %% of its speed: it stutters each time round. A looping turntable turns at constant speed.", w.seam*100)
				out = append(out, one)
			case w.stopsGoing():
				one.Weight, one.Title, one.Value = Look, p.Name+" stops at the seam", 100-w.slow*100
				one.Why = "It travels without rest through the whole loop, slows down where the loop begins anew and starts again, once each lap."
				out = append(out, one)
			}
		}
		return out
	})
}

// way is how a part turns and travels over a loop, in its parent's frame.
type way struct {
	turned  float64 // radians in all, one way
	turning float64 // share of the loop in which it turns, at more than a quarter of its mean speed and never the other way
	seam    float64 // its speed of turning at the seam, as a share of the mean
	going   float64 // the same of travelling
	slow    float64

	spins, goes [2]geom.Vec3 // how it turns and goes before the seam and after it, radians and metres a frame
}

// rests reports whether something that moves nearly all the time rests at the seam.
func rests(share, seam float64) bool { return share > 0.7 && seam < 0.2 }

// stopsTurning reports whether a part that makes whole turns rests at the seam.
func (w way) stopsTurning() bool {
	turns := w.turned / (2 * math.Pi)
	return rests(w.turning, w.seam) && turns > 0.5 && math.Abs(turns-math.Round(turns)) < 0.01
}

// stopsGoing reports whether a part that travels rests at the seam.
func (w way) stopsGoing() bool { return rests(w.going, w.slow) }

// wayOf samples a part's own motion at 96 times between its frames, and just before and after the seam.
func wayOf(e *pose.Evaluator, i int) way {
	n := float64(e.Shot.Frames)
	const samples = 96
	step := n / samples / 16
	spin := func(t float64) (geom.Vec3, geom.Vec3) { // radians and metres a frame
		a, b := e.Local(i, t), e.Local(i, t+step)
		_, q, _, _ := a.Decompose()
		_, r, _, _ := b.Decompose()
		d := r.Unit().Mul(q.Unit().Inverse())
		if d[3] < 0 {
			d = geom.Quat{-d[0], -d[1], -d[2], -d[3]}
		}
		v := geom.Vec3{d[0], d[1], d[2]}
		angle := 2 * math.Atan2(v.Len(), d[3])
		if l := v.Len(); l > 0 {
			v = v.Mul(angle / l / step)
		}
		pivot := e.Shot.Parts[i].Pivot
		return v, b.Point(pivot).Sub(a.Point(pivot)).Mul(1 / step)
	}
	var turns, goes []geom.Vec3
	var sum geom.Vec3
	long := 0.0
	for k := range samples {
		w, v := spin((float64(k) + 0.5) * n / samples)
		turns, goes = append(turns, w), append(goes, v)
		sum, long = sum.Add(w), long+v.Len()
	}
	first, start := spin(0)
	last, end := spin(n - step)
	out := way{seam: 1, slow: 1, spins: [2]geom.Vec3{last, first}, goes: [2]geom.Vec3{end, start}}
	if mean := sum.Len() / samples; mean > 1e-9 {
		out.turned = mean * n
		along := sum.Unit()
		for _, w := range turns {
			switch v := w.Dot(along); {
			case v < -1e-6*mean:
				out.turned = 0 // it turns back
			case v > 0.25*mean:
				out.turning += 1.0 / samples
			}
		}
		if out.turned == 0 {
			out.turning = 0
		}
		out.seam = math.Max(math.Abs(first.Dot(along)), math.Abs(last.Dot(along))) / mean
	}
	if mean := long / samples; mean*n > 1e-9 {
		for _, v := range goes {
			if v.Len() > 0.25*mean {
				out.going += 1.0 / samples
			}
		}
		out.slow = math.Max(start.Len(), end.Len()) / mean
		if a, b := goes[0], goes[samples-1]; a.Dot(b) < 0.5*a.Len()*b.Len() {
			out.going = 0 // it leaves another way than it came
		}
	}
	return out
}

// constant is the mend: the part's eased moves and its pins go at constant speed; where that closes.
func constant(f *Facts, p *shot.Part) []Mend {
	var edits []edit.Edit
	for k := range p.Moves {
		m := &p.Moves[k]
		if !m.Muted && m.Pace.Kind != "" && m.Pace.Kind != shot.Constant && m.Pace.Kind != shot.Steps {
			edits = append(edits, edit.Edit{Change: &edit.SetMove{Move: m.ID, Patch: edit.Patch(constantPace)}})
		}
	}
	var pins []edit.PinRef
	for k := range p.Tracks {
		for _, pin := range p.Tracks[k].Pins {
			if pin.Next != shot.Straight {
				pins = append(pins, edit.PinRef{Part: p.ID, Value: p.Tracks[k].Value, Time: pin.Time})
			}
		}
	}
	if len(pins) > 0 {
		next := string(shot.Straight)
		edits = append(edits, edit.Edit{Change: &edit.SetPins{Pins: pins, Next: &next}})
	}
	if len(edits) == 0 {
		return nil
	}
	m := Mend{"Constant speed", edits}
	if now := f.try(edits); now == nil || now.opens(f, p.ID) {
		return nil
	}
	return []Mend{m}
}

const constantPace = `{"pace":{"kind":"constant","way":null,"power":null,"bezier":null,"spring":null,"curve":null}}`
