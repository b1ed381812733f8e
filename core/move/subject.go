package move

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Subject is a part that is given a move, as far as first values need to know it. What is measured, is measured on
// frame 0, when it is asked for.
type Subject struct {
	Shot  *shot.Shot
	Index *shot.Index
	At    int // the part's place in the document

	// Box returns the box round the part with all in it: in the room; along its parent's axes about the parent's origin;
	// and along its own axes about its own origin. All in metres of the room. An empty part is taken for one of 0.1 m.
	Box func() (room, parent, own geom.Box)
	// Scene returns the box round all that is seen.
	Scene func() geom.Box
	// Eye returns where the part stands in the room, and how it is turned.
	Eye func() (geom.Vec3, geom.Quat)
}

// Part is the part itself.
func (s *Subject) Part() *shot.Part { return &s.Shot.Parts[s.At] }

// Frames is the length of the shot.
func (s *Subject) Frames() float64 { return float64(s.Shot.Frames) }

// Large is the largest measure of the part.
func (s *Subject) Large() float64 {
	room, _, _ := s.Box()
	size := room.Size()
	return math.Max(size[0], math.Max(size[1], size[2]))
}

// Step is a round length of about half the part.
func (s *Subject) Step() float64 { return round(s.Large() / 2) }

// Half is half the shot, at least a frame.
func (s *Subject) Half() float64 { return math.Min(s.Frames(), math.Max(1, s.Frames()/2)) }

// Other returns the first part outside this one that suits, or nil.
func (s *Subject) Other(suits func(p *shot.Part) bool) *shot.Part {
	for i := range s.Shot.Parts {
		p := &s.Shot.Parts[i]
		if !s.Index.Within(i, s.At) && p.Kind != shot.Light && p.Kind != shot.Camera && p.Kind != shot.Floor && suits(p) {
			return p
		}
	}
	return nil
}

// holdsMany reports whether it is a group with parts in it, or copies.
func (s *Subject) holdsMany() bool { return s.holds() || s.Part().Copies != nil }

// holds reports whether it is a group with parts in it.
func (s *Subject) holds() bool {
	return s.Part().Kind == shot.Group && len(s.Index.Children(s.At)) > 0
}

// round returns the number nearest to v that is 1, 2 or 5 times a power of ten.
func round(v float64) float64 {
	if !(v > 0) {
		return 0.01
	}
	p := math.Pow(10, math.Floor(math.Log10(v)))
	best := p
	for _, k := range []float64{2, 5, 10} {
		if math.Abs(k*p-v) < math.Abs(best-v) {
			best = k * p
		}
	}
	return best
}

// Suits reports whether a part can be given a move of the kind.
func (k *Kind) Suits(s *Subject) bool {
	return k.first != nil && (k.suits == nil || k.suits(s))
}

// New returns a new move of the kind with first values for its part. Its id is the caller's to give.
func (k *Kind) New(s *Subject) shot.Move {
	data, t := k.first(s)
	return shot.Move{Kind: k.Name, Span: t.Span, Pace: t.Pace, Laps: t.Laps, After: t.After, Data: data}
}
