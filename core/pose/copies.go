package pose

import (
	"slices"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// Copied is a part of what a spread copies, with the matrix of every copy of it in the frame of the
// spread's part: what it is in the room is the world matrix of that part times it.
type Copied struct {
	Spread int // the copies part
	Part   int // the part that is seen again
	Places []geom.Mat4
}

// Spreads returns what copies parts show at a time in frames, when the world matrices are these: the moves of
// the parts that are copied are seen in every copy, in each as much later as the copies' delay says. Those
// scattered on a surface take it from g, and stand where it is then.
func (e *Evaluator) Spreads(t float64, world []geom.Mat4, g Surfaces) ([]Copied, error) {
	return e.SpreadsAt(motion.At(e.Shot, t), world, g)
}

// SpreadsAt does so for a time.
func (e *Evaluator) SpreadsAt(t motion.Time, world []geom.Mat4, g Surfaces) ([]Copied, error) {
	var out []Copied
	parts := e.Shot.Parts
	k := e.remembering()
	defer e.memories.Put(k)
	for i := range parts {
		c := parts[i].Copies
		if c == nil {
			continue
		}
		root := e.Index.Part(c.Of)
		on, err := e.ground(i, world, g)
		if err != nil {
			return nil, err
		}
		places := motion.Places(c, e.parts[i].own, on)
		now := e.moment(t, k)
		now.world, now.done = world, slices.Repeat([]bool{true}, len(world)) // none of it is to be worked out again
		var seen []int
		for k := root; k < len(parts) && e.Index.Within(k, root); k++ { // all in it stand behind it
			if (parts[k].Kind == shot.Solid || parts[k].Kind == shot.Made || parts[k].Kind == shot.Plinth) && !hiddenWithin(e, k, root) {
				seen = append(seen, k)
			}
		}
		first := len(out)
		for _, k := range seen {
			out = append(out, Copied{i, k, make([]geom.Mat4, 0, len(places))})
		}
		for n, m := range places {
			at := now
			if c.Delay != 0 && n > 0 {
				at = now.at(t.Later(-float64(n) * c.Delay))
			}
			m = at.swarmed(i, n, m)
			inv, ok := at.frameOf(root).Inverse()
			if !ok {
				break
			}
			for s, k := range seen {
				w := m.Mul(inv.Mul(at.place(k)))
				out[first+s].Places = append(out[first+s].Places, w)
			}
		}
	}
	return out, nil
}

// swarmed is where a copy of a spread stands, once the moves that act on each copy have acted on it.
func (m *moment) swarmed(spread, n int, at geom.Mat4) geom.Mat4 {
	q := &m.e.parts[spread]
	if len(q.each) == 0 {
		return at
	}
	r := shot.AtRest
	r.Position, r.Rotation, r.Size, _ = at.Decompose()
	for _, s := range q.each {
		if n >= len(s.ranks) {
			continue
		}
		place := s.place
		place.Rank = s.ranks[n]
		move.ApplyMember(move.Context{Move: s.Move, Time: m.t, Part: &m.e.Shot.Parts[spread], Metre: q.own, Own: q.own, Place: place, Ready: s.ready}, &r)
	}
	return geom.TRS(r.Position, r.Rotation, r.Size)
}

// frameOf returns the frame of a part that is copied: its parent's, moved to its rest position.
func (m *moment) frameOf(i int) geom.Mat4 {
	frame := geom.Translation(m.e.Shot.Parts[i].Rest.Position)
	if up := m.e.Index.Parent(i); up >= 0 {
		frame = m.place(up).Mul(frame)
	}
	return frame
}

// Living reports whether a spread's copies change from frame to frame against the spread itself.
func (e *Evaluator) Living(spread int) bool {
	c := e.Shot.Parts[spread].Copies
	if len(e.parts[spread].each) > 0 {
		return true
	}
	root := e.Index.Part(c.Of)
	carrier := e.Carrier()
	up := -1
	if e.Index.Parent(root) >= 0 {
		up = carrier[e.Index.Parent(root)]
	}
	for k := root; k < len(carrier) && e.Index.Within(k, root); k++ {
		if carrier[k] != up {
			return true
		}
	}
	return false
}

// Surfaces gives the triangles of a part's surface in the part's own frame, none for a part without one.
type Surfaces interface {
	Surface(p *shot.Part) (points []geom.Vec3, indices []uint32, err error)
	// Flesh returns the same surface as one mesh with its bones and morph targets. It is shared.
	Flesh(p *shot.Part) (*mesh.Mesh, error)
}

// ground gathers the surface that a spread is scattered on, with all that is in that part, in the frame of
// the copies; nil for other spreads, and where that part is gone.
func (e *Evaluator) ground(spread int, world []geom.Mat4, g Surfaces) (*motion.Ground, error) {
	c := e.Shot.Parts[spread].Copies
	root := e.Index.Part(c.On)
	inv, ok := world[spread].Inverse()
	if c.Kind != shot.Surface || root < 0 || !ok {
		return nil, nil
	}
	out := &motion.Ground{}
	for i := range e.Shot.Parts {
		p := &e.Shot.Parts[i]
		if p.Kind == shot.Copies || !e.Index.Within(i, root) {
			continue
		}
		points, indices, err := g.Surface(p)
		if err != nil {
			return nil, err
		}
		m, first := inv.Mul(world[i]), uint32(len(out.Points))
		for _, v := range points {
			out.Points = append(out.Points, m.Point(v))
		}
		for _, k := range indices {
			out.Indices = append(out.Indices, first+k)
		}
	}
	return out, nil
}

// hiddenWithin reports whether a part is hidden, or a group between it and the root. The root itself
// may be hidden: then only its copies are seen.
func hiddenWithin(e *Evaluator, k, root int) bool {
	for ; k != root; k = e.Index.Parent(k) {
		if e.Shot.Parts[k].Hidden {
			return true
		}
	}
	return false
}
