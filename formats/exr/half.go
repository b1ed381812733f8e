package exr

import "math"

// toHalf rounds to the nearest 16-bit float, ties to even; what is too large becomes infinite (IEEE 754
// binary16).
func toHalf(v float32) uint16 {
	b := math.Float32bits(v)
	sign := uint16(b >> 16 & 0x8000)
	exp, man := int(b>>23&0xff), b&0x7fffff
	switch {
	case exp == 0xff:
		if man != 0 {
			return sign | 0x7e00
		}
		return sign | 0x7c00
	case exp >= 143: // 2^16 and more
		return sign | 0x7c00
	case exp >= 113: // normal
		h := uint32(exp-112)<<10 | man>>13
		rest := man & 0x1fff
		if rest > 0x1000 || rest == 0x1000 && h&1 != 0 {
			h++ // may carry into the exponent, and into infinity
		}
		return sign | uint16(h)
	case exp >= 102: // below the smallest normal
		man |= 0x800000
		shift := uint(126 - exp)
		h := man >> shift
		rest, tie := man&(1<<shift-1), uint32(1)<<(shift-1)
		if rest > tie || rest == tie && h&1 != 0 {
			h++
		}
		return sign | uint16(h)
	}
	return sign
}

func fromHalf(h uint16) float32 {
	sign := uint32(h&0x8000) << 16
	exp, man := uint32(h>>10&0x1f), uint32(h&0x3ff)
	switch {
	case exp == 0x1f:
		return math.Float32frombits(sign | 0x7f800000 | man<<13)
	case exp > 0:
		return math.Float32frombits(sign | (exp+112)<<23 | man<<13)
	}
	v := float32(man) / (1 << 24)
	if sign != 0 {
		return -v
	}
	return v
}
