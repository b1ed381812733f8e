// Package shot is the document: one animation with its parts, moves, camera, light and format. Lengths are metres of the
// room, angles radians, times frames, colours scene-linear Rec. 709, quaternions [x y z w], as in glTF 2.0, unless a field
// says otherwise; a rest pose is in the frame and the unit of what the part is in.
package shot

import (
	"math"

	"perigyre/core/color"
	"perigyre/core/geom"
	"perigyre/core/material"
)

// Schema names the version of the document.
const Schema = "perigyre/shot/2"

// Shot is one animation.
type Shot struct {
	Schema string `json:"schema"`
	Name   string `json:"name"`

	Frames int    `json:"frames"` // length N; a loop renders 0 to N-1, and frame N is frame 0
	Rate   Rate   `json:"rate"`
	Ending Ending `json:"ending"`

	Format      Format      `json:"format"`
	View        color.View  `json:"view"` // view transform
	Environment Environment `json:"environment"`
	Backdrop    *[3]float64 `json:"backdrop"`              // sRGB colour, 0 to 1, or null for transparent
	BackdropLow *[3]float64 `json:"backdropLow,omitempty"` // the colour that it runs to at the lower edge, or null for one colour
	Vignette    float64     `json:"vignette,omitempty"`    // how much darker the backdrop is in the corners, 0 to 1
	Camera      string      `json:"camera"`                // the camera part that is rendered, or empty

	Parts     []Part              `json:"parts"` // parents stand before their children
	Materials []material.Material `json:"materials"`
	Sources   []Source            `json:"sources"` // the imports that its parts came from
	Finishes  []Finish            `json:"finishes,omitempty"`
	Angles    []Angle             `json:"angles,omitempty"`   // views that were kept, in their order
	Rigs      []Rig               `json:"rigs,omitempty"`     // that were kept from what was built
	Accepted  []Accepted          `json:"accepted,omitempty"` // what was found and is to stay
	Finish    string              `json:"finish,omitempty"`   // the finish that is shown, or empty for none
	Clay      bool                `json:"clay,omitempty"`     // everything in one plain grey, to judge form and motion by
}

// Rate is frames per second as an exact fraction.
type Rate struct {
	Num int `json:"num"`
	Den int `json:"den"`
}

// PerSecond returns the rate as a number.
func (r Rate) PerSecond() float64 { return float64(r.Num) / float64(r.Den) }

// Ending says what lies after the last frame.
type Ending string

const (
	Loop Ending = "loop" // the first frame again
	Once Ending = "once" // nothing: the end is reached on the last frame
)

// Format is the size of the picture in pixels.
type Format struct {
	Width  int `json:"width"`
	Height int `json:"height"`
}

// Environment is a sky of three colours that lights the set from all sides.
type Environment struct {
	Zenith   [3]float64 `json:"zenith"`   // straight up
	Horizon  [3]float64 `json:"horizon"`  // level
	Ground   [3]float64 `json:"ground"`   // straight down
	Strength float64    `json:"strength"` // factor on all three, or on the picture

	Picture string  `json:"picture,omitempty"` // content hash of a picture of the surroundings, which takes the place of the three
	Name    string  `json:"name,omitempty"`    // of its file
	Turn    float64 `json:"turn,omitempty"`    // radians that it is turned by about the upright
	Raised  float64 `json:"raised,omitempty"`  // radians that what is in front of it is tipped up by
	Bound   string  `json:"bound,omitempty"`   // the part or camera that it turns with; the room where it is empty
	Seen    bool    `json:"seen,omitempty"`    // behind everything; it gives light in either case
}

// Source records an import.
type Source struct {
	Asset string `json:"asset"` // content hash of the stored GLB
	File  string `json:"file"`  // name of the file that was brought in
	Root  string `json:"root"`  // the part that holds all of it
	Unit  string `json:"unit"`  // "m", "cm", "mm", "in" or "ft": what one unit of the file is taken for
	Up    string `json:"up"`    // "y" or "z": the axis of the file that is upright
}

// Units gives the length of each unit in metres.
var Units = map[string]float64{"m": 1, "cm": 0.01, "mm": 0.001, "in": 0.0254, "ft": 0.3048}

// Uprights gives the rotation that brings a file's upright axis to y. Sources of documents that do not
// say are upright in y.
var Uprights = map[string]geom.Quat{"": geom.NoTurn, "y": geom.NoTurn, "z": geom.AxisAngle(geom.Vec3{1, 0, 0}, -math.Pi/2)}

// Part returns the part with this id, or nil.
func (s *Shot) Part(id string) *Part {
	if i := s.Index(id); i >= 0 {
		return &s.Parts[i]
	}
	return nil
}

// Index returns the place of the part with this id in Parts, or -1.
func (s *Shot) Index(id string) int {
	for i := range s.Parts {
		if s.Parts[i].ID == id {
			return i
		}
	}
	return -1
}

// Move returns the move with this id and the part it is on, or nils.
func (s *Shot) Move(id string) (*Part, *Move) {
	for i := range s.Parts {
		for j := range s.Parts[i].Moves {
			if s.Parts[i].Moves[j].ID == id {
				return &s.Parts[i], &s.Parts[i].Moves[j]
			}
		}
	}
	return nil, nil
}

// Within reports whether the part with index i is the part with index root or lies below it.
func (s *Shot) Within(i, root int) bool {
	for i >= 0 && i != root {
		i = s.Index(s.Parts[i].Parent)
	}
	return i == root
}

// New returns an empty shot: a four-second loop at 24 frames a second, square.
func New(name string) *Shot {
	return &Shot{
		Schema: Schema, Name: name,
		Frames: 96, Rate: Rate{24, 1}, Ending: Loop,
		Format: Format{1080, 1080}, View: color.Plain,
		Environment: Environment{
			Zenith: [3]float64{0.86, 0.92, 1}, Horizon: [3]float64{0.55, 0.56, 0.58}, Ground: [3]float64{0.2, 0.19, 0.18}, Strength: 0.8,
		},
		Parts: []Part{}, Materials: []material.Material{}, Sources: []Source{},
	}
}

// Rest is the pose of a part before any move.
type Rest struct {
	Position geom.Vec3 `json:"position"` // of the part's origin in its parent's frame
	Rotation geom.Quat `json:"rotation"`
	Size     geom.Vec3 `json:"size"`
}

// AtRest is the pose that changes nothing.
var AtRest = Rest{Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}
