package render

import (
	"math"
	"slices"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/pose"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

// parade is a loop with what neighbours can be wrong about: a shining ball over which a bar passes that comes out from behind it, a
// box that turns with its shine, rough glass with something moving behind, a thin wire, and a ball that a cutter goes through; on the
// left a ball far from all that stands still. Side is that of its pictures, in pixels.
func parade(t *testing.T, side int) (moments []Moment, props *Props) {
	t.Helper()
	metal := material.Default()
	metal.BaseColor, metal.Metallic, metal.Roughness = [4]float64{0.9, 0.8, 0.6, 1}, 1, 0.25
	s := still(metal, 0.4)
	s.Frames, s.Format = 12, shot.Format{Width: side, Height: side}
	paint, glass := material.Default(), material.Default()
	paint.ID, paint.BaseColor, paint.Roughness = "paint", [4]float64{0.2, 0.4, 0.8, 1}, 0.5
	glass.ID, glass.Roughness, glass.Transmission = "glass", 0.3, 1
	s.Materials = append(s.Materials, paint, glass)
	put := func(id, m string, at geom.Vec3, mesh int) {
		rest := shot.AtRest
		rest.Position = at
		s.Parts = append(s.Parts, shot.Part{ID: id, Name: id, Kind: shot.Solid, Rest: rest, Mesh: &shot.MeshRef{Mesh: mesh}, Materials: []string{m}})
	}
	put("bar", "paint", geom.Vec3{0, 0.1, -0.2}, 1)
	put("box", "m", geom.Vec3{0.5, 0.1, 0.2}, 1)
	put("pane", "glass", geom.Vec3{0.1, 0.2, 0.55}, 2)
	put("wire", "paint", geom.Vec3{0.3, 0.3, 0.3}, 3)
	put("cut", "paint", geom.Vec3{0.78, -0.05, -0.3}, 4)
	put("far", "paint", geom.Vec3{-0.85, 0, 0.1}, 4)
	s.Parts = append(s.Parts, shot.Part{ID: "l", Name: "Light", Kind: shot.Light, Rest: shot.Rest{Position: geom.Vec3{1, 2, 1}, Rotation: geom.LookAlong(geom.Vec3{-1, -2, -1}), Size: geom.Vec3{1, 1, 1}},
		Light: &shot.LightSpec{Width: 1, Height: 0.5, Strength: 4, Color: [3]float64{1, 1, 1}}},
		shot.Part{ID: "floor", Name: "Floor", Kind: shot.Floor, Rest: shot.AtRest, Fade: new(float64)})
	s.Parts = append(s.Parts, shot.Part{ID: "hole", Name: "Hole", Kind: shot.Cutter, Rest: shot.AtRest, Cut: &shot.Cut{Shape: "sphere", Radius: 0.09, Parts: []string{"cut"}, Color: &[3]float64{0.8, 0.3, 0.1}}})
	s.Part("floor").Rest.Position = geom.Vec3{0, -0.2, 0}
	brick := func(x, y, z float64) *mesh.Mesh {
		return (&mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{x, y, z}}).Build()
	}
	props = NewProps(things{ball(0.2), brick(0.25, 0.12, 0.12), brick(0.3, 0.2, 0.01), brick(0.006, 0.5, 0.006), ball(0.12)})
	for f := range s.Frames {
		turn := 2 * math.Pi * float64(f) / 12
		s.Part("bar").Rest.Position = geom.Vec3{0.4 * math.Sin(turn), 0.1, -0.25}
		s.Part("box").Rest.Rotation = geom.AxisAngle(geom.Vec3{0, 1, 0}, turn/4)
		s.Part("hole").Rest.Position = geom.Vec3{0.78 + 0.05*math.Cos(turn), 0.03, -0.2 + 0.03*math.Sin(turn)}
		s.Part("wire").Rest.Position = geom.Vec3{0.3 + 0.02*math.Cos(turn), 0.2, 0.3}
		if err := s.Validate(); err != nil {
			t.Fatal(err)
		}
		sc, err := scene.Resolve(pose.New(s), 0, nil, scene.Options{Symmetry: props, Mattes: true})
		if err != nil {
			t.Fatal(err)
		}
		moments = append(moments, Moment{sc, f % 3})
	}
	return moments, props
}

// around is a frame of a loop and those beside it.
func around(moments []Moment, f int) []Moment {
	n := len(moments)
	return []Moment{moments[f%n], moments[(f+n-1)%n], moments[(f+1)%n]}
}

