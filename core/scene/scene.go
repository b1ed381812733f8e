// Package scene says what a picture of one moment depends on, resolved: placed meshes by the content they have, materials as
// they are worn, lights, sky, floor, cutters and the camera. It is plain values. The renderer draws it and knows nothing
// else, and its fingerprint is the hash of it: what is not in it cannot be drawn.
//
// Lengths are metres of the room, angles radians, colours scene-linear with Rec. 709 primaries unless a field says otherwise.
package scene

import (
	"reflect"
	"slices"

	"perigyre/core/color"
	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/shot"
)

// Scene is one moment of a shot, ready to be drawn.
type Scene struct {
	Bodies   []Body     // solids, in the order in which they are drawn
	Floor    *float64   // height of the floor that receives shadow and is not seen, or nil
	Fade     float64    // share of the picture's shorter side over which the shadow on that floor comes in from the edges
	Lights   []Light    // those that are on
	Sky      Sky        // light from all sides
	Cutters  []Cutter   // what opens windows in bodies
	Camera   *Camera    // nil where there is none
	Guides   []Guide    // lines to where parts sit, of pictures that show them or have a pass of them
	Labels   []Label    // of parts that are taken apart, likewise
	View     color.View // view transform of files that have no scene-linear light
	Mattes   []Matte    // of passes that show which part is which; else none
	Interval float64    // frames between before and after, of passes that show where things go; else 0
}

// Matte is what a part is called in passes that show which part is which.
type Matte struct {
	Number int // of the part in the document, from 1
	Name   string
}

// Mesh names what a body or a cutter is made of: a mesh of a stored model, or a shape by its measures.
type Mesh struct {
	Asset string      `json:",omitempty"` // content hash of the model
	Index int         `json:",omitempty"`
	Shape *mesh.Shape `json:",omitempty"`
}

// Body is a solid as it is placed once. All its surfaces together have an inside.
type Body struct {
	Mesh     Mesh
	Surfaces []Surface   // one for each primitive of the mesh; others are plain
	At       geom.Mat4   // from its own frame to the room
	Keys     []geom.Mat4 // where it is at times even over the shutter's, none where it stands still
	Flesh    *Flesh      // how its mesh hangs on bones and is mixed with shapes; nil where it does neither
	Bends    []Bend      // what deforms its mesh after that, one after another
	Before   geom.Mat4   // where it was and will be, over the Interval
	After    geom.Mat4
	Matte    int // index into Mattes, -1 for none
}

// Guide is a line in the room from where a part sits to where it is, along the ways that it has gone.
type Guide struct {
	Points []geom.Vec3
	Drawn  bool // in the picture too
}

// Label is a line of text in the picture with its leader line, laid out.
type Label = framing.Label

// Surface is a material as it is worn at the moment.
type Surface struct {
	material.Material         // without id and name
	Opacity           float64 // share of it that has not faded away
}

// Flesh is how a body's mesh is posed by bones and shapes.
type Flesh struct {
	Now           mesh.Flesh
	Keys          []mesh.Flesh // in the middle of equal parts of the shutter's time, none where it stays
	Before, After *mesh.Flesh  // over the Interval; nil where nobody asks
}

// Bend is a deformation of a body's mesh at the moment.
type Bend struct {
	mesh.Bend           // what it is, where it is not a cage
	In, Out   geom.Mat4 // from the frame of the mesh to that of the deformation, and back
	Now       Bent
	Keys      []Bent // in the middle of equal parts of the shutter's time, none where it stays
	Before    Bent   // over the Interval
	After     Bent
}

// Bent is how far a deformation has come.
type Bent struct {
	Angle float64
	Cage  *mesh.Cage // nil for a bend or twist
}

// Kinds of lights.
const (
	Softbox = shot.Softbox
	Round   = shot.Round
	Bulb    = shot.Bulb
	Spot    = shot.Spot
	Sun     = shot.Sun
)

// Light is a light that is on.
type Light struct {
	Kind          shot.LightKind
	Width, Height float64 // of a softbox
	Radius        float64 // of a disc, bulb or spot
	Inner, Outer  float64 // of a spot: half angles
	Angle         float64 // that a sun is across
	Color         [3]float64
	Strength      float64
	At            geom.Mat4
	Keys          []geom.Mat4 // at times even over the shutter's; none where no light moves
}

