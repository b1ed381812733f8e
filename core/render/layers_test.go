package render

import (
	"image"
	"image/color"
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/pose"
	"perigyre/core/render/bvh"
)

// Each texture of the extensions of Khronos multiplies what its extension says, by the channel that it says: the
// picture's are all different. A colour is decoded from sRGB (IEC 61966-2-1: 0.4 is 0.1329 of light). The base's normal
// texture does not bend the coat.
func TestLayerTextures(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 1, 1))
	img.SetNRGBA(0, 0, color.NRGBA{R: 51, G: 102, B: 153, A: 204})
	x := func() *material.Texture { return &material.Texture{Asset: "a"} }
	half := 0.5
	m := material.Material{
		Name: "layered", BaseColor: [4]float64{1, 1, 1, 1}, Roughness: 1, Normal: x(), NormalScale: 1,
		Specular: &half, SpecularTexture: x(), SpecularColor: &[3]float64{1, 1, 1}, SpecularColorTexture: x(),
		Transmission: 0.5, TransmissionTexture: x(), Clearcoat: 0.5, ClearcoatTexture: x(), ClearcoatRoughness: 0.5, ClearcoatRoughnessTexture: x(),
		SheenColor: &[3]float64{1, 1, 0.5}, SheenColorTexture: x(), SheenRoughness: 0.5, SheenRoughnessTexture: x(),
	}
	wall := sheet(1)
	wall.UV = [][2]float32{{0, 0}, {0, 1}, {1, 1}, {1, 0}}
	shaded := func() surface {
		sc, err := drawn(pose.New(still(m, 1)), 0, NewProps(painted{things{wall}, img}))
		if err != nil {
			t.Fatal(err)
		}
		var p point
		d := bvh.Vec{X: 0.1, Y: -1}.Unit()
		if !sc.find(&bvh.Ray{Origin: bvh.Vec{Y: 1}, Direction: d, Far: 9, Mask: 255}, new(bvh.Walker), &p) {
			t.Fatal("the sheet is not met")
		}
		var s surface
		p.surface(&s, bvh.Vec{X: 1, Y: 1, Z: 1}, d)
		return s
	}
	s := shaded()
	for _, c := range []struct {
		what string
		got  float32
		want float64
	}{
		{"reflectance straight on, green", s.dielectric.Y, 0.04 * 0.13287 * 0.5 * 0.8}, {"reflectance at a grazing angle", s.grazing, 0.5 * 0.8},
		{"transmission", s.glass.share, 0.5 * 0.2}, {"coat", s.coat.strength, 0.5 * 0.2}, {"coat's width", s.coat.alpha, 0.2 * 0.2},
		{"sheen, green", s.sheen.color.Y, 0.13287}, {"sheen's width", s.sheen.alpha, 0.4 * 0.4},
	} {
		if math.Abs(float64(c.got)-c.want) > 1e-5 {
			t.Errorf("%s is %.5f, not %.5f", c.what, c.got, c.want)
		}
	}
	// The texel as a normal is (2 x 0.2 - 1, 2 x 0.4 - 1, 2 x 0.6 - 1), bent back to where the viewer sees it.
	normal := func(f *frame, v bvh.Vec) geom.Vec3 {
		w := f.room(v)
		return geom.Vec3{float64(w.X), float64(w.Y), float64(w.Z)}
	}
	if up := normal(&s.frame, s.coat.frame.z); up.Sub(geom.Vec3{0, 1, 0}).Len() > 1e-5 || s.frame.z.Y > 0.5 {
		t.Errorf("on a base whose normal is %v the coat's is %v", s.frame.z, up)
	}
	m.ClearcoatNormal, m.ClearcoatNormalScale = x(), 1
	if s = shaded(); s.coat.frame.z.Z < 1-1e-5 {
		t.Errorf("with the same normal texture the coat is turned from the base: %v", s.coat.frame.z)
	}
}
