package shot

import (
	"perigyre/core/geom"
	"perigyre/core/mesh"
)

// PartKind says what a part is.
type PartKind string

const (
	Group  PartKind = "group"
	Solid  PartKind = "solid" // a mesh of an asset
	Plinth PartKind = "plinth"
	Floor  PartKind = "floor" // receives shadow, is not seen itself
	Camera PartKind = "camera"
	Light  PartKind = "light"
	Made   PartKind = "shape"  // a shape by its measures
	Copies PartKind = "copies" // another part, many times
)

// Part is anything with a place in the shot. The field that its kind names is set, the others of
// that set are null.
type Part struct {
	ID     string   `json:"id"`
	Name   string   `json:"name"`
	Parent string   `json:"parent"` // id, or empty for the room
	Kind   PartKind `json:"kind"`

	Rest   Rest      `json:"rest"`
	Pivot  geom.Vec3 `json:"pivot"`            // what the part turns and resizes about, in its own frame
	Hidden bool      `json:"hidden"`           // from the render, and from everything
	Away   bool      `json:"away,omitempty"`   // from the bench alone
	Locked bool      `json:"locked,omitempty"` // cannot be moved, turned or resized by hand
	Tag    string    `json:"tag,omitempty"`    // a colour to find it by
	Moves  []Move    `json:"moves"`            // composed from first to last

	Mesh      *MeshRef   `json:"mesh,omitempty"`
	Materials []string   `json:"materials,omitempty"` // one material id for each primitive of the mesh, one for a plinth
	Plinth    *Disc      `json:"plinth,omitempty"`
	Camera    *Lens      `json:"camera,omitempty"`
	Light     *LightSpec `json:"light,omitempty"`

	Shape  *mesh.Shape `json:"shape,omitempty"`
	Copies *Spread     `json:"copies,omitempty"`
	Mark   *Mark       `json:"mark,omitempty"` // of a group: what its parts are made from
}

// Shaped returns the shape of a part that is made from measures, a plinth's disc too, or nil.
func (p *Part) Shaped() *mesh.Shape {
	if d := p.Plinth; d != nil {
		switch d.Form {
		case "stepped disc":
			return &mesh.Shape{Kind: mesh.SteppedShape, Radius: d.Radius, Height: d.Height, Bevel: d.Bevel, Sides: 128}
		case "slab":
			return &mesh.Shape{Kind: mesh.SlabShape, Size: geom.Vec3{2 * d.Radius, d.Height, 2 * d.Radius}, Bevel: d.Bevel}
		case "column":
			return &mesh.Shape{Kind: mesh.ColumnShape, Radius: d.Radius, Height: d.Height, Bevel: d.Bevel, Sides: 128}
		}
		return &mesh.Shape{Kind: mesh.CylinderShape, Radius: d.Radius, Height: d.Height, Bevel: d.Bevel, Sides: 128}
	}
	return p.Shape
}

// SpreadKind names how copies are laid out.
type SpreadKind string

const (
	Row     SpreadKind = "row"
	Grid    SpreadKind = "grid"
	Ring    SpreadKind = "ring"
	Along   SpreadKind = "path"
	Scatter SpreadKind = "scatter"
)

// Spread lays a part out many times. The copies are linked to it: they change as it changes.
type Spread struct {
	Of     string      `json:"of"` // the part that is copied, with all in it
	Kind   SpreadKind  `json:"kind"`
	Count  [3]int      `json:"count"`            // of a grid along x, y and z; of the others the first alone
	Step   geom.Vec3   `json:"step"`             // of a row from one to the next; of a grid along each axis
	Radius float64     `json:"radius,omitempty"` // of a ring
	Sweep  float64     `json:"sweep,omitempty"`  // of a ring, radians; 0 for the whole circle
	Face   bool        `json:"face,omitempty"`   // copies turn along with the ring or the path
	Path   []geom.Vec3 `json:"path,omitempty"`   // corners that copies are spaced along evenly
	Area   geom.Vec2   `json:"area,omitzero"`    // width and depth of a scatter
	Apart  float64     `json:"apart,omitempty"`  // least distance between scattered copies
	Seed   uint64      `json:"seed,omitempty"`
	Turn   float64     `json:"turn,omitempty"`  // most random turn about the upright axis, radians either way
	Vary   float64     `json:"vary,omitempty"`  // most random change of size, as a share either way
	Every  int         `json:"every,omitempty"` // each k-th copy is turned by Flip; 0 for none
	Flip   float64     `json:"flip,omitempty"`  // radians about the upright axis
	Delay  float64     `json:"delay,omitempty"` // frames by which each copy is later than the one before
}

// MeshRef names a mesh of an asset.
type MeshRef struct {
	Asset string `json:"asset"` // content hash
	Mesh  int    `json:"mesh"`
}

// Disc is a plinth whose upper face is at its part's origin plus height.
type Disc struct {
	Radius float64 `json:"radius"`
	Height float64 `json:"height"`
	Bevel  float64 `json:"bevel"`          // radius of the upper edge
	Form   string  `json:"form,omitempty"` // disc if empty; stepped disc, slab or column
}

// Lens is a pinhole camera that looks along its part's -z with +y up.
type Lens struct {
	Focal        float64   `json:"focal"`        // mm
	SensorWidth  float64   `json:"sensorWidth"`  // mm
	SensorHeight float64   `json:"sensorHeight"` // mm
	Sensor       SensorFit `json:"sensor"`       // which side of the format the sensor is fitted to
	Margin       float64   `json:"margin"`       // kept clear on every side at every frame, percent of the format
	Fitted       bool      `json:"fitted"`       // placed by the exact fit after every edit
}

// SensorFit says which side of the format takes the whole side of the sensor.
type SensorFit string

const (
	FitWidth  SensorFit = "width"
	FitHeight SensorFit = "height"
	FitLonger SensorFit = "longer"
)

// LightSpec is a softbox: a rectangle that gives light from its front, which looks along its part's -z.
type LightSpec struct {
	Width    float64    `json:"width"`
	Height   float64    `json:"height"`
	Color    [3]float64 `json:"color"`
	Strength float64    `json:"strength"` // radiance, in units where the environment's colours are radiance too
}
