package shot

import "perigyre/core/geom"

// PartKind says what a part is.
type PartKind string

const (
	Group  PartKind = "group"
	Solid  PartKind = "solid" // a mesh of an asset
	Plinth PartKind = "plinth"
	Floor  PartKind = "floor" // receives shadow, is not seen itself
	Camera PartKind = "camera"
	Light  PartKind = "light"
)

// Part is anything with a place in the shot. The field that its kind names is set, the others of
// that set are null.
type Part struct {
	ID     string   `json:"id"`
	Name   string   `json:"name"`
	Parent string   `json:"parent"` // id, or empty for the room
	Kind   PartKind `json:"kind"`

	Rest   Rest      `json:"rest"`
	Pivot  geom.Vec3 `json:"pivot"` // what the part turns and resizes about, in its own frame
	Hidden bool      `json:"hidden"`
	Moves  []Move    `json:"moves"` // composed from first to last

	Mesh      *MeshRef   `json:"mesh,omitempty"`
	Materials []string   `json:"materials,omitempty"` // one material id for each primitive of the mesh, one for a plinth
	Plinth    *Disc      `json:"plinth,omitempty"`
	Camera    *Lens      `json:"camera,omitempty"`
	Light     *LightSpec `json:"light,omitempty"`
}

// MeshRef names a mesh of an asset.
type MeshRef struct {
	Asset string `json:"asset"` // content hash
	Mesh  int    `json:"mesh"`
}

// Disc is a round plinth whose upper face is at its part's origin plus height.
type Disc struct {
	Radius float64 `json:"radius"`
	Height float64 `json:"height"`
	Bevel  float64 `json:"bevel"` // radius of the upper edge
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
