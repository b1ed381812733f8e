package shot

import (
	"cmp"
	"fmt"
	"math"

	"perigyre/core/color"
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
	Cutter PartKind = "cutter" // opens a window in other parts; it is not seen itself
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
	Front  geom.Vec3 `json:"front,omitzero"`   // the way that its front looks, a unit vector in its own frame; zero where nobody has said
	Hidden bool      `json:"hidden"`           // from the render, and from everything
	Away   bool      `json:"away,omitempty"`   // from the bench alone
	Set    bool      `json:"set,omitempty"`    // of the set, with all in it: the camera's fit does not keep it in the picture
	Locked bool      `json:"locked,omitempty"` // cannot be moved, turned or resized by hand
	Tag    string    `json:"tag,omitempty"`    // a colour to find it by
	Moves  []Move    `json:"moves"`            // composed from first to last
	Tracks []Track   `json:"tracks,omitempty"` // pins, which act before the moves

	Mesh      *MeshRef   `json:"mesh,omitempty"`
	Skin      *Skin      `json:"skin,omitempty"`
	Morphs    []Morph    `json:"morphs,omitempty"`    // shapes of the mesh, in its order
	Clips     []Clip     `json:"clips,omitempty"`     // of a group
	Materials []string   `json:"materials,omitempty"` // one material id for each primitive of the mesh, one for a plinth
	Plinth    *Disc      `json:"plinth,omitempty"`
	Camera    *Lens      `json:"camera,omitempty"`
	Light     *LightSpec `json:"light,omitempty"`

	Shape  *mesh.Shape `json:"shape,omitempty"`
	Copies *Spread     `json:"copies,omitempty"`
	Cut    *Cut        `json:"cut,omitempty"`
	Mark   *Mark       `json:"mark,omitempty"`   // of a group: what its parts are made from
	Fade   *float64    `json:"fade,omitempty"`   // of a floor that only receives shadow: the share of the picture's shorter side over which the shadow fades out before the edge; UsualFade where it is null
	Ground float64     `json:"ground,omitempty"` // of a floor: the side of the square that is seen, metres; 0 for one that only receives shadow
}

// UsualFade is how far from the picture's edge a floor's shadow fades out, so that no comp shows a cut edge.
const UsualFade = 0.1

// Fades returns how far from the picture's edge the shadow on a floor fades out.
func (p *Part) Fades() float64 {
	if p.Fade != nil {
		return *p.Fade
	}
	return UsualFade
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
	if p.Ground > 0 {
		return &mesh.Shape{Kind: mesh.PlaneShape, Size: geom.Vec3{p.Ground, 0, p.Ground}}
	}
	return p.Shape
}

// Cut is what a cutter takes away, about its part's origin, and from what.
type Cut struct {
	Shape  string      `json:"shape"`            // slab, box, cylinder, sphere or part
	Size   geom.Vec3   `json:"size"`             // of a box; of a slab y alone, which is its thickness; of a cylinder y, which is its height
	Radius float64     `json:"radius,omitempty"` // of a cylinder or sphere; of a box's rounded edges
	Of     string      `json:"of,omitempty"`     // the closed part, best hidden, whose meshes are the cutter
	Parts  []string    `json:"parts"`            // what is cut, with all in it; everything where it is empty
	Color  *[3]float64 `json:"color,omitempty"`  // of the cut faces, scene-linear; null for that of the part
}

func (c *Cut) validate() error {
	for _, v := range c.Size {
		if !finite(v) || v < 0 {
			return fmt.Errorf("a cutter's size is not below 0")
		}
	}
	if !finite(c.Radius) || c.Radius < 0 {
		return fmt.Errorf("a cutter's radius is not below 0")
	}
	ok := false
	switch c.Shape {
	case "slab":
		ok = c.Size[1] > 0
	case "box":
		least := math.Min(c.Size[0], math.Min(c.Size[1], c.Size[2]))
		ok = least > 0 && 2*c.Radius <= least
	case "cylinder":
		ok = c.Size[1] > 0 && c.Radius > 0
	case "sphere":
		ok = c.Radius > 0
	case "part":
		ok = c.Of != ""
	default:
		return fmt.Errorf("a cutter is a slab, box, cylinder, sphere or part, not %q", c.Shape)
	}
	if !ok {
		return fmt.Errorf("the %s of a cutter has measures of more than 0, and rounded edges that fit", c.Shape)
	}
	return nil
}

