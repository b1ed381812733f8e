package render

import (
	"bytes"
	"testing"

	"perigyre/core/material"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Strips that are rendered apart, sent as bytes and joined are the picture that is made in one go, with its passes and without the denoiser.
func TestStripsThatTravelMakeTheSamePicture(t *testing.T) {
	defer func(was int) { stripPixels = was }(stripPixels)
	stripPixels = 1
	s := still(material.Default(), 1)
	s.Format = shot.Format{Width: 40, Height: 230}
	sc, err := drawn(pose.New(s), 0, NewProps(things{ball(0.5)}), Matte)
	if err != nil {
		t.Fatal(err)
	}
	for _, denoise := range []bool{false, true} {
		o := Options{Quality: Draft, Denoise: denoise, Passes: []Pass{Depth, Matte}}
		whole, err := sc.Expose(t.Context(), 40, 230, o)
		if err != nil {
			t.Fatal(err)
		}
		var strips []*Film
		for k := range Strips(40, 230) {
			f, err := sc.ExposeStrip(t.Context(), 40, 230, k, o)
			if err != nil {
				t.Fatal(err)
			}
			data, err := f.MarshalBinary()
			if err != nil {
				t.Fatal(err)
			}
			there := new(Film)
			if err := there.UnmarshalBinary(data); err != nil {
				t.Fatal(err)
			}
			strips = append(strips, there)
		}
		joined, err := sc.Join(40, 230, strips, o)
		if err != nil || len(strips) < 3 {
			t.Fatalf("%d strips: %v", len(strips), err)
		}
		a, _ := whole.MarshalBinary()
		b, _ := joined.MarshalBinary()
		if !bytes.Equal(a, b) {
			t.Errorf("denoised %v: the joined picture is another", denoise)
		}
		strips[0], strips[1] = strips[1], strips[0]
		if _, err := sc.Join(40, 230, strips, o); err == nil {
			t.Error("strips in the wrong order were joined")
		}
	}
}

// Strips come from other machines: no bytes make the reader stop, or take more room than they have.
func FuzzStrip(f *testing.F) {
	data, _ := (&Film{Width: 2, Height: 1, of: 1, Pix: make([]float32, 8), Layers: []Layer{{Depth, []string{"Z"}, make([]float32, 2)}}}).MarshalBinary()
	f.Add(data)
	f.Add([]byte{1, 0, 0, 0, 255, 255, 255, 255})
	f.Fuzz(func(t *testing.T, data []byte) {
		strip := new(Film)
		if strip.UnmarshalBinary(data) != nil {
			return
		}
		again, err := strip.MarshalBinary()
		if err != nil || len(again) != len(data) {
			t.Errorf("%d bytes became %d: %v", len(data), len(again), err)
		}
	})
}
