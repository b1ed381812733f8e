package check

import (
	"fmt"
	"math"

	"perigyre/core/edit"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// Pace: something that goes round in whole laps over the whole loop is eased, so that it stutters each time round. Common
// practice, no source: a looping turntable is linear.
func init() {
	register(15, func(f *Facts) (out []Finding) {
		s := f.Pose.Shot
		if s.Ending != shot.Loop {
			return nil
		}
		for i := range s.Parts {
			p := &s.Parts[i]
			for j := range p.Moves {
				m := &p.Moves[j]
				laps := move.Laps(s, m)
				round := move.CountsLaps(m) && laps != 0 && math.Abs(laps-math.Round(laps)) < 1e-9 && m.After != shot.Mirrored && m.After != shot.Returns
				whole := m.Span == nil || m.Span.Long() >= float64(s.Frames)-1e-6
				if w := wayOf(f.Pose, i); w.stopsTurning() || w.stopsGoing() {
					continue // found as a stop
				}
				if m.Muted || move.Rests(m) || !round || !whole || m.Pace.Kind == "" || m.Pace.Kind == shot.Constant || m.Pace.Kind == shot.Steps {
					continue
				}
				out = append(out, Finding{
					Kind: "pace", Weight: Look, Parts: []string{p.ID}, Frames: f.seam(), Title: fmt.Sprintf("%s slows down each lap", p.Name),
					Why:   fmt.Sprintf("Its %s goes round over the whole loop and is not at constant speed, so that it stutters where the loop begins anew.", m.Kind),
					Mends: []Mend{{"Constant speed", []edit.Edit{{Change: &edit.SetMove{Move: m.ID, Patch: edit.Patch(constantPace)}}}}},
				})
			}
		}
		return out
	})
}
