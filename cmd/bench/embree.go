package main

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"

	"perigyre/core/mesh"
	"perigyre/core/render/bvh"
)

// embree shoots the same rays at the same triangles with Embree, a general ray kernel, where its package
// (libembree-dev of Debian) and a C++ compiler are installed. Ours and its numbers come from one run.
func embree(m *mesh.Mesh, sets [3][]bvh.Ray) (seconds float64, rate [3]float64, hits [3]int, ok bool) {
	dir, err := os.MkdirTemp("", "perigyre-embree-")
	check(err)
	defer os.RemoveAll(dir)
	program := filepath.Join(dir, "embree")
	if out, err := exec.Command("g++", "-O3", "-march=native", "-o", program, "bench/embree.cpp", "-lembree3").CombinedOutput(); err != nil {
		fmt.Printf("(no comparison with Embree: libembree-dev and g++ are needed; %.60q)\n", out)
		return
	}
	var b bytes.Buffer
	put := func(v any) { check(binary.Write(&b, binary.LittleEndian, v)) }
	put([]uint32{uint32(len(m.Positions)), uint32(m.Triangles())})
	put(m.Positions)
	put(m.Indices)
	for _, rays := range sets {
		put(uint32(len(rays)))
		flat := make([]float32, 0, 6*len(rays))
		for _, r := range rays {
			o, d := r.Origin, r.Direction
			flat = append(flat, o.X, o.Y, o.Z, d.X, d.Y, d.Z)
		}
		put(flat)
	}
	file := filepath.Join(dir, "scene")
	check(os.WriteFile(file, b.Bytes(), 0o600))
	out, err := exec.Command(program, file).Output()
	check(err)
	var names [3]string
	var sums [3]float64
	_, err = fmt.Sscanf(string(out), "build %f\n%s %f %d %f\n%s %f %d %f\n%s %f %d %f\n", &seconds,
		&names[0], &rate[0], &hits[0], &sums[0], &names[1], &rate[1], &hits[1], &sums[1], &names[2], &rate[2], &hits[2], &sums[2])
	check(err)
	return seconds, rate, hits, true
}
