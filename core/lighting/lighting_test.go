package lighting

import (
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

func TestBearingsGoThereAndBack(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 1000 {
		middle := geom.Vec3{r.NormFloat64(), r.NormFloat64(), r.NormFloat64()}
		at := geom.Vec3{r.NormFloat64(), r.NormFloat64(), r.NormFloat64()}
		if got := BearingOf(middle, at).From(middle); got.Sub(at).Len() > 1e-12 {
			t.Fatalf("%v becomes %v", at, got)
		}
	}
	// 45 degrees left and 30 high, 2 m away: to the left of somebody who stands before the front is -x.
	if b := (Bearing{math.Pi / 4, math.Pi / 6, 2}).From(geom.Vec3{}); b.Sub(geom.Vec3{-math.Sqrt(1.5), 1, math.Sqrt(1.5)}).Len() > 1e-12 {
		t.Errorf("it stands at %v", b)
	}
}

// On a sphere the highlight of a light far away lies where the normal is half-way between eye and light (Blinn's half vector,
// from memory); for a point of it the place found is one from which that is so, at the distance asked for.
func TestHighlightAgainstTheHalfVector(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 1000 {
		n := geom.Vec3{r.NormFloat64(), r.NormFloat64(), r.NormFloat64()}.Unit()
		eye := geom.Vec3{0, 0, 4}
		v := eye.Sub(n).Unit()
		flip := 1.0
		if r.IntN(2) == 0 {
			flip = -1 // of faces that are wound the other way
		}
		at, err := Highlight(eye, n, n.Mul(flip), 2.5)
		if math.Abs(n.Dot(v)) < 1e-3 {
			continue
		}
		if err != nil {
			t.Fatal(err)
		}
		l := at.Sub(n)
		half := v.Add(l.Unit()).Unit()
		if math.Abs(math.Abs(half.Dot(n))-1) > 1e-12 || math.Abs(l.Len()-2.5) > 1e-12 {
			t.Fatalf("at %v the half vector is %v, %v away", n, half, l.Len())
		}
	}
	if _, err := Highlight(geom.Vec3{0, 0, 4}, geom.Vec3{}, geom.Vec3{1, 0, 0}, 1); err == nil {
		t.Error("a surface seen from its edge has a highlight")
	}
}

func TestShadowFallsWhereItIsWanted(t *testing.T) {
	thrower, want := geom.Vec3{0.1, 0.6, -0.2}, geom.Vec3{0.7, 0, 0.3}
	at, err := Shadow(thrower, want, 3)
	if err != nil {
		t.Fatal(err)
	}
	d := thrower.Sub(at)
	if got := at.Add(d.Mul(at[1] / -d[1])); got.Sub(want).Len() > 1e-12 || math.Abs(d.Len()-3) > 1e-12 {
		t.Errorf("the shadow falls at %v", got)
	}
	if _, err := Shadow(thrower, geom.Vec3{0, 2, 0}, 3); err == nil {
		t.Error("a shadow falls upwards")
	}
}

// Rigs stand round what they light whatever its size is, and are the same when they are taken again.
func TestRigsScaleAndAreTakenAgain(t *testing.T) {
	if len(Rigs) < 6 {
		t.Fatalf("there are %d rigs", len(Rigs))
	}
	names := map[string]bool{}
	for _, r := range Rigs {
		if names[r.Name] {
			t.Errorf("two rigs are called %s", r.Name)
		}
		names[r.Name] = true
		s := shot.New("rig")
		s.Rigs = []shot.Rig{r}
		if err := s.Validate(); err != nil {
			t.Errorf("%s: %v", r.Name, err)
		}
		for i := range r.Lights {
			l := &r.Lights[i]
			for _, size := range []float64{0.001, 1, 743} {
				middle := geom.Vec3{size, 2 * size, -size}
				at, spec := Place(l, middle, size)
				toward := at.Vector(geom.Vec3{0, 0, -1})
				if miss := middle.Sub(at.Column(3)).Unit().Sub(toward).Len(); miss > 1e-9 {
					t.Errorf("%s of %s misses the middle by %g", l.Name, r.Name, miss)
				}
				again := Taken(l.Name, at, spec, middle, size)
				if math.Abs(again.Left-l.Left) > 1e-6 || math.Abs(again.High-l.High) > 1e-6 || math.Abs(again.Distance-l.Distance) > 1e-6*l.Distance ||
					math.Abs(again.Light.Width-l.Light.Width) > 1e-9 {
					t.Errorf("%s of %s is taken as %+v", l.Name, r.Name, again)
				}
			}
		}
	}
}

// Surroundings that are worked out have their light where they say: the brightest place of the strip lights lies 48 degrees to
// one side, and no picture has light below none.
func TestStudiosHaveTheirLightWhereTheySay(t *testing.T) {
	if len(Studios) < 4 {
		t.Fatalf("there are %d", len(Studios))
	}
	const width = 128
	for _, s := range Studios {
		pix, err := Paint(s.Name, width)
		if err != nil || len(pix) != 3*width*width/2 {
			t.Fatalf("%s: %d numbers, %v", s.Name, len(pix), err)
		}
		for i, v := range pix {
			if !(v >= 0 && v < 100) {
				t.Fatalf("%s has %g at %d", s.Name, v, i)
			}
		}
	}
	pix, _ := Paint("strip lights", width)
	for _, left := range []float64{48, -48, 0} {
		d := Bearing{left * math.Pi / 180, 0.2, 1}.Direction()
		u, v := math.Atan2(d[2], d[0])/(2*math.Pi)+0.5, 0.5-math.Asin(d[1])/math.Pi
		at := pix[3*(int(v*width/2)*width+int(u*width))]
		if (at > 8) != (left != 0) {
			t.Errorf("at %g degrees to the left it is %g", left, at)
		}
	}
}
