package material

// Clone returns a copy that shares nothing with the material.
func (m *Material) Clone() Material {
	c := *m
	c.Specular, c.SpecularColor, c.AttenuationColor, c.SheenColor = cloneValue(m.Specular), cloneValue(m.SpecularColor), cloneValue(m.AttenuationColor), cloneValue(m.SheenColor)
	for _, slot := range c.TextureSlots() {
		if *slot != nil {
			t := **slot
			t.Transform = cloneValue(t.Transform)
			*slot = &t
		}
	}
	return c
}

func cloneValue[T any](v *T) *T {
	if v == nil {
		return nil
	}
	c := *v
	return &c
}
