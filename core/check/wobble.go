package check

import (
	"fmt"

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
		return []Finding{{
			Kind: "wobble", Weight: Look, Title: "The turntable wobbles", Value: *f.Wobble * 1000, Unit: "mm",
			Why: fmt.Sprintf("The middle of what turns is %s off the axis.", loop.Distance(*f.Wobble)),
		}}
	})
}
