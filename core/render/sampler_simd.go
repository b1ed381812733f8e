//go:build goexperiment.simd && amd64

package render

import (
	"math/bits"
	"simd/archsimd"
)

// scrambleVector is scramblePlain for eight numbers at once, with the same bits. What is done to both halves stands side by side, so that
// neither waits.
func scrambleVector(to []points, index uint32, seeds [sets]uint32) {
	count, one := archsimd.LoadUint32x8(&dimensions), archsimd.BroadcastUint32x8(1)
	// hash
	g, h := inHalves(archsimd.BroadcastUint32x4(seeds[0]), archsimd.BroadcastUint32x4(seeds[1])).Add(count), inHalves(archsimd.BroadcastUint32x4(seeds[2]), archsimd.BroadcastUint32x4(seeds[3])).Add(count)
	by := archsimd.BroadcastUint32x8(0x7feb352d)
	g, h = g.Xor(g.ShiftAllRight(16)).Mul(by), h.Xor(h.ShiftAllRight(16)).Mul(by)
	by = archsimd.BroadcastUint32x8(0x846ca68b)
	g, h = g.Xor(g.ShiftAllRight(15)).Mul(by), h.Xor(h.ShiftAllRight(15)).Mul(by)
	g, h = g.Xor(g.ShiftAllRight(16)), h.Xor(h.ShiftAllRight(16))
	g1, h1 := g.ShiftAllRight(16).Or(one), h.ShiftAllRight(16).Or(one)
	low, high := archsimd.LoadUint8x32(&reversedLow), archsimd.LoadUint8x32(&reversedHigh)
	nibble, order := archsimd.BroadcastUint8x32(15), archsimd.LoadInt8x32(&swapped)
	scale := archsimd.BroadcastFloat32x8(1.0 / (1 << 24))
	for i := range to {
		mirror := bits.Reverse32(index + uint32(i))
		p, q := pointsOf(mirror, seeds[0], seeds[1]), pointsOf(mirror, seeds[2], seeds[3])
		// nested
		by = archsimd.BroadcastUint32x8(0x3d20adea)
		p, q = p.Xor(p.Mul(by)).Add(g), q.Xor(q.Mul(by)).Add(h)
		p, q = p.Mul(g1), q.Mul(h1)
		by = archsimd.BroadcastUint32x8(0x05526c56)
		p, q = p.Xor(p.Mul(by)), q.Xor(q.Mul(by))
		by = archsimd.BroadcastUint32x8(0x53a22864)
		p, q = p.Xor(p.Mul(by)), q.Xor(q.Mul(by))
		// The bits in reverse: those of each half byte by a table, and the bytes.
		pl, ql := low.PermuteOrZeroGrouped(p.AsUint8x32().And(nibble).AsInt8x32()), low.PermuteOrZeroGrouped(q.AsUint8x32().And(nibble).AsInt8x32())
		ph := high.PermuteOrZeroGrouped(p.ShiftAllRight(4).AsUint8x32().And(nibble).AsInt8x32())
		qh := high.PermuteOrZeroGrouped(q.ShiftAllRight(4).AsUint8x32().And(nibble).AsInt8x32())
		p, q = pl.Or(ph).PermuteOrZeroGrouped(order).AsUint32x8(), ql.Or(qh).PermuteOrZeroGrouped(order).AsUint32x8()
		p.ShiftAllRight(8).AsInt32x8().ConvertToFloat32().Mul(scale).Store((*[8]float32)(to[i][:8]))
		q.ShiftAllRight(8).AsInt32x8().ConvertToFloat32().Mul(scale).Store((*[8]float32)(to[i][8:]))
	}
	archsimd.ClearAVXUpperBits()
}

// pointsOf returns the points of two sets.
func pointsOf(mirror, a, b uint32) archsimd.Uint32x8 {
	return inHalves(pointVector(nested(mirror, a)), pointVector(nested(mirror, b)))
}

// pointVector is pointOf.
func pointVector(mirror uint32) archsimd.Uint32x4 {
	x := archsimd.LoadUint32x4(&byBytes[0][mirror&255]).Xor(archsimd.LoadUint32x4(&byBytes[1][mirror>>8&255]))
	return x.Xor(archsimd.LoadUint32x4(&byBytes[2][mirror>>16&255])).Xor(archsimd.LoadUint32x4(&byBytes[3][mirror>>24]))
}

func inHalves(low, high archsimd.Uint32x4) (x archsimd.Uint32x8) { return x.SetLo(low).SetHi(high) }

var dimensions = [8]uint32{1, 2, 3, 4, 1, 2, 3, 4}

// reversedLow and reversedHigh are the half bytes with their bits in reverse, in the other half; swapped are the bytes of each number in
// reverse.
var reversedLow, reversedHigh, swapped = func() (low, high [32]uint8, swapped [32]int8) {
	for i := range 32 {
		v := uint8(i & 15)
		back := v>>3 | v>>1&2 | v<<1&4 | v<<3&8
		low[i], high[i] = back<<4, back
		swapped[i] = int8(i&15 ^ 3)
	}
	return low, high, swapped
}()
