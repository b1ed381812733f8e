package arrange

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// sort puts parents before their children and children behind their parents, keeping the order of
// siblings.
func (w *work) sort() {
	children := map[string][]int{}
	for i := range w.s.Parts {
		children[w.s.Parts[i].Parent] = append(children[w.s.Parts[i].Parent], i)
	}
	out := make([]shot.Part, 0, len(w.s.Parts))
	var walk func(parent string)
	walk = func(parent string) {
		for _, i := range children[parent] {
			out = append(out, w.s.Parts[i])
			walk(w.s.Parts[i].ID)
		}
	}
	walk("")
	if len(out) == len(w.s.Parts) { // else a part is in one that is not there, which Validate says
		w.s.Parts = out
	}
}

func (w *work) group(a *shot.GroupParts) (string, error) {
	list, err := w.outermost(a.Parts)
	if err != nil {
		return "", err
	}
	parent := w.s.Parts[list[0]].Parent
	name := strings.TrimSpace(a.Name)
	if name == "" {
		name = "Group"
	}
	words := fmt.Sprintf("Group %s as %s", w.names(list), name)
	first := list[0]
	for _, i := range list {
		if w.s.Parts[i].Parent != parent {
			return "", fmt.Errorf("%s and %s are in different groups; put them into one first", w.s.Parts[first].Name, w.s.Parts[i].Name)
		}
		w.s.Parts[i].Parent = a.ID
	}
	g := shot.Part{ID: a.ID, Name: name, Parent: parent, Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}
	w.s.Parts = slices.Insert(w.s.Parts, first, g)
	w.sort()
	return words, nil
}

func (w *work) ungroup(id string) (string, error) {
	at := w.s.Index(id)
	if at < 0 || w.s.Parts[at].Kind != shot.Group {
		return "", fmt.Errorf("a group is needed to take apart")
	}
	p := w.s.Parts[at]
	if len(p.Moves) > 0 {
		return "", fmt.Errorf("%s has moves, which its parts would lose; remove the moves first", p.Name)
	}
	for _, src := range w.s.Sources {
		if src.Root == id {
			return "", fmt.Errorf("%s holds an import with its unit and size; group its parts further instead", p.Name)
		}
	}
	up := w.s.Index(p.Parent)
	for i := range w.s.Parts {
		c := &w.s.Parts[i]
		if c.Parent != id {
			continue
		}
		c.Parent = p.Parent
		m := w.world[i]
		if up >= 0 {
			inv, ok := w.world[up].Inverse()
			if !ok {
				return "", fmt.Errorf("%s has no size", w.s.Parts[up].Name)
			}
			m = inv.Mul(m)
		}
		if len(c.Moves) > 0 && (c.Rest.Rotation != geom.NoTurn || p.Rest.Rotation != geom.NoTurn) {
			// Moves are added to the rest pose, which takes up the group's turn.
			m = pose.Local(&p, p.Rest).Mul(pose.Local(c, c.Rest))
		}
		if err := w.setLocal(c, m); err != nil {
			return "", err
		}
	}
	w.s.Parts = slices.Delete(w.s.Parts, at, at+1)
	w.sort()
	return "Take " + p.Name + " apart", nil
}

func (w *work) putIn(a *shot.PutIn) (string, error) {
	list, err := w.outermost(a.Parts)
	if err != nil {
		return "", err
	}
	to := w.s.Index(a.Parent)
	if a.Parent != "" && to < 0 {
		return "", fmt.Errorf("the group to put them into is not in this shot any more")
	}
	lamps := !slices.ContainsFunc(list, func(i int) bool { return w.s.Parts[i].Light == nil }) // lights are bound to any part
	if to >= 0 && w.s.Parts[to].Kind != shot.Group && !lamps {
		return "", fmt.Errorf("%s is no group; parts are put into groups", w.s.Parts[to].Name)
	}
	words := fmt.Sprintf("Put %s into the room", w.names(list))
	switch {
	case lamps && to >= 0:
		words = fmt.Sprintf("Bind %s to %s", w.names(list), w.s.Parts[to].Name)
	case lamps:
		words = fmt.Sprintf("Bind %s to the room", w.names(list))
	case to >= 0:
		words = fmt.Sprintf("Put %s into %s", w.names(list), w.s.Parts[to].Name)
	}
	moved := map[string]bool{}
	for _, i := range list {
		p := &w.s.Parts[i]
		if to >= 0 && w.s.Within(to, i) {
			return "", fmt.Errorf("%s cannot be put into itself", p.Name)
		}
		moved[p.ID] = true
		if p.Parent == a.Parent {
			continue
		}
		p.Parent = a.Parent
		if a.Keep {
			if err := w.setWorld(i, w.world[i]); err != nil {
				return "", err
			}
		}
	}
	var rest, chosen []shot.Part
	for _, p := range w.s.Parts {
		if moved[p.ID] {
			chosen = append(chosen, p)
		} else {
			rest = append(rest, p)
		}
	}
	at := len(rest)
	if k := slices.IndexFunc(rest, func(p shot.Part) bool { return p.ID == a.Before }); a.Before != "" && k >= 0 {
		at = k
	}
	w.s.Parts = slices.Insert(rest, at, chosen...)
	w.sort()
	return words, nil
}

