package server

import (
	"encoding/json"
	"testing"
)

// A file of thousands of parts tells thousands of shares: windows that are busy are not cut off by it, and hear of every step.
func TestSharesOfStepsDoNotFillWindows(t *testing.T) {
	var h hub
	events := h.join()
	tell := h.steps(func(doing string, share float64) Event { return Event{Import: &StepEvent{"t", doing, share}} })
	tell("Reading", 0)
	for k := range 5000 {
		tell("Checking", float64(k)/5000)
	}
	tell("Done", 1)
	h.close()
	var steps []string
	for b := range events {
		var e Event
		if err := json.Unmarshal(b, &e); err != nil {
			t.Fatal(err)
		}
		if n := len(steps); n == 0 || steps[n-1] != e.Import.Doing {
			steps = append(steps, e.Import.Doing)
		}
	}
	if len(steps) != 3 || steps[2] != "Done" {
		t.Errorf("a window that reads nothing meanwhile hears of %q", steps)
	}
}
