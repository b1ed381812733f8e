// Package ply reads polygon files (G. Turk, "The PLY Polygon File Format", 1994): text and both kinds
// of binary, with normals, colours and texture coordinates.
package ply

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"slices"
	"strconv"

	"perigyre/core/color"
	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/model"
)

type kind struct {
	size    int
	integer bool
	signed  bool
}

var kinds = map[string]kind{
	"char": {1, true, true}, "int8": {1, true, true}, "uchar": {1, true, false}, "uint8": {1, true, false},
	"short": {2, true, true}, "int16": {2, true, true}, "ushort": {2, true, false}, "uint16": {2, true, false},
	"int": {4, true, true}, "int32": {4, true, true}, "uint": {4, true, false}, "uint32": {4, true, false},
	"float": {4, false, true}, "float32": {4, false, true}, "double": {8, false, true}, "float64": {8, false, true},
}

type property struct {
	name  string
	kind  kind
	count kind // of a list's length
	list  bool
}

type element struct {
	name       string
	count      int
	properties []property
}

// IsPLY reports whether the data begin as a PLY.
func IsPLY(data []byte) bool {
	return bytes.HasPrefix(data, []byte("ply\n")) || bytes.HasPrefix(data, []byte("ply\r"))
}

// values reads one number after another from the body.
type values struct {
	data  []byte
	at    int
	order binary.ByteOrder // nil for text
}

func (v *values) next(k kind) (float64, error) {
	if v.order == nil {
		for v.at < len(v.data) && v.data[v.at] <= ' ' {
			v.at++
		}
		from := v.at
		for v.at < len(v.data) && v.data[v.at] > ' ' {
			v.at++
		}
		if from == v.at {
			return 0, fmt.Errorf("it ends early, at byte %d; it was not copied whole", len(v.data))
		}
		f, err := strconv.ParseFloat(string(v.data[from:v.at]), 64)
		if err != nil {
			return 0, fmt.Errorf("%.20q is not a number", v.data[from:v.at])
		}
		return f, nil
	}
	if len(v.data)-v.at < k.size {
		return 0, fmt.Errorf("it ends early, at byte %d; it was not copied whole", len(v.data))
	}
	b := v.data[v.at:]
	v.at += k.size
	switch {
	case !k.integer && k.size == 4:
		return float64(math.Float32frombits(v.order.Uint32(b))), nil
	case !k.integer:
		return math.Float64frombits(v.order.Uint64(b)), nil
	case k.size == 1 && k.signed:
		return float64(int8(b[0])), nil
	case k.size == 1:
		return float64(b[0]), nil
	case k.size == 2 && k.signed:
		return float64(int16(v.order.Uint16(b))), nil
	case k.size == 2:
		return float64(v.order.Uint16(b)), nil
	case k.signed:
		return float64(int32(v.order.Uint32(b))), nil
	}
	return float64(v.order.Uint32(b)), nil
}

// Read decodes a PLY. Point clouds, edges and elements of other names are left out and named.
func Read(data []byte, limits model.Limits) (*model.Model, error) {
	elements, v, err := header(data)
	if err != nil {
		return nil, err
	}
	out := &model.Model{}
	m := &mesh.Mesh{}
	for _, e := range elements {
		switch e.name {
		case "vertex":
			out.LeftOut = append(out.LeftOut, strangers(e)...)
			err = vertices(m, v, e, limits)
		case "face":
			err = faces(m, v, e, limits)
		default:
			if e.count > 0 {
				out.LeftOut = append(out.LeftOut, fmt.Sprintf("%d elements %.40q", e.count, e.name))
			}
			err = skip(v, e)
		}
		if err != nil {
			return nil, fmt.Errorf("%s: %w", e.name, err)
		}
	}
	if m.Triangles() == 0 {
		return nil, fmt.Errorf("it holds %d points and no faces", len(m.Positions))
	}
	if err := m.Check(); err != nil {
		return nil, err
	}
	out.Nodes = []model.Node{{Name: "Model", Parent: -1, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}}
	out.Meshes = []model.Mesh{{Name: "Model", Primitives: []model.Primitive{{Mesh: m, Material: -1}}}}
	return out, nil
}

