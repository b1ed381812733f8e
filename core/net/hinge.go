package net

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"perigyre/core/geom"
)

// Panel is a flat part of what is folded: its surface in the frame of all.
type Panel struct {
	Points    []geom.Vec3
	Triangles []uint32
}

// Hinge is the line that a panel turns about, and by how much until it lies flat beside the panel that it hangs on.
type Hinge struct {
	On    int       // the panel that it hangs on; -1 for the one that stays
	At    geom.Vec3 // in the middle of the line
	Axis  geom.Vec3 // unit vector along it
	Angle float64   // about the axis by the right hand
}

// Net is how panels hang on each other.
type Net struct {
	Hinges []Hinge // of each panel
	Order  []int   // the panels in the order in which they open: each after what it hangs on
}

// maxPanels are looked at together.
const maxPanels = 500

// Find returns how panels hang on each other. The one that stays is the largest of those that lie lowest, along low; on it hang those
// that share an edge with it, on those the next, each by the longest edge that it shares.
func Find(panels []Panel, low geom.Vec3) (*Net, error) {
	if len(panels) < 2 || len(panels) > maxPanels {
		return nil, fmt.Errorf("2 to %d panels unfold, not %d", maxPanels, len(panels))
	}
	list := make([]flatness, len(panels))
	for i := range panels {
		list[i] = measure(&panels[i])
	}
	base := baseOf(list, low)
	out := &Net{Hinges: make([]Hinge, len(panels)), Order: []int{base}}
	level := []int{base}
	left := map[int]bool{}
	for i := range panels {
		if left[i] = true; i == base {
			delete(left, i)
		}
	}
	out.Hinges[base].On = -1
	for len(level) > 0 && len(left) > 0 {
		var next []int
		for i := range panels {
			if !left[i] {
				continue
			}
			best := shared{}
			for _, on := range level {
				if s := list[i].edge(&list[on]); s.long > best.long*(1+1e-6) {
					best = s
					best.on = on
				}
			}
			if best.long > 0 {
				out.Hinges[i] = list[i].hinge(&list[best.on], best)
				next = append(next, i)
			}
		}
		for _, i := range next {
			delete(left, i)
		}
		out.Order, level = append(out.Order, next...), next
	}
	if len(left) > 0 {
		return nil, fmt.Errorf("%d of %d panels share no edge with another", len(left), len(panels))
	}
	return out, nil
}

// flatness is what is known of a panel.
type flatness struct {
	middle geom.Vec3
	area   float64
	normal geom.Vec3 // of its largest side
	thick  float64
	edges  [][2]geom.Vec3 // sharp, straight
}

func measure(p *Panel) flatness {
	f := flatness{}
	type side struct {
		normal geom.Vec3
		area   float64
	}
	var sides []side
	for t := 0; t+2 < len(p.Triangles); t += 3 {
		a, b, c := p.Points[p.Triangles[t]], p.Points[p.Triangles[t+1]], p.Points[p.Triangles[t+2]]
		n := b.Sub(a).Cross(c.Sub(a)).Mul(0.5)
		area := n.Len()
		f.area += area
		f.middle = f.middle.Add(a.Add(b).Add(c).Mul(area / 3))
		k := slices.IndexFunc(sides, func(s side) bool { return s.normal.Dot(n.Unit()) > math.Cos(flat) })
		if k < 0 {
			sides, k = append(sides, side{normal: n.Unit()}), len(sides)
		}
		sides[k].area += area
	}
	f.middle = f.middle.Mul(1 / math.Max(f.area, 1e-300))
	if len(sides) > 0 {
		f.normal = slices.MaxFunc(sides, func(a, b side) int { return cmp.Compare(a.area, b.area) }).normal
	}
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, q := range p.Points {
		d := q.Dot(f.normal)
		lo, hi = math.Min(lo, d), math.Max(hi, d)
	}
	f.thick = math.Max(0, hi-lo)
	f.edges = sharp(p)
	return f
}

