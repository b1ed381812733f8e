package library

import (
	"fmt"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/model"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Export makes a model of a shot as it is seen, with its motion as an animation that has a sample on every
// frame. A loop has one more, where frame N would be, so that players that go from the last sample to the
// first go over the seam. Between frames players mix places in a straight line, which a turn's are not.
func Export(d *shot.Shot, a *Assets) (*model.Model, error) {
	d = d.Dressed()
	e := pose.New(d)
	x := &exporter{d: d, a: a, m: &model.Model{}, materials: map[string]int{}, images: map[[2]any]int{}, meshes: map[string]int{}}
	at := make([]int, len(d.Parts))
	hidden := make([]bool, len(d.Parts))
	for i := range d.Parts {
		p := &d.Parts[i]
		up := d.Index(p.Parent)
		n := model.Node{Name: p.Name, Parent: -1, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: -1}
		if up >= 0 {
			n.Parent = at[up]
		}
		hidden[i] = p.Hidden || up >= 0 && hidden[up]
		if !hidden[i] {
			k, err := x.mesh(p)
			if err != nil {
				return nil, err
			}
			n.Mesh = k
		}
		at[i] = len(x.m.Nodes)
		x.m.Nodes = append(x.m.Nodes, n)
	}
	last := d.Frames - 1
	if d.Ending == shot.Loop {
		last = d.Frames
	}
	worlds := make([][]geom.Mat4, last+1)
	for f := range worlds {
		if f == d.Frames {
			worlds[f] = e.BeforeSeam()
		} else {
			worlds[f] = e.At(float64(f))
		}
	}
	local := func(f, i int) (geom.Vec3, geom.Quat, geom.Vec3) {
		m := worlds[f][i]
		if up := d.Index(d.Parts[i].Parent); up >= 0 {
			if inv, ok := worlds[f][up].Inverse(); ok {
				m = inv.Mul(m)
			}
		}
		p, r, s, _ := m.Decompose()
		return p, r, s
	}
	anim := model.Animation{Name: d.Name}
	times := make([]float32, last+1)
	for f := range times {
		times[f] = float32(float64(f) / d.Rate.PerSecond())
	}
	for i := range d.Parts { // what hangs on bones, once all of those are nodes
		p, n := &d.Parts[i], &x.m.Nodes[at[i]]
		if p.Skin == nil || n.Mesh < 0 {
			continue
		}
		s := model.Skin{Name: p.Name, Inverse: p.Skin.Inverse}
		for _, id := range p.Skin.Joints {
			j := i // of one that is gone, what hangs on it goes with the part
			if k := d.Index(id); k >= 0 {
				j = k
			}
			s.Joints = append(s.Joints, at[j])
		}
		x.m.Skins = append(x.m.Skins, s)
		n.Skin = len(x.m.Skins)
	}
	carrier := e.Carrier()
	for i := range d.Parts {
		n := &x.m.Nodes[at[i]]
		n.Position, n.Rotation, n.Size = local(0, i)
		if n.Mesh >= 0 && len(d.Parts[i].Morphs) > 0 {
			var list []float32
			still := true
			for f := range worlds {
				t := motion.At(d, float64(f))
				if f == d.Frames {
					t = motion.BeforeSeam(d)
				}
				w := e.Weights(i, t)
				if f == 0 {
					n.Weights = w
				}
				still = still && slices.Equal(w, n.Weights)
				for _, v := range w {
					list = append(list, float32(v))
				}
			}
			if !still {
				anim.Channels = append(anim.Channels, model.Channel{Node: at[i], Path: "weights", Interpolation: "LINEAR", Times: times, Values: list})
			}
		}
		if carrier[i] != i {
			continue
		}
		var move, turn, size []float32
		before := n.Rotation
		for f := range worlds {
			p, r, s := local(f, i)
			if r[0]*before[0]+r[1]*before[1]+r[2]*before[2]+r[3]*before[3] < 0 {
				r = geom.Quat{-r[0], -r[1], -r[2], -r[3]} // the shorter way from the one before
			}
			before = r
			for k := range p {
				move, size = append(move, float32(p[k])), append(size, float32(s[k]))
			}
			for _, v := range r {
				turn = append(turn, float32(v))
			}
		}
		for _, c := range []model.Channel{{Path: "translation", Values: move}, {Path: "rotation", Values: turn}, {Path: "scale", Values: size}} {
			c.Node, c.Interpolation, c.Times = at[i], "LINEAR", times
			anim.Channels = append(anim.Channels, c)
		}
	}
	if len(anim.Channels) > 0 {
		x.m.Animations = []model.Animation{anim}
	}
	spreads, err := e.Spreads(0, worlds[0], a)
	if err != nil {
		return nil, err
	}
	for _, c := range spreads {
		if hidden[c.Spread] {
			continue
		}
		k, err := x.mesh(&d.Parts[c.Part])
		if err != nil {
			return nil, err
		}
		for n, m := range c.Places {
			p, r, s, _ := m.Decompose()
			x.m.Nodes = append(x.m.Nodes, model.Node{Name: fmt.Sprintf("%s %d", d.Parts[c.Part].Name, n+1), Parent: at[c.Spread], Position: p, Rotation: r, Size: s, Mesh: k})
		}
	}
	return x.m, nil
}

type exporter struct {
	d         *shot.Shot
	a         *Assets
	m         *model.Model
	materials map[string]int
	images    map[[2]any]int
	meshes    map[string]int
}

// mesh returns the number of a part's mesh, -1 for none. Parts that look the same share one.
func (x *exporter) mesh(p *shot.Part) (int, error) {
	if p.Mesh == nil && p.Shaped() == nil {
		return -1, nil
	}
	key := fmt.Sprint(p.Mesh, p.Materials)
	if p.Mesh != nil {
		key = fmt.Sprint(*p.Mesh, p.Materials)
	} else {
		key = fmt.Sprint(p.Shaped().Key(), p.Materials)
	}
	if k, ok := x.meshes[key]; ok {
		return k, nil
	}
	var prims []model.Primitive
	if p.Mesh != nil {
		list, err := x.a.Mesh(*p.Mesh)
		if err != nil {
			return 0, err
		}
		prims = append(prims, list...)
	} else {
		prims = []model.Primitive{{Mesh: p.Shaped().Build()}}
	}
	for k := range prims {
		id := ""
		if k < len(p.Materials) {
			id = p.Materials[k]
		}
		mat, err := x.material(id)
		if err != nil {
			return 0, err
		}
		prims[k].Material = mat
	}
	x.meshes[key] = len(x.m.Meshes)
	made := model.Mesh{Name: p.Name, Primitives: prims}
	for _, m := range p.Morphs {
		made.Targets, made.Weights = append(made.Targets, m.Name), append(made.Weights, m.Weight)
	}
	x.m.Meshes = append(x.m.Meshes, made)
	return x.meshes[key], nil
}

func (x *exporter) material(id string) (int, error) {
	if k, ok := x.materials[id]; ok {
		return k, nil
	}
	mat := material.Default()
	for _, m := range x.d.Materials {
		if m.ID == id {
			mat = m
		}
	}
	for _, slot := range mat.TextureSlots() {
		t := *slot
		if t == nil {
			continue
		}
		key := [2]any{t.Asset, t.Image}
		k, ok := x.images[key]
		if !ok {
			m, err := x.a.Model(t.Asset)
			if err != nil {
				return 0, err
			}
			k = len(x.m.Images)
			x.m.Images = append(x.m.Images, m.Images[t.Image])
			x.images[key] = k
		}
		c := *t
		c.Image = k
		*slot = &c
	}
	x.materials[id] = len(x.m.Materials)
	x.m.Materials = append(x.m.Materials, mat)
	return x.materials[id], nil
}
