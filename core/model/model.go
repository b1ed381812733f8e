// Package model holds a model as it arrives from a file: nodes, meshes, materials and pictures,
// whatever the format it came in. Every reader returns one and the GLB writer takes one.
package model

import (
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
)

// Model is the content of one file.
type Model struct {
	Unit       string // the file's unit: "m", "mm", ... or "" where the format has none
	Up         string // the file's upright axis, "y" or "z", or "" where the format does not say
	Nodes      []Node // parents stand before their children
	Meshes     []Mesh
	Materials  []material.Material
	Images     []Image
	LeftOut    []string // what the file holds that is not taken in, by name
	Missing    []string // files that it refers to and that did not come with it
	Warnings   []string
	Animations []Animation
	Skins      []Skin
	Variants   []string // names of sets of materials; each primitive's Dressed has one for each
	Spare      []Image  // pictures that came along and that the file does not refer to, not decoded
	Drawing    []byte   // the SVG that the model is a solid of, or nil
}

// Node is a place in the tree.
type Node struct {
	Name     string
	Parent   int // index of the parent node, -1 for a root
	Position geom.Vec3
	Rotation geom.Quat
	Size     geom.Vec3
	Mesh     int       // index into Meshes, -1 for a group
	Skin     int       // index into Skins plus 1, 0 for none
	Weights  []float64 // of the mesh's targets; nil for those of the mesh
	Light    *Light
}

// Light is a light as glTF describes it (KHR_lights_punctual): it shines along its node's -z.
type Light struct {
	Kind         string // point, spot or directional
	Color        [3]float64
	Intensity    float64 // candela of a point or spot, lux of a directional light
	Inner, Outer float64 // half angles of a spot, radians
}

// Animation is the motion of nodes over time.
type Animation struct {
	Name     string
	Channels []Channel
}

// Channel is what one property of a node does: samples as glTF stores them (specification, 3.11 and
// Appendix C). A cubic spline has three elements for each time: tangent in, value, tangent out.
type Channel struct {
	Node          int
	Path          string // translation, rotation, scale or weights
	Interpolation string // LINEAR, STEP or CUBICSPLINE
	Times         []float32
	Values        []float32
}

// Width returns how many numbers one value of the channel has.
func (c *Channel) Width(m *Model) int {
	switch c.Path {
	case "rotation":
		return 4
	case "weights":
		return len(m.Meshes[m.Nodes[c.Node].Mesh].Targets)
	}
	return 3
}

// Skin is the bones that a mesh is bound to (3.7.3): nodes, and for each the matrix that takes the mesh's frame to that of the
// bone as both were when it was bound.
type Skin struct {
	Name    string
	Joints  []int
	Inverse []geom.Mat4
}

// Local returns the node's matrix in its parent's frame.
func (n Node) Local() geom.Mat4 { return geom.TRS(n.Position, n.Rotation, n.Size) }

// Mesh is a named set of primitives, each with one material.
type Mesh struct {
	Name       string
	Primitives []Primitive
	Targets    []string  // names of the morph targets that every primitive has
	Weights    []float64 // of the targets at rest
}

// Primitive is a triangle mesh and the index of its material, -1 for the default.
type Primitive struct {
	*mesh.Mesh
	Material int
	Dressed  []int // its material in each of the model's variants, -1 where it keeps its own; or nil
}

// Image is an encoded picture. Data is nil where the file was missing.
type Image struct {
	Name string
	MIME string // image/png or image/jpeg
	Data []byte
}

// Missing reports whether the picture's file did not come with the model.
func (i *Image) Missing() bool { return len(i.Data) == 0 }

// Worlds returns the matrix of every node in the model's frame.
func (m *Model) Worlds() []geom.Mat4 {
	w := make([]geom.Mat4, len(m.Nodes))
	for i, n := range m.Nodes {
		w[i] = n.Local()
		if n.Parent >= 0 {
			w[i] = w[n.Parent].Mul(w[i])
		}
	}
	return w
}

// Bounds returns the exact box round every point of every placed mesh, in the file's unit.
func (m *Model) Bounds() geom.Box {
	box := geom.EmptyBox()
	for i, w := range m.Worlds() {
		if k := m.Nodes[i].Mesh; k >= 0 {
			for _, p := range m.Meshes[k].Primitives {
				for _, v := range p.Positions {
					box = box.With(w.Point(geom.V3(v)))
				}
			}
		}
	}
	return box
}

// Count returns the number of placed parts with a mesh, and the triangles and vertices of all of
// them: a mesh that is placed twice counts twice.
func (m *Model) Count() (parts, triangles, vertices int) {
	for _, n := range m.Nodes {
		if n.Mesh < 0 {
			continue
		}
		parts++
		for _, p := range m.Meshes[n.Mesh].Primitives {
			triangles += p.Triangles()
			vertices += len(p.Positions)
		}
	}
	return parts, triangles, vertices
}
