package check

import (
	"fmt"
	"math"
	"slices"

	"perigyre/core/edit"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// A stop between pins: a value that goes one way through a pin comes to rest at it and goes on, though nothing holds it there.
func init() {
	register(16, func(f *Facts) (out []Finding) {
		s := f.Pose.Shot
		hidden := f.Pose.Index.Hidden()
		for i := range s.Parts {
			p := &s.Parts[i]
			if hidden[i] {
				continue
			}
			for k := range p.Tracks {
				if one, ok := f.rests(p, &p.Tracks[k]); ok {
					out = append(out, one)
				}
			}
		}
		return out
	})
}

// resting are the pins at which a value comes to rest on its way, and all else of the part that pins move with it.
func resting(p *shot.Part, t *shot.Track) (pins []edit.PinRef) {
	still := func(u *shot.Track, at, h float64) bool {
		return math.Abs(motion.Sample(u, at+h)-motion.Sample(u, at-h)) < 1e-9
	}
	for k := 1; k+1 < len(t.Pins); k++ {
		a, b, c := &t.Pins[k-1], &t.Pins[k], &t.Pins[k+1]
		if b.Turn != nil || a.Next == shot.Holds || b.Next == shot.Holds || (b.Value-a.Value)*(c.Value-b.Value) <= 0 {
			continue
		}
		h := 1e-3 * math.Min(b.Time-a.Time, c.Time-b.Time)
		before, after := (b.Value-motion.Sample(t, b.Time-h))/h, (motion.Sample(t, b.Time+h)-b.Value)/h
		mean := math.Min(math.Abs((b.Value-a.Value)/(b.Time-a.Time)), math.Abs((c.Value-b.Value)/(c.Time-b.Time)))
		if math.Max(math.Abs(before), math.Abs(after)) > 0.05*mean {
			continue
		}
		goes := slices.ContainsFunc(p.Tracks, func(u shot.Track) bool {
			return u.Value != t.Value && u.Value != shot.TrackOrientation && !still(&u, b.Time, h)
		})
		if !goes {
			pins = append(pins, edit.PinRef{Part: p.ID, Value: t.Value, Time: b.Time})
		}
	}
	return pins
}

// rests is the finding of a value that comes to rest on its way.
func (f *Facts) rests(p *shot.Part, t *shot.Track) (Finding, bool) {
	pins := resting(p, t)
	if len(pins) == 0 {
		return Finding{}, false
	}
	one := Finding{
		Kind: "rest", Weight: Look, Parts: []string{p.ID}, Frames: frame(pins[0].Time), Value: float64(len(pins)), Unit: "pins",
		Title: fmt.Sprintf("%s stops at its pin on frame %.4g", p.Name, pins[0].Time),
		Why:   fmt.Sprintf("Its %s goes on the same way after the pin, and comes to rest there all the same: it looks as if it hesitated. Hold it there if it is to wait.", t.Value),
	}
	all := make([]edit.PinRef, len(t.Pins))
	for k := range t.Pins {
		all[k] = edit.PinRef{Part: p.ID, Value: t.Value, Time: t.Pins[k].Time}
	}
	smooth := string(shot.Smooth)
	m := Mend{"Let it go through its pins", []edit.Edit{{Change: &edit.SetPins{Pins: all, Next: &smooth}}}}
	if now := f.try(m.Edits); now != nil && !now.opens(f, p.ID) {
		q := now.Pose.Shot.Part(p.ID)
		if k := slices.IndexFunc(q.Tracks, func(u shot.Track) bool { return u.Value == t.Value }); k >= 0 && len(resting(q, &q.Tracks[k])) == 0 {
			one.Mends = []Mend{m}
		}
	}
	return one, true
}