func header(data []byte) ([]element, *values, error) {
	if !IsPLY(data) {
		return nil, nil, fmt.Errorf("it does not begin with ply")
	}
	v := &values{}
	var elements []element
	format := ""
	for at, line := 0, 1; ; line++ {
		end := bytes.IndexByte(data[at:], '\n')
		if end < 0 || line > 10_000 {
			return nil, nil, fmt.Errorf("its header does not end")
		}
		words := bytes.Fields(data[at : at+end])
		at += end + 1
		if len(words) == 0 {
			continue
		}
		wrong := func() ([]element, *values, error) {
			return nil, nil, fmt.Errorf("line %d of its header cannot be read: %.60q", line, bytes.Join(words, []byte(" ")))
		}
		switch string(words[0]) {
		case "format":
			if len(words) < 2 {
				return wrong()
			}
			switch format = string(words[1]); format {
			case "ascii":
			case "binary_little_endian":
				v.order = binary.LittleEndian
			case "binary_big_endian":
				v.order = binary.BigEndian
			default:
				return wrong()
			}
		case "element":
			if len(words) != 3 {
				return wrong()
			}
			n, err := strconv.Atoi(string(words[2]))
			if err != nil || n < 0 || len(elements) > 100 {
				return wrong()
			}
			elements = append(elements, element{name: string(words[1]), count: n})
		case "property":
			if len(elements) == 0 || len(words) < 3 {
				return wrong()
			}
			e := &elements[len(elements)-1]
			p := property{name: string(words[len(words)-1])}
			var ok, ok2 = false, true
			if string(words[1]) == "list" && len(words) == 5 {
				p.list = true
				p.count, ok = kinds[string(words[2])]
				p.kind, ok2 = kinds[string(words[3])]
			} else {
				p.kind, ok = kinds[string(words[1])]
			}
			if !ok || !ok2 {
				return wrong()
			}
			e.properties = append(e.properties, p)
		case "end_header":
			if format == "" {
				return nil, nil, fmt.Errorf("its header names no format")
			}
			v.data = data[at:]
			return elements, v, check(elements, v)
		}
	}
}

// check refuses counts that the rest of the file cannot hold, before anything is made for them.
func check(elements []element, v *values) error {
	least := 0
	for _, e := range elements {
		row := 0
		for _, p := range e.properties {
			switch {
			case v.order == nil:
				row += 2 // a digit and a space
			case p.list:
				row += p.count.size
			default:
				row += p.kind.size
			}
		}
		if e.count > 0 && row == 0 || row > 0 && e.count > (len(v.data)+1)/row {
			return fmt.Errorf("its header promises %d of %.40q, more than the file can hold; it was not copied whole", e.count, e.name)
		}
		least += e.count * row
	}
	if least > len(v.data)+1 {
		return fmt.Errorf("its header promises at least %d bytes, but %d follow; it was not copied whole", least, len(v.data))
	}
	return nil
}

// strangers names the properties of vertices that are not taken.
func strangers(e element) (out []string) {
	known := []string{"x", "y", "z", "nx", "ny", "nz", "red", "green", "blue", "alpha", "u", "v", "s", "t", "texture_u", "texture_v"}
	for _, p := range e.properties {
		if !slices.Contains(known, p.name) {
			out = append(out, fmt.Sprintf("%.40q of %d vertices", p.name, e.count))
		}
	}
	return out
}

