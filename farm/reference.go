package farm

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"time"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/render"
	"perigyre/core/scene"
	"perigyre/runs"
)

// reference is a picture that every machine draws when it joins, and now and then: its hash tells whether the machine draws
// what this one draws, to the bit, and the time it takes how fast it is. It has something of all that a picture depends on:
// metal, rough glass over a glow, a coat, a bent mesh, a cutter, a softbox, a sky, the shadow on the floor, the denoiser.
func reference() *runs.Order {
	wear := func(change func(m *material.Material)) []scene.Surface {
		m := material.Default()
		m.ID, m.Name = "", ""
		change(&m)
		return []scene.Surface{{Material: m, Opacity: 1}}
	}
	at := func(x, y, z float64) geom.Mat4 { return geom.Translation(geom.Vec3{x, y, z}) }
	body := func(s mesh.Shape, m geom.Mat4, w []scene.Surface) scene.Body {
		return scene.Body{Mesh: scene.Mesh{Shape: &s}, Surfaces: w, At: m, Matte: -1}
	}
	floor := 0.0
	s := &scene.Scene{Floor: &floor, Fade: 0.1, View: "neutral"}
	s.Bodies = []scene.Body{
		body(mesh.Shape{Kind: "box", Size: geom.Vec3{0.5, 0.5, 0.5}, Bevel: 0.05}, at(-0.55, 0, 0), wear(func(m *material.Material) { m.Metallic, m.Roughness = 1, 0.25 })),
		body(mesh.Shape{Kind: "sphere", Radius: 0.3}, at(0.1, 0, 0.1), wear(func(m *material.Material) { m.Transmission, m.Roughness = 1, 0.2 })),
		body(mesh.Shape{Kind: "sphere", Radius: 0.1}, at(0.1, 0.2, 0.1), wear(func(m *material.Material) { m.Emissive = [3]float64{6, 3, 1} })),
		body(mesh.Shape{Kind: "cylinder", Radius: 0.2, Height: 0.7}, at(0.6, 0, -0.1), wear(func(m *material.Material) {
			m.BaseColor, m.Clearcoat = [4]float64{0.1, 0.4, 0.3, 1}, 1
		})),
	}
	s.Bodies[3].Bends = []scene.Bend{{Bend: mesh.Bend{Twist: true, Axis: 1, Length: 0.7}, In: geom.Identity, Out: geom.Identity, Now: scene.Bent{Angle: 1}}}
	s.Cutters = []scene.Cutter{{Shape: "sphere", Radius: 0.3, At: at(-0.4, 0.45, 0.25), Bodies: []bool{true, false, false, false}}}
	s.Lights = []scene.Light{{Kind: scene.Softbox, Width: 1, Height: 1, Color: [3]float64{1, 0.95, 0.9}, Strength: 8,
		At: at(0.5, 2, 1.5).Mul(geom.TRS(geom.Vec3{}, geom.AxisAngle(geom.Vec3{1, 0, 0}, -0.9), geom.Vec3{1, 1, 1}))}}
	s.Sky = scene.Sky{Zenith: [3]float64{0.5, 0.6, 0.8}, Horizon: [3]float64{0.8, 0.8, 0.8}, Ground: [3]float64{0.2, 0.2, 0.2}, Strength: 0.6, Rotation: geom.NoTurn}
	s.Camera = &scene.Camera{At: at(0, 0.7, 3).Mul(geom.TRS(geom.Vec3{}, geom.AxisAngle(geom.Vec3{1, 0, 0}, -0.15), geom.Vec3{1, 1, 1})), Width: 0.36, Height: 0.36, Gain: 1}
	return &runs.Order{Touching: runs.Touching{Program: runs.Program(), Width: 48, Height: 48, Quality: render.Proof, Denoise: true, Format: runs.PNG, Bits: 16}, Scene: s}
}

// first is test for the first time: how long it takes counts from the second picture on, since the first makes tables that are kept.
func first(ctx context.Context, props *render.Props, threads int) (hash string, took time.Duration, err error) {
	if _, _, err := test(ctx, props, threads, nil); err != nil {
		return "", 0, err
	}
	return test(ctx, props, threads, nil)
}

// test draws the reference, as spoil leaves it, and returns its hash and how long it took. Spoil is of stand-ins alone, nil of
// others.
func test(ctx context.Context, props *render.Props, threads int, spoil func(*runs.Order)) (hash string, took time.Duration, err error) {
	start := time.Now()
	o := reference()
	if spoil != nil {
		spoil(o)
	}
	files, _, err := o.Draw(ctx, props, threads, nil)
	if err != nil {
		return "", 0, err
	}
	return hashOf(files[0]), time.Since(start), nil
}

func hashOf(b []byte) string {
	h := sha256.Sum256(b)
	return hex.EncodeToString(h[:])
}
