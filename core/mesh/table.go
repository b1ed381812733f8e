package mesh

import "math/bits"

// counts is a map from uint64 to int32 with open addressing. Meshes have millions of edges, for which
// Go's own map takes several times as long.
type counts struct {
	keys   []uint64 // 0 is free; keys are kept plus 1
	values []int32
	mask   uint64
	used   int
}

func newCounts(n int) *counts {
	size := 1 << bits.Len(uint(2*n+8))
	return &counts{keys: make([]uint64, size), values: make([]int32, size), mask: uint64(size - 1)}
}

// at returns a pointer to the value of a key, adding it as 0. More keys than the table was made for
// are not allowed.
func (c *counts) at(key uint64) *int32 {
	h := key * 0x9e3779b97f4a7c15
	for i := (h ^ h>>29) & c.mask; ; i = (i + 1) & c.mask {
		switch c.keys[i] {
		case key + 1:
			return &c.values[i]
		case 0:
			c.keys[i] = key + 1
			c.used++
			return &c.values[i]
		}
	}
}
