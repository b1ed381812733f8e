package main

import (
	"context"
	"encoding/binary"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/formats/gltf"
	"perigyre/library"
)

// imports measures bringing in the same sheet as GLB, OBJ, STL and PLY, at three sizes, against Assimp
// where it is installed (Debian's assimp-utils, `assimp info`), in one run.
func imports() {
	dir, err := os.MkdirTemp("", "perigyre-bench")
	check(err)
	defer os.RemoveAll(dir)
	assimp, _ := exec.LookPath("assimp")
	for _, n := range []int{224, 707, 1581} {
		m := bumpy(n)
		for _, file := range []struct {
			name string
			data []byte
		}{{"sheet.glb", glbOf(m)}, {"sheet.obj", objOf(m)}, {"sheet.stl", stlOf(m)}, {"sheet.ply", plyOf(m)}} {
			path := filepath.Join(dir, file.name)
			check(os.WriteFile(path, file.data, 0o644))
			ours := fastest(1, func() {
				_, _, err := library.BringFile(context.Background(), path, "mm", model.DefaultLimits, nil)
				check(err)
			})
			millions := float64(m.Triangles()) / 1e6
			name := fmt.Sprintf("bringing in %s, %.2g million triangles", file.name, millions)
			row(name, ours/millions, "s a million triangles")
			row(strings.Repeat(" ", 4)+"MB a second", float64(len(file.data))/1e6/ours, "")
			if assimp != "" && n < 1000 {
				theirs := fastest(1, func() { _ = exec.Command(assimp, "info", path).Run() })
				row(strings.Repeat(" ", 4)+"time over assimp info's", ours/theirs, "")
			}
		}
	}
}

func glbOf(m *mesh.Mesh) []byte {
	data, err := gltf.Write(&model.Model{
		Nodes:  []model.Node{{Name: "Sheet", Parent: -1, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}},
		Meshes: []model.Mesh{{Name: "Sheet", Primitives: []model.Primitive{{Mesh: m, Material: -1}}}},
	})
	check(err)
	return data
}

func objOf(m *mesh.Mesh) []byte {
	var b strings.Builder
	for _, p := range m.Positions {
		fmt.Fprintf(&b, "v %g %g %g\n", p[0], p[1], p[2])
	}
	for k := 0; k < len(m.Indices); k += 3 {
		fmt.Fprintf(&b, "f %d %d %d\n", m.Indices[k]+1, m.Indices[k+1]+1, m.Indices[k+2]+1)
	}
	return []byte(b.String())
}

func floats(out []byte, p [3]float32) []byte {
	for _, v := range p {
		out = binary.LittleEndian.AppendUint32(out, math.Float32bits(v))
	}
	return out
}

func stlOf(m *mesh.Mesh) []byte {
	out := binary.LittleEndian.AppendUint32(make([]byte, 80), uint32(m.Triangles()))
	for k := 0; k < len(m.Indices); k += 3 {
		out = append(out, make([]byte, 12)...)
		for c := range 3 {
			out = floats(out, m.Positions[m.Indices[k+c]])
		}
		out = append(out, 0, 0)
	}
	return out
}

func plyOf(m *mesh.Mesh) []byte {
	out := fmt.Appendf(nil, "ply\nformat binary_little_endian 1.0\nelement vertex %d\nproperty float x\nproperty float y\nproperty float z\nelement face %d\nproperty list uchar int vertex_indices\nend_header\n", len(m.Positions), m.Triangles())
	for _, p := range m.Positions {
		out = floats(out, p)
	}
	for k := 0; k < len(m.Indices); k += 3 {
		out = append(out, 3)
		for c := range 3 {
			out = binary.LittleEndian.AppendUint32(out, m.Indices[k+c])
		}
	}
	return out
}
