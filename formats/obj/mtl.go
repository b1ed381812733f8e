package obj

import (
	"bytes"
	"fmt"
	"math"
	"strconv"
	"strings"

	"perigyre/core/material"
	"perigyre/core/model"
	"perigyre/formats/text"
)

// libraries reads the MTL files that a statement names: one whose name may have spaces, or several.
func (r *reader) libraries(names string) error {
	if r.files != nil {
		if clean, err := inside(names); err == nil {
			if data, ok := r.files(clean); ok {
				return r.library(clean, data)
			}
		}
	}
	for _, name := range strings.Fields(names) {
		clean, err := inside(name)
		if err != nil {
			return err
		}
		var data []byte
		found := false
		if r.files != nil {
			data, found = r.files(clean)
		}
		if !found {
			r.out.Missing = append(r.out.Missing, clean)
			continue
		}
		if err := r.library(clean, data); err != nil {
			return err
		}
	}
	return nil
}

// library reads an MTL file: colours and the common extensions for metal and roughness.
func (r *reader) library(name string, data []byte) error {
	var m *material.Material
	for i, line := range bytes.Split(text.UTF8(data), []byte{'\n'}) {
		key, rest := word(line)
		if len(key) == 0 || key[0] == '#' {
			continue
		}
		value := strings.TrimSpace(string(rest))
		if string(key) == "newmtl" {
			at, ok := r.byName[value]
			if !ok {
				at = len(r.out.Materials)
				r.byName[value] = at
				r.out.Materials = append(r.out.Materials, material.Default())
				if err := r.limits.CheckParts(0, len(r.out.Materials)); err != nil {
					return err
				}
			}
			m = &r.out.Materials[at]
			*m = material.Default()
			m.Name = value
			continue
		}
		if m == nil {
			continue
		}
		if err := r.property(m, string(key), rest, value); err != nil {
			return fmt.Errorf("%s, line %d: %w", name, i+1, err)
		}
	}
	return nil
}

func unit(v float32) float64 { return math.Min(1, math.Max(0, float64(v))) }

func (r *reader) property(m *material.Material, key string, rest []byte, value string) error {
	var f [3]float32
	read := func(n int) error {
		if k, err := numbers(rest, f[:n]); err != nil || k < n {
			return numberError(key, n, k, err)
		}
		return nil
	}
	// A colour may be one number for all three, or something that is not taken.
	colour := func() (c [3]float64, ok bool, err error) {
		if first, _ := word(rest); string(first) == "spectral" || string(first) == "xyz" {
			r.left.Add("MTL: " + key + " " + string(first))
			return c, false, nil
		}
		k, err := numbers(rest, f[:])
		if err != nil || k == 0 {
			return c, false, numberError(key, 3, k, err)
		}
		for a := range c {
			c[a] = math.Max(0, float64(f[min(a, k-1)]))
		}
		return c, true, nil
	}
	var err error
	switch key {
	case "Kd":
		c, ok, err := colour()
		if ok {
			copy(m.BaseColor[:3], c[:])
		}
		return err
	case "Ke":
		c, ok, err := colour()
		if ok {
			m.Emissive = c
		}
		return err
	case "d", "Tr":
		if first, _ := word(rest); string(first) == "-halo" {
			r.left.Add("MTL: d -halo")
			return nil
		}
		if err = read(1); err == nil {
			a := unit(f[0])
			if key == "Tr" {
				a = 1 - a
			}
			if m.BaseColor[3] = a; a < 1 {
				m.Alpha = material.Blend
			}
		}
	case "Ns": // the exponent of a Blinn-Phong lobe as wide as a GGX of roughness^2 = sqrt(2 / (Ns + 2))
		if err = read(1); err == nil {
			m.Roughness = math.Min(1, math.Pow(2/(math.Max(0, float64(f[0]))+2), 0.25))
		}
	case "Ni":
		if err = read(1); err == nil {
			if f[0] >= 1 && f[0] <= 5 {
				m.IOR = float64(f[0])
			}
		}
	case "Pr":
		if err = read(1); err == nil {
			m.Roughness = unit(f[0])
		}
	case "Pm":
		if err = read(1); err == nil {
			m.Metallic = unit(f[0])
		}
	case "Pc":
		if err = read(1); err == nil {
			m.Clearcoat = unit(f[0])
		}
	case "Pcr":
		if err = read(1); err == nil {
			m.ClearcoatRoughness = unit(f[0])
		}
	case "Ps":
		if err = read(1); err == nil {
			m.SheenColor = &[3]float64{unit(f[0]), unit(f[0]), unit(f[0])}
		}
	case "map_Kd":
		m.BaseColorTexture, _, err = r.picture(key, value)
	case "map_Ke":
		m.EmissiveTexture, _, err = r.picture(key, value)
		if m.Emissive == [3]float64{} {
			m.Emissive = [3]float64{1, 1, 1}
		}
	case "norm", "map_Kn":
		m.Normal, m.NormalScale, err = r.picture(key, value)
	case "map_Ks", "map_Ka", "map_Ns", "map_d", "map_Bump", "map_bump", "bump", "disp", "decal", "map_Pr", "map_Pm", "map_Ps", "map_Pc", "map_Pcr", "refl", "map_aat":
		r.left.Add("MTL: the texture " + key)
	default: // Ka, Ks, Tf, illum, sharpness, aniso and whatever else
		r.left.Add(fmt.Sprintf("MTL: %.20s", key))
	}
	return err
}

