package render

import (
	"math/bits"

	"perigyre/core/render/bvh"
)

// Sampler gives well-distributed numbers in [0, 1) for one sample of one pixel: Sobol points with
// hash-based Owen scrambling (Burley, "Practical Hash-based Owen Scrambling", JCGT 2020), four
// dimensions at a time, each set of four shuffled on its own. What it gives depends on pixel and
// sample alone, never on the order of the work.
type sampler struct {
	seed, index uint32
	set         uint32
	dim         int
	point       [4]float32
	walker      *bvh.Walker // the thread's
	time        float32     // share of the shutter's time
	random      bool        // independent numbers instead
	shadowRays  int         // to send where the sample ends on the shadow floor
}

func newSampler(pixel, index uint32, w *bvh.Walker) sampler {
	return sampler{seed: hash(pixel ^ 0x9e3779b9), index: index, dim: 4, walker: w}
}

// occlusionSets is where numbers for what is asked for besides the picture begin: beyond all that a path draws.
const occlusionSets = 1 << 16

// aside returns a sampler of the same sample that gives other numbers, from a set on, and takes none away.
func (s *sampler) aside(set uint32) sampler {
	out := *s
	out.set, out.dim = set, 4
	return out
}

// next1 and next2 return the next numbers. A pair never straddles two sets, so that it is
// stratified in both dimensions together.
func (s *sampler) next1() float32 {
	if s.dim >= 4 {
		s.fill()
	}
	s.dim++
	return s.point[s.dim-1]
}

func (s *sampler) next2() (float32, float32) {
	if s.dim >= 3 {
		s.fill()
	}
	s.dim += 2
	return s.point[s.dim-2], s.point[s.dim-1]
}

func (s *sampler) fill() {
	seed := hash(s.seed + 0x85ebca6b*s.set)
	s.set++
	s.dim = 0
	if s.random {
		for d := range s.point {
			s.point[d] = float32(hash(hash(seed+uint32(d))+s.index)>>8) * (1.0 / (1 << 24))
		}
		return
	}
	i := bits.Reverse32(nested(bits.Reverse32(s.index), seed))
	for d := range s.point {
		x := nested(mirrored(i, d), hash(seed+uint32(d)+1))
		s.point[d] = float32(bits.Reverse32(x)>>8) * (1.0 / (1 << 24))
	}
}

// directions of the first four Sobol dimensions (Joe and Kuo, new-joe-kuo-6.21201), from memory:
// the primitive polynomials x+1, x^2+x+1 and x^3+x+1 with m = {1}, {1,3} and {1,3,1}. A test checks
// that they make (0, m, s)-nets in base 2.
var directions = func() (v [4][32]uint32) {
	for i := range 32 {
		v[0][i] = 1 << (31 - i)
	}
	for d, p := range []struct {
		s uint
		a uint32
		m []uint32
	}{{1, 0, []uint32{1}}, {2, 1, []uint32{1, 3}}, {3, 1, []uint32{1, 3, 1}}} {
		w := &v[d+1]
		for i := range uint(32) {
			if i < p.s {
				w[i] = p.m[i] << (31 - i)
				continue
			}
			w[i] = w[i-p.s] ^ w[i-p.s]>>p.s
			for k := uint(1); k < p.s; k++ {
				w[i] ^= (p.a >> (p.s - 1 - k) & 1) * w[i-k]
			}
		}
	}
	return v
}()

// byBytes are the points of each byte of an index, with their bits mirrored: that of a whole index is their sum without
// carries.
var byBytes = func() (t [4][4][256]uint32) {
	for d := 1; d < len(t); d++ {
		for byteAt := range 4 {
			for v := range 256 {
				for bit := range 8 {
					if v>>bit&1 != 0 {
						t[d][byteAt][v] ^= bits.Reverse32(directions[d][8*byteAt+bit])
					}
				}
			}
		}
	}
	return t
}()

// sobol returns the point of an index in a dimension.
func sobol(i uint32, dim int) uint32 { return bits.Reverse32(mirrored(i, dim)) }

// mirrored is sobol with its bits in reverse, as nested wants them.
func mirrored(i uint32, dim int) uint32 {
	if dim == 0 { // the van der Corput sequence
		return i
	}
	t := &byBytes[dim]
	return t[0][i&255] ^ t[1][i>>8&255] ^ t[2][i>>16&255] ^ t[3][i>>24]
}

// nested permutes the numbers whose bits x has in reverse, as a random nested uniform permutation does (Laine and
// Karras 2011, with the constants of Vegdahl that Burley's paper recommends, from memory).
func nested(x, seed uint32) uint32 {
	x ^= x * 0x3d20adea
	x += seed
	x *= seed>>16 | 1
	x ^= x * 0x05526c56
	x ^= x * 0x53a22864
	return x
}

// hash is the 32-bit finaliser "lowbias32" (C. Wellons), from memory.
func hash(x uint32) uint32 {
	x ^= x >> 16
	x *= 0x7feb352d
	x ^= x >> 15
	x *= 0x846ca68b
	return x ^ x>>16
}