func (w *work) duplicate(a *shot.Duplicate) (string, error) {
	list, err := w.outermost(a.Parts)
	if err != nil {
		return "", err
	}
	if a.ID == "" {
		return "", fmt.Errorf("the copies need ids")
	}
	words := "Duplicate " + w.names(list)
	ids := map[string]string{}
	var made []shot.Part
	for _, root := range list {
		for i := range w.s.Parts {
			if !w.s.Within(i, root) {
				continue
			}
			p := w.s.Parts[i]
			id := fmt.Sprintf("%s-%d", a.ID, len(made)+1)
			ids[p.ID] = id
			p.ID = id
			if i == root {
				p.Name = nextName(w.s, made, p.Name)
			} else {
				p.Parent = ids[p.Parent]
			}
			p.Moves = slices.Clone(p.Moves)
			for k := range p.Moves {
				p.Moves[k].ID = fmt.Sprintf("%s-m%d", id, k+1)
			}
			made = append(made, p)
		}
	}
	for i := range w.s.Finishes { // copies wear what their originals wear
		f := &w.s.Finishes[i]
		for _, s := range f.Swaps {
			if id := ids[s.Part]; id != "" {
				s.Part = id
				f.Swaps = append(f.Swaps, s)
			}
		}
	}
	w.s.Parts = append(w.s.Parts, made...)
	w.sort()
	return words, nil
}

// nextName returns the name with the next number behind it that is free: "Rod" gives "Rod 2".
func nextName(s *shot.Shot, more []shot.Part, name string) string {
	stem, n := name, 1
	if at := strings.LastIndexByte(name, ' '); at > 0 {
		if v, err := strconv.Atoi(name[at+1:]); err == nil && v > 0 {
			stem, n = name[:at], v
		}
	}
	taken := map[string]bool{}
	for _, list := range [][]shot.Part{s.Parts, more} {
		for i := range list {
			taken[list[i].Name] = true
		}
	}
	for {
		n++
		if next := fmt.Sprintf("%s %d", stem, n); !taken[next] {
			return next
		}
	}
}

func (w *work) rename(a *shot.RenameMany) (string, error) {
	if strings.TrimSpace(a.Pattern) == "" {
		return "", fmt.Errorf("a part needs a name")
	}
	named := map[string]bool{}
	for _, id := range a.Parts {
		named[id] = true
	}
	n := 0
	for i := range w.s.Parts {
		p := &w.s.Parts[i]
		if named[p.ID] {
			n++
			p.Name = strings.NewReplacer("{name}", p.Name, "{n}", strconv.Itoa(n)).Replace(a.Pattern)
		}
	}
	if n == 0 {
		return "", fmt.Errorf("nothing is chosen")
	}
	return fmt.Sprintf("Rename %d parts to %s", n, a.Pattern), nil
}

func (w *work) remove(ids []string) (string, error) {
	list, err := w.outermost(ids)
	if err != nil {
		return "", err
	}
	words := "Remove " + w.names(list)
	var roots []string
	for _, i := range list {
		if w.s.Parts[i].Locked {
			return "", fmt.Errorf("%s is locked; unlock it to remove it", w.s.Parts[i].Name)
		}
		roots = append(roots, w.s.Parts[i].ID)
	}
	for _, id := range roots {
		next, _, err := shot.Edit{RemovePart: &shot.RemovePart{Part: id}}.Apply(w.s)
		if err != nil {
			return "", err
		}
		w.s = next
	}
	return words, nil
}
