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
		"v 0 0 0\nf 1 2 3":                    "line 2 is the first",
		"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2":    "a face has 2 corners",
		"v 0 0 0\nf 1 x 1":                    `"x" is not the number`,
		"v 0 0 0\nf 99999999999999999999 1 1": "is not the number",
		"v 0 0 0\nf 0 1 1":                    "line 2 is the first",
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

// What other programs write and what they forget: several libraries in one line, names with spaces, normals that are not
// there, UTF-16, options before a texture's name, the extensions for coats and sheen.
func TestEdges(t *testing.T) {
	beside := func(name string) ([]byte, bool) {
		b, ok := map[string]string{
			"a.mtl":    "newmtl A\nPc 0.5\nPcr .25\nPs 1\nNi 1.33\nmap_Kd -clamp on -o .25 .5 0 -s 2 4 -mm 0 1 my picture.png\nillum 2\nKa 1 1 1\nKa 0 0 0",
			"b.mtl":    "newmtl B\nKd .5\nnorm -bm 0.5 n.png",
			"my c.mtl": "newmtl C\nKd spectral x.rfl 1",
		}[name]
		return []byte(b), ok
	}
	src := "mtllib a.mtl b.mtl\nmtllib my c.mtl\nv 0 0 0 .5 .5 .5\nv 1 0 0\nv 0 1 0\nusemtl A\nf 1/7/1 2//2 3//9\nusemtl B\nf 1 2 3\nusemtl C\nf 1 2 3\nf 1 2 77\n"
	wide := []byte{0xff, 0xfe}
	for _, c := range src {
		wide = append(wide, byte(c), 0)
	}
	for name, data := range map[string][]byte{"plain": []byte(src), "with a mark": append([]byte{0xef, 0xbb, 0xbf}, src...), "UTF-16": wide} {
		m, err := Read(data, beside, model.DefaultLimits)
		if err != nil {
			t.Fatal(name, err)
		}
		if len(m.Materials) != 3 {
			t.Fatalf("%s: %d materials", name, len(m.Materials))
		}
		a, b := m.Materials[0], m.Materials[1]
		if a.Clearcoat != 0.5 || a.ClearcoatRoughness != 0.25 || a.SheenColor == nil || math.Abs(a.IOR-1.33) > 1e-6 || a.BaseColorTexture.WrapS != material.Clamp {
			t.Errorf("%s: %+v", name, a)
		}
		// A place at u, v of theirs is read at u * 2 + 0.25, v * 4 + 0.5, both from the bottom up.
		u, v := a.BaseColorTexture.Transform.Apply(0.1, 1-0.1)
		if math.Abs(float64(u)-0.45) > 1e-6 || math.Abs(1-float64(v)-0.9) > 1e-6 || m.Images[0].Name != "my picture.png" {
			t.Errorf("%s: read at %g, %g of %s", name, u, v, m.Images[0].Name)
		}
		if b.BaseColor != [4]float64{0.5, 0.5, 0.5, 1} || b.NormalScale != 0.5 {
			t.Errorf("%s: %+v", name, b)
		}
		if c := m.Meshes[0].Primitives[0].Colors[0][0]; math.Abs(float64(c)-0.214) > 1e-3 {
			t.Errorf("%s: half of white on a screen is %g in light", name, c)
		}
		all := strings.Join(m.LeftOut, "\n")
		for _, want := range []string{"normals of corners that are not in the file", "texture coordinates of corners", "faces with vertices", "MTL: illum", "MTL: Ka (2 times)", "-mm of map_Kd", "Kd spectral"} {
			if !strings.Contains(all, want) {
				t.Errorf("%s: %q is not named in\n%s", name, want, all)
			}
		}
	}
}

// A face whose hole is joined to its outline by a doubled edge keeps the hole; one of many corners takes no long time.
func TestFacesWithHoles(t *testing.T) {
	slit := "v 0 0 0\nv 4 0 0\nv 4 0 4\nv 0 0 4\nv 1 0 1\nv 1 0 3\nv 3 0 3\nv 3 0 1\nf 1 2 3 4 1 5 6 7 8 5\n"
	var comb strings.Builder
	const teeth = 20_000
	for i := range teeth {
		fmt.Fprintf(&comb, "v %d 0 0\nv %d.5 0 5\n", i, i)
	}
	fmt.Fprintf(&comb, "v %d 0 -1\nv 0 0 -1\nf", teeth-1)
	for i := range 2*teeth - 1 {
		fmt.Fprintf(&comb, " %d", i+1)
	}
	fmt.Fprintf(&comb, " %d %d\n", 2*teeth+1, 2*teeth+2)
	for text, want := range map[string]float64{slit: 12, comb.String(): (teeth-1)*2.5 + teeth - 1} {
		m, err := Read([]byte(text), nil, model.DefaultLimits)
		if err != nil {
			t.Fatal(err)
		}
		if a := m.Meshes[0].Primitives[0].Area(); math.Abs(a/want-1) > 1e-5 {
			t.Errorf("the area is %g, want %g", a, want)
		}
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
