package check

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/motion"
)

// drifts is how far off its way the front of something may look, degrees, and looksAhead how far it may at most on half of its way
// for it to count as going forwards at all: what comes in sideways to be looked at is not meant.
const (
	drifts     = 5.0
	looksAhead = 45.0
)

// Drift: something that travels with its front ahead looks another way than it goes.
func init() {
	register(37, func(f *Facts) (out []Finding) {
		s, e := f.Pose.Shot, f.Pose
		hidden := e.Index.Hidden()
		type moment struct{ t, angle, speed float64 }
		ways := map[int][]moment{}
		const little = 0.02
		for t := 0.5; t < float64(s.Frames)-1; t += math.Max(1, math.Floor(float64(s.Frames)/200)) {
			var before, after []geom.Mat4
			for i := range s.Parts {
				p := &s.Parts[i]
				if p.Front == (geom.Vec3{}) || hidden[i] || !e.Moves(i) {
					continue
				}
				if before == nil {
					before, after = e.World(motion.At(s, t-little)), e.World(motion.At(s, t+little))
				}
				v := after[i].Point(p.Pivot).Sub(before[i].Point(p.Pivot)).Mul(1 / (2 * little))
				front := after[i].Vector(p.Front)
				if front.Len() == 0 || v.Len() == 0 {
					continue
				}
				ways[i] = append(ways[i], moment{t, math.Acos(math.Max(-1, math.Min(1, front.Unit().Dot(v.Unit())))) * 180 / math.Pi, v.Len()})
			}
		}
		for i := range s.Parts {
			way := ways[i]
			if len(way) == 0 {
				continue
			}
			fastest := slices.MaxFunc(way, func(a, b moment) int { return cmp.Compare(a.speed, b.speed) }).speed
			way = slices.DeleteFunc(way, func(m moment) bool { return m.speed < 0.2*fastest })
			angles := make([]float64, len(way))
			for k := range way {
				angles[k] = way[k].angle
			}
			slices.Sort(angles)
			if angles[len(angles)/2] > looksAhead || angles[len(angles)-1] <= drifts {
				continue
			}
			var frames *[2]float64
			worst := moment{}
			for _, m := range way {
				if m.angle <= drifts {
					continue
				}
				if frames == nil {
					frames = frame(math.Floor(m.t))
				}
				if frames[1] = math.Ceil(m.t); m.angle > worst.angle {
					worst = m
					worst.t = math.Floor(m.t)
				}
			}
			out = append(out, Finding{
				Kind: "drift", Weight: Look, Parts: []string{s.Parts[i].ID}, Frames: frames, Worst: &worst.t, Value: worst.angle, Unit: "°",
				Title: s.Parts[i].Name + " drifts sideways",
				Why:   fmt.Sprintf("On frame %.4g its front looks %.1f° away from where it goes.", math.Floor(worst.t), worst.angle),
			})
		}
		return out
	})
}
