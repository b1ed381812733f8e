package shot

import (
	"fmt"
	"slices"
	"strings"
)

// validateNeeds checks that moves look at parts that are there, and that none waits for itself: a part waits for what it
// is in and for what its moves look at. It goes along a chain of any length without calling itself.
func (s *Shot) validateNeeds(x *Index) error {
	needs := make([][]int, len(s.Parts))
	looks := false
	for i := range s.Parts {
		p := &s.Parts[i]
		if up := x.Parent(i); up >= 0 {
			needs[i] = append(needs[i], up)
		}
		for j := range p.Moves {
			for _, id := range p.Moves[j].Needs() {
				k := x.Part(id)
				if k < 0 {
					return fmt.Errorf("the %s of %s looks at a part that is not in the shot any more; choose another or remove the move", p.Moves[j].Kind, p.Name)
				}
				needs[i] = append(needs[i], k)
				looks = true
			}
		}
	}
	if err := s.validateBends(x); err != nil {
		return err
	}
	if !looks {
		return nil
	}
	const unseen, open, done = 0, 1, 2
	state, next := make([]uint8, len(s.Parts)), make([]int, len(s.Parts)) // next is which need of a part is looked at next
	for root := range s.Parts {
		if state[root] != unseen {
			continue
		}
		path := []int{root}
		state[root] = open
		for len(path) > 0 {
			i := path[len(path)-1]
			if next[i] == len(needs[i]) {
				state[i] = done
				path = path[:len(path)-1]
				continue
			}
			k := needs[i][next[i]]
			next[i]++
			switch state[k] {
			case unseen:
				state[k] = open
				path = append(path, k)
			case open:
				var names []string
				for _, at := range path[slices.Index(path, k):] {
					names = append(names, s.Parts[at].Name)
				}
				return fmt.Errorf("these parts wait for each other in a circle: %s, and again %s", strings.Join(names, ", "), s.Parts[k].Name)
			}
		}
	}
	return nil
}

// MaxBends act on one mesh, those of what it is in counted: as many as the picture in the browser bends by.
const MaxBends = 4

func (s *Shot) validateBends(x *Index) error {
	n := make([]int, len(s.Parts))
	for i := range s.Parts {
		if up := x.Parent(i); up >= 0 {
			n[i] = n[up]
		}
		for j := range s.Parts[i].Moves {
			if m := &s.Parts[i].Moves[j]; moveTypes[m.Kind].Bends && !m.Muted {
				n[i]++
			}
		}
		if n[i] > MaxBends {
			return fmt.Errorf("%s would bend or twist by %d moves, its own and those of what it is in; at most %d act together", s.Parts[i].Name, n[i], MaxBends)
		}
	}
	return nil
}
