package check

import (
	"fmt"
	"math"
	"slices"

	"perigyre/core/move"
	"perigyre/core/shot"
)

// leap is how far something has to jump between two moments to ruin a picture, pixels.
const leap = 0.5

// maxEvents are looked at, so that a shot of many copies is not looked at all night.
const maxEvents = 96

// Jumps: something is in two places at one instant in the middle of the shot: a span that begins from elsewhere, a copy that
// plays late and starts anew. Pins that hold and paces of steps jump because somebody said so; so does a move that returns or
// repeats, which is told and does not block.
func init() {
	register(11, func(f *Facts) (out []Finding) {
		const instant = 1e-5 // frames
		worst := map[string]Finding{}
		var order []string
		for _, t := range events(f.Pose.Shot) {
			if !f.leaps(t-instant, t+instant) {
				continue
			}
			for _, g := range f.between(t-instant, t+instant).Gaps {
				part, px := g.Part, g.Pixels
				if px <= leap || worst[part].Value >= px || f.arrives(part) {
					continue
				}
				if worst[part].Kind == "" {
					order = append(order, part)
				}
				one := Finding{
					Kind: "jump", Weight: Blocks, Title: f.name(part) + " jumps", Parts: []string{part}, Frames: frame(t), Value: px, Unit: "px", Lines: arrow(t, g),
					Why: fmt.Sprintf("On frame %.4g it is in two places, %.1f px apart, and nothing says that it is to jump: what begins there does not begin where it stands.", t, px),
				}
				if f.asked(part, t) {
					one.Weight = Look
					one.Why = fmt.Sprintf("On frame %.4g it is in two places, %.1f px apart: its move returns or begins again in one step. If that is meant, leave it.", t, px)
				}
				worst[part] = one
			}
		}
		slices.SortFunc(order, func(a, b string) int { return f.Pose.Index.Part(a) - f.Pose.Index.Part(b) })
		for _, part := range order {
			out = append(out, worst[part])
		}
		return out
	})
}

// leaps reports whether the place of some part differs between two times, or may: that of a copy, or of what bends. It is soon told.
func (f *Facts) leaps(a, b float64) bool {
	s := f.Pose.Shot
	was, is := f.Pose.At(a), f.Pose.At(b)
	for i := range was {
		if s.Parts[i].Copies != nil || f.Pose.Soft(i) {
			return true
		}
		for k := range was[i] {
			if math.Abs(was[i][k]-is[i][k]) > 1e-3*(math.Abs(was[i][k])+1e-2) {
				return true
			}
		}
	}
	return false
}

// events are the times in the middle of a shot at which something may begin or end, in their order.
func events(s *shot.Shot) []float64 {
	n := float64(s.Frames)
	var out []float64
	add := func(t float64) {
		if s.Ending == shot.Loop {
			t = math.Mod(math.Mod(t, n)+n, n)
		}
		if t > 1e-3 && t < n-1e-3 && (s.Ending == shot.Loop || t < n-1) {
			out = append(out, t)
		}
	}
	for i := range s.Parts {
		p := &s.Parts[i]
		for k := range p.Moves {
			m := &p.Moves[k]
			if m.Muted || m.Pace.Kind == shot.Steps {
				continue
			}
			from, to := 0.0, n
			if m.Span != nil {
				from, to = m.Span.From, m.Span.To
			}
			add(from)
			add(to)
			if long := move.Period(s, m); long > 0 { // a clock of its own begins anew
				for k := 1.0; k < 12 && k*long < n; k++ {
					add(k * long)
				}
			}
			laps := float64(max(1, m.Laps))
			for k := 1.0; k < laps && k < 12; k++ {
				add(from + (to-from)*k/laps)
			}
			if m.After == shot.Repeats {
				for t := to; to > from && t < n && t < to+12*(to-from); t += to - from {
					add(t)
				}
			}
		}
		for k := range p.Tracks { // where a track goes on beyond its pins
			pins := p.Tracks[k].Pins
			if len(pins) > 1 {
				add(pins[0].Time)
				add(pins[len(pins)-1].Time)
			}
		}
		if c := p.Copies; c != nil && c.Delay != 0 {
			for k := range 24 {
				add(float64(k+1) * c.Delay)
			}
		}
	}
	slices.Sort(out)
	out = slices.CompactFunc(out, func(a, b float64) bool { return math.Abs(a-b) < 1e-3 })
	return out[:min(len(out), maxEvents)]
}

// arrives reports whether a part is there only after a moment, by a move of what it is in.
func (f *Facts) arrives(part string) bool {
	x := f.Pose.Index
	for i := x.Part(part); i >= 0; i = x.Parent(i) {
		for k := range f.Pose.Shot.Parts[i].Moves {
			if m := &f.Pose.Shot.Parts[i].Moves[k]; !m.Muted && move.ActsOnMembers(m) {
				return true
			}
		}
	}
	return false
}

// asked reports whether a part, or what it is in, jumps at a time because its move returns or repeats, or a pin holds until
// then.
func (f *Facts) asked(part string, t float64) bool {
	x := f.Pose.Index
	for i := x.Part(part); i >= 0; i = x.Parent(i) {
		p := &f.Pose.Shot.Parts[i]
		for k := range p.Moves {
			m := &p.Moves[k]
			if !m.Muted && (m.After == shot.Returns || m.After == shot.Repeats || m.Laps > 1 && m.After != shot.Mirrored && !move.CountsLaps(m)) {
				return true
			}
		}
		for k := range p.Tracks {
			for j, pin := range p.Tracks[k].Pins {
				if pin.Next == shot.Holds && j+1 < len(p.Tracks[k].Pins) && math.Abs(p.Tracks[k].Pins[j+1].Time-t) < 1e-3 {
					return true
				}
			}
			if p.Tracks[k].Before == shot.BeyondRepeat || p.Tracks[k].After == shot.BeyondRepeat {
				return true
			}
		}
	}
	return false
}
