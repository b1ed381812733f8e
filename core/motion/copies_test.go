package motion

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// A grid about its middle lies as far to one side as to the other; copies that rise do so by at most what they are told, each by its own
// height, and the same seed gives the same.
func TestAGridOfBlocks(t *testing.T) {
	c := &shot.Spread{Of: "a", Kind: shot.Grid, Count: [3]int{8, 1, 6}, Step: geom.Vec3{0.1, 1, 0.2}, Middle: true, Rise: 0.05, Seed: 4}
	list, again := Places(c, 1000, nil), Places(c, 1000, nil) // in millimetres
	sum, heights := geom.Vec3{}, map[float64]bool{}
	for i, m := range list {
		p := m.Column(3)
		if sum = sum.Add(geom.Vec3{p[0], 0, p[2]}); m != again[i] || p[1] < 0 || p[1] > 50 {
			t.Errorf("copy %d stands at %v", i, p)
		}
		heights[p[1]] = true
	}
	if sum.Len() > 1e-6 || len(heights) != 48 || math.Abs(list[0].Column(3)[0]+350) > 1e-9 || math.Abs(list[0].Column(3)[2]+500) > 1e-9 {
		t.Errorf("off the middle by %v, %d heights, first at %v", sum, len(heights), list[0].Column(3))
	}
}
