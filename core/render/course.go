package render

import (
	"context"

	"perigyre/core/render/bvh"
	"perigyre/core/scene"
)

// course says which pixel of a neighbour each pixel of a picture is, -1 for none.
type course struct {
	to    []int32
	still []bool // the surface and the camera stand still
}

func newCourse(n int) course { return course{make([]int32, n), make([]bool, n)} }

const (
	leastMost  = 0.75 // share of a pixel's samples that meet one surface, for the pixel to be of it
	sameNormal = 0.9  // cosine
)

// thing is what surface it is: of which body, and whether it is cut.
func (f *first) thing() int32 {
	if f.cap {
		return 2*f.body + 1
	}
	return 2 * f.body
}

// mostly is the surface that most samples of a pixel met, -1 where none is most.
func (p *gathered) mostly() int32 {
	for _, t := range p.things {
		if float32(t.hits) >= leastMost*float32(p.hits) {
			return t.thing
		}
	}
	return -1
}

// passage is how a body comes from one moment to another.
type passage struct {
	body  int // its index then, -1 for none
	move  bvh.Matrix
	still bool
	flows bool // its mesh lies otherwise then
}

// passages finds the bodies of a scene in another one: they are what has the same mesh, in the same order.
func passages(now, then *scene.Scene) []passage {
	type name struct {
		asset string
		index int
		shape string
	}
	of := func(b *scene.Body) name {
		n := name{b.Mesh.Asset, b.Mesh.Index, ""}
		if b.Mesh.Shape != nil {
			n.shape = b.Mesh.Shape.Key()
		}
		return n
	}
	theirs, counts, nth := map[name][]int{}, map[name]int{}, map[name]int{}
	for i := range then.Bodies {
		n := of(&then.Bodies[i])
		theirs[n] = append(theirs[n], i)
	}
	for i := range now.Bodies {
		counts[of(&now.Bodies[i])]++
	}
	out := make([]passage, len(now.Bodies))
	for i := range now.Bodies {
		b := &now.Bodies[i]
		n := of(b)
		k := nth[n]
		nth[n]++
		out[i].body = -1
		if counts[n] != len(theirs[n]) { // some came or went: which is which is not known
			continue
		}
		if back, ok := b.At.Inverse(); ok {
			o := &then.Bodies[theirs[n][k]]
			flows := !b.LiesAs(o)
			out[i] = passage{theirs[n][k], matrix(o.At.Mul(back)), o.At == b.At && !flows, flows}
		}
	}
	return out
}

// pixelOf returns the place of a point of the room in a picture, in pixels, and its depth.
func (c *camera) pixelOf(p bvh.Vec, width, height int) (x, y, depth float32) {
	x, y = c.place(p)
	return (x + 1) / 2 * float32(width), (1 - y) / 2 * float32(height), c.depth(p)
}

// point returns the point of the room at a place of a picture, 0 to 1 from the left and from the top, at a depth.
func (c *camera) point(x, y, depth float32) bvh.Vec {
	aside := c.right.Mul(2*x - 1 + c.x).Add(c.up.Mul(1 - 2*y + c.y))
	if c.flat {
		return c.position.Add(aside).Add(c.ahead.Mul(depth))
	}
	return c.position.Add(c.ahead.Add(aside).Mul(depth))
}

