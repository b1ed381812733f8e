// Package obj reads Wavefront OBJ geometry with its MTL materials.
package obj

import (
	"bytes"
	"fmt"
	"math"
	"path"
	"strconv"
	"strings"
	"unsafe"

	"perigyre/core/color"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/formats/text"
)

type corner struct{ v, t, n int32 } // indices from 0, -1 for none

type reader struct {
	limits    model.Limits
	files     model.Files
	out       *model.Model
	v, vn     [][3]float32
	vt        [][2]float32
	colors    [][4]float32 // of v, where given
	object    string
	group     string
	material  int
	byName    map[string]int // material names
	parts     map[string]int // mesh by part name
	builders  map[builderKey]*builder
	order     []*builder
	now       *builder
	triangles int
	left      model.LeftOut
	line      int
	missing   int // the first line with a face whose vertices are not there
}

type builderKey struct{ mesh, material int }

// builder gathers the triangles of one part with one material.
type builder struct {
	key     builderKey
	mesh    mesh.Mesh
	seen    map[corner]uint32
	normals bool // every corner has had one
	uvs     bool
}

// Read decodes an OBJ. Files gives the MTL and pictures beside it and may be nil. Objects and
// groups become parts; lines, points and free-form surfaces are left out and named.
func Read(data []byte, files model.Files, limits model.Limits) (*model.Model, error) {
	r := &reader{
		limits: limits, files: files, out: &model.Model{}, material: -1,
		byName: map[string]int{}, parts: map[string]int{}, builders: map[builderKey]*builder{},
	}
	data = text.UTF8(data)
	line := 0
	for len(data) > 0 {
		line++
		row := data
		if end := bytes.IndexByte(data, '\n'); end >= 0 {
			row, data = data[:end], data[end+1:]
		} else {
			data = nil
		}
		for len(data) > 0 && bytes.HasSuffix(bytes.TrimRight(row, "\r"), []byte{'\\'}) { // goes on below
			row = bytes.TrimSuffix(bytes.TrimRight(row, "\r"), []byte{'\\'})
			next := data
			if end := bytes.IndexByte(data, '\n'); end >= 0 {
				next, data = data[:end], data[end+1:]
			} else {
				data = nil
			}
			row = append(append([]byte(nil), row...), append([]byte{' '}, next...)...)
			line++
		}
		r.line = line
		if err := r.statement(row); err != nil {
			return nil, fmt.Errorf("line %d: %w", line, err)
		}
	}
	if r.triangles == 0 && r.missing > 0 {
		return nil, fmt.Errorf("it holds no faces whose vertices are in the file: line %d is the first that refers to others", r.missing)
	}
	if r.triangles == 0 {
		return nil, fmt.Errorf("it holds no faces")
	}
	r.finish()
	r.out.LeftOut = r.left.Names()
	return r.out, nil
}

// word cuts the next word off a line.
func word(line []byte) (first, rest []byte) {
	i := 0
	for i < len(line) && line[i] <= ' ' {
		i++
	}
	j := i
	for j < len(line) && line[j] > ' ' {
		j++
	}
	return line[i:j], line[j:]
}

// view reads bytes as a string without copying them.
func view(b []byte) string { return unsafe.String(unsafe.SliceData(b), len(b)) }

