package library

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/formats/gltf"
)

func pictureOf(w, h int) []byte {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	img.Set(0, 0, color.NRGBA{200, 100, 50, 255})
	var b bytes.Buffer
	_ = png.Encode(&b, img)
	return b.Bytes()
}

func zipOf(t *testing.T, files ...File) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, f := range files {
		w, err := z.Create(f.Name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := w.Write(f.Data); err != nil {
			t.Fatal(err)
		}
	}
	z.Close()
	return b.Bytes()
}

func glbOf(t *testing.T, meshes ...*mesh.Mesh) []byte {
	t.Helper()
	m := &model.Model{Materials: []material.Material{material.Default()}}
	for i, s := range meshes {
		name := fmt.Sprint("Part ", i)
		m.Nodes = append(m.Nodes, model.Node{Name: name, Parent: -1, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: i})
		m.Meshes = append(m.Meshes, model.Mesh{Name: name, Primitives: []model.Primitive{{Mesh: s}}})
	}
	data, err := gltf.Write(m)
	if err != nil {
		t.Fatal(err)
	}
	return data
}

const quad = "mtllib s/m.mtl\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nusemtl M\nf 1/1 2/1 3/1 4/1\n"

func TestZipWithFoldersCaseAndAMissingPicture(t *testing.T) {
	data := zipOf(t, File{"Kit/thing.OBJ", []byte(quad)}, File{"Kit/S/M.mtl", []byte("newmtl M\nmap_Kd gone.png\nmap_Ke glow.png")},
		File{"Kit/glow.png", pictureOf(2, 2)}, File{"__MACOSX/thing.obj", []byte("junk")}, File{"Kit/.hidden.obj", []byte("junk")})
	m, r, err := Bring(context.Background(), []File{{"kit.zip", data}}, "cm", model.DefaultLimits, nil)
	if err != nil {
		t.Fatal(err)
	}
	if r.File != "thing.OBJ" || r.Unit != "cm" || fmt.Sprint(r.Missing) != "[gone.png]" || r.Triangles != 2 {
		t.Errorf("report is %+v", r)
	}
	if m.Meshes[0].Primitives[0].Normals == nil || len(r.Warnings) == 0 || !strings.Contains(r.Warnings[0], "not closed") {
		t.Errorf("warnings are %q", r.Warnings)
	}
}

func TestBadUploadsAreRefusedWhole(t *testing.T) {
	small := model.Limits{Bytes: 10_000, Triangles: 20, TextureSide: 8}
	bomb := zipOf(t, File{"a.stl", bytes.Repeat([]byte{0}, 1<<20)})
	if len(bomb) > 5000 {
		t.Fatal("the bomb is no bomb")
	}
	var withBig bytes.Buffer
	withBig.WriteString(quad)
	for name, c := range map[string]struct {
		files []File
		says  string
	}{
		"nothing":      {nil, "nothing was brought in"},
		"empty":        {[]File{{"a.glb", nil}}, "a.glb is empty"},
		"a text":       {[]File{{"notes.txt", []byte("hello")}}, "not a model"},
		"zip bomb":     {[]File{{"a.zip", bomb}}, "--max-upload"},
		"damaged zip":  {[]File{{"a.zip", append([]byte("PK\x03\x04"), make([]byte, 50)...)}}, "damaged zip"},
		"climbing zip": {[]File{{"a.zip", zipOf(t, File{"../../a.obj", []byte(quad)})}}, "outside"},
		"two models":   {[]File{{"a.obj", []byte(quad)}, {"b.obj", []byte(quad)}}, "one at a time"},
		"too large":    {[]File{{"a.obj", bytes.Repeat([]byte("#"), 20_000)}}, "--max-upload"},
		"too many":     {[]File{{"a.glb", glbOf(t, mesh.Box(geom.Vec3{1, 1, 1}), mesh.Box(geom.Vec3{1, 1, 1}))}}, "--max-triangles"},
		"large texture": {[]File{{"a.obj", []byte(quad)}, {"s/m.mtl", []byte("newmtl M\nmap_Kd big.png")}, {"big.png", pictureOf(9, 3)}},
			"--max-texture"},
		"no size": {[]File{{"a.obj", []byte("v 1 1 1\nv 1 1 1\nv 1 1 1\nf 1 2 3")}}, "no surfaces"},
	} {
		m, r, err := Bring(context.Background(), c.files, "", small, nil)
		if err == nil || m != nil || r != nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want something with %q", name, err, c.says)
		}
	}
}

// A file that takes more memory than is allowed is given up, though every other limit lets it pass.
func TestBringingHasABudgetOfMemory(t *testing.T) {
	var b bytes.Buffer
	for i := range 600_000 {
		fmt.Fprintf(&b, "v %d %d 0\n", i%999, i/999)
		if i > 2 {
			fmt.Fprintf(&b, "f %d %d %d\n", i, i-1, i-2)
		}
	}
	limits := model.DefaultLimits
	limits.Memory = 8 << 20
	if _, _, err := Bring(context.Background(), []File{{"a.obj", b.Bytes()}}, "", limits, nil); err == nil || !strings.Contains(err.Error(), "--max-memory") {
		t.Errorf("it was brought in: %v", err)
	}
}

