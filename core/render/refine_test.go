package render

import (
	"context"
	"errors"
	"slices"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// A proof that has been refined to 32 samples is the proof of 32 samples, denoised, with its shadow on the floor and what is behind rough
// glass; one that is given up ends.
func TestRefine(t *testing.T) {
	glass := material.Default()
	glass.Roughness, glass.Transmission = 0.3, 0.5
	s := still(glass, 0.7)
	s.Parts = append(s.Parts, shot.Part{ID: "f", Name: "Floor", Kind: shot.Floor, Rest: shot.Rest{Position: geom.Vec3{0, -0.5, 0}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}})
	sc, err := drawn(pose.New(s), 0, NewProps(things{ball(0.5)}))
	if err != nil {
		t.Fatal(err)
	}
	var last *Film
	var steps []int
	if err := sc.Refine(context.Background(), 32, 32, 32, func(f *Film, n int) error {
		last, steps = f, append(steps, n)
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	want, _ := sc.Expose(context.Background(), 32, 32, Options{Quality: Proof, Denoise: true})
	if !slices.Equal(last.Pix, want.Pix) || !slices.Equal(steps, []int{0, 1, 2, 4, 8, 16, 32}) {
		t.Errorf("refined by %v it is another picture", steps)
	}
	ctx, stop := context.WithCancel(context.Background())
	err = sc.Refine(ctx, 32, 32, 1<<20, func(_ *Film, n int) error {
		if n == 2 {
			stop()
		}
		return nil
	})
	if !errors.Is(err, context.Canceled) {
		t.Errorf("given up it ends with %v", err)
	}
}
