package ply

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"strings"
	"testing"

	"perigyre/core/color"
	"perigyre/core/model"
)

const head = `ply
format %s 1.0
comment a square and a triangle
element vertex 5
property float x
property float y
property float z
property uchar red
property uchar green
property uchar blue
element face 2
property uchar flags
property list uchar int vertex_indices
element edge 1
property int vertex1
end_header
`

var points = [5][3]float32{{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}, {0.5, 2, 0}}

func text() []byte {
	var b bytes.Buffer
	fmt.Fprintf(&b, head, "ascii")
	for _, p := range points {
		fmt.Fprintf(&b, "%g %g %g 255 128 0\n", p[0], p[1], p[2])
	}
	b.WriteString("0 4 0 1 2 3\n0 3 3 2 4\n7\n")
	return b.Bytes()
}

func binaryOf(order binary.ByteOrder, name string) []byte {
	var b bytes.Buffer
	fmt.Fprintf(&b, head, name)
	for _, p := range points {
		_ = binary.Write(&b, order, p)
		b.Write([]byte{255, 128, 0})
	}
	b.Write([]byte{0, 4})
	_ = binary.Write(&b, order, []int32{0, 1, 2, 3})
	b.Write([]byte{0, 3})
	_ = binary.Write(&b, order, []int32{3, 2, 4})
	_ = binary.Write(&b, order, int32(7))
	return b.Bytes()
}

func TestAllKindsHoldTheSame(t *testing.T) {
	for name, data := range map[string][]byte{
		"text": text(), "little endian": binaryOf(binary.LittleEndian, "binary_little_endian"), "big endian": binaryOf(binary.BigEndian, "binary_big_endian"),
	} {
		m, err := Read(data, model.DefaultLimits)
		if err != nil {
			t.Fatal(name, err)
		}
		got := m.Meshes[0].Primitives[0]
		want := float32(color.FromSRGB(128.0 / 255))
		if got.Triangles() != 3 || math.Abs(got.Area()-1.5) > 1e-6 || got.Colors[4] != [4]float32{1, want, 0, 1} {
			t.Errorf("%s: %d triangles, area %g, colour %v", name, got.Triangles(), got.Area(), got.Colors[4])
		}
		if fmt.Sprint(m.LeftOut) != `[1 elements "edge"]` {
			t.Errorf("%s: left out %v", name, m.LeftOut)
		}
	}
}

func TestBadInput(t *testing.T) {
	whole := string(text())
	little := binaryOf(binary.LittleEndian, "binary_little_endian")
	for name, c := range map[string]struct{ data, says string }{
		"not a PLY":    {"solid", "does not begin"},
		"no end":       {"ply\nformat ascii 1.0\n", "does not end"},
		"format":       {strings.Replace(whole, "ascii", "binary_middle", 1), "line 2"},
		"absurd count": {strings.Replace(whole, "vertex 5", "vertex 2000000000", 1), "more than the file can hold"},
		"truncated":    {string(little[:len(little)-20]), "not copied whole"},
		"out of range": {strings.Replace(whole, "3 2 4\n", "3 2 9\n", 1), "refers to vertex 9"},
		"not a number": {strings.Replace(whole, "0.5 2", "half 2", 1), `"half"`},
		"NaN":          {strings.Replace(whole, "0.5 2", "nan 2", 1), "vertex 4"},
		"points alone": {strings.Replace(strings.Replace(whole, "element face 2\nproperty uchar flags\nproperty list uchar int vertex_indices\n", "", 1), "0 4 0 1 2 3\n0 3 3 2 4\n", "", 1), "no faces"},
		"no rows":      {"ply\nformat ascii 1.0\nelement vertex 99\nend_header\n", "more than the file can hold"},
	} {
		m, err := Read([]byte(c.data), model.DefaultLimits)
		if err == nil || m != nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want something with %q", name, err, c.says)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add(text())
	f.Add(binaryOf(binary.LittleEndian, "binary_little_endian"))
	f.Add(binaryOf(binary.BigEndian, "binary_big_endian"))
	f.Fuzz(func(t *testing.T, data []byte) {
		m, err := Read(data, model.Limits{Bytes: 1 << 20, Triangles: 10_000})
		if err == nil {
			if err := m.Meshes[0].Primitives[0].Check(); err != nil {
				t.Fatal(err)
			}
		}
	})
}
