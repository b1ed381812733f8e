package library

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// gather puts the chosen parts of each parent into groups: those that touch, those whose names begin alike,
// or those of one material. What would be alone stays where it is, and so does everything if all of it
// would be in one group.
func gather(d *shot.Shot, chosen map[int]bool, by string, a *Assets, newID func() string) (string, error) {
	siblings := map[string][]int{}
	var parents []string
	for i := range d.Parts {
		if chosen[i] {
			up := d.Parts[i].Parent
			if siblings[up] == nil {
				parents = append(parents, up)
			}
			siblings[up] = append(siblings[up], i)
		}
	}
	made, moved := 0, 0
	var groups []shot.Part
	for _, up := range parents {
		list := siblings[up]
		var sets [][]int
		var names []string
		var err error
		switch by {
		case "touching":
			sets, err = touching(d, list, a)
		case "name":
			sets, names = alike(list, func(i int) string { return beginning(d.Parts[i].Name) })
		case "material":
			sets, names = alike(list, func(i int) string { return materialName(d, &d.Parts[i]) })
		default:
			err = fmt.Errorf("parts are gathered by touching, name or material, not %q", by)
		}
		if err != nil {
			return "", err
		}
		for k, set := range sets {
			if len(set) < 2 || len(set) == len(list) && len(sets) == 1 {
				continue
			}
			g := shot.Part{ID: newID(), Parent: up, Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}
			if names != nil {
				g.Name = names[k]
			} else {
				g.Name = d.Parts[set[0]].Name + ", group"
			}
			for _, i := range set {
				d.Parts[i].Parent = g.ID
			}
			groups = append(groups, g)
			made, moved = made+1, moved+len(set)
		}
	}
	if made == 0 {
		return "", fmt.Errorf("nothing of what is chosen belongs together by %s, or all of it does", by)
	}
	// Each group stands where its first part stood.
	var out []shot.Part
	for _, p := range d.Parts {
		if k := slices.IndexFunc(groups, func(g shot.Part) bool { return g.ID == p.Parent }); k >= 0 && !slices.ContainsFunc(out, func(o shot.Part) bool { return o.ID == p.Parent }) {
			out = append(out, groups[k])
		}
		out = append(out, p)
	}
	d.Parts = out
	return fmt.Sprintf("Gather %d parts in %d groups by %s", moved, made, by), nil
}

// alike groups parts by a word, in the order in which the words come; parts without one stay apart.
func alike(list []int, word func(int) string) (sets [][]int, names []string) {
	at := map[string]int{}
	for _, i := range list {
		w := word(i)
		if w == "" {
			continue
		}
		k, ok := at[w]
		if !ok {
			k = len(sets)
			at[w] = k
			sets, names = append(sets, nil), append(names, w)
		}
		sets[k] = append(sets[k], i)
	}
	return sets, names
}

// beginning is a name up to its first sign or number: bolt_M4_12 and Bolt 7 begin with Bolt.
func beginning(name string) string {
	end := strings.IndexFunc(name, func(r rune) bool { return !unicode.IsLetter(r) })
	if end >= 0 {
		name = name[:end]
	}
	if name == "" {
		return ""
	}
	r := []rune(strings.ToLower(name))
	r[0] = unicode.ToUpper(r[0])
	return string(r)
}

func materialName(d *shot.Shot, p *shot.Part) string {
	if len(p.Materials) == 0 {
		return ""
	}
	for _, m := range d.Materials {
		if m.ID == p.Materials[0] {
			return m.Name
		}
	}
	return ""
}

const touchShare = 1e-3 // of the smaller part's size: how far apart surfaces still touch

// touching groups parts whose surfaces meet, directly or over others.
func touching(d *shot.Shot, list []int, a *Assets) ([][]int, error) {
	type body struct {
		m   *mesh.Mesh
		box geom.Box
	}
	if len(list) > 3000 {
		return nil, fmt.Errorf("%d parts are too many to try each against the others; choose fewer", len(list))
	}
	world := pose.New(d).At(0)
	bodies := make([]body, len(list))
	for k, i := range list {
		points, indices, err := a.Surface(&d.Parts[i])
		if err != nil {
			return nil, err
		}
		m := &mesh.Mesh{Indices: indices}
		for _, p := range points {
			m.Positions = append(m.Positions, world[i].Point(p).F32())
		}
		bodies[k] = body{m, m.Bounds()}
	}
	set := make([]int, len(list))
	for k := range set {
		set[k] = k
	}
	var root func(int) int
	root = func(k int) int {
		if set[k] != k {
			set[k] = root(set[k])
		}
		return set[k]
	}
	for x := range bodies {
		for y := range x {
			if root(x) == root(y) || bodies[x].box.Empty() || bodies[y].box.Empty() {
				continue
			}
			near := touchShare * min(bodies[x].box.Size().Len(), bodies[y].box.Size().Len())
			if mesh.Touch(bodies[x].m, bodies[y].m, near) {
				set[root(x)] = root(y)
			}
		}
	}
	at := map[int]int{}
	var sets [][]int
	for k, i := range list {
		r := root(k)
		if _, ok := at[r]; !ok {
			at[r] = len(sets)
			sets = append(sets, nil)
		}
		sets[at[r]] = append(sets[at[r]], i)
	}
	return sets, nil
}
