package shot

import (
	"fmt"
	"math"
)

// Accepted is something that was found and is to stay, with the reason.
type Accepted struct {
	Kind   string   `json:"kind"`
	Parts  []string `json:"parts"` // ids
	Value  float64  `json:"value"` // how bad it was when it was accepted
	Reason string   `json:"reason"`
}

// MaxAccepted findings of a shot.
const MaxAccepted = 1000

func (s *Shot) validateAccepted() error {
	if len(s.Accepted) > MaxAccepted {
		return fmt.Errorf("the shot keeps %d accepted findings; there may be %d", len(s.Accepted), MaxAccepted)
	}
	for _, a := range s.Accepted {
		if a.Kind == "" || len(a.Kind) > 50 || len(a.Reason) > 2000 || len(a.Parts) > 10_000 || math.IsNaN(a.Value) || math.IsInf(a.Value, 0) {
			return fmt.Errorf("an accepted finding needs a kind, a value, and a reason of at most 2,000 letters")
		}
	}
	return nil
}