func TestAModelsFilesStayInItsFolder(t *testing.T) {
	dir := t.TempDir()
	if err := os.MkdirAll(filepath.Join(dir, "in"), 0o755); err != nil {
		t.Fatal(err)
	}
	_ = os.WriteFile(filepath.Join(dir, "secret.mtl"), []byte("newmtl M\nKd 1 0 0"), 0o644)
	_ = os.Symlink(filepath.Join(dir, "secret.mtl"), filepath.Join(dir, "in", "link.mtl"))
	name := filepath.Join(dir, "in", "a.obj")
	_ = os.WriteFile(name, []byte(strings.Replace(quad, "s/m.mtl", "link.mtl", 1)), 0o644)
	_, r, err := BringFile(context.Background(), name, "", model.DefaultLimits, nil)
	if err != nil || fmt.Sprint(r.Missing) != "[link.mtl]" {
		t.Errorf("a link out of the folder was followed: %v, %+v", err, r)
	}
}

func TestWarnings(t *testing.T) {
	far := mesh.Box(geom.Vec3{1, 1, 1})
	far.Transform(geom.Translation(geom.Vec3{5000, 0, 0}))
	_, r, err := Bring(context.Background(), []File{{"far.glb", glbOf(t, far)}}, "", model.DefaultLimits, nil)
	if err != nil || len(r.Warnings) != 1 || !strings.Contains(r.Warnings[0], "from the origin") {
		t.Errorf("%v: %q", err, r.Warnings)
	}
	_, r, err = Bring(context.Background(), []File{{"large.glb", glbOf(t, mesh.Box(geom.Vec3{100, 250, 100}))}}, "", model.DefaultLimits, nil)
	if err != nil || len(r.Warnings) != 1 || !strings.Contains(r.Warnings[0], "250 m large") {
		t.Errorf("%v: %q", err, r.Warnings)
	}
}

// Counts and bounds against Assimp (Debian assimp-utils) on files written here: it counts the faces
// and takes the bounds of flat trees.
func TestAgainstAssimp(t *testing.T) {
	tool, err := exec.LookPath("assimp")
	if err != nil {
		t.Fatal("this test needs the Debian package assimp-utils; make test installs it")
	}
	dir := t.TempDir()
	cone := mesh.Lathe([]geom.Vec2{{0, 0}, {2, 0}, {0, 5}}, 33, mesh.DefaultCrease)
	ring := mesh.Tube([]geom.Vec3{{1, 0, 0}, {0, 0.5, 1}, {-1, 0, 0}, {0, -0.5, -1}}, 0.2, 9, true)
	ring.Transform(geom.Translation(geom.Vec3{3, 4, 5}))
	var objText strings.Builder
	for _, m := range []*mesh.Mesh{cone, ring} {
		fmt.Fprintf(&objText, "o part%d\n", len(m.Positions))
		for _, p := range m.Positions {
			fmt.Fprintf(&objText, "v %g %g %g\n", p[0], p[1], p[2])
		}
		for k := 0; k < len(m.Indices); k += 3 { // counted back from the last vertex
			n := uint32(len(m.Positions))
			fmt.Fprintf(&objText, "f -%d -%d -%d\n", n-m.Indices[k], n-m.Indices[k+1], n-m.Indices[k+2])
		}
	}
	for name, data := range map[string][]byte{"a.glb": glbOf(t, cone, ring), "a.obj": []byte(objText.String())} {
		file := filepath.Join(dir, name)
		if err := os.WriteFile(file, data, 0o644); err != nil {
			t.Fatal(err)
		}
		_, r, err := BringFile(context.Background(), file, "m", model.DefaultLimits, nil)
		if err != nil {
			t.Fatal(err)
		}
		out, err := exec.Command(tool, "info", file).Output()
		if err != nil {
			t.Fatal(err)
		}
		number := func(pattern string) []float64 {
			m := regexp.MustCompile(pattern).FindSubmatch(out)
			if m == nil {
				t.Fatalf("assimp says nothing of %s:\n%s", pattern, out)
			}
			var v []float64
			for _, s := range m[1:] {
				f, _ := strconv.ParseFloat(string(s), 64)
				v = append(v, f)
			}
			return v
		}
		const f = `(-?[\d.]+)`
		if faces := number(`Faces:\s+(\d+)`)[0]; int(faces) != r.Triangles {
			t.Errorf("%s: %d triangles, assimp counts %g", name, r.Triangles, faces)
		}
		lo, hi := number(`Minimum point\s+\(`+f+` `+f+` `+f), number(`Maximum point\s+\(`+f+` `+f+` `+f)
		for a := range 3 {
			if math.Abs(lo[a]-r.Bounds.Min[a]) > 2e-6 || math.Abs(hi[a]-r.Bounds.Max[a]) > 2e-6 {
				t.Errorf("%s: bounds %v, assimp says %v to %v", name, r.Bounds, lo, hi)
			}
		}
	}
}
