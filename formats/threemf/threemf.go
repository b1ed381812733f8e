// Package threemf reads 3MF (3D Manufacturing Format core specification 1.3 and its materials
// extension): objects, components, build items, units, base materials and colours.
package threemf

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"strconv"
	"strings"

	"perigyre/core/color"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
)

const (
	deepest   = 64 // components within components
	maxPlaced = 100_000
)

// units of the model element (4.1.1), as the nearest unit of ours and what is left over.
var units = map[string]struct {
	unit   string
	factor float64
}{"": {"mm", 1}, "millimeter": {"mm", 1}, "micron": {"mm", 0.001}, "centimeter": {"cm", 1}, "inch": {"in", 1}, "foot": {"ft", 1}, "meter": {"m", 1}}

type object struct {
	name       string
	mesh       int // of the model, -1 for components
	components []component
}

type component struct {
	id   string
	at   geom.Mat4
	part string // part number of a build item
}

type reader struct {
	limits    model.Limits
	out       *model.Model
	objects   map[string]*object
	palette   map[[2]string]int // property group and index to material
	groups    map[string]bool   // property groups that are known
	items     []component
	factor    float64
	triangles int
	left      model.LeftOut
}

// Is3MF reports whether a zip holds a 3MF model.
func Is3MF(z *zip.Reader) bool { return modelPart(z) != nil }

func modelPart(z *zip.Reader) *zip.File {
	var any *zip.File
	for _, f := range z.File {
		name := strings.ToLower(strings.TrimPrefix(f.Name, "/"))
		if name == "3d/3dmodel.model" {
			return f
		}
		if path.Dir(name) == "3d" && path.Ext(name) == ".model" {
			any = f
		}
	}
	return any
}

// Read decodes a 3MF.
func Read(data []byte, limits model.Limits) (*model.Model, error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fmt.Errorf("it is no zip, or a damaged one: %w", err)
	}
	f := modelPart(z)
	if f == nil {
		return nil, fmt.Errorf("it holds no file 3D/3dmodel.model")
	}
	body, err := f.Open()
	if err != nil {
		return nil, fmt.Errorf("%s: %w", f.Name, err)
	}
	defer body.Close()
	limited := &io.LimitedReader{R: body, N: limits.Bytes + 1}
	r := &reader{limits: limits, out: &model.Model{Up: "z"}, objects: map[string]*object{}, palette: map[[2]string]int{}, groups: map[string]bool{}, factor: 1}
	err = r.read(xml.NewDecoder(limited))
	if limited.N <= 0 {
		return nil, fmt.Errorf("it unpacks to more than the %d MB that --max-upload allows", limits.Bytes>>20)
	}
	if err != nil {
		return nil, fmt.Errorf("%s: %w", f.Name, err)
	}
	if len(r.items) == 0 {
		return nil, fmt.Errorf("it builds nothing")
	}
	for _, item := range r.items {
		if err := r.place(item, -1, 0); err != nil {
			return nil, err
		}
	}
	r.out.LeftOut = r.left.Names()
	return r.out, nil
}