// Sky is light from all sides: three colours, or a picture.
type Sky struct {
	Zenith, Horizon, Ground [3]float64
	Strength                float64
	Picture                 string    // content hash, or empty
	Rotation                geom.Quat // from its own frame, in which it is upright, to the room
	Seen                    bool      // behind everything
}

// Cutter takes away what of some bodies lies in it.
type Cutter struct {
	Shape  string // slab, box, cylinder, sphere or part
	Size   geom.Vec3
	Radius float64
	Color  *[3]float64 // of the cut faces; nil for that of the body
	At     geom.Mat4
	Of     []Placed // of a part: the closed meshes that cut
	Bodies []bool   // which of the scene's are cut
}

// Placed is a mesh at a place.
type Placed struct {
	Mesh Mesh
	At   geom.Mat4
}

// Camera is a camera with its lens, at the moment.
type Camera struct {
	At            geom.Mat4
	Keys          []geom.Mat4 // at times even over the shutter's; none where it stands still
	Before, After geom.Mat4   // over the Interval
	Width, Height float64     // half the picture at a distance of 1, or of an orthographic camera at any
	X, Y          float64     // of the picture's middle, as the lens is shifted
	Flat          bool        // orthographic
	Gain          float64     // of the exposure
	Aperture      float64     // radius of the opening, metres; 0 for a pinhole
	Blades        int         // of the opening; below 3 it is round
	Focus         float64     // distance along the view axis that is sharp; with FocusOn, beyond that point
	FocusOn       *geom.Vec3  // in the room
}

// Moving reports whether something moves while the shutter is open.
func (s *Scene) Moving() bool {
	if s.Camera != nil && len(s.Camera.Keys) > 0 {
		return true
	}
	for i := range s.Lights {
		if len(s.Lights[i].Keys) > 0 {
			return true
		}
	}
	for i := range s.Bodies {
		if len(s.Bodies[i].Keys) > 0 {
			return true
		}
		if s.Bodies[i].SoftKeys() > 0 {
			return true
		}
	}
	return false
}

// Point returns where a point of a body's mesh goes by its bends, as far as they have come when it is asked for.
func (b *Body) Point(p geom.Vec3, when func(d *Bend) *Bent) geom.Vec3 {
	for i := range b.Bends {
		d := &b.Bends[i]
		now := when(d)
		p = d.In.Point(p)
		if now.Cage != nil {
			p = now.Cage.Point(p)
		} else {
			p = d.Bend.Point(now.Angle, p)
		}
		p = d.Out.Point(p)
	}
	return p
}

// Now returns where a point of a body's mesh goes by its bends as they are at the moment.
func (b *Body) Now(p geom.Vec3) geom.Vec3 {
	return b.Point(p, func(d *Bend) *Bent { return &d.Now })
}

// Soft reports whether the body's surface is not its mesh as it is at rest.
func (b *Body) Soft() bool { return b.Flesh != nil || len(b.Bends) > 0 }

// LiesAs reports whether the mesh of a body lies as that of another, which is of the same mesh: bent and posed alike.
func (b *Body) LiesAs(o *Body) bool {
	if (b.Flesh == nil) != (o.Flesh == nil) || b.Flesh != nil && !reflect.DeepEqual(b.Flesh.Now, o.Flesh.Now) {
		return false
	}
	return slices.EqualFunc(b.Bends, o.Bends, func(x, y Bend) bool {
		return x.In == y.In && x.Out == y.Out && reflect.DeepEqual(x.Bend, y.Bend) && reflect.DeepEqual(x.Now, y.Now)
	})
}

// SoftKeys returns how many times of the shutter a body's mesh is posed and bent for, as something to range over; 0 where it stays.
func (b *Body) SoftKeys() int {
	if b.Flesh != nil && len(b.Flesh.Keys) > 0 {
		return len(b.Flesh.Keys)
	}
	for i := range b.Bends {
		if n := len(b.Bends[i].Keys); n > 0 {
			return n
		}
	}
	return 0
}

// Key returns the pose at one of the shutter's times.
func (f *Flesh) Key(k int) *mesh.Flesh {
	if k < len(f.Keys) {
		return &f.Keys[k]
	}
	return &f.Now
}

// Key returns how far it has come at one of the shutter's times.
func (d *Bend) Key(k int) *Bent {
	if k < len(d.Keys) {
		return &d.Keys[k]
	}
	return &d.Now
}
