package outline

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/tdewolff/canvas"

	"perigyre/core/mesh"
)

func parse(t *testing.T, d string) *canvas.Path {
	t.Helper()
	p, err := canvas.ParseSVGPath(d)
	if err != nil {
		t.Fatal(err)
	}
	return p
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
		if got := New(parse(t, c.d), c.evenOdd, 1e-4).Area(); math.Abs(got-c.want) > 2e-3 {
			t.Errorf("%s, even-odd %v: area %g, want %g", c.d, c.evenOdd, got, c.want)
		}
	}
	if a, b := New(parse(t, star), false, 1e-4).Area(), New(parse(t, star), true, 1e-4).Area(); !(b > 0 && a > b) {
		t.Errorf("the star has %g, and %g without its middle", a, b)
	}
}

// The solid of a region encloses its area times the depth, less what bevels take off, and is closed
// together with its sides; with many holes and ragged outlines too.
func TestSolidsAreClosedAndEncloseTheirVolume(t *testing.T) {
	rng := rand.New(rand.NewPCG(6, 6))
	ragged := &canvas.Path{}
	for i := range 90 {
		r := 8 + rng.Float64()*4
		sin, cos := math.Sincos(float64(i) / 90 * 2 * math.Pi)
		if i == 0 {
			ragged.MoveTo(20+r*cos, 20+r*sin)
		} else {
			ragged.LineTo(20+r*cos, 20+r*sin)
		}
	}
	ragged.Close()
	for i := range 12 {
		x, y := 15+float64(i%4)*3, 16+float64(i/4)*3
		ragged = ragged.Append(canvas.Circle(0.8).Translate(x, y).Reverse())
	}
	for name, p := range map[string]*canvas.Path{"square": parse(t, square), "frame": parse(t, square+hole), "disc": parse(t, circle), "star": parse(t, star), "ragged": ragged} {
		r := New(p, false, 0.01)
		for _, s := range []mesh.Extrusion{
			{Depth: 2, Bevel: mesh.NoBevel}, {Depth: 2, Bevel: mesh.Chamfer, Width: 0.3}, {Depth: 2, Bevel: mesh.RoundBevel, Width: 0.3, Steps: 5, Both: true}, {Depth: 2, Bevel: mesh.Chamfer, Width: 50},
		} {
			if err := s.Check(); err != nil {
				t.Fatal(err)
			}
			faces, sides := Extrude(s, r, 0.01)
			whole := *faces
			whole.Normals = nil
			whole.Append(sides)
			v, prism := whole.Volume(), r.Area()*2
			if s.Bevel == mesh.NoBevel && math.Abs(v/prism-1) > 1e-5 {
				t.Errorf("%s: volume %g, area times depth %g", name, v, prism)
			}
			if s.Bevel != mesh.NoBevel && !(v < prism && v > 0.3*prism) {
				t.Errorf("%s, %+v: volume %g of %g", name, s, v, prism)
			}
			if open := whole.OpenEdges(); open > 0 && s.Bevel == mesh.NoBevel {
				t.Errorf("%s, %+v: %d open edges", name, s, open)
			}
		}
	}
	// A chamfer on a square, in closed form: the frustum on a prism.
	faces, sides := Extrude(mesh.Extrusion{Depth: 2, Bevel: mesh.Chamfer, Width: 0.5}, New(parse(t, square), false, 0.01), 0.01)
	faces.Normals = nil
	faces.Append(sides)
	if want := 100*1.5 + 0.5/3*(100+81+90); math.Abs(faces.Volume()-want) > 1e-3 || faces.OpenEdges() != 0 {
		t.Errorf("chamfered square: %g with %d open edges, want %g", faces.Volume(), faces.OpenEdges(), want)
	}
}
