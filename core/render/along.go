package render

import (
	"context"
	"math"

	"perigyre/core/render/bvh"
	"perigyre/core/scene"
)

// What a picture's neighbours in a run saw of a place is used before the picture is denoised by itself (denoise.go). A pixel was
// in a neighbour where its surface was, by the placement of its body and the cameras of both, and where the pixel itself is, for
// what stands still in the picture though the surface moves: a highlight on what turns. Both count only where they are of the same
// surface at the depth and with the normal that they should have, and by how alike the patches about them are, given their
// noise, as in the denoiser; each half of the samples by the other. The halves stay independent of each other.

// exposure is a strip of a picture as it was sampled, not yet denoised.
type exposure struct {
	film   *Film
	from   *scene.Scene
	camera camera
	phase  int
	spread []float32 // as the denoiser has it
}

// course says which pixel of a neighbour each pixel of a picture is, -1 for none.
type course struct {
	to    []int32
	still []bool // the surface and the camera stand still
}

func newCourse(n int) course { return course{make([]int32, n), make([]bool, n)} }

const (
	leastMost  = 0.75 // share of a pixel's samples that meet one surface, for the pixel to be of it
	sameNormal = 0.9  // cosine
	slack      = 1    // that patches may differ by besides
	slackStill = 2    // and of what stands still before a camera that does: so that it is wholly the same in all pictures
	patchStill = 5    // for that too patches are larger,
	wildStill  = 6    // and no pixel of them says more than that
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
			at := then.Bodies[theirs[n][k]].At
			out[i] = passage{theirs[n][k], matrix(at.Mul(back)), at == b.At}
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
			u, v, depth := n.camera.pixelOf(p.move.Point(at), f.Width, f.of)
			if v -= float32(f.top); !(depth > 0) && !n.camera.flat || !(u >= 0 && v >= 0 && u < float32(f.Width) && v < float32(f.Height)) {
				continue
			}
			if j := int(v)*f.Width + int(u); j != i && f.guides.same(i, g.guides, j, then, depth, p.move.Vector(f.guides.normal[i]).Unit()) {
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

// likeness weighs what a course leads to. Differ tells how much two pixels differ, more than their noise, for each half.
func likeness(ctx context.Context, threads, width, height int, c course, differ func(i, j int) (float32, float32)) (weights [2][]float32) {
	var apiece [2][]float32
	for h := range weights {
		apiece[h], weights[h] = make([]float32, len(c.to)), make([]float32, len(c.to))
	}
	eachRow(ctx, threads, height, func(y int) {
		for i := y * width; i < (y+1)*width; i++ {
			if c.to[i] >= 0 {
				apiece[0][i], apiece[1][i] = differ(i, int(c.to[i]))
			}
		}
	})
	eachRow(ctx, threads, height, func(y int) {
		for x := range width {
			i := y*width + x
			if c.to[i] < 0 {
				continue
			}
			less, most, r := float32(slack), float32(wildest), patch
			if c.still[i] {
				less, most, r = slackStill, wildStill, patchStill
			}
			var sum [2]float32
			n := float32(0)
			for v := max(0, y-r); v <= min(height-1, y+r); v++ {
				for u := max(0, x-r); u <= min(width-1, x+r); u++ {
					if j := v*width + u; c.to[j] >= 0 {
						sum[0], sum[1], n = sum[0]+min(most, apiece[0][j]), sum[1]+min(most, apiece[1][j]), n+1
					}
				}
			}
			for h := range sum { // each half by the other
				weights[h][i] = float32(math.Exp(-float64(max(0, sum[1-h]/n-less))))
			}
		}
	})
	return weights
}

// beside is a neighbour that has been looked up.
type beside struct {
	e       *exposure
	course  course
	weights [2][]float32
	stays   bool
	share   float32
}

// along makes a film of an exposure whose light is that of its neighbours too, where they are alike. The exposures stay as they are.
func (e *exposure) along(ctx context.Context, others []*exposure, threads int) *Film {
	f := *e.film
	f.Pix = append([]float32(nil), f.Pix...)
	g := *f.guides
	f.guides = &g
	phases := map[int]float32{}
	for _, n := range others {
		phases[n.phase]++
	}
	var list []beside
	for _, n := range others {
		follow, stay := e.courses(ctx, n, threads)
		differ := func(i, j int) (float32, float32) {
			return difference(e.film.guides, n.film.guides, i, j, e.spread[i], n.spread[j])
		}
		going, staying := likeness(ctx, threads, f.Width, f.Height, follow, differ), likeness(ctx, threads, f.Width, f.Height, stay, differ)
		for h := range going { // what stands still in the picture is taken where it stands: it is the same for the frames beside
			for i, w := range staying[h] {
				going[h][i] *= 1 - w
			}
		}
		list = append(list, beside{n, follow, going, false, 1}, beside{n, stay, staying, true, 1 / phases[n.phase]})
	}
	n := f.Width * f.Height
	g.half = [2][]bvh.Vec{make([]bvh.Vec, n), make([]bvh.Vec, n)}
	g.variance = make([]float32, n)
	own := e.film.guides
	eachRow(ctx, threads, f.Height, func(y int) {
		for i := y * f.Width; i < (y+1)*f.Width; i++ {
			if g.cover[i] <= 0 {
				continue
			}
			variance, all := own.variance[i], float32(1)
			var same [8]float32 // of the neighbours of each phase that stay, whose noise is the same
			for h := range g.half {
				sum, weight := own.half[h][i], float32(1)
				for k := range list {
					b := &list[k]
					if j := b.course.to[i]; j >= 0 {
						w := b.weights[h][i] * b.share
						sum, weight = sum.Add(b.e.film.guides.half[h][j].Mul(w)), weight+w
					}
				}
				g.half[h][i] = sum.Mul(1 / weight)
			}
			for k := range list {
				b := &list[k]
				if j := b.course.to[i]; j >= 0 {
					w := (b.weights[0][i] + b.weights[1][i]) / 2 * b.share
					all += w
					if v := b.e.film.guides.variance[j]; b.stays {
						same[b.e.phase&7] += w * sqrt(v)
					} else {
						variance += w * w * v
					}
				}
			}
			for _, v := range same {
				variance += v * v
			}
			g.variance[i] = variance / (all * all)
		}
	})
	e.doubted(ctx, &f, list, threads)
	if f.shades != nil {
		f.shades = e.shadesAlong(ctx, others, phases, threads)
	}
	return &f
}

// doubted goes back to a picture's own samples where those of its neighbours turn out to be other: where they are further from
// the other half of its own samples than the noise of both.
func (e *exposure) doubted(ctx context.Context, f *Film, list []beside, threads int) {
	own, g := e.film.guides, f.guides
	mixed := [2][]bvh.Vec{make([]bvh.Vec, len(g.cover)), make([]bvh.Vec, len(g.cover))}
	variance := make([]float32, len(g.cover))
	eachRow(ctx, threads, f.Height, func(y int) {
		for x := range f.Width {
			i := y*f.Width + x
			if g.cover[i] <= 0 {
				continue
			}
			near, lets := patch, float32(0.8) // a third where all is alike, and chance
			for k := range list {
				if list[k].course.still[i] {
					near, lets = patchStill, 2
				}
			}
			var off, spread float32
			for v := max(0, y-near); v <= min(f.Height-1, y+near); v++ {
				for u := max(0, x-near); u <= min(f.Width-1, x+near); u++ {
					if j := v*f.Width + u; g.cover[j] > 0 {
						p, q := g.half[0][j].Sub(own.half[1][j]), g.half[1][j].Sub(own.half[0][j])
						off += (p.Dot(p)+q.Dot(q))/2 - e.spread[j]
						spread += e.spread[j]
					}
				}
			}
			share := float32(0)
			if spread > 0 {
				share = min(1, max(0, (off/spread-lets)/0.6))
			}
			for h := range mixed {
				mixed[h][i] = g.half[h][i].Mul(1 - share).Add(own.half[h][i].Mul(share))
			}
			off = (1-share)*sqrt(g.variance[i]) + share*sqrt(own.variance[i])
			variance[i] = off * off
		}
	})
	g.half, g.variance = mixed, variance
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

// shadesAlong is along for the shadow on the floor.
func (e *exposure) shadesAlong(ctx context.Context, others []*exposure, phases map[int]float32, threads int) *shades {
	f, s := e.film, e.film.shades
	var list []beside
	for _, n := range others {
		c := e.floorCourse(ctx, n, threads)
		t := n.film.shades
		list = append(list, beside{e: n, course: c, share: 1 / phases[n.phase], weights: likeness(ctx, threads, f.Width, f.Height, c, func(i, j int) (float32, float32) {
			p, q := s.spread[i], t.spread[j]
			scale := 1 / (shadeAlike + shadeStrict*shadeStrict*(p+q))
			v, w := s.half[0][i]-t.half[0][j], s.half[1][i]-t.half[1][j]
			return min(wildest, (v*v-2*min(p, q))*scale), min(wildest, (w*w-2*min(p, q))*scale)
		})})
	}
	out := *s
	out.half, out.spread = [2][]float32{make([]float32, len(s.floor)), make([]float32, len(s.floor))}, make([]float32, len(s.floor))
	eachRow(ctx, threads, f.Height, func(y int) {
		for i := y * f.Width; i < (y+1)*f.Width; i++ {
			spread, all := s.spread[i], float32(1)
			for h := range out.half {
				sum, weight := s.half[h][i], float32(1)
				for k := range list {
					b := &list[k]
					if j := b.course.to[i]; j >= 0 {
						w := b.weights[h][i] * b.share
						sum, weight = sum+w*b.e.film.shades.half[h][j], weight+w
					}
				}
				out.half[h][i] = sum / weight
			}
			var same [8]float32
			for k := range list {
				b := &list[k]
				if j := b.course.to[i]; j >= 0 {
					w := (b.weights[0][i] + b.weights[1][i]) / 2 * b.share
					all += w
					same[b.e.phase&7] += w * sqrt(b.e.film.shades.spread[j])
				}
			}
			for _, v := range same {
				spread += v * v
			}
			out.spread[i] = spread / (all * all)
		}
	})
	return &out
}