func vertices(m *mesh.Mesh, v *values, e element, limits model.Limits) error {
	if e.count > 3*limits.Triangles {
		return fmt.Errorf("%d are more than a model of --max-triangles %d can use", e.count, limits.Triangles)
	}
	column := map[string]int{}
	for k, p := range e.properties {
		column[p.name] = k
	}
	row := make([]float64, len(e.properties))
	has := func(names ...string) bool {
		for _, n := range names {
			if !slices.ContainsFunc(e.properties, func(p property) bool { return p.name == n && !p.list }) {
				return false
			}
		}
		return true
	}
	if !has("x", "y", "z") {
		return fmt.Errorf("they have no x, y and z")
	}
	normals, colors := has("nx", "ny", "nz"), has("red", "green", "blue")
	uv := [2]string{}
	for _, pair := range [][2]string{{"u", "v"}, {"s", "t"}, {"texture_u", "texture_v"}} {
		if has(pair[0], pair[1]) {
			uv = pair
		}
	}
	whole := 1.0 // what a colour's full strength is
	for _, p := range e.properties {
		if p.name == "red" && p.kind.integer {
			whole = float64(uint64(1)<<(8*p.kind.size) - 1)
		}
	}
	columns := func(names ...string) (out [3]int) {
		for k, n := range names {
			out[k] = column[n]
		}
		return out
	}
	position, normal, rgb := columns("x", "y", "z"), columns("nx", "ny", "nz"), columns("red", "green", "blue")
	at := func(c [3]int) [3]float32 {
		return [3]float32{float32(row[c[0]]), float32(row[c[1]]), float32(row[c[2]])}
	}
	opaque := !has("alpha")
	m.Positions = make([][3]float32, 0, e.count)
	for i := range e.count {
		for k, p := range e.properties {
			x, err := one(v, p)
			if err != nil {
				return fmt.Errorf("%d: %w", i, err)
			}
			row[k] = x
		}
		m.Positions = append(m.Positions, at(position))
		if normals {
			m.Normals = append(m.Normals, at(normal))
		}
		if colors { // files hold display colours
			alpha := 1.0
			if !opaque {
				alpha = row[column["alpha"]] / whole
			}
			linear := func(k int) float32 { return float32(color.FromSRGB(row[rgb[k]] / whole)) }
			m.Colors = append(m.Colors, [4]float32{linear(0), linear(1), linear(2), float32(alpha)})
		}
		if uv[0] != "" {
			m.UV = append(m.UV, [2]float32{float32(row[column[uv[0]]]), float32(1 - row[column[uv[1]]])})
		}
	}
	return nil
}

// one reads a property, of a list its length after passing over its members.
func one(v *values, p property) (float64, error) {
	if !p.list {
		return v.next(p.kind)
	}
	n, err := v.next(p.count)
	if err != nil {
		return 0, err
	}
	for range int(math.Max(0, math.Min(n, 1<<30))) {
		if _, err := v.next(p.kind); err != nil {
			return 0, err
		}
	}
	return n, nil
}

func skip(v *values, e element) error {
	for range e.count {
		for _, p := range e.properties {
			if _, err := one(v, p); err != nil {
				return err
			}
		}
	}
	return nil
}

func faces(m *mesh.Mesh, v *values, e element, limits model.Limits) error {
	var corners []uint32
	for i := range e.count {
		for _, p := range e.properties {
			if !p.list || p.name != "vertex_indices" && p.name != "vertex_index" {
				if _, err := one(v, p); err != nil {
					return fmt.Errorf("%d: %w", i, err)
				}
				continue
			}
			n, err := v.next(p.count)
			if err != nil {
				return fmt.Errorf("%d: %w", i, err)
			}
			if !(n >= 0 && n <= mesh.LongestPolygon) {
				return fmt.Errorf("%d has %g corners, more than %d", i, n, mesh.LongestPolygon)
			}
			corners = corners[:0]
			for range int(n) {
				k, err := v.next(p.kind)
				if err != nil {
					return fmt.Errorf("%d: %w", i, err)
				}
				if !(k >= 0 && k < float64(len(m.Positions))) || k != math.Trunc(k) {
					return fmt.Errorf("%d refers to vertex %g, but there are only %d", i, k, len(m.Positions))
				}
				corners = append(corners, uint32(k))
			}
			if err := limits.CheckTriangles(m.Triangles() + len(corners) - 2); err != nil {
				return err
			}
			polygon(m, corners)
		}
	}
	return nil
}

func polygon(m *mesh.Mesh, corners []uint32) {
	if len(corners) == 3 {
		m.Indices = append(m.Indices, corners...)
		return
	}
	points := make([]geom.Vec3, len(corners))
	for i, c := range corners {
		points[i] = geom.V3(m.Positions[c])
	}
	for _, t := range mesh.TriangulatePolygon(points) {
		m.Indices = append(m.Indices, corners[t[0]], corners[t[1]], corners[t[2]])
	}
}
