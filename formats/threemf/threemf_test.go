package threemf

import (
	"archive/zip"
	"bytes"
	"math"
	"strings"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/model"
)

const tetra = `<vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/><vertex x="0" y="0" z="1"/></vertices>
<triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3" pid="5" p1="1"/><triangle v1="0" v2="3" v3="2"/><triangle v1="1" v2="2" v3="3"/></triangles>`

const whole = `<?xml version="1.0"?>
<model unit="centimeter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">
<resources>
 <basematerials id="5"><base name="Red" displaycolor="#FF0000"/><base name="Glass" displaycolor="#0000FF80"/></basematerials>
 <object id="1" name="Corner" pid="5" pindex="0"><mesh>` + tetra + `</mesh></object>
 <object id="2" name="Pair"><components><component objectid="1"/><component objectid="1" transform="1 0 0 0 1 0 0 0 1 10 0 0"/></components></object>
</resources>
<build><item objectid="2" transform="0 1 0 -1 0 0 0 0 1 0 0 5" partnumber="P-1"/></build>
</model>`

func pack(t testing.TB, text string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.Create("3D/3dmodel.model")
	if err != nil {
		t.Fatal(err)
	}
	_, _ = w.Write([]byte(text))
	z.Close()
	return b.Bytes()
}

func TestAssembly(t *testing.T) {
	m, err := Read(pack(t, whole), model.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	parts, triangles, _ := m.Count()
	if m.Unit != "cm" || parts != 2 || triangles != 8 || len(m.Meshes) != 1 || m.Nodes[0].Name != "P-1" || m.Nodes[1].Parent != 0 {
		t.Errorf("unit %s, %d parts, %d triangles, %d meshes, %+v", m.Unit, parts, triangles, len(m.Meshes), m.Nodes)
	}
	// A row vector times the matrix: x goes to y, y to -x, and all 5 up.
	if p := m.Worlds()[2].Point(geom.Vec3{1, 2, 3}); p.Sub(geom.Vec3{-2, 11, 8}).Len() > 1e-9 {
		t.Errorf("the point of the second corner is at %v", p)
	}
	prims := m.Meshes[0].Primitives
	if len(prims) != 2 || prims[0].Triangles() != 3 || prims[1].Triangles() != 1 || len(prims[1].Positions) != 3 {
		t.Errorf("split by material into %d", len(prims))
	}
	if glass := m.Materials[prims[1].Material]; glass.Name != "Glass" || math.Abs(glass.BaseColor[3]-128.0/255) > 1e-9 {
		t.Errorf("glass is %+v", glass)
	}
}

// What a file has and is not taken is named, with counts.
func TestLeftOut(t *testing.T) {
	text := strings.Replace(whole, "<resources>", `<metadata name="Title">Corner</metadata><resources><texture2dgroup id="9"><tex2coord u="0" v="0"/><tex2coord u="0" v="1"/></texture2dgroup>`, 1)
	text = strings.Replace(text, "</vertices>", `</vertices><beamlattice/>`, 1)
	m, err := Read(pack(t, text), model.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	if got := strings.Join(m.LeftOut, "; "); got != "metadata Title; element texture2dgroup; element tex2coord (2 times); element beamlattice" {
		t.Errorf("left out are %s", got)
	}
}

func TestBadInput(t *testing.T) {
	small := model.DefaultLimits
	small.Bytes = 5000
	for name, c := range map[string]struct {
		data []byte
		says string
	}{
		"no zip":       {[]byte("PK nonsense"), "no zip"},
		"cycle":        {pack(t, strings.Replace(whole, `<component objectid="1"/>`, `<component objectid="2"/>`, 1)), "holds itself"},
		"absent":       {pack(t, strings.Replace(whole, `<component objectid="1"/>`, `<component objectid="7"/>`, 1)), "not there"},
		"out of range": {pack(t, strings.Replace(whole, `v3="3"`, `v3="4"`, 1)), `vertex "4"`},
		"not a number": {pack(t, strings.Replace(whole, `x="1"`, `x="one"`, 1)), `"one"`},
		"NaN":          {pack(t, strings.Replace(whole, `x="1"`, `x="NaN"`, 1)), "vertex 1"},
		"matrix":       {pack(t, strings.Replace(whole, `1 0 0 0 1 0 0 0 1 10 0 0`, `1 0 0`, 1)), "3 numbers"},
		"unit":         {pack(t, strings.Replace(whole, "centimeter", "cubit", 1)), "cubit"},
		"cut off":      {pack(t, whole[:len(whole)/2]), "line"},
		"bomb":         {pack(t, whole+strings.Repeat(" ", 100_000)), "--max-upload"},
	} {
		m, err := Read(c.data, small)
		if err == nil || m != nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want something with %q", name, err, c.says)
		}
	}
}

// The text inside the zip is what is fuzzed: the zip itself is the standard library's.
func FuzzRead(f *testing.F) {
	f.Add(whole)
	f.Fuzz(func(t *testing.T, text string) {
		m, err := Read(pack(t, text), model.Limits{Bytes: 1 << 20, Triangles: 10_000})
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