func attribute(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

func (r *reader) read(d *xml.Decoder) error {
	var now *object
	var id, group string
	index := 0
	for {
		tok, err := d.Token()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			line, _ := d.InputPos()
			return fmt.Errorf("line %d: %w", line, err)
		}
		e, ok := tok.(xml.StartElement)
		if !ok {
			continue
		}
		fail := func(err error) error {
			line, _ := d.InputPos()
			return fmt.Errorf("line %d: %w", line, err)
		}
		switch e.Name.Local {
		case "model":
			u, ok := units[attribute(e, "unit")]
			if !ok {
				return fail(fmt.Errorf("the unit %.20q is not known", attribute(e, "unit")))
			}
			r.out.Unit, r.factor = u.unit, u.factor
		case "basematerials", "colorgroup":
			group, index = attribute(e, "id"), 0
			r.groups[group] = true
		case "base":
			err = r.material(group, index, attribute(e, "name"), attribute(e, "displaycolor"))
			index++
		case "color":
			err = r.material(group, index, "Colour "+attribute(e, "color"), attribute(e, "color"))
			index++
		case "resources", "build", "components":
		case "object":
			id = attribute(e, "id")
			if r.objects[id] != nil || id == "" {
				return fail(fmt.Errorf("an object has the id %.20q, which is empty or taken", id))
			}
			name := attribute(e, "name")
			if name == "" {
				name = "Object " + id
			}
			now = &object{name: name, mesh: -1}
			r.objects[id] = now
			if err := r.limits.CheckParts(len(r.objects), 0); err != nil {
				return err
			}
			if t := attribute(e, "type"); t == "support" {
				r.left.Add("support " + name)
			}
			group = attribute(e, "pid")
			index, _ = strconv.Atoi(attribute(e, "pindex"))
		case "mesh":
			if now == nil {
				return fail(fmt.Errorf("a mesh stands outside an object"))
			}
			now.mesh, err = r.mesh(d, now.name, group, index)
		case "component":
			if now == nil {
				return fail(fmt.Errorf("a component stands outside an object"))
			}
			var c component
			if c, err = r.component(e); err == nil {
				now.components = append(now.components, c)
			}
		case "item":
			var c component
			if c, err = r.component(e); err == nil {
				r.items = append(r.items, c)
			}
		default: // of an extension, or metadata
			r.left.Add(called(e))
		}
		if err != nil {
			return fail(err)
		}
	}
}

// called is what an element that is not taken in is named by.
func called(e xml.StartElement) string {
	if name := attribute(e, "name"); name != "" {
		return e.Name.Local + " " + name
	}
	return "element " + e.Name.Local
}

func (r *reader) component(e xml.StartElement) (component, error) {
	c := component{id: attribute(e, "objectid"), at: geom.Identity, part: attribute(e, "partnumber")}
	text := strings.Fields(attribute(e, "transform"))
	if len(text) == 0 {
		return c, nil
	}
	if len(text) != 12 {
		return c, fmt.Errorf("a transform has %d numbers, not 12", len(text))
	}
	for i, t := range text { // row vectors: four rows of three (3.3)
		v, err := strconv.ParseFloat(t, 64)
		if err != nil {
			return c, fmt.Errorf("%.20q is not a number", t)
		}
		c.at[4*(i/3)+i%3] = v
	}
	for k := 12; k < 15; k++ {
		c.at[k] *= r.factor
	}
	return c, nil
}

// material adds a material of a display colour: #RRGGBB or #RRGGBBAA in sRGB.
func (r *reader) material(group string, index int, name, text string) error {
	m := material.Default()
	m.Name = name
	hex, err := strconv.ParseUint(strings.TrimPrefix(text, "#"), 16, 64)
	digits := len(strings.TrimPrefix(text, "#"))
	if text != "" && (err != nil || digits != 6 && digits != 8) {
		return fmt.Errorf("%.20q is not a colour", text)
	}
	if text != "" {
		if digits == 6 {
			hex = hex<<8 | 255
		}
		for k := range 3 {
			m.BaseColor[k] = color.FromSRGB(float64(hex>>(24-8*k)&255) / 255)
		}
		if m.BaseColor[3] = float64(hex&255) / 255; m.BaseColor[3] < 1 {
			m.Alpha = material.Blend
		}
	}
	r.palette[[2]string{group, strconv.Itoa(index)}] = len(r.out.Materials)
	r.out.Materials = append(r.out.Materials, m)
	return r.limits.CheckParts(0, len(r.out.Materials))
}

