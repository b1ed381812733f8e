package shot

import (
	"fmt"
	"strings"
)

// validateNeeds checks that moves look at parts that are there, and that none waits for itself: a part
// waits for what it is in and for what its moves look at.
func (s *Shot) validateNeeds() error {
	index := make(map[string]int, len(s.Parts))
	any := false
	for i := range s.Parts {
		index[s.Parts[i].ID] = i
	}
	needs := make([][]int, len(s.Parts))
	for i := range s.Parts {
		p := &s.Parts[i]
		if up, ok := index[p.Parent]; ok && p.Parent != "" {
			needs[i] = append(needs[i], up)
		}
		for j := range p.Moves {
			for _, id := range p.Moves[j].Needs() {
				k, ok := index[id]
				if !ok {
					return fmt.Errorf("the %s of %s looks at a part that is not in the shot any more; choose another or remove the move", p.Moves[j].Kind, p.Name)
				}
				needs[i] = append(needs[i], k)
				any = true
			}
		}
	}
	if err := s.validateFlexes(index); err != nil {
		return err
	}
	if !any {
		return nil
	}
	const unseen, open, done = 0, 1, 2
	state := make([]uint8, len(s.Parts))
	var path []int
	var visit func(i int) error
	visit = func(i int) error {
		switch state[i] {
		case done:
			return nil
		case open:
			var names []string
			for k := len(path) - 1; k >= 0; k-- {
				names = append([]string{s.Parts[path[k]].Name}, names...)
				if path[k] == i {
					break
				}
			}
			return fmt.Errorf("these parts wait for each other in a circle: %s, and again %s", strings.Join(names, ", "), s.Parts[i].Name)
		}
		state[i] = open
		path = append(path, i)
		for _, k := range needs[i] {
			if err := visit(k); err != nil {
				return err
			}
		}
		path = path[:len(path)-1]
		state[i] = done
		return nil
	}
	for i := range s.Parts {
		if err := visit(i); err != nil {
			return err
		}
	}
	return nil
}

// MostFlexes act on one mesh, those of what it is in counted: as many as the picture in the browser bends by.
const MostFlexes = 4

func (s *Shot) validateFlexes(index map[string]int) error {
	for i := range s.Parts {
		n := 0
		for at, ok := i, true; ok; at, ok = index[s.Parts[at].Parent] {
			for j := range s.Parts[at].Moves {
				if m := &s.Parts[at].Moves[j]; m.Flex != nil && !m.Muted {
					n++
				}
			}
		}
		if n > MostFlexes {
			return fmt.Errorf("%s would bend or twist by %d moves, its own and those of what it is in; at most %d act together", s.Parts[i].Name, n, MostFlexes)
		}
	}
	return nil
}
