package render

import (
	"context"
	"errors"
	"slices"
	"testing"

	"perigyre/core/material"
	"perigyre/core/pose"
)

// A proof that has been refined to 32 samples is the proof of 32 samples, denoised; one that is given up ends.
func TestRefine(t *testing.T) {
	s := still(material.Default(), 0.7)
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
