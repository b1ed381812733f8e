package outline

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/planar"
)

func parse(t *testing.T, d string) Path {
	t.Helper()
	p, err := Parse(d)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func resolved(t *testing.T, p Path, evenOdd bool, tolerance float64) Region {
	t.Helper()
	rule := planar.NonZero
	if evenOdd {
		rule = planar.EvenOdd
	}
	r, err := Fill(p, rule, tolerance).Resolve(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	return r
}

const (
	square = "M0 0H10V10H0z"
	hole   = "M3 3V7H7V3z"
	circle = "M5 0A5 5 0 0 1 5 10A5 5 0 0 1 5 0z"
	star   = "M5 10L2 0L10 6L0 6L8 0z" // crosses itself
)

// Areas by closed forms; the star, which crosses itself, filled by both rules: the outer pentagram
// with and without its middle.
func TestAreas(t *testing.T) {
	for _, c := range []struct {
		d       string
		evenOdd bool
		want    float64
	}{
		{square, false, 100}, {square + hole, false, 84}, {square + hole, true, 84}, {circle, false, 25 * math.Pi},
		{square + "M5 5H15V15H5z", false, 175}, {square + "M5 5H15V15H5z", true, 150},
	} {
		if got := resolved(t, parse(t, c.d), c.evenOdd, 1e-4).Size(); math.Abs(got-c.want) > 2e-3 {
			t.Errorf("%s, even-odd %v: area %g, want %g", c.d, c.evenOdd, got, c.want)
		}
	}
	if a, b := resolved(t, parse(t, star), false, 1e-4).Size(), resolved(t, parse(t, star), true, 1e-4).Size(); !(b > 0 && a > b) {
		t.Errorf("the star has %g, and %g without its middle", a, b)
	}
}

// The solid of a region encloses its area times the depth, less what bevels take off, and is closed
// together with its sides; with many holes and ragged outlines too.
func TestSolidsAreClosedAndEncloseTheirVolume(t *testing.T) {
	rng := rand.New(rand.NewPCG(6, 6))
	var ragged Path
	for i := range 90 {
		r := 8 + rng.Float64()*4
		sin, cos := math.Sincos(float64(i) / 90 * 2 * math.Pi)
		if i == 0 {
			ragged.MoveTo(geom.Vec2{20 + r*cos, 20 + r*sin})
		} else {
			ragged.LineTo(geom.Vec2{20 + r*cos, 20 + r*sin})
		}
	}
	ragged.Close()
	for i := range 12 {
		x, y := 15+float64(i%4)*3, 16+float64(i/4)*3
		ragged = append(ragged, Ellipse(0, 0, 0.8, 0.8).Transform(Moved(x, y).Mul(Scaled(-1, 1)))...)
	}
	for name, p := range map[string]Path{"square": parse(t, square), "frame": parse(t, square+hole), "disc": parse(t, circle), "star": parse(t, star), "ragged": ragged} {
		r := resolved(t, p, false, 0.01)
		for _, s := range []mesh.Extrusion{
			{Depth: 2, Bevel: mesh.NoBevel}, {Depth: 2, Bevel: mesh.Chamfer, Width: 0.3}, {Depth: 2, Bevel: mesh.RoundBevel, Width: 0.3, Steps: 5, Both: true}, {Depth: 2, Bevel: mesh.Chamfer, Width: 50},
		} {
			if err := s.Check(); err != nil {
				t.Fatal(err)
			}
			faces, sides, err := Extrude(context.Background(), s, r, 0.01)
			if err != nil {
				t.Fatal(err)
			}
			whole := *faces
			whole.Normals = nil
			whole.Append(sides)
			v, prism := whole.Volume(), r.Size()*2
			if s.Bevel == mesh.NoBevel && math.Abs(v/prism-1) > 1e-5 {
				t.Errorf("%s: volume %g, area times depth %g", name, v, prism)
			}
			if s.Bevel != mesh.NoBevel && !(v < prism && v > 0.25*prism) {
				t.Errorf("%s, %+v: volume %g of %g", name, s, v, prism)
			}
			if open := whole.OpenEdges(); open > 0 {
				t.Errorf("%s, %+v: %d open edges", name, s, open)
			}
		}
	}
	// A chamfer on a square, in closed form: the frustum on a prism.
	faces, sides, err := Extrude(context.Background(), mesh.Extrusion{Depth: 2, Bevel: mesh.Chamfer, Width: 0.5}, resolved(t, parse(t, square), false, 0.01), 0.01)
	if err != nil {
		t.Fatal(err)
	}
	faces.Normals = nil
	faces.Append(sides)
	if want := 100*1.5 + 0.5/3*(100+81+90); math.Abs(faces.Volume()-want) > 1e-3 || faces.OpenEdges() != 0 {
		t.Errorf("chamfered square: %g with %d open edges, want %g", faces.Volume(), faces.OpenEdges(), want)
	}
}