// What a picture with neighbours is depends on nothing but the moments: not on threads, on what was drawn before, or on how it is
// cut into strips. Its alpha where there is no floor, and its passes, are those of its own samples.
func TestNeighboursAreAllThatMatters(t *testing.T) {
	moments, props := parade(t, 64)
	o := Options{Quality: Final, Noise: 0.08, Passes: []Pass{Depth, Normal, IndirectDiffuse, Matte}}
	draw := func(p *Props, list []Moment, threads int) *Film {
		t.Helper()
		o.Threads = threads
		f, _, err := p.ExposeAlong(t.Context(), list, 64, 64, o)
		if err != nil {
			t.Fatal(err)
		}
		return f
	}
	same := func(a, b *Film) bool {
		if !slices.Equal(a.Pix, b.Pix) {
			return false
		}
		for k := range a.Layers {
			if !slices.Equal(a.Layers[k].Pix, b.Layers[k].Pix) {
				return false
			}
		}
		return true
	}
	first := draw(props, around(moments, 0), 1)
	props.Rest()
	for k, f := range []int{2, 1, 11, 0} { // the last with all that it needs at hand
		got := draw(props, around(moments, f), []int{2, 7, 2, 7}[k])
		if f == 0 && !same(first, got) {
			t.Error("drawn in another order, on other threads, it is another picture")
		}
	}
	alone := draw(props, around(moments, 0)[:1], 2)
	floor := func(i int) bool { return first.Pix[4*i] == 0 && alone.Pix[4*i] == 0 }
	changed := 0
	for i := range 64 * 64 {
		if first.Pix[4*i+3] != alone.Pix[4*i+3] && !floor(i) && alone.Pix[4*i+3] == 1 {
			t.Fatalf("alpha of pixel %d is %g, with its own samples alone %g", i, first.Pix[4*i+3], alone.Pix[4*i+3])
		}
		if first.Pix[4*i] != alone.Pix[4*i] {
			changed++
		}
	}
	if changed < 300 {
		t.Errorf("%d pixels take something from neighbours", changed)
	}
	for k := range first.Layers {
		if !slices.Equal(first.Layers[k].Pix, alone.Layers[k].Pix) {
			t.Errorf("the pass %s is not of its own samples", first.Layers[k].Pass)
		}
	}
	other := draw(props, around(moments, 1), 2)
	if same(first, other) {
		t.Error("another frame is the same picture")
	}
}

// With neighbours, pictures of as many samples are nearer to what many samples say than without, and on the whole of small squares
// not further off: what shines, goes behind, comes out or is thin takes nothing over that is not there. A region that stands still
// does not flicker, at the loop's seam as little as elsewhere.
func TestNeighboursBringTheTruth(t *testing.T) {
	const side = 80
	moments, props := parade(t, side)
	o := Options{Quality: Proof, Samples: 16}
	root := func(f *Film, i int) float64 { return math.Sqrt(math.Max(0, float64(f.Pix[i]))) }
	var with, without, plain []*Film
	for f := range moments {
		a, _, err := props.ExposeAlong(t.Context(), around(moments, f), side, side, o)
		if err != nil {
			t.Fatal(err)
		}
		b, _, err := props.ExposeAlong(t.Context(), around(moments, f)[:1], side, side, o)
		if err != nil {
			t.Fatal(err)
		}
		sc, err := NewScene(moments[f].Scene, props)
		if err != nil {
			t.Fatal(err)
		}
		c, err := sc.Expose(t.Context(), side, side, Options{Quality: Proof, Samples: 16, Denoise: true})
		if err != nil {
			t.Fatal(err)
		}
		with, without, plain = append(with, a), append(without, b), append(plain, c)
	}
	for _, f := range []int{0, 3} {
		sc, err := NewScene(moments[f].Scene, props)
		if err != nil {
			t.Fatal(err)
		}
		want, err := sc.Expose(t.Context(), side, side, Options{Quality: Proof, Samples: 1024})
		if err != nil {
			t.Fatal(err)
		}
		off := func(got *Film) (rms, squares float64) {
			const square = 4
			sums := map[int]float64{}
			for i := range side * side {
				for c := range 4 {
					d := root(got, 4*i+c) - root(want, 4*i+c)
					rms += d * d
					sums[(i/side/square*side+i%side/square)*4+c] += d / (square * square)
				}
			}
			for _, d := range sums {
				squares += d * d
			}
			return math.Sqrt(rms / (4 * side * side)), math.Sqrt(squares / float64(len(sums)))
		}
		a, b := off(with[f])
		c, d := off(without[f])
		t.Logf("frame %d: off by %.5f with neighbours, %.5f without; squares by %.5f and %.5f", f, a, c, b, d)
		if a > 0.95*c || b > d {
			t.Errorf("frame %d: off by %.5f with neighbours, %.5f without; squares by %.5f and %.5f", f, a, c, b, d)
		}
	}
	// The ball on the left stands still, and nothing that moves is near it.
	flicker := func(list []*Film, f int) (sum float64) {
		a, b := list[f], list[(f+1)%len(list)]
		for y := range side {
			for x := range side / 6 {
				i := 4 * (y*side + x)
				for c := range 3 {
					d := root(a, i+c) - root(b, i+c)
					sum += d * d
				}
			}
		}
		return math.Sqrt(sum / (3 * side * side / 6))
	}
	seam, most, before := flicker(with, 11), 0.0, 0.0
	for f := range 11 {
		most, before = max(most, flicker(with, f)), max(before, flicker(plain, f))
	}
	t.Logf("flicker %.6f, at the seam %.6f, without neighbours %.6f", most, seam, before)
	// Without neighbours what stands still has the same noise in every frame. With them it may not change by what can be seen: half a
	// step of 8 bits.
	if most > max(before, 0.5/255) || seam > 1.1*most {
		t.Errorf("flicker %.6f, at the seam %.6f, without neighbours %.6f", most, seam, before)
	}
}
