package geom

import "math"

// Box is an axis-aligned box. The zero Box is not empty; start from EmptyBox.
type Box struct {
	Min Vec3 `json:"min"`
	Max Vec3 `json:"max"`
}

// EmptyBox returns the box that holds nothing.
func EmptyBox() Box {
	inf := math.Inf(1)
	return Box{Vec3{inf, inf, inf}, Vec3{-inf, -inf, -inf}}
}

// Empty reports whether the box holds nothing.
func (b Box) Empty() bool { return b.Min[0] > b.Max[0] }

// With returns the smallest box holding b and p.
func (b Box) With(p Vec3) Box {
	for i, x := range p {
		b.Min[i] = math.Min(b.Min[i], x)
		b.Max[i] = math.Max(b.Max[i], x)
	}
	return b
}

// Hold makes the box hold p as well, in place: for walks over many points.
func (b *Box) Hold(p Vec3) {
	for i, x := range p {
		if x < b.Min[i] {
			b.Min[i] = x
		}
		if x > b.Max[i] {
			b.Max[i] = x
		}
	}
}

// Union returns the smallest box holding both.
func (b Box) Union(c Box) Box {
	if c.Empty() {
		return b
	}
	return b.With(c.Min).With(c.Max)
}

// Size returns the edge lengths, zero for an empty box.
func (b Box) Size() Vec3 {
	if b.Empty() {
		return Vec3{}
	}
	return b.Max.Sub(b.Min)
}

// Centre returns the middle of the box.
func (b Box) Centre() Vec3 { return b.Min.Add(b.Max).Mul(0.5) }

// Transformed returns the box round the image of b, which must not be empty.
func (b Box) Transformed(m Mat4) Box {
	out := EmptyBox()
	for i := 0; i < 8; i++ {
		p := b.Min
		for a := 0; a < 3; a++ {
			if i>>a&1 == 1 {
				p[a] = b.Max[a]
			}
		}
		out = out.With(m.Point(p))
	}
	return out
}

// Grown returns the box with every side moved outwards.
func (b Box) Grown(by float64) Box {
	d := Vec3{by, by, by}
	return Box{b.Min.Sub(d), b.Max.Add(d)}
}

// Intersection returns what both boxes hold.
func (b Box) Intersection(c Box) Box {
	for i := range b.Min {
		b.Min[i], b.Max[i] = math.Max(b.Min[i], c.Min[i]), math.Min(b.Max[i], c.Max[i])
		if b.Min[i] > b.Max[i] {
			return EmptyBox()
		}
	}
	return b
}

// Holds reports whether p is in the box or on its border.
func (b Box) Holds(p Vec3) bool {
	for i, x := range p {
		if x < b.Min[i] || x > b.Max[i] {
			return false
		}
	}
	return true
}
