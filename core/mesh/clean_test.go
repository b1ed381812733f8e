package mesh

import (
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/geom"
)

// Loop subdivision against the limit position formula: a vertex of valence n goes to
// v / (1 + n x) + x sum / (1 + n x) with x = 8 beta / 3 (Loop 1987; Hoppe et al. 1994, from memory).
func TestSubdivisionAgainstTheLimit(t *testing.T) {
	octa := &Mesh{
		Positions: [][3]float32{{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1.5, 0}, {0, 0, 1}, {0, 0, -1}},
		Indices:   []uint32{0, 2, 4, 2, 1, 4, 1, 3, 4, 3, 0, 4, 2, 0, 5, 1, 2, 5, 3, 1, 5, 0, 3, 5},
	}
	x := 8 * loopWeight(4) / 3
	sum := geom.Vec3{}
	for _, i := range []int{0, 1, 4, 5} { // neighbours of vertex 2
		sum = sum.Add(geom.V3(octa.Positions[i]))
	}
	want := geom.V3(octa.Positions[2]).Add(sum.Mul(x)).Mul(1 / (1 + 4*x))
	m := *octa
	for range 6 {
		m.Subdivide(math.Pi)
	}
	best := math.Inf(1)
	for _, p := range m.Positions {
		best = math.Min(best, geom.V3(p).Sub(want).Len())
	}
	if best > 2e-3 || m.OpenEdges() != 0 || m.Triangles() != 8*4096 {
		t.Errorf("after six steps the vertex is %g from its limit; %d triangles, %d open edges", best, m.Triangles(), m.OpenEdges())
	}
	box := Box(geom.Vec3{1, 1, 1})
	box.Subdivide(DefaultCrease) // every edge of it is sharp: the box stays a box
	if v := box.Volume(); math.Abs(v-1) > 1e-6 || box.Bounds().Size() != (geom.Vec3{1, 1, 1}) {
		t.Errorf("a subdivided box encloses %g", v)
	}
}

func TestCleaning(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 8))
	ball := Shape{Kind: SphereShape, Radius: 1, Sides: 24}.Build()
	want := ball.Volume()
	turned := 0
	for k := 0; k < len(ball.Indices); k += 3 {
		if rng.IntN(3) == 0 {
			ball.Indices[k+1], ball.Indices[k+2] = ball.Indices[k+2], ball.Indices[k+1]
			turned++
		}
	}
	if got := ball.FixWinding(); got != turned || math.Abs(ball.Volume()-want) > 1e-6 || ball.Normals != nil {
		t.Errorf("%d faces were turned back of %d; volume %g, want %g", got, turned, ball.Volume(), want)
	}
	// Connected pieces and their volumes by closed forms: two boxes and a cylinder in one mesh.
	all := Box(geom.Vec3{1, 2, 3})
	other := Box(geom.Vec3{1, 1, 1})
	other.Transform(geom.Translation(geom.Vec3{5, 0, 0}))
	all.Append(other)
	rod := Shape{Kind: CylinderShape, Radius: 1, Height: 2, Sides: 200}.Build()
	rod.Transform(geom.Translation(geom.Vec3{-5, 0, 0}))
	rod.UV, all.UV = nil, nil
	all.Append(rod)
	volumes := map[int]bool{}
	for _, p := range all.Pieces() {
		volumes[int(math.Round(p.Volume()*100))] = true
	}
	if len(all.Pieces()) != 3 || !volumes[600] || !volumes[100] || !volumes[628] {
		t.Errorf("%d pieces of %v", len(all.Pieces()), volumes)
	}
	// Vertices a little apart are joined, those farther are not.
	loose := Box(geom.Vec3{1, 1, 1})
	for i := range loose.Positions {
		for a := range 3 {
			loose.Positions[i][a] += float32(rng.Float64()-0.5) * 1e-5
		}
	}
	if gone := loose.Weld(1e-4); gone != 16 || len(loose.Positions) != 8 || loose.OpenEdges() != 0 {
		t.Errorf("%d of 24 vertices were joined, %d open edges", gone, loose.OpenEdges())
	}
	moved := *ball
	moved.Positions = append([][3]float32(nil), ball.Positions...)
	x := geom.TRS(geom.Vec3{3, 2, 1}, geom.AxisAngle(geom.Vec3{1, 2, 3}, 2), geom.Vec3{1, 1, 1})
	for i, p := range moved.Positions {
		moved.Positions[i] = x.Point(geom.V3(p)).F32()
	}
	if m, ok := Same(&moved, ball); !ok || m.Point(geom.Vec3{1, 0, 0}).Sub(x.Point(geom.Vec3{1, 0, 0})).Len() > 1e-4 {
		t.Error("a ball that was moved is not found to be the same")
	}
	moved.Positions[7][0] += 0.1
	if _, ok := Same(&moved, ball); ok {
		t.Error("a dented ball is taken for the same")
	}
}
