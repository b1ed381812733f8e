package library

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"perigyre/core/geom"
	"perigyre/core/model"
	"perigyre/core/shot"
	"perigyre/formats/svg"
)

// markKey names what a mark is made from.
func markKey(m *shot.Mark) string {
	c := *m
	c.Built, c.Places = "", nil
	b, _ := json.Marshal(c) // a validated document always encodes
	h := sha256.Sum256(b)
	return hex.EncodeToString(h[:8])
}

// KeepMark notes on the part that holds a drawing what it was made from, so that it can be made anew.
func KeepMark(d *shot.Shot, m *model.Model, a *Assets) error {
	hash, err := a.Keep(m.Drawing)
	if err != nil {
		return err
	}
	drawing, err := svg.Open(m.Drawing)
	if err != nil {
		return err
	}
	mark := FirstMark(hash, drawing)
	for _, n := range m.Nodes {
		mark.Places = append(mark.Places, n.Position)
	}
	mark.Built = markKey(mark)
	d.Part(d.Sources[0].Root).Mark = mark
	return d.Validate()
}

// makeMarks makes the meshes of marks that have changed since they were made.
func makeMarks(d *shot.Shot, a *Assets, newID func() string) error {
	for i := 0; i < len(d.Parts); i++ {
		if m := d.Parts[i].Mark; m != nil && m.Built != markKey(m) {
			if err := makeMark(d, i, a, newID); err != nil {
				return fmt.Errorf("%s: %w", d.Parts[i].Name, err)
			}
		}
	}
	return nil
}

// makingMarks is how long an edit may take to make a mark anew.
const makingMarks = time.Minute

// makeMark gives the parts of a mark their meshes: the first part the first area or letter, and so on.
// Parts that are there keep their names, materials, moves and what was done to their places; those
// that are too many go, and new ones come.
func makeMark(d *shot.Shot, at int, a *Assets, newID func() string) error {
	mark := d.Parts[at].Mark
	if err := mark.Solid.Check(); err != nil {
		return err
	}
	ctx, done := context.WithTimeout(context.Background(), makingMarks)
	defer done()
	m, err := Mark(ctx, mark, a.Open)
	if err != nil {
		return err
	}
	asset, err := a.KeepModel(m)
	if err != nil {
		return err
	}
	root := d.Parts[at].ID
	var mine []int
	for i := range d.Parts {
		if d.Parts[i].Parent == root && d.Parts[i].Mesh != nil {
			mine = append(mine, i)
		}
	}
	materials := map[int]string{}
	material := func(k int) string {
		id, ok := materials[k]
		if !ok {
			id = newID()
			materials[k] = id
			mat := m.Materials[k]
			mat.ID = id
			for _, slot := range mat.TextureSlots() {
				if *slot != nil {
					(*slot).Asset = asset
				}
			}
			d.Materials = append(d.Materials, mat)
		}
		return id
	}
	var made []shot.Part
	for k, n := range m.Nodes {
		ref := &shot.MeshRef{Asset: asset, Mesh: n.Mesh}
		if k < len(mine) {
			p := &d.Parts[mine[k]]
			// What the letter was moved by hand stays on top of where the word now has it.
			was := mark.Placed(p.Mesh.Mesh)
			p.Rest.Position = p.Rest.Position.Add(n.Position.Sub(was))
			if mark.Word != nil && len([]rune(p.Name)) == 1 {
				p.Name = n.Name
			}
			p.Mesh = ref
			continue
		}
		p := shot.Part{ID: newID(), Name: n.Name, Parent: root, Kind: shot.Solid, Rest: shot.AtRest, Moves: []shot.Move{}, Mesh: ref}
		p.Rest.Position = n.Position
		for _, prim := range m.Meshes[n.Mesh].Primitives {
			if k > 0 && len(mine) > 0 { // more letters of a word look like its first
				p.Materials = append(p.Materials, d.Parts[mine[0]].Materials[min(len(p.Materials), len(d.Parts[mine[0]].Materials)-1)])
			} else {
				p.Materials = append(p.Materials, material(prim.Material))
			}
		}
		made = append(made, p)
	}
	mark.Places = make([]geom.Vec3, len(m.Nodes))
	for k, n := range m.Nodes {
		mark.Places[k] = n.Position
	}
	gone := map[string]bool{}
	for _, i := range mine[min(len(mine), len(m.Nodes)):] {
		gone[d.Parts[i].ID] = true
	}
	d.Parts = slices.DeleteFunc(d.Parts, func(p shot.Part) bool { // what is in what goes, goes too
		gone[p.ID] = gone[p.ID] || gone[p.Parent]
		return gone[p.ID]
	})
	at = d.Index(root)
	end := at + 1
	for end < len(d.Parts) && d.Within(end, at) {
		end++
	}
	d.Parts = append(d.Parts[:end:end], append(made, d.Parts[end:]...)...)
	d.Parts[at].Mark.Places = mark.Places
	d.Parts[at].Mark.Built = markKey(d.Parts[at].Mark)
	return nil
}
