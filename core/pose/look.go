package pose

import (
	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Looks returns how every part looks at time t in frames, nil where no move changes any.
func (e *Evaluator) Looks(t float64) []motion.Look {
	if !e.looking {
		return nil
	}
	at := motion.At(e.Shot, t)
	out := make([]motion.Look, len(e.Shot.Parts))
	for i := range out {
		l := motion.AsItIs
		p := &e.Shot.Parts[i]
		for j := range p.Moves {
			if m := &p.Moves[j]; m.Look != nil && (!e.solo[i] || m.Solo) {
				l.Apply(m, at)
			}
		}
		for _, s := range e.each[i] {
			l.Opacity *= motion.Faded(&e.Shot.Parts[s.group].Moves[s.move], at, s.rank)
		}
		if up := e.parent[i]; up >= 0 {
			l = l.Within(out[up])
		}
		out[i] = l
	}
	return out
}

// Flex is a move that flexes the meshes of a part: of its own, or of what it is in.
type Flex struct {
	*shot.Move
	In, Out geom.Mat4 // from the frame of the mesh to that of the flexed part, as both are at rest, and back
}

// Flexes returns what flexes the meshes of part i, in the order in which it acts.
func (e *Evaluator) Flexes(i int) []Flex { return e.flexes[i] }

// Flexed returns where a point of a mesh goes by its flexes at time t in frames.
func (e *Evaluator) Flexed(i int, t float64) func(geom.Vec3) geom.Vec3 {
	at := motion.At(e.Shot, t)
	list := e.flexes[i]
	angles := make([]float64, len(list))
	for k, f := range list {
		angles[k] = motion.FlexAngle(f.Move, at)
	}
	return func(p geom.Vec3) geom.Vec3 {
		for k, f := range list {
			p = f.Out.Point(motion.Flexed(f.Flex, angles[k], f.In.Point(p)))
		}
		return p
	}
}

// Flexing writes where points go that are given in the frame of the part's first flex; they are left in that of
// the last.
func (e *Evaluator) Flexing(i int, t float64, from, to []geom.Vec3) {
	at := motion.At(e.Shot, t)
	for k, f := range e.flexes[i] {
		angle := motion.FlexAngle(f.Move, at)
		between := geom.Identity
		if k > 0 {
			between = f.In.Mul(e.flexes[i][k-1].Out)
			from = to
		}
		same := between == geom.Identity
		for n, p := range from {
			if !same {
				p = between.Point(p)
			}
			to[n] = motion.Flexed(f.Flex, angle, p)
		}
	}
}

// gatherFlexes finds for every part what flexes it.
func (e *Evaluator) gatherFlexes() {
	e.flexes = make([][]Flex, len(e.Shot.Parts))
	for i := range e.Shot.Parts {
		in := geom.Identity
		for up := i; up >= 0; up = e.parent[up] {
			moves := e.Shot.Parts[up].Moves
			for j := range moves {
				if m := &moves[j]; m.Flex != nil && !m.Muted && (!e.solo[up] || m.Solo) {
					if out, ok := in.Inverse(); ok {
						e.flexes[i] = append(e.flexes[i], Flex{m, in, out})
					}
				}
			}
			in = e.rest[up].Mul(in)
		}
	}
}
