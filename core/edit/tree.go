package edit

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Sort puts parents before their children and children behind their parents, keeping the order of
// siblings.
func (w *Work) Sort() {
	w.Changed()
	children, ids := map[string][]int{}, map[string]bool{"": true}
	for i := range w.Shot.Parts {
		if ids[w.Shot.Parts[i].ID] { // empty, or taken: there is no order then, which Validate says
			return
		}
		ids[w.Shot.Parts[i].ID] = true
		children[w.Shot.Parts[i].Parent] = append(children[w.Shot.Parts[i].Parent], i)
	}
	out := make([]shot.Part, 0, len(w.Shot.Parts))
	var walk func(parent string)
	walk = func(parent string) {
		for _, i := range children[parent] {
			out = append(out, w.Shot.Parts[i])
			walk(w.Shot.Parts[i].ID)
		}
	}
	walk("")
	if len(out) == len(w.Shot.Parts) { // else a part is in one that is not there, which Validate says
		w.Shot.Parts = out
	}
}

// Group puts parts that have one parent into a new group, where they are.
type Group struct {
	Parts []string `json:"parts"`
	ID    string   `json:"id"` // of the group
	Name  string   `json:"name"`
}

func init() { Register[Group]("group") }

// Do implements Change.
func (e *Group) Do(w *Work) (string, error) {
	list, err := w.outermost(e.Parts)
	if err != nil {
		return "", err
	}
	parent := w.Shot.Parts[list[0]].Parent
	name := strings.TrimSpace(e.Name)
	if name == "" {
		name = "Group"
	}
	words := fmt.Sprintf("Group %s as %s", w.names(list), name)
	first := list[0]
	for _, i := range list {
		if w.Shot.Parts[i].Parent != parent {
			return "", fmt.Errorf("%s and %s are in different groups; put them into one first", w.Shot.Parts[first].Name, w.Shot.Parts[i].Name)
		}
		w.Shot.Parts[i].Parent = e.ID
	}
	g := shot.Part{ID: e.ID, Name: name, Parent: parent, Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}
	w.Shot.Parts = slices.Insert(w.Shot.Parts, first, g)
	w.Made = append(w.Made, e.ID)
	w.Sort()
	return words, nil
}

// Ungroup takes a group apart; its parts stay where they are.
type Ungroup struct {
	Part string `json:"part"`
}

func init() { Register[Ungroup]("ungroup") }

// Do implements Change.
func (e *Ungroup) Do(w *Work) (string, error) {
	id := e.Part
	at := w.Index().Part(id)
	if at < 0 || w.Shot.Parts[at].Kind != shot.Group {
		return "", fmt.Errorf("only a group can be ungrouped")
	}
	p := w.Shot.Parts[at]
	if len(p.Moves) > 0 {
		return "", fmt.Errorf("%s has moves, which its parts would lose; remove the moves first", p.Name)
	}
	for _, src := range w.Shot.Sources {
		if src.Root == id {
			return "", fmt.Errorf("%s holds an import with its unit and size; group its parts further instead", p.Name)
		}
	}
	up := w.Index().Part(p.Parent)
	for i := range w.Shot.Parts {
		c := &w.Shot.Parts[i]
		if c.Parent != id {
			continue
		}
		c.Parent = p.Parent
		m := w.World()[i]
		if up >= 0 {
			inv, ok := w.World()[up].Inverse()
			if !ok {
				return "", fmt.Errorf("%s has no size", w.Shot.Parts[up].Name)
			}
			m = inv.Mul(m)
		}
		if len(c.Moves) > 0 && (c.Rest.Rotation != geom.NoTurn || p.Rest.Rotation != geom.NoTurn) {
			// Moves are added to the rest pose, which takes up the group's turn.
			m = pose.Local(&p, p.Rest).Mul(pose.Local(c, c.Rest))
		}
		was := pose.Local(c, c.Rest)
		if err := w.setLocal(c, m); err != nil {
			return "", err
		}
		reseat(c, was)
	}
	w.Shot.Parts = slices.Delete(w.Shot.Parts, at, at+1)
	w.Sort()
	return "Ungroup " + p.Name, nil
}

// reseat lets what hangs on bones stay where it is as its part comes into another frame, in which its matrix is another than it was.
func reseat(p *shot.Part, was geom.Mat4) {
	if p.Skin == nil {
		return
	}
	if back, ok := was.Inverse(); ok {
		p.Skin.Seat = pose.Local(p, p.Rest).Mul(back).Mul(p.Skin.Seat)
	}
}

// PutIn moves parts to another parent, or to another place among their siblings.
type PutIn struct {
	Parts  []string `json:"parts"`
	Parent string   `json:"parent"` // or empty for the room
	Before string   `json:"before"` // the sibling that follows, or empty for the end
	Keep   bool     `json:"keep"`   // where they are in the room, rather than in their parent
}

func init() { Register[PutIn]("putIn") }

