package library

import (
	"fmt"
	"perigyre/core/edit"
	"slices"
	"strings"
	"unicode"

	"perigyre/core/model"
	"perigyre/core/move"
	"perigyre/core/shot"
	"perigyre/core/stage"
)

// Replaced says what became of the parts of an import when a newer file took its place.
type Replaced struct {
	File    string   `json:"file"`
	Matched int      `json:"matched"`
	Gone    []string `json:"gone"` // ids of parts that the newer file has no counterpart of; they are kept as they were
	New     []string `json:"new"`  // ids of parts that only the newer file has
}

// ReplaceModel puts a newer model in the place of an import: see Replace.
type ReplaceModel struct {
	Root  string `json:"root"`  // the import's part
	Asset string `json:"asset"` // content hash of the newer model, which is stored
	File  string `json:"file"`  // its name

	Got *Replaced `json:"-"` // what became of the parts
}

func init() { edit.Register[ReplaceModel]("replace") }

// Do implements edit.Change.
func (e *ReplaceModel) Do(w *edit.Work) (string, error) {
	a, err := assetsOf(w.Env)
	if err != nil {
		return "", err
	}
	m, err := a.Model(e.Asset)
	if err != nil {
		return "", err
	}
	e.Got, err = Replace(w.Shot, e.Root, m, e.Asset, e.File, a, w.NewID)
	w.Changed()
	return "Replace the model by " + e.File, err
}

// Replace puts a newer model in the place of the import with a root part, in a document, which it changes.
// Parts and nodes are matched by the names that they have in their files, with that of what they are in
// first, then without, then without regard to case and signs. A matched part keeps its name, its moves, its
// materials and where it was put by hand; where nobody has moved it, it goes where the newer file has it.
func Replace(d *shot.Shot, root string, m *model.Model, hash, file string, a *Assets, newID func() string) (*Replaced, error) {
	at := slices.IndexFunc(d.Sources, func(s shot.Source) bool { return s.Root == root })
	if at < 0 || d.Part(root) == nil {
		return nil, fmt.Errorf("what is to be replaced is not in this shot any more")
	}
	src := &d.Sources[at]
	old, err := a.Model(src.Asset)
	if err != nil {
		return nil, err
	}
	r := &replacing{d: d, m: m, old: old, hash: hash, was: src.Asset, root: root, out: &Replaced{File: file, Gone: []string{}, New: []string{}}, newID: newID,
		taken: make([]string, len(m.Nodes)), materials: make([]string, len(m.Materials))}
	r.match()
	for node, id := range r.taken {
		if id != "" {
			r.change(d.Part(id), node)
			if m.Nodes[node].Mesh >= 0 {
				r.out.Matched++
			}
		}
	}
	if r.out.Matched == 0 {
		return nil, fmt.Errorf("no part of %s has the name of a part that is here; bring it in as another shot instead", file)
	}
	r.add()
	r.enliven()
	src.Asset, src.File = hash, file
	return r.out, nil
}

type replacing struct {
	d         *shot.Shot
	m, old    *model.Model
	hash, was string
	from      origins // where parts of the older model came from
	root      string
	out       *Replaced
	newID     func() string
	taken     []string // for each node of the newer model, the part it is matched with
	materials []string // ids of materials of the newer model that have been added
}

// origins finds the nodes of the older model that parts came from.
type origins struct {
	first  map[int]int      // of a mesh
	named  map[meshName]int // of a mesh under a name
	groups map[string]int   // without a mesh
}

type meshName struct {
	mesh int
	name string
}

func originsOf(m *model.Model) origins {
	o := origins{map[int]int{}, map[meshName]int{}, map[string]int{}}
	for i, n := range m.Nodes {
		if n.Mesh < 0 {
			o.groups[n.Name] = i
			continue
		}
		if _, ok := o.first[n.Mesh]; !ok {
			o.first[n.Mesh] = i
		}
		o.named[meshName{n.Mesh, n.Name}] = i
	}
	return o
}

// of returns the node that a part came from, or -1.
func (o origins) of(p *shot.Part, asset string) int {
	if p.Mesh == nil {
		if i, ok := o.groups[p.Name]; ok {
			return i
		}
		return -1
	}
	if p.Mesh.Asset != asset {
		return -1
	}
	if i, ok := o.named[meshName{p.Mesh.Mesh, p.Name}]; ok {
		return i
	}
	if i, ok := o.first[p.Mesh.Mesh]; ok {
		return i
	}
	return -1
}

func plainName(s string) string {
	return strings.Map(func(c rune) rune {
		if unicode.IsLetter(c) || unicode.IsDigit(c) {
			return unicode.ToLower(c)
		}
		return -1
	}, s)
}

func parentName(m *model.Model, i int) string {
	if up := m.Nodes[i].Parent; up >= 0 {
		return m.Nodes[up].Name
	}
	return ""
}

