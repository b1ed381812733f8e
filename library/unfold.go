package library

import (
	"fmt"
	"slices"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/model"
	"perigyre/core/move"
	"perigyre/core/net"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// FindHinges lets a part unfold along the edges that its panels share: a group of panels, or one mesh, which is split into its flat sides.
// Panels that hang on others are put into them, and the part gets a move that opens them one after another.
type FindHinges struct {
	Part string `json:"part"`
	ID   string `json:"id,omitempty"` // of the move
}

func init() { edit.Register[FindHinges]("findHinges") }

// Do implements edit.Change.
func (e *FindHinges) Do(w *edit.Work) (string, error) {
	a, err := assetsOf(w.Env)
	if err != nil {
		return "", err
	}
	p := w.Shot.Part(e.Part)
	if p == nil {
		return "", fmt.Errorf("the part to unfold is not in this shot any more")
	}
	name := p.Name
	if p.Mesh != nil || p.Shaped() != nil {
		if err := intoPanels(w, a, e.Part); err != nil {
			return "", err
		}
	} else if p.Kind != shot.Group {
		return "", fmt.Errorf("%s has no panels", name)
	}
	parts, found, err := hinges(w, a, e.Part)
	if err != nil {
		return "", fmt.Errorf("%s does not unfold: %w", name, err)
	}
	now := pose.New(w.Shot)
	for _, i := range found.Order {
		if on := found.Hinges[i].On; on >= 0 && w.Shot.Part(parts[i]).Parent != parts[on] {
			if err := putIn(now, w.Shot.Part(parts[i]), parts[on]); err != nil {
				return "", err
			}
		}
	}
	w.Sort()
	now = pose.New(w.Shot)
	group := now.AtRest(w.Index().Part(e.Part))
	var panels []move.Hinged
	for _, i := range found.Order {
		h := found.Hinges[i]
		if h.On < 0 {
			continue
		}
		k := w.Index().Part(parts[i])
		back, ok := now.AtRest(k).Inverse()
		if !ok {
			return "", fmt.Errorf("%s has no size to turn", w.Shot.Parts[k].Name)
		}
		in := back.Mul(group)
		panels = append(panels, move.Hinged{
			Part: parts[i], Axis: in.Vector(h.Axis).Unit(), Angle: h.Angle,
			At: in.Point(h.At).Mul(1 / now.OwnMetre(k)),
		})
	}
	p = w.Shot.Part(e.Part)
	p.Moves = slices.DeleteFunc(p.Moves, func(m shot.Move) bool { return m.Kind == "unfold" })
	m := move.Unfolding(panels)
	if m.ID = e.ID; m.ID == "" {
		m.ID = w.NewID()
	}
	p.Moves = append(p.Moves, m)
	w.Changed()
	return fmt.Sprintf("Unfold %s along %d hinges", name, len(panels)), nil
}

// hinges finds how the panels of a group hang on each other, in its frame. Parts are their ids.
func hinges(w *edit.Work, a *Assets, group string) (parts []string, found *net.Net, err error) {
	top := w.Index().Part(group)
	now := pose.New(w.Shot) // as it is by now, one mesh in panels
	back, ok := now.AtRest(top).Inverse()
	if !ok {
		return nil, nil, fmt.Errorf("it has no size")
	}
	var panels []net.Panel
	for i := range w.Shot.Parts {
		p := &w.Shot.Parts[i]
		if i == top || !w.Index().Within(i, top) || p.Hidden || p.Mesh == nil && p.Shaped() == nil {
			continue
		}
		points, triangles, err := a.Surface(p)
		if err != nil {
			return nil, nil, err
		}
		to := back.Mul(now.AtRest(i))
		for k, q := range points {
			points[k] = to.Point(q)
		}
		parts, panels = append(parts, p.ID), append(panels, net.Panel{Points: points, Triangles: triangles})
		if len(triangles) > 3*maxPanelFaces {
			return nil, nil, fmt.Errorf("%s has %d triangles, more than a flat panel needs", p.Name, len(triangles)/3)
		}
	}
	found, err = net.Find(panels, back.Vector(geom.Vec3{0, -1, 0}).Unit())
	return parts, found, err
}

// putIn puts a part into another one, where it is.
func putIn(now *pose.Evaluator, p *shot.Part, parent string) error {
	back, ok := now.AtRest(now.Index.Part(parent)).Inverse()
	if !ok {
		return fmt.Errorf("the panel that %s hangs on has no size", p.Name)
	}
	m := back.Mul(now.AtRest(now.Index.Part(p.ID)))
	_, q, size, exact := m.Decompose()
	if !exact {
		return fmt.Errorf("%s cannot hang on a panel that is stretched otherwise", p.Name)
	}
	p.Parent, p.Rest = parent, shot.Rest{Position: m.Point(p.Pivot).Sub(p.Pivot), Rotation: q, Size: size}
	return nil
}

const (
	maxPanelFaces = 20_000
	maxSides      = 200 // that one mesh is split into
)

// intoPanels makes a part of one mesh a group of its flat sides.
func intoPanels(w *edit.Work, a *Assets, id string) error {
	p := w.Shot.Part(id)
	if p.Soft() {
		return fmt.Errorf("%s hangs on bones or has morph targets, which are not split", p.Name)
	}
	var prims []model.Primitive
	if p.Mesh != nil {
		var err error
		if prims, err = a.Mesh(*p.Mesh); err != nil {
			return err
		}
	} else {
		sharp := *p.Shaped()
		sharp.Bevel = 0 // panels have no rounded edges
		prims = []model.Primitive{{Mesh: sharp.Build()}}
	}
	var points []geom.Vec3
	var triangles []uint32
	type origin struct{ prim, triangle int }
	var from []origin
	for k, prim := range prims {
		base := uint32(len(points))
		for _, v := range prim.Positions {
			points = append(points, geom.V3(v))
		}
		for t := range prim.Triangles() {
			from = append(from, origin{k, t})
			for c := range 3 {
				triangles = append(triangles, base+prim.Indices[3*t+c])
			}
		}
	}
	if len(from) > maxPanelFaces {
		return fmt.Errorf("%s has %d triangles, more than what is folded from flat panels has", p.Name, len(from))
	}
	sides := net.Split(points, triangles)
	if len(sides) < 2 || len(sides) > maxSides {
		return fmt.Errorf("%s has %d flat sides, those of rounded edges among them; what unfolds has 2 to %d", p.Name, len(sides), maxSides)
	}
	out := &model.Model{}
	c := &cleaner{out: out}
	facing := func(t int) geom.Vec3 {
		v := triangles[3*t : 3*t+3]
		return points[v[1]].Sub(points[v[0]]).Cross(points[v[2]].Sub(points[v[0]])).Unit()
	}
	var made []shot.Part
	for n, side := range sides {
		var own []model.Primitive
		var worn []string
		for k, prim := range prims {
			m := *prim.Mesh
			m.Indices, m.Tangents = nil, nil
			for _, t := range side {
				if from[t].prim == k {
					m.Indices = append(m.Indices, prim.Indices[3*from[t].triangle:3*from[t].triangle+3]...)
				}
			}
			if len(m.Indices) == 0 {
				continue
			}
			m.DropUnused()
			m.Normals = slices.Repeat([][3]float32{facing(side[0]).F32()}, len(m.Positions))
			own = append(own, model.Primitive{Mesh: &m})
			material := ""
			if k < len(p.Materials) {
				material = p.Materials[k]
			}
			worn = append(worn, material)
		}
		name := fmt.Sprintf("%s panel %d", p.Name, n+1)
		made = append(made, shot.Part{
			ID: w.NewID(), Name: shot.CleanName(name), Parent: p.ID, Kind: shot.Solid, Rest: shot.AtRest, Moves: []shot.Move{},
			Mesh: &shot.MeshRef{Mesh: c.add(name, own)}, Materials: worn,
		})
	}
	hash, err := a.KeepModel(out)
	if err != nil {
		return err
	}
	for i := range made {
		made[i].Mesh.Asset = hash
	}
	p.Kind, p.Mesh, p.Shape, p.Materials = shot.Group, nil, nil, nil
	at := w.Shot.Index(id)
	w.Shot.Parts = slices.Insert(w.Shot.Parts, at+1, made...)
	w.Changed()
	return nil
}
