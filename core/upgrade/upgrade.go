// Package upgrade reads documents that older versions of the program saved. They show what they showed then, where they
// closed.
package upgrade

import (
	"encoding/json"
	"fmt"
	"math"

	"perigyre/core/fault"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// first is the version of the document in which lengths of pins, moves and copies were in the unit of what a part is in, and
// in which what followed a move's span held over the seam until the span began again.
const first = "perigyre/shot/1"

// Read decodes a document of any version that there has been. One that is not valid is an error in a sentence.
func Read(b []byte) (*shot.Shot, error) {
	s := new(shot.Shot)
	if err := json.Unmarshal(b, s); err != nil {
		return nil, fmt.Errorf("the document cannot be read: %w", fault.JSON(err))
	}
	s.CleanNames()
	old := s.Schema == first
	if old {
		s.Schema = shot.Schema
		for i := range s.Materials {
			s.Materials[i].Limit()
		}
	}
	if err := s.Validate(); err != nil {
		return nil, err
	}
	if old {
		fromFirst(s)
	}
	return s, nil
}

func fromFirst(s *shot.Shot) {
	e := pose.New(s.Clone())
	n := float64(s.Frames)
	for i := range s.Parts {
		p := &s.Parts[i]
		move.ScaleLengths(p, 1/e.Metre(i), 1/e.OwnMetre(i))
		for j := range p.Moves {
			if s.Ending == shot.Loop {
				begins(&p.Moves[j], n)
			}
		}
	}
}

// begins has a move that goes on for ever, and whose repetitions fit into the loop, begin at or before frame 0: it was
// going on there, since it had begun before the seam.
func begins(m *shot.Move, n float64) {
	if m.Span == nil || m.Span.From <= 0 || m.Span.To > n {
		return
	}
	long := m.Span.Long()
	switch m.After {
	case shot.Repeats, shot.CarriesOn:
	case shot.Mirrored:
		long *= 2 // there and back
	default:
		return
	}
	if laps := n / long; math.Abs(laps-math.Round(laps)) > 1e-9*laps {
		return
	}
	by := math.Ceil(m.Span.From/long) * long
	if m.After == shot.CarriesOn {
		by = n // so that it has carried on as far as it had
	}
	m.Span = &shot.Span{From: m.Span.From - by, To: m.Span.To - by}
}
