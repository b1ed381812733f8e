package check

import (
	"fmt"

	"perigyre/core/edit"
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
		for k := range f.Standing {
			if off := f.Standing[k].Wobble; off != nil && *off > maxWobble {
				parts = append(parts, f.Pose.Shot.Sources[k].Root)
			}
		}
		var mends []Mend
		if len(parts) > 0 {
			mends = []Mend{{"Put it on the axis", []edit.Edit{{Change: &edit.Centre{Parts: parts}}}}}
		}
		return []Finding{{
			Kind: "wobble", Weight: Look, Title: "The turntable wobbles", Value: *f.Wobble * 1000, Unit: "mm", Parts: parts, Mends: mends,
			Why: fmt.Sprintf("The middle of what turns is %s off the axis.", loop.Distance(*f.Wobble)),
		}}
	})
}
