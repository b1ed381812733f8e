package pose

import (
	"perigyre/core/move"
	"perigyre/core/shot"
)

// Same returns, for every part, its number in an earlier document if its world matrix is certainly the same there at every
// time, and -1 for the others. A part is the same if it says the same, what it is in is the same, and so is all that its
// moves, and those of its groups that act on it, look at. The render camera counts without what carries it.
func (e *Evaluator) Same(was *Evaluator) []int {
	out := make([]int, len(e.parts))
	for i := range out {
		out[i] = -1
	}
	a, b := e.Shot, was.Shot
	if a.Frames != b.Frames || a.Ending != b.Ending || a.Rate != b.Rate {
		return out
	}
	at := make([]int, len(e.parts)) // in the earlier document, if both say the same
	for i := range at {
		p := &a.Parts[i]
		if at[i] = was.Index.Part(p.ID); at[i] >= 0 && !p.Same(&b.Parts[at[i]]) {
			at[i] = -1
		}
	}
	const unknown, asked, no, yes = 0, 1, 2, 3
	state := make([]byte, len(e.parts))
	// alike reports whether a group that moves its members, in their order, has the same ones.
	alike := func(group int) bool {
		if at[group] < 0 {
			return false
		}
		list, old := e.Index.Children(group), was.Index.Children(at[group])
		if len(list) != len(old) {
			return false
		}
		for k, i := range list {
			if at[i] != old[k] {
				return false
			}
		}
		return true
	}
	var deep func(group int) bool
	deep = func(group int) bool {
		if !alike(group) {
			return false
		}
		for _, i := range e.Index.Children(group) {
			if !deep(i) {
				return false
			}
		}
		return true
	}
	acts := func(group int) bool {
		for j := range a.Parts[group].Moves {
			if move.ActsOnMembers(&a.Parts[group].Moves[j]) {
				return true
			}
		}
		return false
	}
	members := map[int]bool{} // whether all that is in a group is the same
	var same func(i int) bool
	same = func(i int) bool {
		switch state[i] {
		case yes:
			return true
		case no, asked:
			return false
		}
		state[i] = asked
		ok := at[i] >= 0
		if up := e.Index.Parent(i); ok && up >= 0 {
			ok = same(up)
		}
		for up := e.Index.Parent(i); ok && up >= 0; up = e.Index.Parent(up) {
			if !acts(up) {
				continue
			}
			all, known := members[up]
			if !known {
				all = deep(up)
				members[up] = all
			}
			ok = all
		}
		if ok {
			for _, m := range e.parts[i].moves {
				for _, id := range m.Needs() {
					ok = ok && same(e.Index.Part(id))
				}
			}
		}
		if state[i] = no; ok {
			state[i] = yes
		}
		return ok
	}
	for i := range out {
		if same(i) {
			out[i] = at[i]
		}
	}
	return out
}

// SameCameraFrame reports whether the render camera is turned as in an earlier document at every time; one that moves must be the
// same altogether, any other may stand elsewhere. same is what Same returned.
func (e *Evaluator) SameCameraFrame(was *Evaluator, same []int) bool {
	if e.camera < 0 || was.camera < 0 || len(e.rounds) != len(was.rounds) {
		return false
	}
	for k, i := range e.rounds {
		if same[i] != was.rounds[k] {
			return false
		}
	}
	p, q := e.Shot.Parts[e.camera], was.Shot.Parts[was.camera]
	if e.Moves(e.camera) {
		return same[e.camera] == was.camera
	}
	if up := e.Index.Parent(e.camera); up >= 0 && same[up] < 0 {
		return false
	}
	standing := func(p *shot.Part) { p.Camera, p.Rest.Position = nil, shot.AtRest.Position }
	standing(&p)
	standing(&q)
	return p.Same(&q)
}