// mesh reads the vertices and triangles of an object. Triangles are split by material.
func (r *reader) mesh(d *xml.Decoder, name, group string, index int) (int, error) {
	var positions [][3]float32
	builders := map[int]*mesh.Mesh{}
	var order []int
	whole := r.lookup(group, strconv.Itoa(index))
	for {
		tok, err := d.Token()
		if err != nil {
			return 0, err
		}
		if e, ok := tok.(xml.EndElement); ok && e.Name.Local == "mesh" {
			break
		}
		e, ok := tok.(xml.StartElement)
		if !ok {
			continue
		}
		switch e.Name.Local {
		case "vertex":
			var p [3]float32
			for k, n := range []string{"x", "y", "z"} {
				v, err := strconv.ParseFloat(attribute(e, n), 64)
				if err != nil {
					return 0, fmt.Errorf("a vertex has the %s %.20q", n, attribute(e, n))
				}
				p[k] = float32(v * r.factor)
			}
			if !geom.V3(p).Finite() {
				return 0, fmt.Errorf("vertex %d is not a number", len(positions))
			}
			positions = append(positions, p)
		case "triangle":
			var t [3]uint32
			for k, n := range []string{"v1", "v2", "v3"} {
				v, err := strconv.ParseUint(attribute(e, n), 10, 32)
				if err != nil || v >= uint64(len(positions)) {
					return 0, fmt.Errorf("a triangle refers to vertex %.20q, but there are only %d", attribute(e, n), len(positions))
				}
				t[k] = uint32(v)
			}
			r.triangles++
			if err := r.limits.CheckTriangles(r.triangles); err != nil {
				return 0, err
			}
			m := whole
			if p1 := attribute(e, "p1"); p1 != "" {
				pid := attribute(e, "pid")
				if pid == "" {
					pid = group
				}
				m = r.lookup(pid, p1)
				if p2 := attribute(e, "p2"); p2 != "" && p2 != p1 {
					r.left.Add("colours blended over triangles")
				}
			}
			b := builders[m]
			if b == nil {
				b = &mesh.Mesh{}
				builders[m] = b
				order = append(order, m)
			}
			b.Indices = append(b.Indices, t[:]...)
		case "vertices", "triangles":
		default:
			r.left.Add(called(e))
		}
	}
	out := model.Mesh{Name: name}
	for _, m := range order {
		b := builders[m]
		b.Positions = positions
		if len(order) > 1 {
			b.DropUnused()
		}
		out.Primitives = append(out.Primitives, model.Primitive{Mesh: b, Material: m})
	}
	r.out.Meshes = append(r.out.Meshes, out)
	return len(r.out.Meshes) - 1, nil
}

func (r *reader) lookup(group, index string) int {
	if m, ok := r.palette[[2]string{group, index}]; ok {
		return m
	}
	return -1
}

// place adds an object with all in it to the tree.
func (r *reader) place(c component, parent, depth int) error {
	o := r.objects[c.id]
	if o == nil {
		return fmt.Errorf("object %.20q is placed, but it is not there", c.id)
	}
	if depth > deepest {
		return fmt.Errorf("object %q holds itself, or lies more than %d levels deep", o.name, deepest)
	}
	if len(r.out.Nodes) >= maxPlaced {
		return fmt.Errorf("more than %d objects are placed", maxPlaced)
	}
	n := model.Node{Name: o.name, Parent: parent, Mesh: o.mesh}
	if c.part != "" {
		n.Name = c.part
	}
	var exact bool
	if n.Position, n.Rotation, n.Size, exact = c.at.Decompose(); !exact {
		r.out.Warnings = append(r.out.Warnings, fmt.Sprintf("%s is sheared or flattened by its matrix; it is taken without the shear", o.name))
	}
	for k, s := range n.Size {
		if s == 0 {
			n.Size[k] = 1e-6
		}
	}
	if !n.Position.Finite() || !n.Size.Finite() {
		return fmt.Errorf("the place of object %q is not a number", o.name)
	}
	if n.Mesh >= 0 && len(r.out.Meshes[n.Mesh].Primitives) == 0 {
		n.Mesh = -1
	}
	r.out.Nodes = append(r.out.Nodes, n)
	at := len(r.out.Nodes) - 1
	for _, k := range o.components {
		if err := r.place(k, at, depth+1); err != nil {
			return err
		}
	}
	return nil
}
