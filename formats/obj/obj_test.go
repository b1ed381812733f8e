package obj

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"perigyre/core/material"
	"perigyre/core/model"
)

const cup = `# a quad, a concave pentagon and a triangle, in two objects
mtllib cup.mtl
o Bowl
v 0 0 0
v 1 0 0
v 1 1 0
v 0 1 0
v 0.5 0.25 0
vt 0 0
vt 1 0
vt 1 1
vt 0 1
usemtl Red
f 1/1 2/2 3/3 4/4
o Handle
v 2 0 0 1 0 0
v 3 0 0 0 1 0
v 2 1 0 0 0 1
usemtl Brass
f -3 -2 -1
f 1 5 2 3 4
`

const mtl = `newmtl Red
Kd 1 0 0
Ns 200
d 0.5
map_Kd -s 1 1 1 red.png
newmtl Brass
Pm 1
Pr 0.25
map_Bump bumps.png
`

func files(name string) ([]byte, bool) {
	b, ok := map[string]string{"cup.mtl": mtl, "red.png": "data"}[name]
	return []byte(b), ok
}

func TestRead(t *testing.T) {
	m, err := Read([]byte(cup), files, model.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	parts, triangles, _ := m.Count()
	if parts != 2 || triangles != 2+1+3 {
		t.Errorf("%d parts with %d triangles, want 2 with 6", parts, triangles)
	}
	area := 0.0
	for _, me := range m.Meshes {
		for _, p := range me.Primitives {
			area += p.Area()
		}
	}
	// The square 1, the triangle 0.5, the square less the notch 0.125: the concave face is cut right.
	if want := 1 + 0.5 + 0.875; math.Abs(area-want) > 1e-6 {
		t.Errorf("the area is %g, want %g", area, want)
	}
	if uv := m.Meshes[0].Primitives[0].UV[0]; uv != [2]float32{0, 1} {
		t.Errorf("texture coordinates begin at %v; OBJ counts v from the bottom, glTF from the top", uv)
	}
	red, brass := m.Materials[0], m.Materials[1]
	if red.Name != "Red" || red.BaseColor != [4]float64{1, 0, 0, 0.5} || red.Alpha != material.Blend || red.BaseColorTexture == nil {
		t.Errorf("red is %+v", red)
	}
	if brass.Metallic != 1 || brass.Roughness != 0.25 || !strings.Contains(fmt.Sprint(m.LeftOut), "map_Bump") {
		t.Errorf("brass is %+v, left out %v", brass, m.LeftOut)
	}
	if c := m.Meshes[1].Primitives[0].Colors; len(c) == 0 || c[0] != [4]float32{1, 0, 0, 1} {
		t.Errorf("vertex colours are %v", c)
	}
}

func TestBadInputIsSaidWithItsLine(t *testing.T) {
	for text, says := range map[string]string{
		"hello there":                         "line 1",
		"v 1 2":                               "needs 3 numbers, not 2",
		"v 1 2 nan":                           "is not a number",
		"v 0 0 0\nf 1 2 3":                    "line 2: it refers to vertex 2",
		"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2":    "a face has 2 corners",
		"v 0 0 0\nf 1 x 1":                    `"x" is not the number`,
		"v 0 0 0\nf 99999999999999999999 1 1": "is not the number",
		"v 0 0 0\nf 0 1 1":                    "vertex 0",
		"mtllib ../../etc/passwd\nv 0 0 0":    "outside its own folder",
		"v 0 0 0":                             "no faces",
	} {
		m, err := Read([]byte(text), files, model.DefaultLimits)
		if err == nil || m != nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v, want something with %q", text, err, says)
		}
	}
	many := "v 0 0 0\nv 1 0 0\nv 0 1 0\n" + strings.Repeat("f 1 2 3\n", 20)
	if _, err := Read([]byte(many), nil, model.Limits{Triangles: 10}); err == nil || !strings.Contains(err.Error(), "--max-triangles") {
		t.Errorf("over the limit: %v", err)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(cup))
	f.Add([]byte("v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\\\n 1\n"))
	limits := model.Limits{Bytes: 1 << 20, Triangles: 10_000, TextureSide: 1024}
	f.Fuzz(func(t *testing.T, data []byte) {
		m, err := Read(data, files, limits)
		if err != nil {
			return
		}
		for _, me := range m.Meshes {
			for _, p := range me.Primitives {
				if err := p.Check(); err != nil {
					t.Fatal(err)
				}
			}
		}
	})
}

func BenchmarkRead(b *testing.B) {
	var s strings.Builder
	const n = 200
	for i := range n {
		for j := range n {
			fmt.Fprintf(&s, "v %d.125 %g %d.5\n", i, math.Sin(float64(i*j)), j)
		}
	}
	for i := range n - 1 {
		for j := range n - 1 {
			a := i*n + j + 1
			fmt.Fprintf(&s, "f %d %d %d %d\n", a, a+1, a+n+1, a+n)
		}
	}
	data := []byte(s.String())
	b.SetBytes(int64(len(data)))
	for b.Loop() {
		if _, err := Read(data, nil, model.DefaultLimits); err != nil {
			b.Fatal(err)
		}
	}
}
