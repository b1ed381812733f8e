package shot

import (
	"encoding/binary"
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/mesh"
)

// Skin is the bones that a part's mesh hangs on: parts, by the numbers that the mesh has for them.
type Skin struct {
	Joints  []string    `json:"joints"`  // ids of parts; of one that is gone, what hangs on it stays where it is
	Inverse []geom.Mat4 `json:"inverse"` // for each, from the mesh's frame to the bone's as both were when they were bound
	Seat    geom.Mat4   `json:"seat"`    // the part's matrix in its parent's frame as it came: what it is moved by since is on top of its bones
}

// Morph is a shape that a part's mesh can be mixed with, and by how much it is at rest.
type Morph struct {
	Name   string  `json:"name"`
	Weight float64 `json:"weight"`
}

// Soft reports whether the part's mesh hangs on bones, or has shapes to be mixed with.
func (p *Part) Soft() bool { return p.Skin != nil || len(p.Morphs) > 0 }

// Clip is a piece of motion that came with a model, of the parts in the group that has it. What it says is from how they were at
// rest: positions are added, turns come before, sizes are factors, weights are added.
type Clip struct {
	Name    string      `json:"name"`
	Seconds float64     `json:"seconds"` // from its first key to its last
	Tracks  []ClipTrack `json:"tracks"`
	Data    []byte      `json:"data"` // numbers in single precision, little endian, which tracks share
}

// ClipTrack is one value of a part over a clip. A curved one has three values a key: tangent in, value, tangent out, tangents by the
// second (glTF 2.0, Appendix C).
type ClipTrack struct {
	Part   string    `json:"part"`
	Value  ClipValue `json:"value"`
	Next   Between   `json:"next"`   // straight, holds or curves
	Width  int       `json:"width"`  // numbers a value
	Keys   int       `json:"keys"`   // how many
	Times  int       `json:"times"`  // number of the first of its times in Data, seconds from the clip's beginning
	Values int       `json:"values"` // and of its values
}

// ClipValue is what a track of a clip moves.
type ClipValue string

const (
	ClipPosition ClipValue = "position"
	ClipTurn     ClipValue = "turn"
	ClipSize     ClipValue = "size"
	ClipWeights  ClipValue = "weights"
)

// Limits of what a document keeps of bones and clips.
const (
	MaxClips     = 200
	MaxClipBytes = 16 << 20 // of all clips of a part
	MaxClipTime  = 100_000  // seconds
	MaxWeight    = 1000     // of a shape, either way
)

// Per returns how many numbers a key of the track has.
func (t *ClipTrack) Per() int {
	if t.Next == Curves {
		return 3 * t.Width
	}
	return t.Width
}

// Numbers returns some of a clip's data as numbers.
func (c *Clip) Numbers(from, n int) []float64 {
	out := make([]float64, n)
	for i := range out {
		out[i] = float64(math.Float32frombits(binary.LittleEndian.Uint32(c.Data[4*(from+i):])))
	}
	return out
}

func (c *Clip) validate() error {
	if !(c.Seconds > 0 && c.Seconds <= MaxClipTime) {
		return fmt.Errorf("the clip %s is %g s long; it may be more than 0 and at most %d s", c.Name, c.Seconds, MaxClipTime)
	}
	if len(c.Data)%4 != 0 {
		return fmt.Errorf("the data of the clip %s are cut off", c.Name)
	}
	have := len(c.Data) / 4
	fits := func(from, n int) bool { return from >= 0 && n >= 0 && n <= have && from <= have-n }
	widths := map[ClipValue]int{ClipPosition: 3, ClipTurn: 4, ClipSize: 3}
	for i := range c.Tracks {
		t := &c.Tracks[i]
		if w := widths[t.Value]; w == 0 && (t.Value != ClipWeights || t.Width < 1 || t.Width > mesh.MaxTargets) || w > 0 && t.Width != w {
			return fmt.Errorf("track %d of the clip %s moves %q by %d numbers", i, c.Name, t.Value, t.Width)
		}
		if t.Next != Straight && t.Next != Holds && t.Next != Curves {
			return fmt.Errorf("track %d of the clip %s runs on as %q", i, c.Name, t.Next)
		}
		if t.Keys < 1 || t.Keys > have || !fits(t.Times, t.Keys) || t.Keys > have/t.Per() || !fits(t.Values, t.Keys*t.Per()) {
			return fmt.Errorf("track %d of the clip %s has %d keys, for which its data are too few", i, c.Name, t.Keys)
		}
		last := math.Inf(-1)
		for _, at := range c.Numbers(t.Times, t.Keys) {
			if !(at > last && at >= 0 && at <= MaxClipTime) {
				return fmt.Errorf("the times of track %d of the clip %s do not increase", i, c.Name)
			}
			last = at
		}
	}
	for _, v := range c.Numbers(0, have) {
		if !finite(v) {
			return fmt.Errorf("the clip %s has a value that is not a number that can be worked with", c.Name)
		}
	}
	return nil
}

// validateFlesh checks what a part hangs on, is mixed with and plays.
func (p *Part) validateFlesh() error {
	if s := p.Skin; s != nil {
		if p.Mesh == nil || len(s.Joints) == 0 || len(s.Joints) > mesh.MaxJoints || len(s.Inverse) != len(s.Joints) {
			return wrong("skin", "a skin is of a mesh, and has 1 to %d joints and a matrix for each", mesh.MaxJoints)
		}
		for _, m := range append(s.Inverse[:len(s.Inverse):len(s.Inverse)], s.Seat) {
			for _, v := range m {
				if !finite(v) {
					return wrong("skin", "a matrix of a skin is not of numbers that can be worked with")
				}
			}
		}
		if s.Seat.Det() == 0 {
			return wrong("skin", "the seat of a skin cannot be undone")
		}
	}
	if len(p.Morphs) > mesh.MaxTargets || len(p.Morphs) > 0 && p.Mesh == nil {
		return wrong("morphs", "morph targets are of a mesh, and at most %d", mesh.MaxTargets)
	}
	for _, m := range p.Morphs {
		if !within(-MaxWeight, MaxWeight, m.Weight) {
			return wrong("morphs", "the weight of %s is within %d, not %g", m.Name, MaxWeight, m.Weight)
		}
	}
	if len(p.Clips) > 0 && p.Kind != Group {
		return wrong("clips", "clips are of a group")
	}
	if len(p.Clips) > MaxClips {
		return wrong("clips", "a group has at most %d clips, not %d", MaxClips, len(p.Clips))
	}
	bytes := 0
	for i := range p.Clips {
		if bytes += len(p.Clips[i].Data); bytes > MaxClipBytes {
			return wrong("clips", "the clips of a group hold more than %d MB", MaxClipBytes>>20)
		}
		if err := in("clips", p.Clips[i].validate()); err != nil {
			return err
		}
	}
	return nil
}