// SpreadKind names how copies are laid out.
type SpreadKind string

const (
	Row     SpreadKind = "row"
	Grid    SpreadKind = "grid"
	Ring    SpreadKind = "ring"
	Along   SpreadKind = "path"
	Scatter SpreadKind = "scatter"
	Surface SpreadKind = "surface" // scattered on another part
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
	On     string      `json:"on,omitempty"`     // the part whose surface copies are scattered on
	Apart  float64     `json:"apart,omitempty"`  // least distance between scattered copies
	Seed   uint64      `json:"seed,omitempty"`
	Turn   float64     `json:"turn,omitempty"`   // most random turn about the upright axis, radians either way
	Vary   float64     `json:"vary,omitempty"`   // most random change of size, as a share either way
	Rise   float64     `json:"rise,omitempty"`   // most random height over where a copy stands, metres
	Middle bool        `json:"middle,omitempty"` // a row or grid lies about the part instead of beginning at it
	Every  int         `json:"every,omitempty"`  // each k-th copy is turned by Flip; 0 for none
	Flip   float64     `json:"flip,omitempty"`   // radians about the upright axis
	Delay  float64     `json:"delay,omitempty"`  // frames by which each copy is later than the one before
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
	Focal        float64   `json:"focal"`              // mm
	SensorWidth  float64   `json:"sensorWidth"`        // mm
	SensorHeight float64   `json:"sensorHeight"`       // mm
	Sensor       SensorFit `json:"sensor"`             // which side of the format the sensor is fitted to
	Margin       float64   `json:"margin"`             // kept clear on every side at every frame, percent of the format
	Shutter      float64   `json:"shutter,omitempty"`  // degrees for which it is open, of 360 for a frame's time; 0 for an instant
	FNumber      float64   `json:"fNumber,omitempty"`  // 0 for a pinhole, with everything sharp
	Focus        float64   `json:"focus,omitempty"`    // distance along the view that is sharp, metres; with FocusOn, beyond that part
	FocusOn      string    `json:"focusOn,omitempty"`  // the part whose pivot is sharp
	Blades       int       `json:"blades,omitempty"`   // of the aperture; 0 for a round one
	Exposure     float64   `json:"exposure,omitempty"` // stops
	ShiftX       float64   `json:"shiftX,omitempty"`   // of the sensor's middle to the right and up, mm: the picture moves, lines stay parallel
	ShiftY       float64   `json:"shiftY,omitempty"`
	Across       float64   `json:"across,omitempty"` // of an orthographic camera: metres that the picture is wide; 0 for one with perspective
	Fitted       bool      `json:"fitted"`           // placed by the exact fit after every edit
	Offset       geom.Vec3 `json:"offset,omitzero"`  // right, up and back, metres, in its own axes after its moves: what the fit gives a camera that moves
}

// SensorFit says which side of the format takes the whole side of the sensor.
type SensorFit string

const (
	FitWidth  SensorFit = "width"
	FitHeight SensorFit = "height"
	FitLonger SensorFit = "longer"
)

// LightKind names a kind of light.
type LightKind string

const (
	Softbox LightKind = ""     // a rectangle that gives light from its front
	Round   LightKind = "disc" // a round softbox
	Bulb    LightKind = "bulb" // a sphere
	Spot    LightKind = "spot" // a sphere that gives light in a cone
	Sun     LightKind = "sun"  // a disc in the sky; where it stands does not matter
)

// SunAcross is how large the sun is seen from the earth, radians (IAU 2015 Resolution B3: 695,700 km at 149,597,870.7 km).
const SunAcross = 0.0093

