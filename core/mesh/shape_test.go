package mesh

import (
	"math"
	"testing"

	"perigyre/core/geom"
)

// Every shape is closed (but for what is a sheet), stands on y = 0, and has the volume that closed
// forms give, to within what its facets cut off.
func TestShapes(t *testing.T) {
	const pi = math.Pi
	for _, c := range []struct {
		s      Shape
		volume float64 // 0 for a sheet
	}{
		{Shape{Kind: BoxShape, Size: geom.Vec3{1, 2, 3}}, 6},
		{Shape{Kind: BoxShape, Size: geom.Vec3{1, 2, 3}, Bevel: 0.1}, 0.8*1.8*2.8 + 2*0.1*(0.8*1.8+1.8*2.8+0.8*2.8) + pi*0.01*(0.8+1.8+2.8) + 4.0/3*pi*0.001},
		{Shape{Kind: SlabShape, Size: geom.Vec3{2, 0.2, 2}}, 0.8},
		{Shape{Kind: CylinderShape, Radius: 1, Height: 2, Sides: 400}, 2 * pi},
		{Shape{Kind: ConeShape, Radius: 2, Top: 1, Height: 3, Sides: 400}, pi * 3 / 3 * (4 + 2 + 1)},
		{Shape{Kind: SphereShape, Radius: 1, Sides: 400}, 4.0 / 3 * pi},
		{Shape{Kind: CapsuleShape, Radius: 1, Height: 2, Sides: 400}, 4.0/3*pi + 2*pi},
		{Shape{Kind: TorusShape, Radius: 3, Thick: 1, Sides: 400}, 2 * pi * 3 * pi},
		{Shape{Kind: SteppedShape, Radius: 4, Height: 3, Sides: 400}, pi*16*2 + pi*9*1},
		{Shape{Kind: ColumnShape, Radius: 1, Height: 5, Sides: 400}, pi*0.44 + pi*0.84*0.84*4.56},
		{Shape{Kind: LatheShape, Points: []geom.Vec3{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}}, Sides: 400}, pi / 3},
		{Shape{Kind: SlottedShape, Radius: 2, Size: geom.Vec3{0.5}, Height: 1, Gap: 1, Sides: 400}, 0.5 * 1.75 * (2*pi - 1)},
		{Shape{Kind: SlottedShape, Radius: 2, Size: geom.Vec3{0.5}, Height: 1, Gap: 1, Bevel: 0.1, Sides: 400}, (0.5 - 0.04 + 0.01*pi) * 1.75 * (2*pi - 1)},
		{Shape{Kind: SlottedShape, Radius: 2, Size: geom.Vec3{0.5}, Height: 1, Sides: 400}, 0.5 * 1.75 * 2 * pi},
		{Shape{Kind: PlaneShape, Size: geom.Vec3{1, 0, 1}}, 0},
		{Shape{Kind: SweepShape, Size: geom.Vec3{1, 1, 1}, Radius: 0.3}, 0},
	} {
		if err := c.s.Check(); err != nil {
			t.Fatal(err)
		}
		m := c.s.Build()
		if low := m.Bounds().Min[1]; math.Abs(low) > 1e-6 {
			t.Errorf("%s: the lowest point is at %g", c.s.Kind, low)
		}
		if c.volume == 0 {
			continue
		}
		if m.OpenEdges() != 0 || math.Abs(m.Volume()/c.volume-1) > 3e-3 {
			t.Errorf("%s: %d open edges, volume %g, closed form %g", c.s.Kind, m.OpenEdges(), m.Volume(), c.volume)
		}
	}
	for _, bad := range []Shape{{Kind: "cube"}, {Kind: BoxShape}, {Kind: TorusShape, Radius: 1, Thick: 2}, {Kind: SphereShape, Radius: math.NaN()}, {Kind: GearShape}, {Kind: SlottedShape, Radius: 1, Size: geom.Vec3{2}, Height: 1}} {
		if bad.Check() == nil {
			t.Errorf("%+v is no shape", bad)
		}
	}
}

