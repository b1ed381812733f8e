package library

import (
	"context"
	"fmt"
	"math"
	"slices"
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
			if p.Normals == nil && p.Soft() {
				p.SmoothNormals()
			} else if p.Normals == nil {
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
	seatSkins(m)
	fewClips(m)
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
	for i := range m.Animations {
		clean(&m.Animations[i].Name)
	}
	for i := range m.Skins {
		clean(&m.Skins[i].Name)
	}
	for i := range m.Meshes {
		for k := range m.Meshes[i].Targets {
			clean(&m.Meshes[i].Targets[k])
		}
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

// seatSkins puts nodes whose meshes hang on bones where the bones put their meshes at rest, so that a mesh and what is measured of it
// lie where it is seen: the place of such a node is nobody's (glTF 2.0, 3.7.3.3), and so are the channels that move it. Where the bones
// of the rest pose do not agree, the first one decides.
func seatSkins(m *model.Model) {
	aloneSkins(m)
	worlds := m.Worlds()
	for i := range m.Nodes {
		n := &m.Nodes[i]
		if n.Skin == 0 {
			continue
		}
		s := &m.Skins[n.Skin-1]
		at := worlds[s.Joints[0]].Mul(s.Inverse[0])
		if n.Parent >= 0 {
			up, ok := worlds[n.Parent].Inverse()
			if !ok {
				continue
			}
			at = up.Mul(at)
		}
		p, q, size, _ := at.Decompose()
		if p.Finite() && size.Finite() && size[0]*size[1]*size[2] != 0 && q.Unit() != (geom.Quat{}) {
			n.Position, n.Rotation, n.Size = p, q.Unit(), size
		}
		for k := range m.Animations {
			a := &m.Animations[k]
			a.Channels = slices.DeleteFunc(a.Channels, func(c model.Channel) bool { return c.Node == i && c.Path != "weights" })
		}
	}
	m.Animations = slices.DeleteFunc(m.Animations, func(a model.Animation) bool { return len(a.Channels) == 0 })
}

// aloneSkins gives meshes that hang on bones nodes of their own where their node is a bone, or holds others: it has a place then that
// matters to those, and none to the mesh.
func aloneSkins(m *model.Model) {
	needed := make([]bool, len(m.Nodes))
	for i := range m.Nodes {
		if up := m.Nodes[i].Parent; up >= 0 {
			needed[up] = true
		}
		if k := m.Nodes[i].Skin; k > 0 {
			for _, j := range m.Skins[k-1].Joints {
				needed[j] = true
			}
		}
	}
	for i := range needed {
		n := m.Nodes[i]
		if n.Skin == 0 || !needed[i] {
			continue
		}
		m.Nodes[i].Mesh, m.Nodes[i].Skin, m.Nodes[i].Weights = -1, 0, nil
		n.Light = nil
		for _, a := range m.Animations {
			for k := range a.Channels {
				if c := &a.Channels[k]; c.Node == i && c.Path == "weights" {
					c.Node = len(m.Nodes)
				}
			}
		}
		m.Nodes = append(m.Nodes, n)
	}
}

// fewClips takes out animations beyond what a document keeps, by name.
func fewClips(m *model.Model) {
	kept, size := m.Animations[:0], 0
	for _, a := range m.Animations {
		bytes, sound := 0, true
		for _, c := range a.Channels {
			bytes += 4 * (len(c.Times) + len(c.Values))
			sound = sound && c.Times[0] >= 0 && c.Times[len(c.Times)-1] <= shot.MaxClipTime
			for _, v := range c.Values {
				sound = sound && math.Abs(float64(v)) <= 1e9
			}
		}
		switch {
		case len(kept) == shot.MaxClips || size+bytes > shot.MaxClipBytes:
			m.LeftOut = append(m.LeftOut, fmt.Sprintf("animation %s: a model brings at most %d clips with %d MB in all; export it with fewer keys", a.Name, shot.MaxClips, shot.MaxClipBytes>>20))
		case !sound:
			m.LeftOut = append(m.LeftOut, fmt.Sprintf("animation %s, which has times or values that are not possible", a.Name))
		default:
			size += bytes
			kept = append(kept, a)
		}
	}
	m.Animations = kept
}

// dropEmpty takes out nodes that hold no mesh and no light, themselves or below them, and are no bones of what is there.
func dropEmpty(m *model.Model) {
	full := make([]bool, len(m.Nodes))
	for i := range m.Nodes {
		if n := &m.Nodes[i]; n.Mesh >= 0 && n.Skin > 0 && len(m.Meshes[n.Mesh].Primitives) > 0 {
			for _, j := range m.Skins[n.Skin-1].Joints {
				full[j] = true
			}
		}
	}
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
	for i := range m.Skins {
		for k, j := range m.Skins[i].Joints {
			m.Skins[i].Joints[k] = max(0, at[j]) // of a skin that nothing hangs on
		}
	}
	list := m.Animations[:0]
	for _, a := range m.Animations {
		moved := a.Channels[:0]
		for _, c := range a.Channels {
			if c.Node = at[c.Node]; c.Node >= 0 {
				moved = append(moved, c)
			}
		}
		if a.Channels = moved; len(moved) > 0 {
			list = append(list, a)
		}
	}
	m.Animations = list
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