// sharp are the edges of a panel at which it ends or turns by more than 30 degrees, joined where they go on straight.
func sharp(p *Panel) [][2]geom.Vec3 {
	around := map[[2]geom.Vec3][]geom.Vec3{}
	var order [][2]geom.Vec3
	for t := 0; t+2 < len(p.Triangles); t += 3 {
		v := [3]geom.Vec3{p.Points[p.Triangles[t]], p.Points[p.Triangles[t+1]], p.Points[p.Triangles[t+2]]}
		n := v[1].Sub(v[0]).Cross(v[2].Sub(v[0])).Unit()
		for c := range 3 {
			e := sorted(v[c], v[(c+1)%3])
			if around[e] == nil {
				order = append(order, e)
			}
			around[e] = append(around[e], n)
		}
	}
	var out [][2]geom.Vec3
	for _, e := range order {
		n := around[e]
		if e[0] == e[1] || len(n) == 2 && n[0].Dot(n[1]) > math.Cos(math.Pi/6) {
			continue
		}
		out = append(out, e)
	}
	for joined := true; joined; {
		joined = false
		for i := 0; i < len(out) && !joined; i++ {
			for k := i + 1; k < len(out) && !joined; k++ {
				if e, ok := straight(out[i], out[k]); ok {
					out[i] = e
					out = slices.Delete(out, k, k+1)
					joined = true
				}
			}
		}
	}
	return out
}

// straight joins two edges that share an end and go the same way.
func straight(a, b [2]geom.Vec3) ([2]geom.Vec3, bool) {
	for i := range 2 {
		for k := range 2 {
			if a[i] != b[k] {
				continue
			}
			u, v := a[i].Sub(a[1-i]), b[1-k].Sub(b[k])
			if u.Unit().Dot(v.Unit()) > math.Cos(flat) {
				return [2]geom.Vec3{a[1-i], b[1-k]}, true
			}
		}
	}
	return a, false
}

func baseOf(list []flatness, low geom.Vec3) int {
	least, most := math.Inf(1), math.Inf(-1)
	for i := range list {
		d := -list[i].middle.Dot(low)
		least, most = math.Min(least, d), math.Max(most, d)
	}
	base := -1
	for i := range list {
		if -list[i].middle.Dot(low) <= least+0.05*(most-least) && (base < 0 || list[i].area > list[base].area*(1+1e-9)) {
			base = i
		}
	}
	return base
}

// shared is an edge that two panels share.
type shared struct {
	on       int
	long     float64
	from, to geom.Vec3
}

// edge returns the longest stretch over which an edge of a panel lies along one of another.
func (f *flatness) edge(g *flatness) (best shared) {
	near := 1.5*math.Max(f.thick, g.thick) + 1e-6*math.Sqrt(f.area+g.area)
	for _, a := range f.edges {
		along := a[1].Sub(a[0])
		long := along.Len()
		u := along.Mul(1 / long)
		for _, b := range g.edges {
			if math.Abs(b[1].Sub(b[0]).Unit().Dot(u)) < math.Cos(flat) {
				continue
			}
			s, t := b[0].Sub(a[0]).Dot(u), b[1].Sub(a[0]).Dot(u)
			if s > t {
				s, t = t, s
			}
			s, t = math.Max(s, 0), math.Min(t, long)
			off := b[0].Sub(a[0])
			off = off.Sub(u.Mul(off.Dot(u)))
			if t-s <= 2*near || off.Len() > near || t-s < best.long*(1-1e-6) {
				continue
			}
			one := shared{long: t - s, from: a[0].Add(u.Mul(s)), to: a[0].Add(u.Mul(t))}
			// Of equally long ones the one on the side to which they open: furthest out, so that thick panels do not meet.
			if best.long == 0 || one.long > best.long*(1+1e-6) || f.out(g, one) > f.out(g, best) {
				best = one
			}
		}
	}
	return best
}

// out is how far an edge lies towards the side of panel g that f does not stand on.
func (f *flatness) out(g *flatness, e shared) float64 {
	n := g.normal
	if f.middle.Sub(g.middle).Dot(n) > 0 {
		n = n.Mul(-1)
	}
	return e.from.Sub(g.middle).Dot(n)
}

// hinge turns a panel about an edge until it lies beside the one that it hangs on.
func (f *flatness) hinge(g *flatness, e shared) Hinge {
	axis := e.to.Sub(e.from).Unit()
	at := e.from.Add(e.to).Mul(0.5)
	away := func(p *flatness) geom.Vec3 { // from the hinge, within the panel
		d := p.middle.Sub(at)
		d = d.Sub(p.normal.Mul(d.Dot(p.normal)))
		return d.Sub(axis.Mul(d.Dot(axis))).Unit()
	}
	from, to := away(f), away(g).Mul(-1)
	angle := math.Atan2(axis.Dot(from.Cross(to)), from.Dot(to))
	return Hinge{e.on, at, axis, angle}
}
