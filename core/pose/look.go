package pose

import (
	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// Looks returns how every part looks at time t in frames, nil where no move changes any.
func (e *Evaluator) Looks(t float64) []motion.Look { return e.LooksAt(motion.At(e.Shot, t)) }

// LooksAt does so for a time.
func (e *Evaluator) LooksAt(at motion.Time) []motion.Look {
	if !e.looks {
		return nil
	}
	out := make([]motion.Look, len(e.Shot.Parts))
	for i := range out {
		l := motion.AsItIs
		p := &e.Shot.Parts[i]
		e.acting(i, func(m *shot.Move) { move.ApplyLook(move.Context{Move: m, Time: at, Part: p}, &l) })
		for _, s := range e.parts[i].members {
			l.Opacity *= move.Fade(move.Context{Move: s.Move, Time: at, Part: p, Place: s.place})
		}
		if up := e.Index.Parent(i); up >= 0 {
			l = l.Within(out[up])
		}
		out[i] = l
	}
	return out
}

// acting calls visit for every move of a part that is not muted; while some are solo, for those alone.
func (e *Evaluator) acting(i int, visit func(m *shot.Move)) {
	moves, solo := e.Shot.Parts[i].Moves, false
	for j := range moves {
		solo = solo || moves[j].Solo && !moves[j].Muted
	}
	for j := range moves {
		if !moves[j].Muted && (!solo || moves[j].Solo) {
			visit(&moves[j])
		}
	}
}

// Bending is a move that deforms the meshes of a part: of its own, or of what it is in.
type Bending struct {
	Move    *shot.Move
	In, Out geom.Mat4 // from the frame of the mesh to that of the part that bends, as both are at rest, and back
	part    *shot.Part
	own     float64
}

// Bends returns what deforms the meshes of part i, in the order in which it acts.
func (e *Evaluator) Bends(i int) []Bending { return e.bends[i] }

// At returns the deformation at a time.
func (b *Bending) At(t motion.Time) move.Bent {
	return move.Bend(move.Context{Move: b.Move, Time: t, Part: b.part, Own: b.own})
}

// BendAll writes where points go that are given in the frame of the part's first deformation; they are left in that of
// its last.
func (e *Evaluator) BendAll(i int, t float64, from, to []geom.Vec3) {
	at := motion.At(e.Shot, t)
	for k := range e.bends[i] {
		f := &e.bends[i][k]
		bent := f.At(at)
		between := geom.Identity
		if k > 0 {
			between = f.In.Mul(e.bends[i][k-1].Out)
			from = to
		}
		same := between == geom.Identity
		for n, p := range from {
			if !same {
				p = between.Point(p)
			}
			to[n] = bent.Point(p)
		}
	}
}

// gatherBends finds for every part what deforms it: its own moves first, then those of what it is in.
func (e *Evaluator) gatherBends() {
	e.bends = make([][]Bending, len(e.Shot.Parts))
	for i := range e.Shot.Parts {
		e.acting(i, func(m *shot.Move) {
			if move.Bends(m) {
				e.bends[i] = append(e.bends[i], Bending{m, geom.Identity, geom.Identity, &e.Shot.Parts[i], e.parts[i].own})
			}
		})
		up := e.Index.Parent(i)
		if up < 0 || len(e.bends[up]) == 0 {
			continue
		}
		in := e.parts[i].rest
		for _, b := range e.bends[up] {
			b.In = b.In.Mul(in)
			if out, ok := b.In.Inverse(); ok {
				b.Out = out
				e.bends[i] = append(e.bends[i], b)
			}
		}
	}
}