func (r *reader) statement(line []byte) error {
	key, rest := word(line)
	if len(key) == 0 || key[0] == '#' {
		return nil
	}
	switch view(key) {
	case "v":
		return r.vertex(rest)
	case "vn":
		var n [3]float32
		if k, err := numbers(rest, n[:]); err != nil || k < 3 {
			return numberError("a normal", 3, k, err)
		}
		r.vn = append(r.vn, n)
	case "vt":
		var t [2]float32
		if k, err := numbers(rest, t[:]); err != nil || k < 1 {
			return numberError("a texture coordinate", 1, k, err)
		}
		t[1] = 1 - t[1] // from the bottom up, here from the top down
		r.vt = append(r.vt, t)
	case "f":
		return r.face(rest)
	case "o":
		r.object, r.group, r.now = strings.TrimSpace(string(rest)), "", nil
	case "g":
		r.group, r.now = strings.TrimSpace(string(rest)), nil
	case "usemtl":
		name := strings.TrimSpace(string(rest))
		at, ok := r.byName[name]
		if !ok {
			at = len(r.out.Materials)
			r.byName[name] = at
			m := material.Default()
			m.Name = name
			r.out.Materials = append(r.out.Materials, m)
		}
		if err := r.limits.CheckParts(0, len(r.out.Materials)); err != nil {
			return err
		}
		r.material, r.now = at, nil
	case "mtllib":
		return r.libraries(strings.TrimSpace(string(rest)))
	case "s", "mg", "lod", "shadow_obj", "trace_obj", "bevel", "c_interp", "d_interp":
	case "l", "p":
		r.left.Add("lines and points")
	case "vp", "cstype", "deg", "curv", "curv2", "surf", "parm", "trim", "hole", "scrv", "sp", "end", "bmat", "step", "con":
		r.left.Add("free-form curves and surfaces")
	default:
		if len(r.v) == 0 && len(r.left.Names()) == 0 {
			return fmt.Errorf("%.20q is no word of an OBJ file", key)
		}
		r.left.Add(fmt.Sprintf("statements %.20q", key))
	}
	return nil
}

// numbers reads up to len(out) numbers and returns how many there were.
func numbers(line []byte, out []float32) (int, error) {
	for k := range out {
		var w []byte
		w, line = word(line)
		if len(w) == 0 {
			return k, nil
		}
		f, err := strconv.ParseFloat(view(w), 32)
		if err != nil || math.IsNaN(f) || math.IsInf(f, 0) {
			return k, fmt.Errorf("%.20q is not a number", string(w))
		}
		out[k] = float32(f)
	}
	return len(out), nil
}

func numberError(what string, want, got int, err error) error {
	if err != nil {
		return fmt.Errorf("%s: %w", what, err)
	}
	return fmt.Errorf("%s needs %d numbers, not %d", what, want, got)
}

func (r *reader) vertex(rest []byte) error {
	var f [7]float32
	k, err := numbers(rest, f[:])
	if err != nil || k < 3 {
		return numberError("a vertex", 3, k, err)
	}
	r.v = append(r.v, [3]float32(f[:]))
	if k >= 6 { // three more numbers are a colour
		for len(r.colors) < len(r.v)-1 {
			r.colors = append(r.colors, [4]float32{1, 1, 1, 1})
		}
		c := [4]float32{3: 1}
		for a := range 3 { // as programs write them: for screens
			c[a] = float32(color.FromSRGB(float64(f[3+a])))
		}
		r.colors = append(r.colors, c)
	}
	return nil
}

// gone stands for what a corner names and is not there.
const gone = -2

// index turns an OBJ index, from 1 or backwards from -1, into one from 0.
func index(text []byte, count int, what string) (int32, error) {
	if len(text) == 0 {
		return -1, nil
	}
	i, err := strconv.Atoi(view(text))
	if err != nil {
		return 0, fmt.Errorf("%.20q is not the number of a %s", string(text), what)
	}
	if i < 0 {
		i += count + 1
	}
	if i < 1 || i > count {
		return gone, nil
	}
	return int32(i - 1), nil
}

func (r *reader) face(rest []byte) error {
	var buffer [8]corner
	corners, whole := buffer[:0], true
	for {
		var w []byte
		w, rest = word(rest)
		if len(w) == 0 {
			break
		}
		c, err := r.corner(w)
		if err != nil {
			return err
		}
		whole = whole && c.v != gone
		if corners = append(corners, c); len(corners) > mesh.LongestPolygon {
			return fmt.Errorf("a face has more than %d corners", mesh.LongestPolygon)
		}
	}
	if !whole {
		r.left.Add("faces with vertices that are not in the file")
		if r.missing == 0 {
			r.missing = r.line
		}
		return nil
	}
	if len(corners) < 3 {
		return fmt.Errorf("a face has %d corners", len(corners))
	}
	r.triangles += len(corners) - 2
	if err := r.limits.CheckTriangles(r.triangles); err != nil {
		return err
	}
	b := r.builder()
	if err := r.limits.CheckParts(len(r.order), 0); err != nil {
		return err
	}
	if len(corners) == 3 {
		b.mesh.Indices = append(b.mesh.Indices, b.vertex(r, corners[0]), b.vertex(r, corners[1]), b.vertex(r, corners[2]))
		return nil
	}
	points := make([]geom.Vec3, len(corners))
	for i, c := range corners {
		points[i] = geom.V3(r.v[c.v])
	}
	for _, t := range mesh.TriangulatePolygon(points) {
		b.mesh.Indices = append(b.mesh.Indices, b.vertex(r, corners[t[0]]), b.vertex(r, corners[t[1]]), b.vertex(r, corners[t[2]]))
	}
	return nil
}

