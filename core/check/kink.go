package check

import (
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// A kink at the seam: something goes on the same way over the seam, and at another speed. It closes, and is seen all the same: the
// loop jerks once each time round. What stops there, starts there or turns back there does so because it is told to.
const (
	kinks     = 0.3 // of the larger speed
	kinkAlive = 0.2 // of the larger speed: less is a stop
	kinkSeen  = 1.0 // pixels a frame
)

func init() {
	register(13, func(f *Facts) (out []Finding) {
		s := f.Pose.Shot
		if s.Ending != shot.Loop || !f.Seam.Closes {
			return nil
		}
		hidden := f.Pose.Index.Hidden()
		n := float64(s.Frames)
		const little = 0.02
		var seen [2]map[string]float64 // pixels a frame
		for i := range s.Parts {
			p := &s.Parts[i]
			if len(p.Moves) == 0 && len(p.Tracks) == 0 || hidden[i] {
				continue
			}
			w := wayOf(f.Pose, i)
			if !kinked(w.goes) && !kinked(w.spins) {
				continue
			}
			if seen[0] == nil {
				seen[0], seen[1] = pixels(f.between(n-2*little, n-little)), pixels(f.between(little, 2*little))
			}
			before, after := seen[0][p.ID]/little, seen[1][p.ID]/little
			by := math.Abs(before - after)
			if most := math.Max(before, after); by < kinkSeen || by < kinks*most {
				continue
			}
			out = append(out, Finding{Kind: "kink", Weight: Look, Parts: []string{p.ID}, Frames: f.seam(), Value: by, Unit: "px/f",
				Title: p.Name + " goes on at another speed",
				Why:   fmt.Sprintf("Over the seam it goes on the same way, at %.3g px a frame before and %.3g after: the loop closes and jerks all the same, once each time round.", before, after)})
		}
		return out
	})
}

// kinked reports whether two speeds go the same way, and one is much larger.
func kinked(v [2]geom.Vec3) bool {
	a, b := v[0].Len(), v[1].Len()
	most, least := math.Max(a, b), math.Min(a, b)
	return most > 0 && least > kinkAlive*most && most-least > kinks*most && v[0].Dot(v[1]) > 0.5*a*b
}
