package pose

import (
	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/motion"
	"perigyre/core/move"
)

// Soft reports whether the surface of part i is not its mesh as it is: moves bend it, it hangs on bones, or is mixed with shapes.
func (e *Evaluator) Soft(i int) bool { return len(e.bends[i]) > 0 || e.Fleshed(i) }

// Fleshed reports whether part i hangs on bones, or has shapes to be mixed with.
func (e *Evaluator) Fleshed(i int) bool { return e.Shot.Parts[i].Soft() }

// Flesh returns how the mesh of part i is posed at a time at which every part is where world says; nil for one that is not fleshed.
//
// A bone takes a point p of the mesh to J B p in the room, where J is the bone's matrix and B its inverse bind matrix, whatever
// the part's own place (glTF 2.0, 3.7.3.3). What the part has been moved by since it came is done on top: with its parent at W,
// its seat S there, and itself at W L, the point is at W L S^-1 W^-1 J B p, which in the part's own frame is (W S)^-1 J B p.
func (e *Evaluator) Flesh(i int, t motion.Time, world []geom.Mat4) *mesh.Flesh {
	if !e.Fleshed(i) {
		return nil
	}
	out := &mesh.Flesh{Weights: e.Weights(i, t)}
	s := e.Shot.Parts[i].Skin
	if s == nil {
		return out
	}
	seat := s.Seat
	if up := e.Index.Parent(i); up >= 0 {
		seat = world[up].Mul(seat)
	}
	back, ok := seat.Inverse()
	out.Joints = make([]geom.Mat4, len(s.Joints))
	for k, id := range s.Joints {
		j := e.Index.Part(id)
		if j < 0 || !ok {
			out.Joints[k] = geom.Identity
			continue
		}
		out.Joints[k] = back.Mul(world[j]).Mul(s.Inverse[k])
	}
	return out
}

// Weights returns by how much part i is mixed with each of its morph targets at a time; nil for one without.
func (e *Evaluator) Weights(i int, t motion.Time) []float64 {
	p := &e.Shot.Parts[i]
	if len(p.Morphs) == 0 {
		return nil
	}
	w := make([]float64, len(p.Morphs))
	for k := range w {
		w[k] = p.Morphs[k].Weight
	}
	for _, s := range e.parts[i].members {
		move.Mix(move.Context{Move: s.Move, Time: t, Part: p, Place: s.place, Ready: s.ready}, w)
	}
	return w
}

// Points returns where the points of the surface of part i go at a time, by its bones, shapes and bends, in the part's own frame.
// At rest are its points as g gives them.
func (e *Evaluator) Points(i int, t motion.Time, world []geom.Mat4, g Surfaces) (now []geom.Vec3, triangles []uint32, err error) {
	p := &e.Shot.Parts[i]
	if now, triangles, err = g.Surface(p); err != nil {
		return nil, nil, err
	}
	if f := e.Flesh(i, t, world); f != nil {
		m, err := g.Flesh(p)
		if err != nil {
			return nil, nil, err
		}
		f.Points(m, now)
	}
	list := e.bends[i]
	for k := range list {
		b := list[k].At(t)
		mesh.Each(len(now), func(n int) { now[n] = list[k].Out.Point(b.Point(list[k].In.Point(now[n]))) })
	}
	return now, triangles, nil
}