// Do implements Change.
func (e *PutIn) Do(w *Work) (string, error) {
	list, err := w.outermost(e.Parts)
	if err != nil {
		return "", err
	}
	to := w.Index().Part(e.Parent)
	if e.Parent != "" && to < 0 {
		return "", fmt.Errorf("the group to put them into is not in this shot any more")
	}
	lamps := !slices.ContainsFunc(list, func(i int) bool { return w.Shot.Parts[i].Light == nil }) // lights are bound to any part
	if to >= 0 && (w.Shot.Parts[to].Kind == shot.Floor || w.Shot.Parts[to].Kind == shot.Copies) {
		return "", fmt.Errorf("nothing can be put into %s", w.Shot.Parts[to].Name)
	}
	words := fmt.Sprintf("Put %s into the room", w.names(list))
	switch {
	case lamps && to >= 0:
		words = fmt.Sprintf("Bind %s to %s", w.names(list), w.Shot.Parts[to].Name)
	case lamps:
		words = fmt.Sprintf("Bind %s to the room", w.names(list))
	case to >= 0:
		words = fmt.Sprintf("Put %s into %s", w.names(list), w.Shot.Parts[to].Name)
	}
	moved := map[string]bool{}
	for _, i := range list {
		p := &w.Shot.Parts[i]
		if to >= 0 && w.Index().Within(to, i) {
			return "", fmt.Errorf("%s cannot be put into itself", p.Name)
		}
		moved[p.ID] = true
		if p.Parent == e.Parent {
			continue
		}
		p.Parent = e.Parent
		if e.Keep {
			was := pose.Local(p, p.Rest)
			if err := w.setWorld(i, w.World()[i]); err != nil {
				return "", err
			}
			reseat(p, was)
		}
	}
	var rest, chosen []shot.Part
	for _, p := range w.Shot.Parts {
		if moved[p.ID] {
			chosen = append(chosen, p)
		} else {
			rest = append(rest, p)
		}
	}
	at := len(rest)
	if k := slices.IndexFunc(rest, func(p shot.Part) bool { return p.ID == e.Before }); e.Before != "" && k >= 0 {
		at = k
	}
	w.Shot.Parts = slices.Insert(rest, at, chosen...)
	w.Sort()
	return words, nil
}

// aside is how far a copy of a part is put from it, in its parent's frame: to the right in the room, so that it can be seen and
// grasped. Where pins place it, it stays.
func (w *Work) aside(root int) geom.Vec3 {
	p := &w.Shot.Parts[root]
	box, err := w.bounds(root)
	if err != nil || box.Empty() || len(p.Tracks) > 0 {
		return geom.Vec3{}
	}
	d := geom.Vec3{1.1 * box.Size()[0], 0, 0}
	if up := w.Index().Part(p.Parent); up >= 0 {
		inv, ok := w.World()[up].Inverse()
		if !ok {
			return geom.Vec3{}
		}
		d = inv.Vector(d)
	}
	return d
}

// Duplicate makes copies of parts with all in them, beside them.
type Duplicate struct {
	Parts []string `json:"parts"`
	ID    string   `json:"id"` // beginning of the new ids
}

func init() { Register[Duplicate]("duplicate") }

// Do implements Change.
func (e *Duplicate) Do(w *Work) (string, error) {
	list, err := w.outermost(e.Parts)
	if err != nil {
		return "", err
	}
	if e.ID == "" {
		return "", fmt.Errorf("the copies need ids")
	}
	words := "Duplicate " + w.names(list)
	ids := map[string]string{}
	var made []shot.Part
	for _, root := range list {
		aside := w.aside(root)
		for i := range w.Shot.Parts {
			if !w.Index().Within(i, root) {
				continue
			}
			p := w.Shot.Parts[i].Clone()
			id := fmt.Sprintf("%s-%d", e.ID, len(made)+1)
			ids[p.ID] = id
			p.ID = id
			if i == root {
				p.Name = nextName(w.Shot, made, p.Name)
				p.Rest.Position = p.Rest.Position.Add(aside)
				w.Made = append(w.Made, id)
			} else {
				p.Parent = ids[p.Parent]
			}
			for k := range p.Moves {
				p.Moves[k].ID = fmt.Sprintf("%s-m%d", id, k+1)
			}
			made = append(made, p)
		}
	}
	for i := range made {
		if err := refer(&made[i], ids); err != nil {
			return "", err
		}
	}
	for i := range w.Shot.Finishes { // copies wear what their originals wear
		f := &w.Shot.Finishes[i]
		for _, s := range f.Swaps {
			if id := ids[s.Part]; id != "" {
				s.Part = id
				f.Swaps = append(f.Swaps, s)
			}
		}
	}
	w.Shot.Parts = append(w.Shot.Parts, made...)
	w.Sort()
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

// RenameParts names parts by a pattern with {name} and {n}, counted from 1.
type RenameParts struct {
	Parts   []string `json:"parts"`
	Pattern string   `json:"pattern"`
}

func init() { Register[RenameParts]("renameParts") }

// Do implements Change.
func (e *RenameParts) Do(w *Work) (string, error) {
	if strings.TrimSpace(e.Pattern) == "" {
		return "", fmt.Errorf("a part needs a name")
	}
	named := map[string]bool{}
	for _, id := range e.Parts {
		if _, err := w.part(id); err != nil {
			return "", err
		}
		named[id] = true
	}
	n := 0
	for i := range w.Shot.Parts {
		p := &w.Shot.Parts[i]
		if named[p.ID] {
			n++
			p.Name = strings.NewReplacer("{name}", p.Name, "{n}", strconv.Itoa(n)).Replace(e.Pattern)
		}
	}
	if n == 0 {
		return "", fmt.Errorf("nothing is chosen")
	}
	return fmt.Sprintf("Rename %d parts to %s", n, e.Pattern), nil
}
