package library

import (
	"fmt"
	"math"
	"perigyre/core/edit"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

const maxPieces = 5000

// Clean puts the meshes of parts, and of all in them, in order. Several of its fields may be set; they
// are done in the order in which they stand.
type Clean struct {
	Parts     []string `json:"parts"`
	Split     bool     `json:"split,omitempty"`     // into pieces that hang together, each a part
	Gather    string   `json:"gather,omitempty"`    // parts into groups by touching, name or material
	Share     bool     `json:"share,omitempty"`     // one mesh for parts that are equal but for their place
	Weld      float64  `json:"weld,omitempty"`      // join vertices that are so near, in the mesh's own unit
	Outside   bool     `json:"outside,omitempty"`   // turn faces that look inwards
	Subdivide bool     `json:"subdivide,omitempty"` // once, by Loop's scheme
	Normals   string   `json:"normals,omitempty"`   // smooth or faceted, to make them anew
	Crease    float64  `json:"crease,omitempty"`    // radians above which edges stay hard
}

func init() { edit.Register[Clean]("clean") }

// Do implements edit.Change.
func (c *Clean) Do(w *edit.Work) (string, error) {
	a, err := assetsOf(w.Env)
	if err != nil {
		return "", err
	}
	words, err := clean(w.Shot, c, a, w.NewID)
	w.Changed()
	return words, err
}

// clean carries out a clean-up on a document, which it changes, and returns words for the history.
func clean(d *shot.Shot, c *Clean, a *Assets, newID func() string) (string, error) {
	chosen := map[int]bool{}
	for _, id := range c.Parts {
		root := d.Index(id)
		if root < 0 {
			return "", fmt.Errorf("a part that was chosen is not in this shot any more")
		}
		for i := range d.Parts {
			chosen[i] = chosen[i] || d.Parts[i].Mesh != nil && !d.Parts[i].Soft() && d.Within(i, root)
		}
	}
	any := false
	for _, v := range chosen {
		any = any || v
	}
	if !any {
		return "", fmt.Errorf("nothing that is chosen has a mesh of its own; those that hang on bones or have morph targets are left as they are")
	}
	if c.Gather != "" {
		return gather(d, chosen, c.Gather, a, newID)
	}
	w := &cleaner{d: d, a: a, out: &model.Model{}, refs: map[shot.MeshRef]int{}}
	words := ""
	if c.Split {
		n, err := w.split(chosen, newID)
		if err != nil {
			return "", err
		}
		if n == 0 {
			return "", fmt.Errorf("what is chosen is in one piece each")
		}
		words = fmt.Sprintf("Split into %d pieces", n)
	} else if c.Share {
		n, err := w.share(chosen)
		if err != nil {
			return "", err
		}
		if n == 0 {
			return "", fmt.Errorf("no two parts of what is chosen are equal")
		}
		words = fmt.Sprintf("Share the meshes of %d equal parts", n)
		return words, nil
	} else {
		var err error
		if words, err = w.each(chosen, c, a.Limits); err != nil {
			return "", err
		}
	}
	hash, err := a.KeepModel(w.out)
	if err != nil {
		return "", err
	}
	for i := range d.Parts {
		if p := &d.Parts[i]; p.Mesh != nil && p.Mesh.Asset == "" {
			p.Mesh.Asset = hash
		}
	}
	return words, nil
}

// cleaner gathers new meshes. Parts refer to them by an empty asset until they are kept.
type cleaner struct {
	d    *shot.Shot
	a    *Assets
	out  *model.Model
	refs map[shot.MeshRef]int
}

// add puts a mesh into the new model, with a node, so that it is a model.
func (w *cleaner) add(name string, prims []model.Primitive) int {
	at := len(w.out.Meshes)
	for i := range prims {
		prims[i].Material = -1
	}
	w.out.Meshes = append(w.out.Meshes, model.Mesh{Name: name, Primitives: prims})
	w.out.Nodes = append(w.out.Nodes, model.Node{Name: name, Parent: -1, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: at})
	return at
}

// copied returns a mesh's primitives with arrays of their own.
func copied(prims []model.Primitive) []model.Primitive {
	out := make([]model.Primitive, len(prims))
	for i, p := range prims {
		m := &mesh.Mesh{}
		m.Append(p.Mesh)
		out[i] = model.Primitive{Mesh: m, Material: p.Material}
	}
	return out
}

// each does what keeps a part one part.
func (w *cleaner) each(chosen map[int]bool, c *Clean, limits model.Limits) (string, error) {
	crease := c.Crease
	if crease == 0 {
		crease = mesh.DefaultCrease
	}
	if !(c.Weld >= 0) || !(crease > 0 && crease <= math.Pi) || c.Normals != "" && c.Normals != "smooth" && c.Normals != "faceted" {
		return "", fmt.Errorf("a clean-up joins over 0 or more, has hard edges above 0 to 180 degrees, and normals that are smooth or faceted")
	}
	joined, turned, triangles := 0, 0, 0
	for i := range w.d.Parts {
		p := &w.d.Parts[i]
		if !chosen[i] {
			continue
		}
		at, done := w.refs[*p.Mesh]
		if !done {
			prims, err := w.a.Mesh(*p.Mesh)
			if err != nil {
				return "", err
			}
			prims = copied(prims)
			for _, prim := range prims {
				m := prim.Mesh
				if c.Weld > 0 {
					joined += m.Weld(c.Weld)
				}
				if c.Outside {
					turned += m.FixWinding()
				}
				if c.Subdivide {
					if err := limits.CheckTriangles(triangles + 4*m.Triangles()); err != nil {
						return "", err
					}
					m.Subdivide(crease)
				}
				switch {
				case c.Normals == "faceted":
					m.Faceted()
				case c.Normals == "smooth" || m.Normals == nil:
					m.MakeNormals(crease)
				}
				triangles += m.Triangles()
			}
			at = w.add(p.Name, prims)
			w.refs[*p.Mesh] = at
		}
		p.Mesh = &shot.MeshRef{Mesh: at}
	}
	switch {
	case c.Subdivide:
		return fmt.Sprintf("Subdivide to %d triangles", triangles), nil
	case c.Outside:
		return fmt.Sprintf("Turn %d faces outwards", turned), nil
	case c.Weld > 0:
		return fmt.Sprintf("Join %d vertices", joined), nil
	case c.Normals == "faceted":
		return "Make the normals faceted", nil
	}
	return fmt.Sprintf("Make the normals smooth up to %.4g degrees", crease*180/math.Pi), nil
}

// split makes parts in several pieces groups of them.
func (w *cleaner) split(chosen map[int]bool, newID func() string) (int, error) {
	var parts []shot.Part
	made := 0
	for i := range w.d.Parts {
		p := w.d.Parts[i]
		parts = append(parts, p)
		if !chosen[i] {
			continue
		}
		prims, err := w.a.Mesh(*p.Mesh)
		if err != nil {
			return 0, err
		}
		type piece struct {
			m        *mesh.Mesh
			material string
		}
		var pieces []piece
		for k, prim := range prims {
			id := ""
			if k < len(p.Materials) {
				id = p.Materials[k]
			}
			for _, m := range prim.Pieces() {
				pieces = append(pieces, piece{m, id})
			}
		}
		if len(pieces) < 2 {
			continue
		}
		if made += len(pieces); made > maxPieces {
			return 0, fmt.Errorf("that would be more than %d pieces; choose fewer parts", maxPieces)
		}
		group := &parts[len(parts)-1]
		group.Kind, group.Mesh, group.Materials = shot.Group, nil, nil
		for k, pc := range pieces {
			name := fmt.Sprintf("%s %d", p.Name, k+1)
			parts = append(parts, shot.Part{
				ID: newID(), Name: name, Parent: p.ID, Kind: shot.Solid, Rest: shot.AtRest, Moves: []shot.Move{},
				Mesh: &shot.MeshRef{Mesh: w.add(name, []model.Primitive{{Mesh: pc.m}})}, Materials: []string{pc.material},
			})
		}
	}
	w.d.Parts = parts
	return made, nil
}

// share lets equal parts show one mesh, each at its own place.
func (w *cleaner) share(chosen map[int]bool) (int, error) {
	type key struct{ positions, indices int }
	firsts := map[key][]shot.MeshRef{}
	shared := 0
	for i := range w.d.Parts {
		p := &w.d.Parts[i]
		if !chosen[i] {
			continue
		}
		prims, err := w.a.Mesh(*p.Mesh)
		if err != nil {
			return 0, err
		}
		if len(prims) != 1 {
			continue
		}
		k := key{len(prims[0].Positions), len(prims[0].Indices)}
		found := false
		for _, ref := range firsts[k] {
			if ref == *p.Mesh {
				found = true
				break
			}
			first, err := w.a.Mesh(ref)
			if err != nil {
				return 0, err
			}
			m, ok := mesh.Same(first[0].Mesh, prims[0].Mesh)
			if !ok || len(p.Moves) > 0 {
				continue
			}
			inv, _ := m.Inverse() // a movement has one
			local := pose.Local(p, p.Rest).Mul(inv)
			_, r, s, exact := local.Decompose()
			if !exact {
				continue
			}
			p.Rest.Rotation, p.Rest.Size = r, s
			p.Pivot = m.Point(p.Pivot)
			p.Rest.Position = local.Point(p.Pivot).Sub(p.Pivot)
			ref := ref
			p.Mesh = &ref
			shared++
			found = true
			break
		}
		if !found {
			firsts[k] = append(firsts[k], *p.Mesh)
		}
	}
	return shared, nil
}
