package mesh

import (
	"math"
	"slices"
	"testing"

	"perigyre/core/geom"
)

// The turns that bring a thing onto itself are known from how it is made; a mark on it, or one of its parts moved,
// leaves none.
func TestTurns(t *testing.T) {
	jar := Lathe([]geom.Vec2{{0, 0}, {0.5, 0}, {0.4, 1}, {0, 1.2}}, 48, DefaultCrease)
	marked := *jar
	marked.Positions = slices.Clone(jar.Positions)
	marked.Positions[len(marked.Positions)/2][0] += 0.01
	wheel := (&Gear{Module: 0.05, Teeth: 50, Width: 0.2, Bore: 0.4, Pressure: 20 * math.Pi / 180}).Build()
	aside := *jar
	aside.Positions, aside.Normals = slices.Clone(jar.Positions), slices.Clone(jar.Normals)
	aside.Transform(geom.TRS(geom.Vec3{3, 0, -2}, geom.NoTurn, geom.Vec3{1, 1, 1}))
	both := aside
	both.Append(jar)
	for _, c := range []struct {
		name string
		list []*Mesh
		axis int
		want int
	}{
		{"a jar of 48 sides", []*Mesh{jar}, 1, 48},
		{"it on its side", []*Mesh{jar}, 0, 1},
		{"it with a dent", []*Mesh{&marked}, 1, 1},
		{"a gear of 50 teeth", []*Mesh{wheel}, 1, 50},
		{"two things of 48 and 50", []*Mesh{jar, wheel}, 1, 2},
		{"a jar and another beside it", []*Mesh{jar, &aside}, 1, 1},
		{"two jars as one", []*Mesh{&both}, 1, 2},
	} {
		if got, _ := Turns(c.list, c.axis); got != c.want {
			t.Errorf("%s comes onto itself by %d turns, not %d", c.name, got, c.want)
		}
	}
}
