package server

import (
	"perigyre/core/motion"
	"perigyre/core/shot"
	"perigyre/store"
)

// maxSamples of a curve are sent.
const maxSamples = 4000

// Curves returns the pins of a part and of its moves, sampled from frame 0 to the shot's length: every frame, and between
// frames as far as there is room.
func (st *Studio) Curves(id, part string) (*CurvesReply, error) {
	v, err := st.open(id)
	if err != nil {
		return nil, err
	}
	d := v.Document
	p := d.Part(part)
	if p == nil {
		return nil, store.ErrMissing
	}
	between := 4
	for between > 1 && d.Frames*between > maxSamples {
		between /= 2
	}
	out := &CurvesReply{Part: part, Curves: []Curve{}}
	add := func(move string, tracks []shot.Track) {
		for i := range tracks {
			t := &tracks[i]
			if t.Value == shot.TrackOrientation {
				continue
			}
			c := Curve{Move: move, Value: string(t.Value), Step: 1 / float64(between)}
			for k := range d.Frames*between + 1 {
				at := float64(k) * c.Step
				c.Values, c.Speeds = append(c.Values, motion.Sample(t, at)), append(c.Speeds, motion.Speed(t, at))
			}
			out.Curves = append(out.Curves, c)
		}
	}
	add("", p.Tracks)
	for j := range p.Moves {
		add(p.Moves[j].ID, p.Moves[j].Pins)
	}
	return out, nil
}
