package edit

import (
	"fmt"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Measured is how large a part is with all in it, and where it is turned about, on frame 0.
type Measured struct {
	Size  geom.Vec3 `json:"size"`  // width, height and depth along its own axes, metres of the room
	Pivot geom.Vec3 `json:"pivot"` // in the room
	Low   geom.Vec3 `json:"low"`   // corners of the box round it in the room
	High  geom.Vec3 `json:"high"`
	Came  geom.Vec3 `json:"came"` // its size along its own axes as a share of the one that it came with, in the unit that its file is read in
}

// Measure measures a part of a document.
func Measure(s *shot.Shot, e *pose.Evaluator, part string, env Env) (*Measured, error) {
	w := &Work{Env: env, Shot: s, before: s, index: e.Index, pose: e}
	i := w.Index().Part(part)
	if i < 0 {
		return nil, ErrGone
	}
	own, err := w.ownBox(i)
	if err != nil {
		return nil, err
	}
	room, err := w.bounds(i)
	if err != nil {
		return nil, err
	}
	came := s.Parts[i].Rest.Size
	for _, src := range s.Sources {
		if src.Root == part {
			came = came.Mul(1 / shot.Units[src.Unit])
		}
	}
	return &Measured{own.Size(), w.World()[i].Point(s.Parts[i].Pivot), room.Min, room.Max, came}, nil
}

// ownBox is the box round a part with all in it, along its own axes, in metres of the room.
func (w *Work) ownBox(i int) (geom.Box, error) {
	reach, err := w.reach(i)
	if err != nil {
		return geom.Box{}, err
	}
	_, turn, _, _ := w.World()[i].Decompose()
	return reach.In(geom.TRS(geom.Vec3{}, turn.Inverse(), geom.Vec3{1, 1, 1})).Bounds(), nil
}

// SetSize makes parts so wide, high or deep, along their own axes, about their pivots: by a measure in metres or by a factor,
// along one axis or with their proportions; at rest, or by pins on a frame.
type SetSize struct {
	Parts  []string `json:"parts"`
	Axis   int      `json:"axis"`             // 0 width, 1 height, 2 depth
	To     float64  `json:"to,omitempty"`     // metres
	Factor float64  `json:"factor,omitempty"` // in place of metres
	Even   bool     `json:"even,omitempty"`   // the other two along with it
	At     *float64 `json:"at,omitempty"`     // the frame on which they are pinned to Factor times the size that they have there
}

func init() { Register[SetSize]("setSize") }

// Do implements Change.
func (e *SetSize) Do(w *Work) (string, error) {
	if e.Axis < 0 || e.Axis > 2 {
		return "", fmt.Errorf("a part is resized along its width, height or depth")
	}
	list, err := w.free(e.Parts)
	if err != nil {
		return "", err
	}
	if e.At != nil {
		return e.pin(w, list)
	}
	err = w.sized(list, func() error { return e.resize(w, list) })
	return "Resize " + w.names(list), err
}

// pin pins the sizes of parts on a frame.
func (e *SetSize) pin(w *Work, list []int) (string, error) {
	if !number(*e.At) || !usable(e.Factor) {
		return "", errNoSize
	}
	for _, i := range list {
		p := &w.Shot.Parts[i]
		for axis, v := range []shot.Value{shot.TrackWidth, shot.TrackHeight, shot.TrackDepth} {
			if axis != e.Axis && !e.Even {
				continue
			}
			now := v.Rest()
			if t := p.Track(v); t != nil {
				now = motion.Sample(t, *e.At)
			}
			now *= e.Factor
			pinHere(p, v, *e.At, &now)
		}
	}
	return "Pin the size of " + w.names(list), nil
}

var errNoSize = fmt.Errorf("a size is more than 0")

// usable reports whether something can be made so many times as large.
func usable(k float64) bool { return k > 1e-9 && k < 1e9 }

func (e *SetSize) resize(w *Work, list []int) error {
	for _, i := range list {
		p := &w.Shot.Parts[i]
		k := e.Factor
		if k == 0 {
			box, err := w.ownBox(i)
			if err != nil {
				return err
			}
			now := box.Size()[e.Axis]
			if !(now > 1e-12) {
				return fmt.Errorf("%s has no %s to resize", p.Name, []string{"width", "height", "depth"}[e.Axis])
			}
			k = e.To / now
		}
		if !usable(k) {
			return errNoSize
		}
		for a := range p.Rest.Size {
			if a == e.Axis || e.Even {
				p.Rest.Size[a] *= k
			}
		}
	}
	return nil
}