// options of textures and how many words follow each at most; those after the first may be left out where they are no
// numbers (the MTL specification of 1995, "Options for texture map statements").
var options = map[string]int{
	"-o": 3, "-s": 3, "-t": 3, "-clamp": 1, "-bm": 1, "-blendu": 1, "-blendv": 1, "-boost": 1, "-cc": 1, "-imfchan": 1, "-mm": 2, "-texres": 1, "-type": 1,
}

// picture reads the statement of a texture: options, then the file's name. Bump is what its heights or normals are
// multiplied by.
func (r *reader) picture(key, value string) (t *material.Texture, bump float64, err error) {
	t, bump = &material.Texture{WrapS: material.Repeat, WrapT: material.Repeat}, 1
	move, scale := [2]float64{}, [2]float64{1, 1}
	for {
		opt, rest, _ := strings.Cut(strings.TrimSpace(value), " ")
		most, ok := options[opt]
		if !ok {
			value = strings.TrimSpace(value)
			break
		}
		var args []string
		for len(args) < most {
			arg, more, _ := strings.Cut(strings.TrimSpace(rest), " ")
			if _, err := strconv.ParseFloat(arg, 64); err != nil && len(args) > 0 || strings.TrimSpace(more) == "" {
				break // what is left is the name
			}
			args, rest = append(args, arg), more
		}
		value = rest
		number := func(k int, other float64) float64 {
			if k < len(args) {
				if v, err := strconv.ParseFloat(args[k], 64); err == nil && math.Abs(v) < 1e6 {
					return v
				}
			}
			return other
		}
		switch opt {
		case "-o":
			move = [2]float64{number(0, 0), number(1, 0)}
		case "-s":
			scale = [2]float64{number(0, 1), number(1, 1)}
		case "-clamp":
			if len(args) > 0 && args[0] == "on" {
				t.WrapS, t.WrapT = material.Clamp, material.Clamp
			}
		case "-bm":
			bump = number(0, 1)
		default:
			r.left.Add("MTL: the option " + opt + " of " + key)
		}
	}
	if move != [2]float64{} || scale != [2]float64{1, 1} {
		// Theirs go up from the bottom, ours down from the top.
		t.Transform = &material.Placing{Offset: [2]float64{move[0], 1 - scale[1] - move[1]}, Scale: scale}
	}
	clean, err := inside(value)
	if err != nil {
		return nil, 0, err
	}
	for i, img := range r.out.Images {
		if img.Name == clean {
			t.Image = i
			return t, bump, nil
		}
	}
	t.Image = len(r.out.Images)
	img := model.Image{Name: clean}
	found := false
	if r.files != nil {
		img.Data, found = r.files(clean)
	}
	if !found {
		r.out.Missing = append(r.out.Missing, clean)
	}
	r.out.Images = append(r.out.Images, img)
	return t, bump, nil
}
