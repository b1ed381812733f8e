package check

import (
	"fmt"
	"math"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/loop"
)

// maxWobble is how far off its axis what turns may be, metres.
const maxWobble = 1e-4

// Wobble: the middle of what turns on a turntable is off its axis.
func init() {
	register(30, func(f *Facts) []Finding {
		if f.Wobble == nil || *f.Wobble <= maxWobble {
			return nil
		}
		var parts []string
		var lines []Line
		for k := range f.Standing {
			if off := f.Standing[k].Wobble; off != nil && *off > maxWobble {
				parts = append(parts, f.Pose.Shot.Sources[k].Root)
				lines = append(lines, f.line(0, f.drawn(f.Pose.Shot.Sources[k].Root, *off)...))
			}
		}
		var mends []Mend
		if len(parts) > 0 {
			mends = []Mend{{"Put it on the axis", []edit.Edit{{Change: &edit.Centre{Parts: parts}}}}}
		}
		return []Finding{{
			Kind: "wobble", Weight: Look, Title: "The turntable wobbles", Value: *f.Wobble * 1000, Unit: "mm", Parts: parts, Mends: mends, Lines: lines,
			Why: fmt.Sprintf("The middle of what turns is %s off the axis.", loop.Distance(*f.Wobble)),
		}}
	})
}

// drawn is the circle that the middle of a model draws about the axis of its turntable, at the height at which it stands.
func (f *Facts) drawn(root string, off float64) (out []geom.Vec3) {
	e := f.Pose
	i := e.Index.Part(root)
	table := e.At(0)[e.Index.Parent(i)]
	for k := range 49 {
		sin, cos := math.Sincos(2 * math.Pi * float64(k) / 48)
		out = append(out, table.Point(geom.Vec3{off * cos, e.Shot.Parts[i].Rest.Position[1], off * sin}))
	}
	return out
}
