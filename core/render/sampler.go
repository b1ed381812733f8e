package render

import (
	"math/bits"
	"unsafe"

	"perigyre/core/render/bvh"
)

// Sampler gives well-distributed numbers in [0, 1) for one sample of one pixel: Sobol points with
// hash-based Owen scrambling (Burley, "Practical Hash-based Owen Scrambling", JCGT 2020), four
// dimensions at a time, each set of four shuffled on its own. What it gives depends on pixel and
// sample alone, never on the order of the work.
type sampler struct {
	seed, index uint32
	set         uint32 // that is drawn next
	dim         int    // of points that is given next
	points      points
	walker      *bvh.Walker // the thread's
	time        float32     // share of the shutter's time
	random      bool        // independent numbers instead
	shadowRays  int         // to send where the sample ends on the shadow floor
}

const (
	setSize = 4 // dimensions of Sobol's points that are used before they are shuffled anew
	sets    = 4 // that are drawn at once
)

// points are the numbers that are drawn at once.
type points [sets * setSize]float32

func newSampler(pixel, index uint32, w *bvh.Walker) (s sampler) {
	s.walker = w
	s.begin(pixel, index)
	return s
}

// begin makes it draw for a sample of a pixel.
func (s *sampler) begin(pixel, index uint32) {
	s.seed, s.index, s.set, s.dim = hash(pixel^0x9e3779b9), index, 0, sets*setSize
}

// beginAll draws the first sets of samples of a pixel, from an index on, for each to begin with: so that the processor does not wait for
// one before it draws the next.
func (s *sampler) beginAll(pixel, index uint32, to []points) {
	s.begin(pixel, index)
	s.scramble(to)
}

// beginWith is begin for a sample of the pixel whose first sets have been drawn.
func (s *sampler) beginWith(index uint32, first *points) {
	s.index, s.points, s.set, s.dim = index, *first, sets, 0
}

// occlusionSets is where numbers for what is asked for besides the picture begin: beyond all that a path draws.
const occlusionSets = 1 << 16

// aside returns a sampler of the same sample that gives other numbers, from a set on, and takes none away.
func (s *sampler) aside(set uint32) sampler {
	out := *s
	out.set, out.dim = set, sets*setSize
	return out
}

// branch returns a sampler for one of the ways that a path goes on. Those of all samples together are points of one sequence.
func (s *sampler) branch(k, of int) sampler {
	out := *s
	out.seed += 0x2c1b3c6d
	out.index = s.index*uint32(of) + uint32(k)
	out.set, out.dim = 0, sets*setSize
	return out
}

// shift makes the sets that come give other numbers, of another phase; in phase 0 nothing changes.
func (s *sampler) shift(phase uint32) {
	if phase == 0 {
		return
	}
	s.seed += phase * 0x6c078965
	s.set -= uint32(sets - (s.dim+setSize-1)/setSize) // those that have not been touched
	s.dim = sets * setSize
}

// next1 and next2 return the next numbers. A pair never straddles two sets, so that it is
// stratified in both dimensions together.
func (s *sampler) next1() float32 {
	if s.dim >= sets*setSize {
		s.fill()
	}
	s.dim++
	return s.points[s.dim-1]
}

func (s *sampler) next2() (float32, float32) {
	if s.dim%setSize == setSize-1 {
		s.dim++
	}
	if s.dim >= sets*setSize {
		s.fill()
	}
	s.dim += 2
	return s.points[s.dim-2], s.points[s.dim-1]
}

// fill draws the next sets.
func (s *sampler) fill() {
	s.scramble((*[1]points)(unsafe.Pointer(&s.points))[:])
	s.set += sets
	s.dim = 0
}

// scramble draws the next sets of the sample, and of those that follow it.
func (s *sampler) scramble(to []points) {
	seed := func(k uint32) uint32 { return hash(s.seed + 0x85ebca6b*(s.set+k)) }
	seeds := [sets]uint32{seed(0), seed(1), seed(2), seed(3)}
	if s.random {
		for k := range to {
			for i := range to[k] {
				to[k][i] = float32(hash(hash(seeds[i/setSize]+uint32(i%setSize))+s.index+uint32(k))>>8) * (1.0 / (1 << 24))
			}
		}
	} else if bvh.Vector() {
		scrambleVector(to, s.index, seeds)
	} else {
		scramblePlain(to, s.index, seeds)
	}
}

// scramblePlain draws sets of the points from an index on, each by its seed.
func scramblePlain(to []points, index uint32, seeds [sets]uint32) {
	for i := range to {
		mirror := bits.Reverse32(index + uint32(i))
		for k, seed := range seeds {
			for d, x := range pointOf(nested(mirror, seed)) {
				to[i][k*setSize+d] = float32(bits.Reverse32(nested(x, hash(seed+uint32(d)+1)))>>8) * (1.0 / (1 << 24))
			}
		}
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

// byBytes are the points of each byte of an index, all with their bits mirrored, as nested wants them: that of a whole
// index is their sum without carries.
var byBytes = func() (t [4][256][setSize]uint32) {
	for at := range t {
		for v := range t[at] {
			for bit := range 8 {
				if v>>bit&1 != 0 {
					for d := range setSize { // a mirrored index has its first bits last
						t[at][v][d] ^= bits.Reverse32(directions[d][31-8*at-bit])
					}
				}
			}
		}
	}
	return t
}()

// pointOf works out the point of an index, all with their bits mirrored.
func pointOf(mirror uint32) (p [setSize]uint32) {
	for at := range byBytes {
		for d, x := range byBytes[at][mirror>>(8*at)&255] {
			p[d] ^= x
		}
	}
	return p
}

// sobol returns the point of an index in a dimension.
func sobol(i uint32, dim int) uint32 {
	return bits.Reverse32(pointOf(bits.Reverse32(i))[dim])
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