// LightWords name a kind of light.
type LightWords struct {
	Kind LightKind `json:"kind"`
	Name string    `json:"name"`
}

// LightKinds are all there are.
var LightKinds = []LightWords{{Softbox, "softbox"}, {Round, "disc"}, {Bulb, "bulb"}, {Spot, "spot"}, {Sun, "sun"}}

// LightSpec is a light. Softboxes, discs, spots and suns shine along their part's -z.
type LightSpec struct {
	Kind     LightKind  `json:"kind,omitempty"`
	Width    float64    `json:"width,omitempty"` // of a softbox
	Height   float64    `json:"height,omitempty"`
	Radius   float64    `json:"radius,omitempty"` // of a disc, bulb or spot
	Inner    float64    `json:"inner,omitempty"`  // of a spot: half angles in radians up to which its light is full
	Outer    float64    `json:"outer,omitempty"`  // and beyond which there is none
	Angle    float64    `json:"angle,omitempty"`  // across a sun, as seen; radians
	Color    [3]float64 `json:"color"`
	Strength float64    `json:"strength"` // radiance, in units where the environment's colours are radiance too

	Temperature float64 `json:"temperature,omitempty"` // kelvin that the colour follows from; 0 for a colour by itself

	Aim string `json:"aim,omitempty"` // the part that it stands about, whose middle its bearing and distance are from; all that is seen where it is empty
	Rig string `json:"rig,omitempty"` // the rig that it came with
}

// Settle works out the colour of a light with a temperature, and gives a light that has become one of another kind the
// measures that it lacks: as large across as it was.
func (l *LightSpec) Settle() {
	across := cmp.Or(l.Width, 2*l.Radius, 0.2)
	switch l.Kind {
	case Softbox:
		l.Width, l.Height = cmp.Or(l.Width, across), cmp.Or(l.Height, across)
	case Sun:
		l.Angle = cmp.Or(l.Angle, SunAcross)
	default:
		l.Radius = cmp.Or(l.Radius, across/2)
	}
	if l.Kind == Spot && l.Outer == 0 {
		l.Inner, l.Outer = 0.3, 0.5
	}
	if l.Temperature > 0 {
		l.Color = color.OfTemperature(l.Temperature)
	}
}

func (l *LightSpec) validate() error {
	if !within(0, 1e12, l.Width, l.Height, l.Radius, l.Inner, l.Outer, l.Angle) || !within(0, MaxRadiance, l.Strength) || !within(0, MaxRadiance, l.Color[:]...) {
		return fmt.Errorf("a light's measures, colour and strength are not below 0, and its strength at most %g", MaxRadiance)
	}
	if l.Temperature != 0 && !(l.Temperature >= color.Coldest && l.Temperature <= color.Hottest) {
		return fmt.Errorf("a colour temperature is from %g to %g K", color.Coldest, color.Hottest)
	}
	switch {
	case l.Kind == Softbox && (l.Width == 0 || l.Height == 0):
		return fmt.Errorf("a softbox has a width and height of more than 0")
	case (l.Kind == Bulb || l.Kind == Spot || l.Kind == Round) && l.Radius == 0:
		return fmt.Errorf("a %s has a radius of more than 0", l.Kind)
	case l.Kind == Spot && !(l.Inner <= l.Outer && l.Outer > 0 && l.Outer <= math.Pi/2):
		return fmt.Errorf("a spot's full cone lies inside its whole cone, of at most 90 degrees to the side")
	case l.Kind == Sun && !(l.Angle > 0 && l.Angle < math.Pi/2):
		return fmt.Errorf("a sun is more than 0 and less than 90 degrees across")
	case l.Kind != Softbox && l.Kind != Round && l.Kind != Bulb && l.Kind != Spot && l.Kind != Sun:
		return fmt.Errorf("a light is a softbox, disc, bulb, spot or sun, not %q", l.Kind)
	}
	return nil
}