// The gear against involute geometry: tooth thickness pi m / 2 at the pitch circle; every flank point
// unwinds from the base circle, so that its normal touches it; and two equal gears at their centre
// distance have a contact ratio above 1 (Colbourne, "The Geometry of Involute Gears", from memory).
func TestGearIsInvolute(t *testing.T) {
	g := Gear{Module: 0.002, Teeth: 20, Pressure: 20 * math.Pi / 180, Width: 0.005, Bore: 0.004}
	if err := g.Check(); err != nil {
		t.Fatal(err)
	}
	if thick := 2 * g.flank(g.Pitch()) * g.Pitch(); math.Abs(thick-math.Pi*g.Module/2) > 1e-12 {
		t.Errorf("a tooth is %g thick at the pitch circle, want %g", thick, math.Pi*g.Module/2)
	}
	base := g.Base()
	for r := base * 1.01; r < g.Pitch()+g.Module; r += g.Module / 10 {
		at := func(r float64) geom.Vec2 {
			sin, cos := math.Sincos(g.flank(r))
			return geom.Vec2{r * cos, r * sin}
		}
		const d = 1e-8
		a, b, p := at(r-d), at(r+d), at(r)
		tangent := b.Sub(a)
		// The normal's distance from the centre: |p . tangent| / |tangent|.
		if got := math.Abs(p[0]*tangent[0]+p[1]*tangent[1]) / tangent.Len(); math.Abs(got-base) > 1e-5*base {
			t.Errorf("at radius %g the normal passes the centre at %g, the base circle is %g", r, got, base)
		}
	}
	tip := g.Pitch() + g.Module
	contact := (2*math.Sqrt(tip*tip-base*base) - 2*g.Pitch()*math.Sin(g.Pressure)) / (math.Pi * g.Module * math.Cos(g.Pressure))
	if contact < 1.5 || contact > 1.6 { // 1.557 for two of 20 teeth at 20 degrees, handbooks say
		t.Errorf("contact ratio %g", contact)
	}
	m := g.Build()
	area := 0.0 // of the outline by the shoelace formula
	o := g.Outline()
	for i, p := range o {
		q := o[(i+1)%len(o)]
		area += (p[0]*q[1] - q[0]*p[1]) / 2
	}
	want := (area - math.Pi*g.Bore*g.Bore) * g.Width
	if m.OpenEdges() != 0 || math.Abs(m.Volume()/want-1) > 5e-3 {
		t.Errorf("%d open edges, volume %g, want %g", m.OpenEdges(), m.Volume(), want)
	}
	ring := Gear{Module: 0.002, Teeth: 56, Pressure: g.Pressure, Width: 0.005, Bore: 0.064, Inside: true}
	if m := ring.Build(); ring.Check() != nil || m.OpenEdges() != 0 || m.Volume() <= 0 {
		t.Errorf("the ring: %v, %d open edges, volume %g", ring.Check(), m.OpenEdges(), m.Volume())
	}
}

// The centre of mass of a cone is a quarter of its height above its base, of a half ball 3/8 of its radius
// above its flat side (closed forms), wherever they stand.
func TestMassAgainstClosedForms(t *testing.T) {
	half := []geom.Vec3{{0, 0, 0}}
	for i := range 181 {
		sin, cos := math.Sincos(float64(i) / 180 * math.Pi / 2)
		half = append(half, geom.Vec3{cos, sin, 0})
	}
	for _, c := range []struct {
		s      Shape
		height float64
	}{
		{Shape{Kind: ConeShape, Radius: 1, Height: 2, Sides: 400}, 0.5},
		{Shape{Kind: LatheShape, Points: half, Sides: 400}, 0.375},
		{Shape{Kind: BoxShape, Size: geom.Vec3{1, 2, 3}}, 1},
	} {
		m := c.s.Build()
		want := geom.Vec3{10, c.height - 4, 7}
		m.Transform(geom.Translation(geom.Vec3{10, -4, 7}))
		v, at := m.Mass()
		if at.Sub(want).Len() > 2e-3 || math.Abs(v/m.Volume()-1) > 1e-4 {
			t.Errorf("%s: mass %g at %v, want %g at %v", c.s.Kind, v, at, m.Volume(), want)
		}
	}
}
