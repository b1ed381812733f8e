package stl

import (
	"encoding/binary"
	"math"
	"strings"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/model"
)

// binaryOf writes a mesh as a binary STL whose header begins with "solid", as some programs do.
func binaryOf(m *mesh.Mesh) []byte {
	out := make([]byte, 80, 84+50*m.Triangles())
	copy(out, "solid in name only")
	out = binary.LittleEndian.AppendUint32(out, uint32(m.Triangles()))
	for t := range m.Triangles() {
		out = append(out, make([]byte, 12)...)
		for k := range 3 {
			for _, v := range m.Positions[m.Indices[3*t+k]] {
				out = binary.LittleEndian.AppendUint32(out, math.Float32bits(v))
			}
		}
		out = append(out, 0, 0)
	}
	return out
}

const two = `solid corner
 facet normal 0 0 1
  outer loop
   vertex 0 0 0
   vertex 1 0 0
   vertex 0 1e0 0
  endloop
 endfacet
endsolid corner
solid second
 facet normal 0 0 1
  outer loop
   vertex 0 0 5
   vertex 1 0 5
   vertex 0 1 5
  endloop
 endfacet
endsolid
`

func TestBinaryIsWeldedAndClosed(t *testing.T) {
	m, err := Read(binaryOf(mesh.Box(geom.Vec3{1, 2, 3})), model.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	got := m.Meshes[0].Primitives[0]
	if len(got.Positions) != 8 || got.Triangles() != 12 || got.OpenEdges() != 0 || math.Abs(got.Volume()-6) > 1e-6 {
		t.Errorf("%d vertices, %d triangles, %d open edges, volume %g; want 8, 12, 0, 6", len(got.Positions), got.Triangles(), got.OpenEdges(), got.Volume())
	}
}

func TestTextHasAPartForEachSolid(t *testing.T) {
	m, err := Read([]byte(two), model.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	if len(m.Nodes) != 2 || m.Nodes[0].Name != "corner" || m.Nodes[1].Name != "second" || m.Bounds().Max != (geom.Vec3{1, 1, 5}) {
		t.Errorf("%+v with bounds %v", m.Nodes, m.Bounds())
	}
}

// Upper-case words, UTF-16, bytes after the end of a file whose header begins with "solid", attributes.
func TestEdges(t *testing.T) {
	box := binaryOf(mesh.Box(geom.Vec3{1, 1, 1}))
	marked := append([]byte(nil), box...)
	marked[84+48] = 1
	wide := []byte{0xff, 0xfe}
	for _, c := range two {
		wide = append(wide, byte(c), 0)
	}
	for name, c := range map[string]struct {
		data      []byte
		triangles int
		left      string
	}{
		"upper case":          {[]byte(strings.ToUpper(two)), 2, ""},
		"UTF-16":              {wide, 2, ""},
		"one byte more":       {append(append([]byte(nil), box...), 0), 12, "1 bytes after"},
		"more, with a facet":  {append(append([]byte(nil), box...), " facet"...), 12, "6 bytes after"},
		"attributes are said": {marked, 12, "attributes of 1 triangles"},
	} {
		m, err := Read(c.data, model.DefaultLimits)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if _, n, _ := m.Count(); n != c.triangles || !strings.Contains(strings.Join(m.LeftOut, " "), c.left) {
			t.Errorf("%s: %d triangles, left out %v", name, n, m.LeftOut)
		}
	}
}

func TestBadInput(t *testing.T) {
	whole := binaryOf(mesh.Box(geom.Vec3{1, 1, 1}))
	nan := append([]byte(nil), whole...)
	binary.LittleEndian.PutUint32(nan[84+12:], math.Float32bits(float32(math.NaN())))
	for name, c := range map[string]struct{ data, says string }{
		"truncated":      {string(whole[:300]), "not copied whole"},
		"absurd count":   {string(append(append(make([]byte, 80), 0xff, 0xff, 0xff, 0xff), make([]byte, 50)...)), "4294967295 triangles"},
		"short":          {"abc", "too short"},
		"not a number":   {string(nan), "triangle 0"},
		"text truncated": {two[:200], "not copied whole"},
		"text, a word":   {strings.Replace(two, "1e0", "one", 1), `line 6: "one"`},
		"two corners":    {strings.Replace(two, "   vertex 1 0 0\n", "", 1), "2 corners"},
	} {
		m, err := Read([]byte(c.data), model.DefaultLimits)
		if err == nil || m != nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want something with %q", name, err, c.says)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(two))
	f.Add(binaryOf(mesh.Box(geom.Vec3{1, 1, 1})))
	f.Fuzz(func(t *testing.T, data []byte) {
		m, err := Read(data, model.Limits{Bytes: 1 << 20, Triangles: 10_000})
		if err != nil {
			return
		}
		for _, me := range m.Meshes {
			if err := me.Primitives[0].Check(); err != nil {
				t.Fatal(err)
			}
		}
	})
}