func (r *replacing) match() {
	type seeker struct {
		id, name, parent string
		solid            bool
	}
	var seek []seeker
	x := shot.NewIndex(r.d)
	r.from = originsOf(r.old)
	top := x.Part(r.root)
	for i := range r.d.Parts {
		p := &r.d.Parts[i]
		if i == top || !x.Within(i, top) || p.Kind != shot.Solid && p.Kind != shot.Group {
			continue
		}
		s := seeker{p.ID, p.Name, "", p.Kind == shot.Solid}
		if o := r.from.of(p, r.was); o >= 0 {
			s.name, s.parent = r.old.Nodes[o].Name, parentName(r.old, o)
		} else if up := x.Part(p.Parent); up >= 0 {
			s.parent = r.d.Parts[up].Name
		}
		seek = append(seek, s)
	}
	type key struct {
		name, parent string
		solid        bool
	}
	for _, by := range []func(name, parent string, solid bool) key{
		func(name, parent string, solid bool) key { return key{name, parent, solid} },
		func(name, _ string, solid bool) key { return key{name, "", solid} },
		func(name, _ string, solid bool) key { return key{plainName(name), "", solid} },
	} {
		free := map[key][]int{} // nodes that are not taken yet, in their order
		for k := range r.m.Nodes {
			if r.taken[k] == "" {
				n := by(r.m.Nodes[k].Name, parentName(r.m, k), r.m.Nodes[k].Mesh >= 0)
				free[n] = append(free[n], k)
			}
		}
		left := seek[:0]
		for _, s := range seek {
			k := by(s.name, s.parent, s.solid)
			if n := free[k]; len(n) > 0 && k.name != "" {
				r.taken[n[0]], free[k] = s.id, n[1:]
			} else {
				left = append(left, s)
			}
		}
		seek = left
	}
	for _, s := range seek {
		if s.solid {
			r.out.Gone = append(r.out.Gone, s.id)
		}
	}
}

// change lets a part show the newer node.
func (r *replacing) change(p *shot.Part, node int) {
	n := r.m.Nodes[node]
	if o := r.from.of(p, r.was); o >= 0 {
		was := r.old.Nodes[o]
		if p.Rest == (shot.Rest{Position: was.Position, Rotation: was.Rotation, Size: was.Size}) {
			p.Rest = shot.Rest{Position: n.Position, Rotation: n.Rotation, Size: n.Size}
		}
	}
	if n.Mesh < 0 {
		return
	}
	prims := r.m.Meshes[n.Mesh].Primitives
	ids := make([]string, len(prims))
	for k, prim := range prims {
		switch {
		case len(p.Materials) == len(prims):
			ids[k] = p.Materials[k]
		case prim.Material >= 0:
			ids[k] = r.material(prim.Material, p.Materials)
		case len(p.Materials) > 0:
			ids[k] = p.Materials[min(k, len(p.Materials)-1)]
		}
	}
	p.Mesh, p.Materials = &shot.MeshRef{Asset: r.hash, Mesh: n.Mesh}, ids
}

// material returns the id of one of these materials with the name that the newer file uses, else of any
// of the shot, else of the file's own, added.
func (r *replacing) material(i int, preferred []string) string {
	name := r.m.Materials[i].Name
	found := ""
	for _, m := range r.d.Materials {
		if m.Name == name && (found == "" || slices.Contains(preferred, m.ID)) {
			found = m.ID
		}
	}
	if found != "" {
		return found
	}
	if r.materials[i] == "" {
		r.materials[i] = r.newID()
		r.d.Materials = append(r.d.Materials, stage.Material(r.m, i, r.hash, r.materials[i]))
	}
	return r.materials[i]
}

// add adds parts for the nodes that nothing was matched with.
func (r *replacing) add() {
	for i, n := range r.m.Nodes {
		if r.taken[i] != "" {
			continue
		}
		// A group that holds everything and does nothing is the root part itself.
		if n.Parent < 0 && n.Mesh < 0 && n.Local() == (model.Node{Rotation: [4]float64{0, 0, 0, 1}, Size: [3]float64{1, 1, 1}}).Local() {
			r.taken[i] = r.root
			continue
		}
		p := shot.Part{ID: r.newID(), Name: n.Name, Parent: r.root, Kind: shot.Group, Moves: []shot.Move{},
			Rest: shot.Rest{Position: n.Position, Rotation: n.Rotation, Size: n.Size}}
		if n.Parent >= 0 {
			p.Parent = r.taken[n.Parent]
		}
		if n.Mesh >= 0 {
			p.Kind, p.Mesh = shot.Solid, &shot.MeshRef{Asset: r.hash, Mesh: n.Mesh}
			for _, prim := range r.m.Meshes[n.Mesh].Primitives {
				id := ""
				if prim.Material >= 0 {
					id = r.material(prim.Material, nil)
				}
				p.Materials = append(p.Materials, id)
			}
			r.out.New = append(r.out.New, p.ID)
		}
		r.taken[i] = p.ID
		up := r.d.Index(p.Parent)
		r.d.Parts = slices.Insert(r.d.Parts, last(r.d, up)+1, p)
	}
}

// enliven lets the newer model's meshes hang on its bones, and its clips be played where the older ones of their names were.
func (r *replacing) enliven() {
	stage.Enliven(r.d, r.m, r.taken)
	list := stage.Clips(r.m, r.taken)
	p := r.d.Part(r.root)
	if len(list) == 0 {
		return // what the older one brought still moves the parts that are there
	}
	was := p.Clips
	p.Clips = list
	for k := range p.Moves {
		if m, ok := p.Moves[k].Data.(*move.Play); ok {
			name := was[m.Clip].Name
			m.Clip = max(0, slices.IndexFunc(list, func(c shot.Clip) bool { return c.Name == name }))
		}
	}
}

// last returns the index of the last part in a part.
func last(d *shot.Shot, up int) int {
	end := up
	for i := up + 1; i < len(d.Parts); i++ {
		if d.Within(i, up) {
			end = i
		}
	}
	return end
}
