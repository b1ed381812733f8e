package bvh

import "math"

// Mesh is a searchable triangle mesh in its own frame.
type Mesh struct {
	nodes []node
	tris  []triangle // in leaf order
	ids   []uint32   // leaf order to the triangle's number in the mesh
}

type triangle struct{ a, b, c Vec }

// NewMesh builds the tree. Indices has three entries for each triangle and must be in range.
func NewMesh(positions [][3]float32, indices []uint32) *Mesh {
	n := len(indices) / 3
	boxes := make([]box, n)
	at := func(i uint32) Vec { p := positions[i]; return Vec{p[0], p[1], p[2]} }
	for t := range n {
		a, b, c := at(indices[3*t]), at(indices[3*t+1]), at(indices[3*t+2])
		boxes[t] = box{a.min(b).min(c), a.max(b).max(c)}
	}
	m := &Mesh{}
	m.nodes, m.ids = build(boxes)
	m.tris = make([]triangle, n)
	for k, t := range m.ids {
		m.tris[k] = triangle{at(indices[3*t]), at(indices[3*t+1]), at(indices[3*t+2])}
	}
	return m
}

// Bytes returns the memory the tree takes.
func (m *Mesh) Bytes() int { return 32*len(m.nodes) + 36*len(m.tris) + 4*len(m.ids) }

// Ray is a half-line from Origin; points on it are Origin + t Direction with 0 < t < Far.
// The direction need not be of unit length.
type Ray struct {
	Origin, Direction Vec
	Far               float32
	Mask              uint8 // instances that share a bit with it are seen
}

// Hit is where a ray meets a triangle: T along the ray, and the barycentric weights U of the
// triangle's second and V of its third corner.
type Hit struct {
	T, U, V  float32
	Triangle uint32
	Instance int32
}

// prepared is a ray with what every box and triangle test needs.
type prepared struct {
	o          Vec
	inv        Vec      // 1 / direction, finite
	near, away [3]uint8 // which of a box's bounds the ray meets first and last
	kx, ky, kz int
	sx, sy, sz float32
}

func prepare(r *Ray) prepared {
	d := r.Direction
	p := prepared{o: r.Origin, inv: Vec{inverse(d.X), inverse(d.Y), inverse(d.Z)}, near: [3]uint8{0, 1, 2}, away: [3]uint8{3, 4, 5}}
	if d.X < 0 {
		p.near[0], p.away[0] = 3, 0
	}
	if d.Y < 0 {
		p.near[1], p.away[1] = 4, 1
	}
	if d.Z < 0 {
		p.near[2], p.away[2] = 5, 2
	}
	ax, ay, az := abs(d.X), abs(d.Y), abs(d.Z)
	p.kz = 2
	if ax > ay && ax > az {
		p.kz = 0
	} else if ay > az {
		p.kz = 1
	}
	p.kx, p.ky = (p.kz+1)%3, (p.kz+2)%3
	if d.axis(p.kz) < 0 {
		p.kx, p.ky = p.ky, p.kx
	}
	p.sx, p.sy, p.sz = d.axis(p.kx)/d.axis(p.kz), d.axis(p.ky)/d.axis(p.kz), 1/d.axis(p.kz)
	return p
}

// inverse returns 1 / v, and a number as good as infinite for 0: a true infinity times 0, on a box's
// face, would be no number and lose the box.
func inverse(v float32) float32 {
	if abs(v) < 1e-20 {
		return float32(math.Copysign(1e20, float64(v)))
	}
	return 1 / v
}

func abs(v float32) float32 { return math.Float32frombits(math.Float32bits(v) &^ (1 << 31)) }

// farther widens the far distance of a box by the rounding error of the test, so that no box is
// missed that holds a hit (Ize, "Robust BVH Ray Traversal", 2013).
const farther = 1 + 2*1.7881393e-7

// enter returns the distance at which the ray enters the box, and whether it does before far.
func (p *prepared) enter(n *node, far float32) (float32, bool) {
	b := &n.bounds
	t0 := max(0, (b[p.near[0]]-p.o.X)*p.inv.X, (b[p.near[1]]-p.o.Y)*p.inv.Y, (b[p.near[2]]-p.o.Z)*p.inv.Z)
	t1 := min((b[p.away[0]]-p.o.X)*p.inv.X, (b[p.away[1]]-p.o.Y)*p.inv.Y, (b[p.away[2]]-p.o.Z)*p.inv.Z)
	return t0, t0 <= min(far, t1*farther)
}

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
	if e0 == 0 || e1 == 0 || e2 == 0 {
		e0 = float32(float64(cx)*float64(by) - float64(cy)*float64(bx))
		e1 = float32(float64(ax)*float64(cy) - float64(ay)*float64(cx))
		e2 = float32(float64(bx)*float64(ay) - float64(by)*float64(ax))
	}
	if (e0 < 0 || e1 < 0 || e2 < 0) && (e0 > 0 || e1 > 0 || e2 > 0) {
		return 0, 0, 0, false
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

type pending struct {
	node uint32
	t    float32
}

// intersect finds the nearest hit before hit.T and reports whether there is one.
func (m *Mesh) intersect(r *Ray, hit *Hit) bool {
	if len(m.nodes) == 0 {
		return false
	}
	p := prepare(r)
	var stack [maxDepth + 4]pending
	if _, ok := p.enter(&m.nodes[0], hit.T); !ok {
		return false
	}
	top, at, found := 0, uint32(0), false
	for {
		n := &m.nodes[at]
		if n.count > 0 {
			for k := n.first; k < n.first+n.count; k++ {
				if t, u, v, ok := p.meet(&m.tris[k], hit.T); ok {
					hit.T, hit.U, hit.V, hit.Triangle, found = t, u, v, m.ids[k], true
				}
			}
		} else {
			t0, in0 := p.enter(&m.nodes[n.first], hit.T)
			t1, in1 := p.enter(&m.nodes[n.first+1], hit.T)
			switch {
			case in0 && in1:
				near, away, t := n.first, n.first+1, t1
				if t1 < t0 {
					near, away, t = away, near, t0
				}
				stack[top] = pending{away, t}
				top++
				at = near
				continue
			case in0:
				at = n.first
				continue
			case in1:
				at = n.first + 1
				continue
			}
		}
		for {
			if top == 0 {
				return found
			}
			top--
			if stack[top].t < hit.T {
				break
			}
		}
		at = stack[top].node
	}
}

// occluded reports whether anything lies before the ray's far end.
func (m *Mesh) occluded(r *Ray) bool {
	if len(m.nodes) == 0 {
		return false
	}
	p := prepare(r)
	var stack [maxDepth + 4]uint32
	top := 1
	for top > 0 {
		top--
		n := &m.nodes[stack[top]]
		if _, in := p.enter(n, r.Far); !in {
			continue
		}
		if n.count == 0 {
			stack[top], stack[top+1] = n.first+1, n.first
			top += 2
			continue
		}
		for k := n.first; k < n.first+n.count; k++ {
			if _, _, _, ok := p.meet(&m.tris[k], r.Far); ok {
				return true
			}
		}
	}
	return false
}
