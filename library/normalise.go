package library

import (
	"context"
	"fmt"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/shot"
)

// normalise makes a model fit to work with: no degenerate triangles, normals on every mesh, no empty
// parts, a name on everything, pictures that can be shown.
func normalise(ctx context.Context, m *model.Model, limits model.Limits, step Step) (*Report, error) {
	r := &Report{Warnings: []string{}}
	cleanNames(m)
	var open []string
	degenerate := 0
	for i := range m.Meshes {
		step("Checking meshes", 0.5+0.4*float64(i)/float64(len(m.Meshes)))
		me := &m.Meshes[i]
		kept := me.Primitives[:0]
		edges := 0
		for _, p := range me.Primitives {
			degenerate += p.RemoveDegenerate()
			if p.Triangles() == 0 {
				continue
			}
			if p.Normals == nil {
				p.MakeNormals(mesh.DefaultCrease)
			}
			tidy(p.Mesh)
			edges += p.OpenEdges()
			kept = append(kept, p)
		}
		me.Primitives = kept
		if edges > 0 && len(me.Primitives) == 1 {
			open = append(open, me.Name)
		}
	}
	if degenerate > 0 {
		r.Warnings = append(r.Warnings, fmt.Sprintf("%d triangles without area were removed.", degenerate))
	}
	if len(open) > 0 {
		r.Warnings = append(r.Warnings, fmt.Sprintf("%s not closed: %s.", count(len(open), "mesh is", "meshes are"), short(open)))
	}
	dropEmpty(m)
	if len(m.Nodes) == 0 {
		return nil, fmt.Errorf("it holds no surfaces")
	}
	_, triangles, _ := m.Count()
	if err := limits.CheckTriangles(triangles); err != nil { // instances count too
		return nil, err
	}
	for i := range m.Images {
		step("Checking pictures", 0.9+0.1*float64(i)/float64(len(m.Images)))
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if _, err := picture(m, &m.Images[i], limits); err != nil {
			return nil, err
		}
	}
	return r, nil
}

// cleanNames brings the names that a file gives to what can be kept.
func cleanNames(m *model.Model) {
	clean := func(name *string) { *name = shot.CleanName(*name) }
	for i := range m.Nodes {
		clean(&m.Nodes[i].Name)
	}
	for i := range m.Meshes {
		clean(&m.Meshes[i].Name)
	}
	for i := range m.Materials {
		clean(&m.Materials[i].Name)
	}
	for i := range m.Images {
		clean(&m.Images[i].Name)
	}
	for i := range m.Variants {
		clean(&m.Variants[i])
	}
	if m.Animation != nil {
		clean(&m.Animation.Name)
	}
}

// tidy brings normals to unit length and drops tangents where any is unusable; they are made again
// from the texture coordinates where they are needed.
func tidy(m *mesh.Mesh) {
	for i, n := range m.Normals {
		u := geom.V3(n).Unit()
		if u == (geom.Vec3{}) || !u.Finite() {
			u = geom.Vec3{0, 1, 0}
		}
		m.Normals[i] = u.F32()
	}
	for i, t := range m.Tangents {
		u := geom.Vec3{float64(t[0]), float64(t[1]), float64(t[2])}.Unit()
		if u == (geom.Vec3{}) || !u.Finite() || t[3] != 1 && t[3] != -1 {
			m.Tangents = nil
			return
		}
		f := u.F32()
		m.Tangents[i] = [4]float32{f[0], f[1], f[2], t[3]}
	}
	for i, uv := range m.UV {
		if !(geom.Vec3{float64(uv[0]), float64(uv[1]), 0}).Finite() {
			m.UV[i] = [2]float32{}
		}
	}
	for i, c := range m.Colors {
		for k, v := range c {
			if !(v >= 0 && v <= 1) {
				m.Colors[i][k] = max(0, min(1, v))
				if v != v {
					m.Colors[i][k] = 0
				}
			}
		}
	}
}

// dropEmpty takes out nodes that hold no mesh and no light, themselves or below them.
func dropEmpty(m *model.Model) {
	full := make([]bool, len(m.Nodes))
	for i := len(m.Nodes) - 1; i >= 0; i-- {
		n := &m.Nodes[i]
		if n.Mesh >= 0 && len(m.Meshes[n.Mesh].Primitives) == 0 {
			n.Mesh = -1
		}
		if full[i] = full[i] || n.Mesh >= 0 || n.Light != nil; full[i] && n.Parent >= 0 {
			full[n.Parent] = true
		}
	}
	at := make([]int, len(m.Nodes))
	kept := m.Nodes[:0]
	for i, n := range m.Nodes {
		if !full[i] {
			m.LeftOut = append(m.LeftOut, "empty group "+n.Name)
			at[i] = -1
			continue
		}
		at[i] = len(kept)
		if n.Parent >= 0 {
			n.Parent = at[n.Parent]
		}
		kept = append(kept, n)
	}
	m.Nodes = kept
	if a := m.Animation; a != nil {
		moved := a.Channels[:0]
		for _, c := range a.Channels {
			if c.Node = at[c.Node]; c.Node >= 0 {
				moved = append(moved, c)
			}
		}
		if a.Channels = moved; len(moved) == 0 {
			m.Animation = nil
		}
	}
}

func count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// short lists the first few names.
func short(names []string) string {
	const most = 5
	if len(names) > most {
		return fmt.Sprintf("%s and %d more", strings.Join(names[:most], ", "), len(names)-most)
	}
	return strings.Join(names, ", ")
}
