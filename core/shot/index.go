package shot

// Index answers where the parts and moves of a document stand, and what hangs on what, without searching. It is made
// for a document that does not change while it is used.
type Index struct {
	s      *Shot
	parts  map[string]int
	parent []int
	below  [][]int // children
}

// NewIndex makes the index of a document: time and memory in proportion to its parts.
func NewIndex(s *Shot) *Index {
	x := &Index{s: s, parts: make(map[string]int, len(s.Parts)), parent: make([]int, len(s.Parts)), below: make([][]int, len(s.Parts))}
	for i := range s.Parts {
		x.parts[s.Parts[i].ID] = i
	}
	for i := range s.Parts {
		x.parent[i] = -1
		if up := s.Parts[i].Parent; up != "" {
			x.parent[i] = x.Part(up)
		}
		if up := x.parent[i]; up >= 0 {
			x.below[up] = append(x.below[up], i)
		}
	}
	return x
}

// Part returns the place of a part in Parts, or -1.
func (x *Index) Part(id string) int {
	if i, ok := x.parts[id]; ok {
		return i
	}
	return -1
}

// Parent returns the place of the part that part i is in, -1 for the room.
func (x *Index) Parent(i int) int { return x.parent[i] }

// Children returns the places of the parts directly in part i, in the order of the document.
func (x *Index) Children(i int) []int { return x.below[i] }

// Within reports whether part i is the part root or lies in it, at any depth.
func (x *Index) Within(i, root int) bool {
	for i >= 0 && i != root {
		i = x.parent[i]
	}
	return i == root
}

// Hidden returns for every part whether it or something that it is in is hidden.
func (x *Index) Hidden() []bool { return x.inherited(func(p *Part) bool { return p.Hidden }) }

// Sets returns for every part whether it or something that it is in belongs to the set, and not to what is shown.
func (x *Index) Sets() []bool { return x.inherited(func(p *Part) bool { return p.Set }) }

func (x *Index) inherited(of func(p *Part) bool) []bool {
	out := make([]bool, len(x.s.Parts))
	for i := range x.s.Parts {
		out[i] = of(&x.s.Parts[i]) || x.parent[i] >= 0 && out[x.parent[i]]
	}
	return out
}
