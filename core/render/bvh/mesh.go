package bvh

import "math"

// Mesh is a searchable triangle mesh in its own frame.
type Mesh struct {
	nodes   []wide
	packets []packet
	whole   box
}

type triangle struct{ a, b, c Vec }

// NewMesh builds the tree. Indices has three entries for each triangle and must be in range.
func NewMesh(positions [][3]float32, indices []uint32) *Mesh {
	n := len(indices) / 3
	m := &Mesh{whole: emptyBox()}
	if n == 0 {
		return m
	}
	items := huge(make([]item, n))
	at := func(i uint32) Vec { p := positions[i]; return Vec{p[0], p[1], p[2]} }
	spread(n, func(from, to int) {
		for t := from; t < to; t++ {
			a := at(indices[3*t])
			x := box{a, a}
			x.hold(at(indices[3*t+1]))
			x.hold(at(indices[3*t+2]))
			items[t] = newItem(x, uint32(t))
		}
	})
	nodes := build(items, 8)
	m.whole = nodes[0].bounds
	leaves := make([]*node, 0, (len(nodes)+1)/2)
	m.nodes = widen(nodes, func(n *node) uint32 {
		leaves = append(leaves, n)
		return leaf | uint32(len(leaves)-1)
	})
	m.packets = huge(make([]packet, len(leaves)))
	corners := func(t uint32) [3]Vec { return [3]Vec{at(indices[3*t]), at(indices[3*t+1]), at(indices[3*t+2])} }
	spread(len(leaves), func(from, to int) {
		for k := from; k < to; k++ {
			m.packets[k].pack(leaves[k], items, corners)
		}
	})
	return m
}

// Bytes returns the memory the tree takes.
func (m *Mesh) Bytes() int { return wideBytes*len(m.nodes) + packetBytes*len(m.packets) }

// Vector reports whether the processor's wide instructions are used.
func Vector() bool { return vector && !forcePlain }

// Kernel says which kernel finds hits on this machine.
func Kernel() string {
	if Vector() {
		return "AVX2, eight boxes or triangles at a time"
	}
	return "plain, one box or triangle at a time"
}

// forcePlain lets tests compare the kernels.
var forcePlain bool

// ForcePlain makes the plain kernel find all hits, so that both can be compared. It is not for use while
// anything is searched.
func ForcePlain(on bool) { forcePlain = on }

// Ray is a half-line from Origin; points on it are Origin + t Direction with 0 < t < Far.
// The direction need not be of unit length.
type Ray struct {
	Origin, Direction Vec
	Far               float32
	Mask              uint8   // instances that share a bit with it are seen
	Time              float32 // share of the shutter's time at which it sees
}

// Hit is where a ray meets a triangle: T along the ray, and the barycentric weights U of the
// triangle's second and V of its third corner.
type Hit struct {
	T, U, V  float32
	Triangle uint32
	Instance int32
	place    uint32 // of the triangle in the tree: its packet, times eight, and its place there
}

// prepared is a ray with what every box and triangle test needs.
type prepared struct {
	o          Vec
	inv        Vec      // 1 / direction, finite
	in, out    Vec      // what a bound times inv is added to: where the ray enters there, and where it leaves
	near, away [3]uint8 // which of a box's bounds the ray meets first and last
	kx, ky, kz int
	sx, sy, sz float32
}

// sheared holds the other two axes for each axis that a ray goes along most, in the order that keeps the hand of what
// it sees: of one that goes up the axis, and of one that goes down.
var sheared = [4][2][2]uint8{{{1, 2}, {2, 1}}, {{2, 0}, {0, 2}}, {{0, 1}, {1, 0}}}

// prepare has no branches where rays differ: they would be guessed wrong.
func (p *prepared) prepare(o, d Vec) {
	p.o = o
	var least Vec
	p.inv.X, least.X = inverse(d.X)
	p.inv.Y, least.Y = inverse(d.Y)
	p.inv.Z, least.Z = inverse(d.Z)
	p.in.X, p.out.X = offsets(o.X*p.inv.X, least.X)
	p.in.Y, p.out.Y = offsets(o.Y*p.inv.Y, least.Y)
	p.in.Z, p.out.Z = offsets(o.Z*p.inv.Z, least.Z)
	downX, downY, downZ := sign(d.X), sign(d.Y), sign(d.Z)
	p.near[0], p.near[1], p.near[2] = 3*downX, 1+3*downY, 2+3*downZ
	p.away[0], p.away[1], p.away[2] = 3-3*downX, 4-3*downY, 5-3*downZ
	// Which is the largest, by their bits, that rise as they do.
	x, y, z := int64(math.Float32bits(d.X)&^(1<<31)), int64(math.Float32bits(d.Y)&^(1<<31)), int64(math.Float32bits(d.Z)&^(1<<31))
	second := uint64(x-y) >> 63 // 1 where y is larger than x
	third := uint64(y+(x-y)&(int64(second)-1)-z) >> 63
	kz := second&^third | third<<1
	down3 := uint64(downX) | uint64(downY)<<1 | uint64(downZ)<<2
	side := sheared[kz&3][down3>>kz&1]
	p.kx, p.ky, p.kz = int(side[0]), int(side[1]), int(kz)
	c, inv := [4]float32{d.X, d.Y, d.Z}, [4]float32{p.inv.X, p.inv.Y, p.inv.Z}
	p.sz = inv[kz&3]
	p.sx, p.sy = c[side[0]&3]*p.sz, c[side[1]&3]*p.sz
}

