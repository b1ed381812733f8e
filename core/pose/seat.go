package pose

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/move"
)

// Guided is a part that has a guide line from where it sits.
type Guided struct {
	Part   int
	Middle geom.Vec3 // of the box round it, with all in it, in its own frame
	Size   float64   // of that box from corner to corner, metres
	Drawn  bool      // the line is to be seen in the picture itself
}

// Label names parts that leave together.
type Label struct {
	move.Labelled
	Of []Guided // its parts
}

// Guided returns the parts with guide lines: those that moves of groups take apart, and that are not hidden.
func (e *Evaluator) Guided(g Surfaces) ([]Guided, error) {
	var out []Guided
	hidden := e.Index.Hidden()
	for i := range e.parts {
		drawn, any := false, false
		for _, s := range e.parts[i].members {
			if has, seen := move.Guides(s.Move); has {
				any, drawn = true, drawn || seen
			}
		}
		if !any || hidden[i] {
			continue
		}
		box, err := e.box(i, g)
		if err != nil {
			return nil, err
		}
		if !box.Empty() {
			out = append(out, Guided{i, box.Centre(), box.Size().Len() / e.parts[i].own, drawn})
		}
	}
	return out, nil
}

// Labels returns the labels of parts that moves of groups take apart, and that are not hidden.
func (e *Evaluator) Labels(g Surfaces) ([]Label, error) {
	list, err := e.Guided(g)
	if err != nil || len(list) == 0 {
		return nil, err
	}
	of := map[string]Guided{}
	for _, d := range list {
		of[e.Shot.Parts[d.Part].ID] = d
	}
	known := func(id string) (string, float64) {
		if k := e.Index.Part(id); k >= 0 {
			return e.Shot.Parts[k].Name, of[id].Size
		}
		return id, 0
	}
	var out []Label
	for i := range e.Shot.Parts {
		for k := range e.Shot.Parts[i].Moves {
			for _, l := range move.Labels(&e.Shot.Parts[i].Moves[k], known) {
				one := Label{Labelled: l}
				for _, id := range l.Parts {
					if d, ok := of[id]; ok {
						one.Of = append(one.Of, d)
					}
				}
				if len(one.Of) > 0 {
					out = append(out, one)
				}
			}
		}
	}
	return out, nil
}

// Gone is how far a part has gone from where it sits, all its ways together, in units of its parent's frame.
func (d *Guided) Gone(e *Evaluator, t float64) (sum float64) {
	for _, v := range d.legs(e, motion.At(e.Shot, t)) {
		sum += v.Len()
	}
	return sum
}

func (d *Guided) legs(e *Evaluator, t motion.Time) (out []geom.Vec3) {
	q := &e.parts[d.Part]
	for _, s := range q.members {
		out = append(out, move.Legs(move.Context{Move: s.Move, Time: t, Part: &e.Shot.Parts[d.Part], Metre: q.metre, Own: q.own, Frame: q.frame, Place: s.place, Ready: s.ready})...)
	}
	return out
}

// Points is how many points its line has at most.
func (d *Guided) Points(e *Evaluator) int { return max(2, len(d.legs(e, motion.At(e.Shot, 0)))+1) }

// Line is the guide line in the room at a time while every part is where world says: from the seat along each way that the part has gone to
// where it is. It has one point where the part sits.
func (d *Guided) Line(e *Evaluator, t motion.Time, world []geom.Mat4) []geom.Vec3 {
	q, up := &e.parts[d.Part], geom.Identity
	if k := e.Index.Parent(d.Part); k >= 0 {
		up = world[k]
	}
	seat := q.rest.Point(d.Middle)
	out := []geom.Vec3{up.Point(seat)}
	add := func(p geom.Vec3) {
		if p.Sub(out[len(out)-1]).Len() > 1e-9 {
			out = append(out, p)
		}
	}
	legs := d.legs(e, t)
	for _, v := range legs[:max(0, len(legs)-1)] {
		seat = seat.Add(v)
		add(up.Point(seat))
	}
	add(world[d.Part].Point(d.Middle)) // which other moves may have carried further
	return out
}

// Furthest is the frame on which parts have gone furthest from where they sit, all together; in the middle of those on which they have.
func Furthest(e *Evaluator, list []Guided) float64 {
	const looks = 200
	step := math.Max(1, float64(e.Shot.Frames)/looks)
	first, last, most := 0.0, 0.0, -1.0
	for t := 0.0; t < float64(e.Shot.Frames); t += step {
		sum := 0.0
		for k := range list {
			sum += list[k].Gone(e, t)
		}
		if sum > most*(1+1e-9) {
			first, most = t, sum
		}
		if sum >= most*(1-1e-9) {
			last = t
		}
	}
	return math.Round((first + last) / 2)
}

// box is round a part with all in it, as they are at rest, in its own frame. It is worked out once.
func (e *Evaluator) box(part int, g Surfaces) (geom.Box, error) {
	got, err := e.Once(boxOf(part), func() (any, error) {
		box := geom.EmptyBox()
		back, ok := e.AtRest(part).Inverse()
		for i := range e.Shot.Parts {
			p := &e.Shot.Parts[i]
			if !ok || !e.Index.Within(i, part) || p.Mesh == nil && p.Shaped() == nil {
				continue
			}
			points, _, err := g.Surface(p)
			if err != nil {
				return nil, err
			}
			to := back.Mul(e.AtRest(i))
			for _, q := range points {
				box = box.With(to.Point(q))
			}
		}
		return box, nil
	})
	if err != nil {
		return geom.EmptyBox(), err
	}
	return got.(geom.Box), nil
}

type boxOf int

// Once returns what is worked out of the document once for a key, which is of a type of the asker's own. Two that ask at a time may both
// work it out; they get the same.
func (e *Evaluator) Once(key any, work func() (any, error)) (any, error) {
	if got, ok := e.once.Load(key); ok {
		return got, nil
	}
	got, err := work()
	if err != nil {
		return nil, err
	}
	got, _ = e.once.LoadOrStore(key, got)
	return got, nil
}
