package main

import (
	"context"
	"math/rand/v2"

	"perigyre/core/exploded"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/pose"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/demo"
	"perigyre/library"
)

// parted measures what is taken apart, cut open and alive.
func parted() {
	d, assets := staged(demo.Lantern)
	plan := func(s *shot.Shot, a *library.Assets, of string) float64 {
		return fastest(2, func() {
			_, err := exploded.Find(context.Background(), pose.New(s), a, exploded.Wish{Part: of}, func(float64) {})
			check(err)
		})
	}
	row("a plan that takes the lantern apart", plan(d, assets, d.Sources[0].Root), "s")
	row("  and one for 100 parts with 200,000 triangles", plan(demo.Rings(), library.InMemory(model.DefaultLimits), "all"), "s")
	frame := func(cut *shot.Part) float64 {
		s := ball(cut)
		check(s.Validate())
		sc := drawn(pose.New(s), render.NewProps(library.InMemory(model.DefaultLimits)), nil)
		return fastest(3, func() {
			_, err := sc.Render(context.Background(), 512, 512, render.Draft, 0, nil)
			check(err)
		})
	}
	whole := frame(nil)
	row("a frame of a ball of a million triangles, 512 x 512", whole, "s")
	row("  its upper half cut away, over that", frame(cutter(geom.Vec3{0, 0.6, 0}, geom.Vec3{1.2, 1, 1.2}))/whole, "")
	row("  a corner cut out, in which light goes round", frame(cutter(geom.Vec3{0.5, 0.8, 0.5}, geom.Vec3{1, 1, 1}))/whole, "")
	m, f := bones(100_000)
	out := make([]geom.Vec3, len(m.Positions))
	row("posing 100,000 points on bones x 240 frames", fastest(2, func() {
		for range bakedFrames {
			f.Points(m, out)
		}
	}), "s")
	cage := mesh.Cage{Size: geom.Vec3{1, 1, 1}, N: [3]int{3, 3, 3}, Offsets: make([]geom.Vec3, 27)}
	row("  in a cage of 27 points", fastest(2, func() {
		for range bakedFrames {
			mesh.Each(len(out), func(k int) { out[k] = cage.Point(out[k]) })
		}
	}), "s")
}

func cutter(at, size geom.Vec3) *shot.Part {
	return &shot.Part{ID: "cut", Name: "Cut", Kind: shot.Cutter, Moves: []shot.Move{}, Rest: shot.Rest{Position: at, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}},
		Cut: &shot.Cut{Shape: "box", Size: size, Radius: 0.05, Parts: []string{}}}
}

// ball is one of a million triangles, of which something is cut away or nothing.
func ball(cut *shot.Part) *shot.Shot {
	s := shot.New("ball")
	s.Format = shot.Format{Width: 512, Height: 512}
	s.Materials = []material.Material{{ID: "m", BaseColor: [4]float64{0.8, 0.8, 0.8, 1}, Roughness: 0.5, Alpha: material.Opaque}}
	one := geom.Vec3{1, 1, 1}
	s.Parts = []shot.Part{
		{ID: "ball", Name: "Ball", Kind: shot.Made, Rest: shot.AtRest, Moves: []shot.Move{}, Materials: []string{"m"}, Shape: &mesh.Shape{Kind: mesh.SphereShape, Radius: 0.5, Sides: 1000}},
		{ID: "cam", Name: "Camera", Kind: shot.Camera, Moves: []shot.Move{}, Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger},
			Rest: shot.Rest{Position: geom.Vec3{1, 1.2, 1}, Rotation: geom.LookAlong(geom.Vec3{-1, -0.7, -1}), Size: one}},
	}
	if cut != nil {
		s.Parts = append(s.Parts, *cut)
	}
	s.Camera = "cam"
	return s
}

// bones are points that hang on four of 60 bones each.
func bones(points int) (*mesh.Mesh, *mesh.Flesh) {
	rng := rand.New(rand.NewPCG(1, 2))
	m, f := &mesh.Mesh{}, &mesh.Flesh{}
	for range points {
		m.Positions = append(m.Positions, [3]float32{rng.Float32(), rng.Float32(), rng.Float32()})
		var b mesh.Bones
		for k := range 4 {
			b.Joint[k], b.Share[k] = uint16(rng.IntN(60)), rng.Float32()
		}
		b.Even()
		m.Bones = append(m.Bones, b)
	}
	for range 60 {
		f.Joints = append(f.Joints, geom.TRS(geom.Vec3{rng.Float64()}, geom.AxisAngle(geom.Vec3{0, 1, 0}, rng.Float64()), geom.Vec3{1, 1, 1}))
	}
	return m, f
}
