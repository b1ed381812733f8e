package main

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"image"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/pose"
	"perigyre/core/render"
	"perigyre/core/shot"
)

// single is one mesh as the assets of a shot.
type single struct{ of *mesh.Mesh }

func (s single) Primitives(string, int) ([]model.Primitive, error) {
	return []model.Primitive{{Mesh: s.of}}, nil
}
func (single) Picture(string, int) (image.Image, error) { return nil, nil }

// paths renders the same picture with the whole renderer and with a minimal path tracer on Embree
// (bench/paths.cpp), where that can be built: 512 x 512, 32 samples, a sky and a softbox, 4 bounces.
func paths() {
	const side = 512
	m := bumpy(660)
	s := shot.New("bench")
	s.Format = shot.Format{Width: side, Height: side}
	none := 0.0
	s.Materials = []material.Material{{ID: "m", BaseColor: [4]float64{0.8, 0.8, 0.8, 1}, Roughness: 1, Specular: &none, Alpha: material.Opaque}}
	even := [3]float64{1, 1, 1}
	s.Environment = shot.Environment{Zenith: even, Horizon: even, Ground: even, Strength: 0.8}
	one := geom.Vec3{1, 1, 1}
	s.Parts = []shot.Part{
		{ID: "thing", Name: "Thing", Kind: shot.Solid, Rest: shot.AtRest, Mesh: &shot.MeshRef{}, Materials: []string{"m"}},
		{ID: "lamp", Name: "Lamp", Kind: shot.Light, Light: &shot.LightSpec{Width: 0.8, Height: 0.8, Color: even, Strength: 8},
			Rest: shot.Rest{Position: geom.Vec3{0.6, 1.5, 0.3}, Rotation: geom.LookAlong(geom.Vec3{0, -1, 0}), Size: one}},
		{ID: "cam", Name: "Camera", Kind: shot.Camera, Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger},
			Rest: shot.Rest{Position: geom.Vec3{0, 1, 1}, Rotation: geom.LookAlong(geom.Vec3{0, -1, -1}), Size: one}},
	}
	s.Camera = "cam"
	sc := drawn(pose.New(s), render.NewProps(single{m}), nil)
	var err error
	var film *render.Film
	ours, theirs, light := math.Inf(1), math.Inf(1), 0.0
	shoot := func() {
		ours = math.Min(ours, fastest(3, func() { // as many as the other takes the fastest of
			film, err = sc.Render(context.Background(), side, side, render.Proof, 0, nil)
			check(err)
		}))
	}
	shoot()
	least, same := newMinimal(m), 0.0
	small := math.Inf(1)
	mean := 0.0
	for i := 0; i < len(film.Pix); i += 4 {
		mean += float64(film.Pix[i+1]) / side / side
	}
	dir, err := os.MkdirTemp("", "perigyre-paths-")
	check(err)
	defer os.RemoveAll(dir)
	program, file := filepath.Join(dir, "paths"), filepath.Join(dir, "scene")
	if out, err := exec.Command("g++", "-O3", "-march=native", "-ffast-math", "-o", program, "bench/paths.cpp", "-lembree3", "-lpthread").CombinedOutput(); err != nil {
		row("paths of 32 samples, 512 x 512, all processors", ours, fmt.Sprintf("s, mean light %.5f", mean))
		fmt.Printf("(no comparison with Embree: libembree-dev and g++ are needed; %.60q)\n", out)
		return
	}
	var b bytes.Buffer
	for _, v := range []any{[]uint32{uint32(len(m.Positions)), uint32(m.Triangles())}, m.Positions, m.Indices} {
		check(binary.Write(&b, binary.LittleEndian, v))
	}
	check(os.WriteFile(file, b.Bytes(), 0o600))
	for range 4 { // by turns, since a machine is faster at one time than at another
		out, err := exec.Command(program, file, strconv.Itoa(side), "32").Output()
		check(err)
		var took float64
		_, err = fmt.Sscanf(string(out), "%f %f", &took, &light)
		check(err)
		theirs = math.Min(theirs, took)
		shoot()
		small = math.Min(small, fastest(3, func() { same = least.picture(side, 32) }))
	}
	row("paths of 32 samples, 512 x 512, all processors", ours, fmt.Sprintf("s, mean light %.5f", mean))
	row("  over a minimal path tracer on Embree in this run", ours/theirs, fmt.Sprintf("(its mean light is %.5f)", light))
	row("  over the same minimal path tracer on our kernel", ours/small, fmt.Sprintf("(its mean light is %.5f)", same))
}
