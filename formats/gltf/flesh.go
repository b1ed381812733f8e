package gltf

import (
	"encoding/json"
	"fmt"
	"strings"

	"perigyre/core/geom"
	coremesh "perigyre/core/mesh"
	"perigyre/core/model"
)

// bound reports whether vertex data says how positions hang on bones.
func bound(name string) bool {
	switch name {
	case "JOINTS_0", "JOINTS_1", "WEIGHTS_0", "WEIGHTS_1":
		return true
	}
	return false
}

// bones reads how positions hang on bones, by two sets of four at most (3.7.3.2); further ones are left out by name.
func (r *reader) bones(p primitive, n int) ([]coremesh.Bones, error) {
	if _, ok := p.Attributes["JOINTS_0"]; !ok {
		return nil, nil
	}
	out := make([]coremesh.Bones, n)
	for set := range coremesh.MaxBones / 4 {
		j, ok := p.Attributes[fmt.Sprintf("JOINTS_%d", set)]
		if !ok {
			break
		}
		w, ok := p.Attributes[fmt.Sprintf("WEIGHTS_%d", set)]
		if !ok {
			return nil, fmt.Errorf("JOINTS_%d has no WEIGHTS_%d", set, set)
		}
		joints, err := r.floats(j, 4, 0, "VEC4")
		if err != nil {
			return nil, err
		}
		shares, err := r.floats(w, 4, 0, "VEC4")
		if err != nil {
			return nil, err
		}
		if len(joints) != 4*n || len(shares) != 4*n {
			return nil, fmt.Errorf("%d bones and %d shares for %d positions", len(joints)/4, len(shares)/4, n)
		}
		for i := range out {
			for k := range 4 {
				joint := joints[4*i+k]
				if !(joint >= 0 && joint < coremesh.MaxJoints) {
					return nil, fmt.Errorf("vertex %d hangs on bone %g", i, joint)
				}
				out[i].Joint[4*set+k], out[i].Share[4*set+k] = uint16(joint), shares[4*i+k]
			}
		}
	}
	for i := range out {
		out[i].Even()
	}
	return out, nil
}

// targetsOf reads the names of a mesh's morph targets, from where exporters commonly put them (extras.targetNames), and their
// weights at rest (3.7.2.2). All primitives have the same number of them.
func (r *reader) targetsOf(m *model.Mesh, g *mesh) error {
	n := 0
	for _, p := range g.Primitives {
		n = max(n, len(p.Targets))
	}
	if n > coremesh.MaxTargets {
		return fmt.Errorf("%d morph targets are more than %d", n, coremesh.MaxTargets)
	}
	if n == 0 {
		return nil
	}
	var extras struct {
		TargetNames []string `json:"targetNames"`
	}
	_ = json.Unmarshal(g.Extras, &extras) // extras are anybody's
	for k := range n {
		name := fmt.Sprintf("Target %d", k+1)
		if k < len(extras.TargetNames) && strings.TrimSpace(extras.TargetNames[k]) != "" {
			name = extras.TargetNames[k]
		}
		m.Targets = append(m.Targets, name)
	}
	m.Weights = weights(g.Weights, make([]float64, n))
	return nil
}

// weights returns given ones as many as there are of others, which take the place of those that are not given.
func weights(given, others []float64) []float64 {
	out := append([]float64(nil), others...)
	for k := range min(len(given), len(out)) {
		if v := given[k]; v-v == 0 {
			out[k] = v
		}
	}
	return out
}

// morphs reads the targets of a primitive; one that has fewer than its mesh stays as it is in the others.
func (r *reader) morphs(m *coremesh.Mesh, p primitive, n int) error {
	for k := range n {
		var t coremesh.Target
		if k < len(p.Targets) {
			for name, at := range p.Targets[k] {
				into := map[string]*[][3]float32{"POSITION": &t.Positions, "NORMAL": &t.Normals, "TANGENT": &t.Tangents}[name]
				if into == nil {
					r.left.Add("morph target data " + name)
					continue
				}
				flat, err := r.floats(at, 3, 0, "VEC3")
				if err != nil {
					return fmt.Errorf("morph target %d: %w", k, err)
				}
				if *into = group3(flat); len(flat) > 0 && len(*into) != len(m.Positions) {
					return fmt.Errorf("morph target %d has %d values for %d positions", k, len(*into), len(m.Positions))
				}
				if r.targets += len(*into); r.targets > 9*r.limits.Triangles {
					return fmt.Errorf("its morph targets have more values than a model of --max-triangles %d can use", r.limits.Triangles)
				}
			}
		}
		m.Targets = append(m.Targets, t)
	}
	return m.Check()
}

// bind reads the skins, and which node has which. Joints outside the scene stand still where they are in the file, which a skin
// cannot follow: such a skin is left out by name.
func (r *reader) bind() error {
	at := make([]int, len(r.doc.Skins)) // index into the model's plus 1
	for i, s := range r.doc.Skins {
		if len(s.Joints) == 0 || len(s.Joints) > coremesh.MaxJoints {
			return fmt.Errorf("skin %d %q has %d joints; it may have 1 to %d", i, s.Name, len(s.Joints), coremesh.MaxJoints)
		}
		out := model.Skin{Name: s.Name}
		whole := true
		for _, j := range s.Joints {
			n, ok := r.nodes[j]
			whole = whole && ok
			out.Joints, out.Inverse = append(out.Joints, n), append(out.Inverse, geom.Identity)
		}
		if !whole {
			r.leaveOut("skin with joints outside the scene", s.Name, i)
			continue
		}
		if s.InverseBindMatrices != nil {
			flat, err := r.floats(*s.InverseBindMatrices, 16, 0, "MAT4")
			if err != nil {
				return fmt.Errorf("skin %d %q: %w", i, s.Name, err)
			}
			if len(flat) < 16*len(s.Joints) {
				return fmt.Errorf("skin %d %q has %d matrices for %d joints", i, s.Name, len(flat)/16, len(s.Joints))
			}
			for k := range out.Inverse {
				for e, v := range flat[16*k : 16*k+16] {
					if v-v != 0 {
						return fmt.Errorf("skin %d %q has a matrix that is not of numbers", i, s.Name)
					}
					out.Inverse[k][e] = float64(v)
				}
			}
		}
		r.out.Skins = append(r.out.Skins, out)
		at[i] = len(r.out.Skins)
	}
	for i, n := range r.doc.Nodes {
		k, ok := r.nodes[i]
		if !ok || n.Skin == nil {
			continue
		}
		if *n.Skin < 0 || *n.Skin >= len(at) {
			return fmt.Errorf("node %d %q: skin %d does not exist", i, n.Name, *n.Skin)
		}
		if skin := at[*n.Skin]; skin > 0 && r.hangs(k, len(r.out.Skins[skin-1].Joints)) {
			r.out.Nodes[k].Skin = skin
		}
	}
	return nil
}

// hangs reports whether a node's mesh hangs on bones that its skin has.
func (r *reader) hangs(node, joints int) bool {
	at := r.out.Nodes[node].Mesh
	if at < 0 {
		return false
	}
	any := false
	for _, p := range r.out.Meshes[at].Primitives {
		for i := range p.Bones {
			for k, share := range p.Bones[i].Share {
				if share > 0 && int(p.Bones[i].Joint[k]) >= joints {
					r.left.Add("skin of " + r.out.Nodes[node].Name + ", whose mesh hangs on bones that it does not have")
					return false
				}
			}
		}
		any = any || len(p.Bones) > 0
	}
	return any
}