// courses leads the pixels of a picture to where their surfaces are in a neighbour, and to where they are themselves, -1 where
// that is the same.
func (e *exposure) courses(ctx context.Context, n *exposure, threads int) (follow, stay course) {
	f, g := e.film, n.film
	pass := passages(e.from, n.from)
	follow, stay = newCourse(f.Width*f.Height), newCourse(f.Width*f.Height)
	still := e.camera.position == n.camera.position && e.camera.right == n.camera.right && e.camera.up == n.camera.up && e.camera.ahead == n.camera.ahead
	eachRow(ctx, threads, f.Height, func(y int) {
		for x := range f.Width {
			i := y*f.Width + x
			follow.to[i], stay.to[i] = -1, -1
			thing := f.guides.thing[i]
			if f.guides.cover[i] <= 0 {
				continue
			}
			if thing < 0 { // an edge between surfaces, which may stand still
				if n.phase != e.phase && f.guides.same(i, g.guides, i, -1, f.guides.depth[i], f.guides.normal[i]) {
					stay.to[i] = int32(i)
				}
				continue
			}
			p := &pass[thing/2]
			if p.body < 0 {
				continue
			}
			then := int32(2*p.body) + thing&1
			if n.phase != e.phase && f.guides.same(i, g.guides, i, then, f.guides.depth[i], f.guides.normal[i]) {
				stay.to[i], stay.still[i] = int32(i), still && p.still
			}
			at := e.camera.point((float32(x)+0.5)/float32(f.Width), (float32(f.top+y)+0.5)/float32(f.of), f.guides.depth[i])
			to, normal := p.move.Point(at), p.move.Vector(f.guides.normal[i]).Unit()
			if p.flows {
				ok := false
				if to, normal, ok = e.carried(n, int(thing/2), p, i, at); !ok {
					continue
				}
			}
			u, v, depth := n.camera.pixelOf(to, f.Width, f.of)
			if v -= float32(f.top); !(depth > 0) && !n.camera.flat || !(u >= 0 && v >= 0 && u < float32(f.Width) && v < float32(f.Height)) {
				continue
			}
			if j := int(v)*f.Width + int(u); j != i && f.guides.same(i, g.guides, j, then, depth, normal) {
				follow.to[i] = int32(j)
			}
		}
	})
	return follow, stay
}

// same reports whether a pixel of a neighbour is of a surface, as deep and turned as it should be.
func (g *guides) same(i int, n *guides, j int, thing int32, depth float32, normal bvh.Vec) bool {
	if n.cover[j] <= 0 || n.thing[j] != thing || normal.Dot(n.normal[j]) < sameNormal {
		return false
	}
	const steep = 8 // pixels that a surface may go back in one
	return abs(depth-n.depth[j]) <= steep*g.footprint*depth+2*(g.doubt[i].depth+n.doubt[j].depth)
}

// floorCourse leads the pixels of a picture that see the floor to where that place of the floor is in a neighbour.
func (e *exposure) floorCourse(ctx context.Context, n *exposure, threads int) course {
	f := e.film
	out := newCourse(f.Width * f.Height)
	c := &e.camera
	eachRow(ctx, threads, f.Height, func(y int) {
		for x := range f.Width {
			i := y*f.Width + x
			out.to[i] = -1
			if f.shades.floor[i] <= 0 || e.from.Floor == nil || n.from.Floor == nil || n.film.shades == nil {
				continue
			}
			u, v := (float32(x)+0.5)/float32(f.Width), (float32(f.top+y)+0.5)/float32(f.of)
			near, far := c.point(u, v, 0), c.point(u, v, 1)
			depth := (float32(*e.from.Floor) - near.Y) / (far.Y - near.Y)
			at := c.point(u, v, depth)
			at.Y = float32(*n.from.Floor)
			px, py, deep := n.camera.pixelOf(at, f.Width, f.of)
			if py -= float32(f.top); !(deep > 0) && !n.camera.flat || !(px >= 0 && py >= 0 && px < float32(f.Width) && py < float32(f.Height)) {
				continue
			}
			const none = 0.01 // of a pixel: what rounding makes of standing still
			j := int(py)*f.Width + int(px)
			if abs(px-float32(x)-0.5) < none && abs(py-float32(y)-0.5) < none {
				j, out.still[i] = i, true
			}
			if n.film.shades.floor[j] > 0 && (j != i || n.phase != e.phase) {
				out.to[i] = int32(j)
			}
		}
	})
	return out
}
