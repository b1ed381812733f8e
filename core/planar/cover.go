package planar

import "iter"

// Cover is what layers wind round a place, without those that do not. It is never changed: a search tree of which a
// changed one shares all but the way to what has changed, balanced by priorities that hash the layer (Seidel and Aragon,
// "Randomized search trees", 1996). Nil is the cover of nothing.
type Cover struct {
	layer, winding int32
	low, high      *Cover
}

// priority is the same for a layer everywhere.
func priority(layer int32) uint32 {
	x := uint32(layer) * 0x9e3779b1
	x ^= x >> 15
	return x * 0x85ebca77
}

// Winding returns how often a layer winds round the place.
func (c *Cover) Winding(layer int) int {
	for c != nil {
		switch {
		case int32(layer) == c.layer:
			return int(c.winding)
		case int32(layer) < c.layer:
			c = c.low
		default:
			c = c.high
		}
	}
	return 0
}

// Down goes through the layers that wind round the place, the last first.
func (c *Cover) Down() iter.Seq2[int, int] {
	return func(yield func(layer, winding int) bool) { c.down(yield) }
}

func (c *Cover) down(yield func(layer, winding int) bool) bool {
	return c == nil || c.high.down(yield) && yield(int(c.layer), int(c.winding)) && c.low.down(yield)
}

func (c *Cover) changed(by change) *Cover {
	if c == nil {
		return &Cover{layer: by.layer, winding: by.winding}
	}
	if by.layer == c.layer {
		if c.winding+by.winding == 0 {
			return joined(c.low, c.high)
		}
		return &Cover{c.layer, c.winding + by.winding, c.low, c.high}
	}
	n := *c
	if by.layer < c.layer {
		if n.low = c.low.changed(by); n.low != nil && priority(n.low.layer) > priority(n.layer) {
			up := *n.low // what comes in is new, and may be turned
			n.low, up.high = up.high, &n
			return &up
		}
		return &n
	}
	if n.high = c.high.changed(by); n.high != nil && priority(n.high.layer) > priority(n.layer) {
		up := *n.high
		n.high, up.low = up.low, &n
		return &up
	}
	return &n
}

// joined joins two trees, all of the first below all of the second.
func joined(a, b *Cover) *Cover {
	switch {
	case a == nil:
		return b
	case b == nil:
		return a
	case priority(a.layer) > priority(b.layer):
		return &Cover{a.layer, a.winding, a.low, joined(a.high, b)}
	}
	return &Cover{b.layer, b.winding, joined(a, b.low), b.high}
}
