package farm

import (
	"math"
	"testing"
)

// The simulation agrees with closed forms where there are some: frames that are alike go round the machines in whole rounds; a
// network that is full takes as long as its bytes do; a first program that is slow takes as long as its work does.
func TestSimulationAgainstClosedForms(t *testing.T) {
	base := Simulation{Frames: 500, Times: []float64{10}, Network: math.Inf(1)}
	near := func(what string, got, want float64) {
		t.Helper()
		if math.Abs(got-want) > 1e-6*want {
			t.Errorf("%s: %g, want %g", what, got, want)
		}
	}
	for _, n := range []int{1, 7, 64, 1000} {
		s := base
		s.Machines = n
		near("rounds", s.Run().Seconds, 10*math.Ceil(500/float64(n)))
	}
	s := base
	s.Machines, s.Result, s.Network = 500, 1e6, 1e6 // all are done at once, and queue up
	near("network", s.Run().Seconds, 10+500)
	s = base
	s.Machines, s.Order = 500, 1
	near("first program", s.Run().Seconds, 500+10)
	s = base
	s.Machines, s.Speeds = 2, []float64{1, 0.25} // four to one
	near("speeds", s.Run().Seconds, 4000)
}
