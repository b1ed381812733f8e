package render

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

// What bends is found again in the picture beside: a pixel is led to the one that shows the same place of the strip, by the closed form of
// a strip that is bent to an arc. By its placement alone, which stays, it would be led to itself.
func TestWhatBendsIsFollowed(t *testing.T) {
	const side = 96
	s := facing(side, side)
	s.Materials[0].Unlit = false
	thing := s.Part("thing")
	thing.Rest.Rotation = geom.AxisAngle(geom.Vec3{1, 0, 0}, math.Pi/2) // z goes down in the picture
	bend := shot.Move{ID: "m", Kind: "flex", Data: &move.Flex{Shape: "bend", Axis: 0, Towards: 2, Length: 0.8, Base: geom.Vec3{-0.4, 0, 0}, Angle: 1.5}}
	thing.Moves = []shot.Move{bend}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	props := NewProps(things{ribbon()})
	o := Options{Quality: Proof, Samples: 16, Denoise: true}
	var seen []*exposure
	var bent []float64 // by what angle
	for k, at := range []float64{4, 5} {
		from, err := scene.Resolve(pose.New(s), at, nil, scene.Options{Symmetry: props})
		if err != nil {
			t.Fatal(err)
		}
		sc, err := NewScene(from, props)
		if err != nil {
			t.Fatal(err)
		}
		q, threads, err := sc.ready(side, &o)
		if err != nil {
			t.Fatal(err)
		}
		e, err := props.exposure(t.Context(), sc, Moment{from, k}, true, side, side, 0, o, q, threads, nil)
		if err != nil {
			t.Fatal(err)
		}
		seen = append(seen, e)
		bent = append(bent, move.Bend(move.Context{Move: &bend, Time: motion.At(s, at), Own: 1}).Angle)
	}
	follow, stay := seen[0].courses(t.Context(), seen[1], 2)
	const pixel = 2 * 2 * 18.0 / 50 / side // metres, 2 before the camera
	// on is where along the strip and how far off its middle line a pixel is.
	on := func(i int, bent float64) (along, off float64) {
		x, z := (float64(i%side)+0.5-side/2)*pixel+0.4, (float64(i/side)+0.5-side/2)*pixel
		radius := 0.8 / bent
		return math.Atan2(x, radius-z) * radius, math.Hypot(x, radius-z) - radius
	}
	of, far := 0, 0
	for i, j := range follow.to {
		along, off := on(i, bent[0])
		if along < 0.05 || along > 0.75 || math.Abs(off) > 0.12 {
			continue
		}
		if a, b := on(i, bent[1]); math.Hypot(a-along, b-off) < 1.5*pixel {
			continue // it hardly moves
		}
		if of++; j < 0 {
			continue
		}
		if stay.still[i] {
			t.Fatalf("pixel %d, %d is said to stand still", i%side, i/side)
		}
		far++
		if a, b := on(int(j), bent[1]); math.Hypot(a-along, b-off) > 0.8*pixel {
			t.Fatalf("pixel %d, %d is led to %d, %d: %.1f pixels off along the strip, %.1f across", i%side, i/side, int(j)%side, int(j)/side, (a-along)/pixel, (b-off)/pixel)
		}
	}
	if of < 100 || far < of*8/10 {
		t.Errorf("%d of %d pixels that move are followed", far, of)
	}
}
