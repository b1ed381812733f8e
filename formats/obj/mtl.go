package obj

import (
	"bytes"
	"fmt"
	"math"
	"strings"

	"perigyre/core/material"
	"perigyre/core/model"
)

// library reads an MTL file: colours and the common extensions for metal and roughness.
func (r *reader) library(name string) error {
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
		return nil
	}
	var m *material.Material
	for i, line := range bytes.Split(data, []byte{'\n'}) {
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
			return fmt.Errorf("%s, line %d: %w", clean, i+1, err)
		}
	}
	return nil
}

func (r *reader) property(m *material.Material, key string, rest []byte, value string) error {
	var f [3]float32
	read := func(n int) error {
		if k, err := numbers(rest, f[:n]); err != nil || k < n {
			return numberError(key, n, k, err)
		}
		return nil
	}
	var err error
	switch key {
	case "Kd":
		if err = read(3); err == nil {
			copy(m.BaseColor[:3], []float64{float64(f[0]), float64(f[1]), float64(f[2])})
		}
	case "Ke":
		if err = read(3); err == nil {
			m.Emissive = [3]float64{float64(f[0]), float64(f[1]), float64(f[2])}
		}
	case "d", "Tr":
		if err = read(1); err == nil {
			a := float64(f[0])
			if key == "Tr" {
				a = 1 - a
			}
			m.BaseColor[3] = math.Min(1, math.Max(0, a))
			if a < 1 {
				m.Alpha = material.Blend
			}
		}
	case "Ns": // the exponent of a Blinn-Phong lobe as wide as a GGX of roughness^2 = sqrt(2 / (Ns + 2))
		if err = read(1); err == nil {
			m.Roughness = math.Min(1, math.Pow(2/(math.Max(0, float64(f[0]))+2), 0.25))
		}
	case "Pr":
		if err = read(1); err == nil {
			m.Roughness = math.Min(1, math.Max(0, float64(f[0])))
		}
	case "Pm":
		if err = read(1); err == nil {
			m.Metallic = math.Min(1, math.Max(0, float64(f[0])))
		}
	case "map_Kd":
		m.BaseColorTexture, err = r.picture(value)
	case "map_Ke":
		m.EmissiveTexture, err = r.picture(value)
		if m.Emissive == [3]float64{} {
			m.Emissive = [3]float64{1, 1, 1}
		}
	case "norm", "map_Kn":
		m.Normal, err = r.picture(value)
		m.NormalScale = 1
	case "map_Ks", "map_Ns", "map_d", "map_Bump", "map_bump", "bump", "disp", "map_Pr", "map_Pm":
		r.leaveOut(fmt.Sprintf("texture %s of material %s", key, m.Name))
	}
	return err
}

// picture takes the file name at the end of a texture statement, after any options.
func (r *reader) picture(value string) (*material.Texture, error) {
	if strings.HasPrefix(value, "-") {
		fields := strings.Fields(value)
		value = fields[len(fields)-1]
	}
	clean, err := inside(value)
	if err != nil {
		return nil, err
	}
	at := -1
	for i, img := range r.out.Images {
		if img.Name == clean {
			at = i
		}
	}
	if at < 0 {
		at = len(r.out.Images)
		img := model.Image{Name: clean}
		found := false
		if r.files != nil {
			img.Data, found = r.files(clean)
		}
		if !found {
			r.out.Missing = append(r.out.Missing, clean)
		}
		r.out.Images = append(r.out.Images, img)
	}
	return &material.Texture{Image: at, WrapS: material.Repeat, WrapT: material.Repeat}, nil
}
