package move

import (
	"slices"

	"perigyre/core/shot"
)

// Scale makes every length of a move so many times as large, pins on it too.
func Scale(m *shot.Move, by float64) {
	k := kinds[m.Kind]
	for _, n := range k.numbers {
		if n.unit != Length || n.room {
			continue
		}
		*n.of(m.Data) *= by
		for i := range m.Pins {
			if string(m.Pins[i].Value) == n.name {
				scaleTrack(&m.Pins[i], by)
			}
		}
	}
	for i := range m.Pins {
		name := string(m.Pins[i].Value)
		if k.more == nil || slices.ContainsFunc(k.numbers, func(n number) bool { return n.name == name }) {
			continue
		}
		if n, ok := k.more(m.Data, name); ok && n.unit == Length {
			scaleTrack(&m.Pins[i], by)
		}
	}
	if k.scale != nil {
		k.scale(m.Data, by)
	}
}

// ScaleLengths makes the lengths of a part's pins and moves so many times as large: those that are seen in the frame of what
// it is in by parent, those of its own frame, of what bends it and of copies, by own.
func ScaleLengths(p *shot.Part, parent, own float64) {
	for i := range p.Tracks {
		if t := &p.Tracks[i]; t.Value == shot.TrackX || t.Value == shot.TrackY || t.Value == shot.TrackZ {
			scaleTrack(t, parent)
		}
	}
	for j := range p.Moves {
		m := &p.Moves[j]
		by := parent
		if k := kinds[m.Kind]; k.bend != nil || k.members != nil {
			by = own
		}
		Scale(m, by)
	}
	if c := p.Copies; c != nil {
		c.Step = c.Step.Mul(own)
		c.Area[0] *= own
		c.Area[1] *= own
		c.Radius *= own
		c.Apart *= own
		for i := range c.Path {
			c.Path[i] = c.Path[i].Mul(own)
		}
	}
}

func scaleTrack(t *shot.Track, by float64) {
	for i := range t.Pins {
		p := &t.Pins[i]
		p.Value *= by
		for _, h := range []*shot.Handle{p.In, p.Out} {
			if h != nil {
				h.Value *= by
			}
		}
	}
}