// sign is 1 of what is negative.
func sign(v float32) uint8 { return uint8(math.Float32bits(v) >> 31) }

// inverse returns 1 / d, and a number as good as infinite for 0: a true infinity times 0, on a box's face, would be no number and lose the
// box. Least is what distances are let be off by at least: much where the ray goes along planes, so that a box's face holds it, and
// elsewhere something, since -0, where a ray begins in a plane through 0, would come after all other distances.
func inverse(d float32) (inv, least float32) {
	if abs(d) < 1e-20 {
		return math.Float32frombits(math.Float32bits(1e20) | math.Float32bits(d)&(1<<31)), 1e8
	}
	return 1 / d, 1e-30
}

// offsets takes the rounding of the ray's origin, times inv, to the side on which no box is missed.
func offsets(v, least float32) (in, out float32) {
	off := abs(v)*4.8e-7 + least
	return -v - off, off - v
}

func abs(v float32) float32 { return math.Float32frombits(math.Float32bits(v) &^ (1 << 31)) }

// nearer brings the distance at which a box is entered nearer by the rounding error of the test, so that no box is missed that holds a
// hit (Ize, "Robust BVH Ray Traversal", 2013, who takes the far one farther: what comes first in a walk waits for fewer steps so).
const nearer = 1 - 2*1.7881393e-7

// meet is the watertight ray-triangle test of Woop, Benthin and Wald (JCGT 2013): the triangle is
// sheared into the ray's frame, where the edges' signs decide; ties are settled in double precision,
// so that no ray passes between two triangles that share an edge.
func (p *prepared) meet(tri *triangle, far float32) (t, u, v float32, ok bool) {
	a, b, c := tri.a.Sub(p.o), tri.b.Sub(p.o), tri.c.Sub(p.o)
	az, bz, cz := a.axis(p.kz), b.axis(p.kz), c.axis(p.kz)
	ax, ay := a.axis(p.kx)-p.sx*az, a.axis(p.ky)-p.sy*az
	bx, by := b.axis(p.kx)-p.sx*bz, b.axis(p.ky)-p.sy*bz
	cx, cy := c.axis(p.kx)-p.sx*cz, c.axis(p.ky)-p.sy*cz
	e0, e1, e2 := cx*by-cy*bx, ax*cy-ay*cx, bx*ay-by*ax
	if (e0 < 0 || e1 < 0 || e2 < 0) && (e0 > 0 || e1 > 0 || e2 > 0) {
		return 0, 0, 0, false
	}
	if e0 == 0 || e1 == 0 || e2 == 0 {
		e0 = float32(float64(cx)*float64(by) - float64(cy)*float64(bx))
		e1 = float32(float64(ax)*float64(cy) - float64(ay)*float64(cx))
		e2 = float32(float64(bx)*float64(ay) - float64(by)*float64(ax))
		if (e0 < 0 || e1 < 0 || e2 < 0) && (e0 > 0 || e1 > 0 || e2 > 0) {
			return 0, 0, 0, false
		}
	}
	det := e0 + e1 + e2
	if det == 0 {
		return 0, 0, 0, false
	}
	inv := 1 / det
	t = (e0*p.sz*az + e1*p.sz*bz + e2*p.sz*cz) * inv
	if !(t > 0 && t < far) {
		return 0, 0, 0, false
	}
	return t, e1 * inv, e2 * inv, true
}

// pending is a node or packet that is yet to be looked at, under the distance at which the ray enters it: as a whole
// number it comes before all that the ray enters later.
type pending uint64

func waiting(node uint32, t float32) pending {
	return pending(math.Float32bits(t))<<32 | pending(node)
}

func (p pending) node() uint32 { return uint32(p) }

// within reports whether the ray enters it before a distance.
func (p pending) within(far float32) bool { return uint32(p>>32) < math.Float32bits(far) }

// order returns the nearer of two, and the other: without a branch, which would be guessed wrong.
func order(a, b pending) (near, far pending) {
	d := int64(a - b)
	d &= d >> 63
	return b + pending(d), a - pending(d)
}

// intersect finds the nearest hit before hit.T and reports whether there is one.
func (m *Mesh) intersect(origin, direction Vec, hit *Hit, w *Walker) bool {
	if len(m.nodes) == 0 {
		return false
	}
	var p prepared
	p.prepare(origin, direction)
	if Vector() {
		return m.intersectVector(&p, hit, w)
	}
	return m.intersectPlain(&p, hit, w)
}

// occluded reports whether anything lies before far.
func (m *Mesh) occluded(origin, direction Vec, far float32, w *Walker) bool {
	if len(m.nodes) == 0 {
		return false
	}
	var p prepared
	p.prepare(origin, direction)
	if Vector() {
		return m.occludedVector(&p, far, w)
	}
	return m.occludedPlain(&p, far, w)
}
