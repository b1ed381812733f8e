package framing

import (
	"math"

	"github.com/sourcegraph/conc"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Geometry gives what parts look like, each in its own frame.
type Geometry interface {
	// Support answers how far a part's surface reaches; that of a part without one has no points.
	Support(p *shot.Part) (*mesh.Support, error)
	pose.Surfaces
}

// Body is everything visible that moves rigidly together, or copies that each move by themselves.
type Body struct {
	Part    int            // what it is called by: the part that moves, bends or is copied; of what stands still, the first of it
	Carrier int            // the part whose world matrix carries it, -1 for the room
	Reach   *mesh.Assembly // its points in the carrier's frame
	box     geom.Box       // round them
	members []int          // the parts that it is made of; nil where copies are among them, or it bends
	swarm   *swarm
	flexed  *flexed
}

// flexed is a part whose mesh bends.
type flexed struct {
	part   int
	flesh  Geometry    // of what hangs on bones or is mixed with shapes, whose points are in its own frame; nil for what only bends
	own    geom.Mat4   // from the frame of its last flex to the carrier's
	points []geom.Vec3 // as they are at rest, in the frame of its first flex
	now    []geom.Vec3 // in that of its last
}

// swarm is a part whose copies move by themselves.
type swarm struct {
	spread, part int
	support      *mesh.Support
	middle       geom.Vec3 // of a sphere round the part
	radius       float64
	g            Geometry
	places       []geom.Mat4 // in the carrier's frame, now
}

// maxSwarming copies are looked at at every moment; more of them stand as on frame 0.
const maxSwarming = 20_000

// Bodies gathers the visible surfaces of a shot, without those of its set.
func Bodies(e *pose.Evaluator, g Geometry) ([]Body, error) {
	carrier, own, hidden := e.Carrier(), e.InCarrier(), e.Index.Hidden()
	for i, set := range e.Index.Sets() { // is seen, but need not be
		hidden[i] = hidden[i] || set
	}
	members, first, made := map[int][]mesh.Placed{}, map[int]int{}, map[int][]int{}
	var order []int
	var single []Body // that need to be looked at moment by moment
	for i := range e.Shot.Parts {
		p := &e.Shot.Parts[i]
		if p.Kind != shot.Solid && p.Kind != shot.Plinth && p.Kind != shot.Made && p.Kind != shot.Group || hidden[i] {
			continue
		}
		c := carrier[i]
		if members[c] == nil {
			order = append(order, c)
		}
		if _, ok := first[c]; !ok {
			if first[c] = i; c >= 0 {
				first[c] = c
			}
		}
		if e.Fleshed(i) {
			if points, _, err := g.Surface(p); err != nil {
				return nil, err
			} else if len(points) > 0 {
				single = append(single, Body{Part: i, Carrier: c, flexed: &flexed{part: i, flesh: g, own: own[i], points: points}})
			}
			continue
		}
		if len(e.Bends(i)) > 0 {
			points, _, err := g.Surface(p)
			if err != nil {
				return nil, err
			}
			if points = distinct(points); len(points) > 0 {
				list := e.Bends(i)
				for k, q := range points {
					points[k] = list[0].In.Point(q)
				}
				single = append(single, Body{Part: i, Carrier: c, flexed: &flexed{part: i, own: own[i].Mul(list[len(list)-1].Out), points: points}})
			}
			continue
		}
		reach, err := g.Support(p)
		if err != nil {
			return nil, err
		}
		members[c], made[c] = append(members[c], mesh.Placed{Of: reach, At: own[i]}), append(made[c], i)
	}
	spreads, err := e.Spreads(0, e.At(0), g)
	if err != nil {
		return nil, err
	}
	for _, sp := range spreads {
		if hidden[sp.Spread] {
			continue
		}
		c := carrier[sp.Spread]
		reach, err := g.Support(&e.Shot.Parts[sp.Part])
		if err != nil {
			return nil, err
		}
		if e.Living(sp.Spread) && len(sp.Places) <= maxSwarming {
			if box := reach.Bounds(); !box.Empty() {
				single = append(single, Body{Part: sp.Spread, Carrier: sp.Spread, swarm: &swarm{
					spread: sp.Spread, part: sp.Part, support: reach, g: g,
					middle: box.Centre(), radius: box.Size().Len() / 2, places: sp.Places,
				}})
			}
			continue
		}
		if members[c] == nil {
			order = append(order, c)
		}
		if _, ok := first[c]; !ok {
			first[c] = sp.Spread
		}
		made[c] = nil
		for _, m := range sp.Places {
			members[c] = append(members[c], mesh.Placed{Of: reach, At: own[sp.Spread].Mul(m)})
		}
	}
	var bodies []Body
	for _, c := range order {
		if reach := mesh.NewAssembly(members[c]); !reach.Empty() {
			bodies = append(bodies, Body{Part: first[c], Carrier: c, Reach: reach, box: reach.Bounds(), members: made[c]})
		}
	}
	return append(bodies, single...), nil
}

// Bends reports whether the body's own points move in its carrier's frame.
func (b *Body) Bends() bool { return b.flexed != nil || b.swarm != nil }

// gather puts the copies that move by themselves where they are at a time, and bends what bends.
func gather(e *pose.Evaluator, bodies []Body, t float64, world []geom.Mat4) error {
	if t == math.Floor(t) { // between frames what bends is as on the frame before
		var all conc.WaitGroup
		for i := range bodies {
			b := bodies[i].flexed
			if b != nil && b.flesh != nil {
				now, _, err := e.Points(b.part, motion.At(e.Shot, t), world, b.flesh)
				if err != nil {
					return err
				}
				b.now = now
			} else if b != nil {
				all.Go(func() {
					if b.now == nil {
						b.now = make([]geom.Vec3, len(b.points))
					}
					e.BendAll(b.part, t, b.points, b.now)
				})
			}
		}
		all.Wait()
	}
	var now []pose.Copied
	for i := range bodies {
		w := bodies[i].swarm
		if w == nil {
			continue
		}
		if now == nil {
			var err error
			if now, err = e.Spreads(t, world, w.g); err != nil {
				return err
			}
		}
		for _, c := range now {
			if c.Spread == w.spread && c.Part == w.part {
				w.places = c.Places
			}
		}
	}
	return nil
}

// seen returns the matrix that takes the frame in which the body's points are given to the one that m takes the room to.
func (b *Body) seen(world []geom.Mat4, m geom.Mat4) geom.Mat4 {
	if b.Carrier >= 0 {
		m = m.Mul(world[b.Carrier])
	}
	if b.flexed != nil {
		m = m.Mul(b.flexed.own)
	}
	return m
}

// reach returns the most that d.p is for the points p of the body, seen through the matrix m that seen gives, if that is more
// than least.
func (b *Body) reach(m geom.Mat4, d geom.Vec3, least float64) float64 {
	if b.swarm != nil {
		return max(least, b.swarm.reach(m, d))
	}
	own, at := m.Transposed(d), d.Dot(m.Column(3))
	if b.flexed != nil {
		most := math.Inf(-1)
		for _, p := range b.flexed.now {
			most = max(most, own[0]*p[0]+own[1]*p[1]+own[2]*p[2])
		}
		return max(least, most+at)
	}
	far := at // of the box
	for k, v := range own {
		far += max(v*b.box.Min[k], v*b.box.Max[k])
	}
	if far <= least {
		return least
	}
	return max(least, b.Reach.Max(own)+at)
}

// reach passes over copies whose sphere does not reach further than one that has been looked at.
func (w *swarm) reach(m geom.Mat4, d geom.Vec3) float64 {
	own := m.Transposed(d)
	most := math.Inf(-1)
	for _, p := range w.places {
		dir, at := p.Transposed(own), own.Dot(p.Column(3))
		if dir.Dot(w.middle)+w.radius*dir.Len()+at > most {
			most = math.Max(most, w.support.Max(dir)+at)
		}
	}
	return most + d.Dot(m.Column(3))
}

// ratio returns the largest axis.p / depth of the points of a body that bends that lie before the camera, at least lo and at
// most hi.
func (b *Body) ratio(m geom.Mat4, axis geom.Vec3, lo, hi float64) float64 {
	along, back := m.Transposed(axis), m.Transposed(geom.Vec3{0, 0, -1})
	a, d := axis.Dot(m.Column(3)), -m.Column(3)[2]
	for _, p := range b.flexed.now {
		reach, depth := a+along[0]*p[0]+along[1]*p[1]+along[2]*p[2], d+back[0]*p[0]+back[1]*p[1]+back[2]*p[2]
		if reach > lo*depth {
			if reach > hi*depth {
				return hi
			}
			lo = reach / depth
		}
	}
	return lo
}

// distinct leaves out points that are there already: meshes have one for each normal.
func distinct(points []geom.Vec3) []geom.Vec3 {
	seen := make(map[geom.Vec3]bool, len(points))
	var out []geom.Vec3
	for _, p := range points {
		if !seen[p] {
			seen[p] = true
			out = append(out, p)
		}
	}
	return out
}
