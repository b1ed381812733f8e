package gltf

import (
	"encoding/json"
	"fmt"

	"perigyre/core/fault"
	"perigyre/core/model"
)

// animate reads the animations that move nodes or the weights of their targets (3.11); what they move beyond that is left out
// and named.
func (r *reader) animate() error {
	for i, a := range r.doc.Animations {
		name := a.Name
		if name == "" {
			name = fmt.Sprintf("Animation %d", i+1)
		}
		out := model.Animation{Name: name}
		for k, c := range a.Channels {
			ch, err := r.channel(a, c)
			if err != nil {
				return fmt.Errorf("animation %d %q, channel %d: %w", i, a.Name, k, err)
			}
			if ch != nil {
				out.Channels = append(out.Channels, *ch)
			}
		}
		if len(out.Channels) == 0 {
			r.leaveOut("animation", a.Name, i)
			continue
		}
		r.out.Animations = append(r.out.Animations, out)
	}
	return nil
}

// channel returns nil for what is not moved here: nodes outside the scene, and what extensions move.
func (r *reader) channel(a animation, c animationChannel) (*model.Channel, error) {
	width := map[string]int{"translation": 3, "rotation": 4, "scale": 3, "weights": 1}[c.Target.Path]
	if c.Target.Node == nil || width == 0 {
		r.left.Add(fmt.Sprintf("channel of the animation %s that moves %s", a.Name, c.Target.Path))
		return nil, nil
	}
	at, ok := r.nodes[*c.Target.Node]
	if !ok {
		r.left.Add(fmt.Sprintf("channel of the animation %s that moves a node outside the scene", a.Name))
		return nil, nil
	}
	if c.Target.Path == "weights" {
		if k := r.out.Nodes[at].Mesh; k < 0 || len(r.out.Meshes[k].Targets) == 0 {
			r.left.Add(fmt.Sprintf("channel of the animation %s that moves weights of what has no targets", a.Name))
			return nil, nil
		}
		width = len(r.out.Meshes[r.out.Nodes[at].Mesh].Targets)
	}
	if c.Sampler < 0 || c.Sampler >= len(a.Samplers) {
		return nil, fmt.Errorf("sampler %d does not exist", c.Sampler)
	}
	s := a.Samplers[c.Sampler]
	out := &model.Channel{Node: at, Path: c.Target.Path, Interpolation: s.Interpolation}
	each := width
	switch s.Interpolation {
	case "":
		out.Interpolation = "LINEAR"
	case "LINEAR", "STEP":
	case "CUBICSPLINE":
		each = 3 * width
	default:
		return nil, fmt.Errorf("it is interpolated by %q, which is none of LINEAR, STEP and CUBICSPLINE", s.Interpolation)
	}
	var err error
	if out.Times, err = r.floats(s.Input, 1, 0, "SCALAR"); err != nil {
		return nil, err
	}
	one, kind := width, map[string]string{"rotation": "VEC4", "weights": "SCALAR"}[c.Target.Path]
	switch kind {
	case "":
		kind = "VEC3"
	case "SCALAR":
		one = 1
	}
	if out.Values, err = r.floats(s.Output, one, 0, kind); err != nil {
		return nil, err
	}
	if len(out.Times) == 0 || len(out.Values) != len(out.Times)*each {
		return nil, fmt.Errorf("it has %d times for %d values of %d", len(out.Times), len(out.Values)/width, each/width)
	}
	for i, t := range out.Times {
		if t-t != 0 || i > 0 && t <= out.Times[i-1] {
			return nil, fmt.Errorf("its times do not increase")
		}
	}
	for _, v := range out.Values {
		if v-v != 0 {
			return nil, fmt.Errorf("one of its values is not a number")
		}
	}
	return out, nil
}

// readExtensions reads what the document's own extensions hold: lights and the names of variants.
func (r *reader) readExtensions() error {
	if len(r.doc.Extensions) == 0 {
		return nil
	}
	var x struct {
		Variants struct {
			Variants []named `json:"variants"`
		} `json:"KHR_materials_variants"`
		Lights struct {
			Lights []struct {
				named
				Type      string      `json:"type"`
				Color     *[3]float64 `json:"color"`
				Intensity *float64    `json:"intensity"`
				Spot      struct {
					Inner float64  `json:"innerConeAngle"`
					Outer *float64 `json:"outerConeAngle"`
				} `json:"spot"`
			} `json:"lights"`
		} `json:"KHR_lights_punctual"`
	}
	if err := json.Unmarshal(r.doc.Extensions, &x); err != nil {
		return fmt.Errorf("its extensions cannot be read: %w", fault.JSON(err))
	}
	for i, v := range x.Variants.Variants {
		if v.Name == "" {
			v.Name = fmt.Sprintf("Finish %d", i+1)
		}
		r.out.Variants = append(r.out.Variants, v.Name)
	}
	if len(r.out.Variants) > maxVariants {
		return fmt.Errorf("%d variants are more than %d", len(r.out.Variants), maxVariants)
	}
	for i, l := range x.Lights.Lights {
		out := model.Light{Kind: l.Type, Color: [3]float64{1, 1, 1}, Intensity: 1, Inner: l.Spot.Inner, Outer: 0.7853981633974483}
		if l.Color != nil {
			out.Color = *l.Color
		}
		if l.Intensity != nil {
			out.Intensity = *l.Intensity
		}
		if l.Spot.Outer != nil {
			out.Outer = *l.Spot.Outer
		}
		if l.Type != "point" && l.Type != "spot" && l.Type != "directional" {
			return fmt.Errorf("light %d is of the unknown type %q", i, l.Type)
		}
		for _, v := range []float64{out.Color[0], out.Color[1], out.Color[2], out.Intensity, out.Inner, out.Outer} {
			if !(v >= 0 && v < 1e30) {
				return fmt.Errorf("light %d has a value that is below 0 or not a number", i)
			}
		}
		r.lamps = append(r.lamps, out)
	}
	return nil
}

const maxVariants = 1000

// dressed reads the materials of a primitive in each variant (KHR_materials_variants).
func (r *reader) dressed(p primitive) ([]int, error) {
	raw, ok := p.Extensions["KHR_materials_variants"]
	if !ok || len(r.out.Variants) == 0 {
		return nil, nil
	}
	var x struct {
		Mappings []struct {
			Material int   `json:"material"`
			Variants []int `json:"variants"`
		} `json:"mappings"`
	}
	if err := json.Unmarshal(raw, &x); err != nil {
		return nil, fmt.Errorf("its variants cannot be read: %w", fault.JSON(err))
	}
	out := make([]int, len(r.out.Variants))
	for i := range out {
		out[i] = -1
	}
	for _, m := range x.Mappings {
		if m.Material < 0 || m.Material >= len(r.doc.Materials) {
			return nil, fmt.Errorf("a variant has material %d, which does not exist", m.Material)
		}
		for _, v := range m.Variants {
			if v < 0 || v >= len(out) {
				return nil, fmt.Errorf("variant %d does not exist", v)
			}
			out[v] = m.Material
		}
	}
	return out, nil
}
