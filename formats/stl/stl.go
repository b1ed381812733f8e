// Package stl reads stereolithography files, text and binary.
package stl

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"strconv"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/formats/text"
)

const header, record = 84, 50 // bytes before the triangles, and for each

// IsBinary reports whether the length of the data is what the count in a binary header promises.
// Files of both kinds may begin with "solid", so that the word alone decides nothing.
func IsBinary(data []byte) bool {
	return len(data) >= header && int64(len(data)) == header+record*int64(binary.LittleEndian.Uint32(data[80:]))
}

// Read decodes an STL. Each solid of a text file is a part. Vertices at the same place are joined;
// the normals of the file are left aside, since many programs write them wrong.
func Read(data []byte, limits model.Limits) (*model.Model, error) {
	m := &model.Model{}
	if IsBinary(data) {
		return orNone(m, readBinary(m, data, limits))
	}
	var failed error
	if plain := text.UTF8(data); isText(plain) {
		if failed = readText(m, plain, limits); failed == nil {
			return m, nil
		}
	}
	// More bytes than were promised lose nothing.
	if len(data) >= header {
		if n := int64(binary.LittleEndian.Uint32(data[80:])); n > 0 && header+record*n < int64(len(data)) && !isText(data) || failed != nil && n > 0 && header+record*n < int64(len(data)) {
			m = &model.Model{LeftOut: []string{fmt.Sprintf("%d bytes after the last triangle", int64(len(data))-header-record*n)}}
			return orNone(m, readBinary(m, data, limits))
		}
	}
	if failed != nil {
		return nil, failed
	}
	if len(data) >= header {
		return nil, fmt.Errorf("its header promises %d triangles, which take %d bytes, but the file has %d; it was not copied whole, or it is no STL",
			binary.LittleEndian.Uint32(data[80:]), header+record*int64(binary.LittleEndian.Uint32(data[80:])), len(data))
	}
	return nil, fmt.Errorf("it is too short to be an STL")
}

// isText reports whether data begin as text files do, in whatever case.
func isText(data []byte) bool {
	data = bytes.TrimLeft(data, " \t\r\n")
	return len(data) >= 5 && bytes.EqualFold(data[:5], []byte("solid")) && bytes.Contains(bytes.ToLower(data), []byte("facet"))
}

// orNone returns nothing rather than half a model.
func orNone(m *model.Model, err error) (*model.Model, error) {
	if err != nil {
		return nil, err
	}
	return m, nil
}

// welder joins vertices at the same place.
type welder struct {
	mesh mesh.Mesh
	seen map[[3]float32]uint32
}

func (w *welder) add(p [3]float32) {
	i, ok := w.seen[p]
	if !ok {
		i = uint32(len(w.mesh.Positions))
		w.seen[p] = i
		w.mesh.Positions = append(w.mesh.Positions, p)
	}
	w.mesh.Indices = append(w.mesh.Indices, i)
}

func addPart(m *model.Model, name string, w *welder) {
	if name == "" {
		name = "Model"
	}
	m.Nodes = append(m.Nodes, model.Node{Name: name, Parent: -1, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: len(m.Meshes)})
	m.Meshes = append(m.Meshes, model.Mesh{Name: name, Primitives: []model.Primitive{{Mesh: &w.mesh, Material: -1}}})
}

func readBinary(m *model.Model, data []byte, limits model.Limits) error {
	n := int(binary.LittleEndian.Uint32(data[80:]))
	if n == 0 {
		return fmt.Errorf("it holds no triangles")
	}
	if err := limits.CheckTriangles(n); err != nil {
		return err
	}
	w := &welder{seen: make(map[[3]float32]uint32, n/2)}
	marked := 0
	for t := range n {
		if binary.LittleEndian.Uint16(data[header+record*t+48:]) != 0 {
			marked++
		}
		at := header + record*t + 12 // past the normal
		for k := range 3 {
			var p [3]float32
			for a := range p {
				p[a] = math.Float32frombits(binary.LittleEndian.Uint32(data[at+12*k+4*a:]))
			}
			if !geom.V3(p).Finite() {
				return fmt.Errorf("triangle %d, at byte %d, has a corner that is not a number", t, at+12*k)
			}
			w.add(p)
		}
	}
	if marked > 0 {
		m.LeftOut = append(m.LeftOut, fmt.Sprintf("attributes of %d triangles (some programs put colours there)", marked))
	}
	addPart(m, "", w)
	return nil
}

func readText(m *model.Model, data []byte, limits model.Limits) error {
	s := bufio.NewScanner(bytes.NewReader(data))
	s.Buffer(nil, 1<<20)
	name, line, triangles, corners := "", 0, 0, 0
	var w *welder
	for s.Scan() {
		line++
		f := strings.Fields(s.Text())
		if len(f) == 0 {
			continue
		}
		switch strings.ToLower(f[0]) {
		case "solid", "endsolid", "outer":
			if corners != 0 {
				return fmt.Errorf("line %d: the facet before is not finished", line)
			}
		}
		switch strings.ToLower(f[0]) {
		case "solid":
			w = &welder{seen: map[[3]float32]uint32{}}
			name = strings.Join(f[1:], " ")
		case "endsolid":
			if w != nil && len(w.mesh.Indices) > 0 {
				addPart(m, name, w)
				if err := limits.CheckParts(len(m.Nodes), 0); err != nil {
					return err
				}
			}
			w = nil
		case "endloop":
			if corners != 3 {
				return fmt.Errorf("line %d: a facet has %d corners, not 3", line, corners)
			}
			corners = 0
			triangles++
			if err := limits.CheckTriangles(triangles); err != nil {
				return err
			}
		case "vertex":
			if corners++; w == nil || corners > 3 || len(f) < 4 {
				return fmt.Errorf("line %d: a vertex stands where none can be, or has too few numbers", line)
			}
			var p [3]float32
			for a := range p {
				v, err := strconv.ParseFloat(f[a+1], 32)
				if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
					return fmt.Errorf("line %d: %.20q is not a number", line, f[a+1])
				}
				p[a] = float32(v)
			}
			w.add(p)
		}
	}
	if err := s.Err(); err != nil {
		return fmt.Errorf("line %d: %w", line+1, err)
	}
	if w != nil {
		return fmt.Errorf("it ends after line %d within a solid; it was not copied whole", line)
	}
	if len(m.Meshes) == 0 {
		return fmt.Errorf("it holds no triangles")
	}
	return nil
}
