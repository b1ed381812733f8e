package pose

import (
	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Copied is a part of what a spread copies, with the matrix of every copy of it in the frame of the
// spread's part: what it is in the room is the world matrix of that part times it.
type Copied struct {
	Spread int // the copies part
	Part   int // the part that is seen again
	Places []geom.Mat4
}

// Spreads returns what copies parts show, as it stands in the world matrices: moves of the parts that
// are copied are seen in every copy.
func (e *Evaluator) Spreads(world []geom.Mat4) []Copied {
	var out []Copied
	parts := e.Shot.Parts
	for i := range parts {
		c := parts[i].Copies
		if c == nil {
			continue
		}
		root := e.Shot.Index(c.Of)
		// The frame of the copied part: its parent's, moved to its rest position.
		frame := geom.Translation(parts[root].Rest.Position)
		if up := e.parent[root]; up >= 0 {
			frame = world[up].Mul(frame)
		}
		inv, ok := frame.Inverse()
		if !ok {
			continue
		}
		places := motion.Places(c)
		for k := root; k < len(parts); k++ {
			if !e.Shot.Within(k, root) {
				break // all in it stand behind it
			}
			if parts[k].Kind != shot.Solid && parts[k].Kind != shot.Made && parts[k].Kind != shot.Plinth || hiddenWithin(e, k, root) {
				continue
			}
			own := inv.Mul(world[k])
			all := make([]geom.Mat4, len(places))
			for n, m := range places {
				all[n] = m.Mul(own)
			}
			out = append(out, Copied{i, k, all})
		}
	}
	return out
}

// hiddenWithin reports whether a part is hidden, or a group between it and the root. The root itself
// may be hidden: then only its copies are seen.
func hiddenWithin(e *Evaluator, k, root int) bool {
	for ; k != root; k = e.parent[k] {
		if e.Shot.Parts[k].Hidden {
			return true
		}
	}
	return false
}
