package mesh

import (
	"math"
	"testing"

	"perigyre/core/geom"
)

// A plane cuts an ellipsoid in an ellipse. With half axes 3, 1 and 2 and the plane x = 1 across it, the half
// axes of the cut are those of the ellipsoid times sqrt(1 - 1/9); every point lies on it and every normal is
// near that of the ellipsoid (closed form).
func TestSliceOfAnEllipsoid(t *testing.T) {
	m := (&Shape{Kind: SphereShape, Radius: 1, Sides: 256}).Build()
	var points []geom.Vec3
	axes := geom.Vec3{3, 1, 2}
	for _, p := range m.Positions {
		q := geom.V3(p).Sub(geom.Vec3{0, 1, 0}) // balls stand on their lowest point
		points = append(points, geom.Vec3{q[0] * axes[0], q[1] * axes[1], q[2] * axes[2]})
	}
	line, normals := Slice(points, m.Indices, geom.Vec3{2, 0, 0}, 1)
	if len(line) < 100 {
		t.Fatalf("the cut has %d corners", len(line))
	}
	k := math.Sqrt(1 - 1.0/9)
	area := 0.0
	for i, p := range line {
		q := line[(i+1)%len(line)]
		area += (p[1]*q[2] - p[2]*q[1]) / 2
		if r := math.Hypot(p[1]/k, p[2]/(2*k)); math.Abs(p[0]-1) > 1e-9 || math.Abs(r-1) > 1e-3 {
			t.Fatalf("corner %v is not on the ellipse: %g", p, r)
		}
		want := geom.Vec3{p[0] / 9, p[1], p[2] / 4}.Unit()
		if normals[i].Dot(want) < 0.999 {
			t.Fatalf("the normal at %v is %v, want %v", p, normals[i], want)
		}
	}
	if want := math.Pi * 2 * k * k; math.Abs(area/want-1) > 2e-3 {
		t.Errorf("the cut's area is %g, want %g, counter-clockwise", area, want)
	}
	if line, _ := Slice(points, m.Indices, geom.Vec3{1, 0, 0}, 5); line != nil {
		t.Error("a plane that misses cuts something")
	}
}