func (r *reader) corner(w []byte) (c corner, err error) {
	var parts [3][]byte
	for k := range parts {
		slash := bytes.IndexByte(w, '/')
		if slash < 0 {
			parts[k], w = w, nil
			break
		}
		parts[k], w = w[:slash], w[slash+1:]
	}
	if c.v, err = index(parts[0], len(r.v), "vertex"); err != nil {
		return c, err
	}
	if c.v == -1 {
		return c, fmt.Errorf("a corner names no vertex")
	}
	if c.t, err = index(parts[1], len(r.vt), "texture coordinate"); err != nil {
		return c, err
	}
	if c.n, err = index(parts[2], len(r.vn), "normal"); err != nil {
		return c, err
	}
	if c.t == gone {
		c.t = -1
		r.left.Add("texture coordinates of corners that are not in the file")
	}
	if c.n == gone {
		c.n = -1
		r.left.Add("normals of corners that are not in the file")
	}
	return c, nil
}

// builder returns what the next face goes into.
func (r *reader) builder() *builder {
	if r.now != nil {
		return r.now
	}
	name := r.object
	if r.group != "" && r.group != "default" {
		if name != "" && name != r.group {
			name += " "
		}
		if r.object != r.group {
			name += r.group
		}
	}
	at, ok := r.parts[name]
	if !ok {
		at = len(r.out.Meshes)
		r.parts[name] = at
		shown := name
		if shown == "" {
			shown = "Model"
		}
		r.out.Meshes = append(r.out.Meshes, model.Mesh{Name: shown})
		r.out.Nodes = append(r.out.Nodes, model.Node{Name: shown, Parent: -1, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: at})
	}
	key := builderKey{at, r.material}
	b, ok := r.builders[key]
	if !ok {
		b = &builder{key: key, seen: map[corner]uint32{}, normals: true, uvs: true}
		r.builders[key] = b
		r.order = append(r.order, b)
	}
	r.now = b
	return b
}

func (b *builder) vertex(r *reader, c corner) uint32 {
	if i, ok := b.seen[c]; ok {
		return i
	}
	i := uint32(len(b.mesh.Positions))
	b.seen[c] = i
	b.mesh.Positions = append(b.mesh.Positions, r.v[c.v])
	uv, normal := [2]float32{}, [3]float32{}
	if c.t >= 0 {
		uv = r.vt[c.t]
	}
	b.uvs = b.uvs && c.t >= 0
	if c.n >= 0 {
		normal = geom.V3(r.vn[c.n]).Unit().F32()
	}
	b.normals = b.normals && normal != [3]float32{}
	b.mesh.UV = append(b.mesh.UV, uv)
	b.mesh.Normals = append(b.mesh.Normals, normal)
	if len(r.colors) > 0 {
		color := [4]float32{1, 1, 1, 1}
		if int(c.v) < len(r.colors) {
			color = r.colors[c.v]
		}
		b.mesh.Colors = append(b.mesh.Colors, color)
	}
	return i
}

func (r *reader) finish() {
	for _, b := range r.order {
		m := b.mesh
		if !b.normals {
			m.Normals = nil
		}
		if !b.uvs {
			m.UV = nil
		}
		if len(m.Colors) != len(m.Positions) {
			m.Colors = nil
		}
		at := &r.out.Meshes[b.key.mesh]
		at.Primitives = append(at.Primitives, model.Primitive{Mesh: &m, Material: b.key.material})
	}
}

// inside returns a path that stays in the model's folder, or an error.
func inside(name string) (string, error) {
	clean := path.Clean(strings.ReplaceAll(name, `\`, "/"))
	if path.IsAbs(clean) || clean == ".." || strings.HasPrefix(clean, "../") || strings.Contains(clean, ":") {
		return "", fmt.Errorf("it refers to %q, which is outside its own folder", name)
	}
	return clean, nil
}
