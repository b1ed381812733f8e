package assembly

import (
	"context"
	"math"
	"slices"

	"perigyre/core/geom"
)

// Leaving is a piece and the way that it goes.
type Leaving struct {
	Piece int
	Way   geom.Vec3 // a unit vector in the room
}

// Step is what leaves at one time: one piece, equal ones alike, or some that only leave as one.
type Step struct {
	Pieces []Leaving
	By     float64 // metres
}

// Stuck is a piece that cannot leave along a straight line, and what is in its way where least is.
type Stuck struct {
	Piece int
	Way   geom.Vec3
	By    []int
}

// Plan is how an assembly comes apart: in this order, and together again in the other.
type Plan struct {
	Steps []Step
	Stays int // the piece that the others leave
	Stuck []Stuck
}

// Want is how an assembly is to come apart.
type Want struct {
	Gap   func(way geom.Vec3) float64 // metres that are left between pieces where one leaves along a unit vector
	Stays int                         // the piece that the others leave; -1 for the lowest large one
	Hides func(way geom.Vec3) float64 // how far a way goes towards what looks at it or away, 0 to 1; nil where nothing does
}

// Even is the same gap along every way.
func Even(gap float64) func(geom.Vec3) float64 { return func(geom.Vec3) float64 { return gap } }

// TakeApart finds an order in which pieces leave without passing through what is still there, in as few directions as may be, and for
// each the shortest distance that leaves a gap between it and its neighbours, where they will be. Pieces that share a direction stay on
// it in their order; equal pieces leave alike and at the same time; what only leaves together does so, and is opened later. Fasteners go
// along with what they hold. The order is that of Agrawala et al., Designing Effective Step-By-Step Assembly
// Instructions (2003), and the distances are those of Li et al., Automated Generation of Interactive 3D Exploded View Diagrams
// (2008), both from memory; the arithmetic is ours.
func TakeApart(ctx context.Context, list []Piece, want Want, share func(float64)) (Plan, error) {
	if len(list) == 0 {
		return Plan{Stays: -1}, nil
	}
	b := newBlocking(ctx, list)
	all := make([]int, len(list))
	for i := range all {
		all[i] = i
	}
	stays := want.Stays
	if stays < 0 {
		stays = b.base(all)
	}
	p := planner{blocking: b, ctx: ctx, said: share, whole: len(list), hides: want.Hides}
	out := Plan{Stays: stays}
	for open := []opening{{all, stays}}; len(open) > 0; open = open[1:] {
		steps, inner, stuck := p.order(open[0].list, open[0].stays)
		out.Steps, out.Stuck = append(out.Steps, steps...), append(out.Stuck, stuck...)
		open = append(open, inner...)
	}
	if err := ctx.Err(); err != nil {
		return Plan{}, err
	}
	b.carry(out.Steps)
	Arrange(list, out.Steps, want.Gap)
	share(1)
	return out, nil
}

// opening is a number of pieces that are together and are to be taken apart.
type opening struct {
	list  []int
	stays int
}

type planner struct {
	*blocking
	ctx   context.Context
	said  func(float64)
	gone  int
	whole int
	used  ways
	hides func(geom.Vec3) float64
}

// base is the piece that the others leave: low, and large.
func (b *blocking) base(list []int) int {
	best, least := list[0], math.Inf(1)
	box := geom.EmptyBox()
	for _, i := range list {
		box = box.Union(b.pieces[i].Bounds())
	}
	size := box.Size()
	for _, i := range list {
		x := b.pieces[i].Bounds()
		cost := (x.Min[1]-box.Min[1])/max(size[1], 1e-9) - b.pieces[i].Size()/max(size.Len(), 1e-9)
		if cost < least-1e-9 {
			best, least = i, cost
		}
	}
	return best
}

// order takes some pieces apart: the steps, what of them leaves as one and is to be opened, and what is left and cannot leave.
func (p *planner) order(list []int, stays int) (steps []Step, inner []opening, stuck []Stuck) {
	left := map[int]bool{}
	for _, i := range list {
		left[i] = true
	}
	there := func(k int) bool { return left[k] }
	for len(left) > 1 && p.ctx.Err() == nil {
		var tries []exit
		for _, i := range list {
			if left[i] && i != stays {
				for w := range p.ways[i] {
					tries = append(tries, exit{i, w})
				}
			}
		}
		free := make([]bool, len(tries))
		each(p.ctx, len(tries), func(k int) { free[k] = p.free(tries[k], there) })
		tries = slices.DeleteFunc(tries, func(e exit) bool { // in the same order
			ok := free[0]
			free = free[1:]
			return !ok
		})
		if len(tries) == 0 {
			set, way := p.together(p.ctx, p.those(list, left), stays)
			if set == nil {
				for _, i := range p.those(list, left) {
					if i != stays && p.ctx.Err() == nil {
						stuck = append(stuck, p.stuck(i, there))
					}
				}
				return steps, inner, stuck
			}
			one := Step{}
			for _, i := range set {
				one.Pieces = append(one.Pieces, Leaving{i, way})
				delete(left, i)
			}
			p.used.add(way)
			steps = append(steps, one)
			if len(set) > 1 {
				inner = append(inner, opening{set, p.base(set)})
			}
			continue
		}
		one := Step{Pieces: p.alike(p.next(tries, left), tries)}
		for _, l := range one.Pieces {
			delete(left, l.Piece)
			p.used.add(l.Way)
		}
		p.gone += len(one.Pieces)
		p.said(min(0.99, float64(p.gone)/float64(p.whole)))
		steps = append(steps, one)
	}
	return steps, inner, stuck
}

func (p *planner) those(list []int, left map[int]bool) (out []int) {
	for _, i := range list {
		if left[i] {
			out = append(out, i)
		}
	}
	return out
}

// next is which of the pieces that can leave does so: the one that costs the least.
func (p *planner) next(tries []exit, left map[int]bool) exit {
	best, least := tries[0], math.Inf(1)
	ends := map[geom.Vec3][2]float64{} // from where to where all that is left reaches along a way
	for _, e := range tries {
		way := p.ways[e.piece][e.way]
		end, ok := ends[way]
		if !ok {
			end = [2]float64{math.Inf(1), math.Inf(-1)}
			for k := range left {
				from, to := extent(p.pieces[k].Bounds(), way)
				end[0], end[1] = min(end[0], from), max(end[1], to)
			}
			ends[way] = end
		}
		if cost := p.cost(e, end[0], end[1]); cost < least-1e-9 {
			best, least = e, cost
		}
	}
	return best
}

// cost is how little a piece is the next to leave: along its hole or off what it lies on, upwards rather than aside and down, along a
// direction that is used, across what looks at it, so that nothing hides another, from the outside in, and small ones, which hold others,
// first. What is left reaches from low to high along
// the way.
func (p *planner) cost(e exit, low, high float64) float64 {
	way := p.ways[e.piece][e.way]
	out := 1.2 * (1 - way[1])
	if p.given[e.piece].find(way) >= 0 {
		out -= 2
	}
	if p.used.find(way) < 0 {
		out += 0.5
	}
	if math.Max(math.Abs(way[0]), math.Max(math.Abs(way[1]), math.Abs(way[2]))) < 1-1e-9 {
		out += 0.3
	}
	if p.hides != nil {
		out += 0.8 * p.hides(way)
	}
	_, far := extent(p.pieces[e.piece].Bounds(), way)
	out += 0.8 * (high - far) / max(high-low, 1e-9)
	return out + 0.3*p.pieces[e.piece].Size()/max(p.box.Size().Len(), 1e-9)
}

// extent is from where to where a box reaches along a direction.
func extent(b geom.Box, way geom.Vec3) (from, to float64) {
	middle, half := b.Centre().Dot(way), 0.0
	size := b.Size()
	for k := range way {
		half += math.Abs(way[k]) * size[k] / 2
	}
	return middle - half, middle + half
}

// alike is a piece that leaves, with the equal ones that can leave at the same time: the same way, or as each of them is turned. Those
// that go different ways at one speed go along straight lines against each other, on which neither may stand in the other's way.
func (p *planner) alike(e exit, tries []exit) []Leaving {
	way := p.ways[e.piece][e.way]
	out := []Leaving{{e.piece, way}}
	one := &p.pieces[e.piece]
	if one.Alike == "" {
		return out
	}
	can := map[int]ways{} // the ways on which equal ones can leave
	for _, t := range tries {
		if t.piece != e.piece && p.pieces[t.piece].Alike == one.Alike {
			can[t.piece] = append(can[t.piece], p.ways[t.piece][t.way])
		}
	}
	for i := range p.pieces {
		same, turned := can[i].find(way), can[i].find(p.pieces[i].Turn.Mul(one.Turn.Inverse()).Rotate(way))
		if same >= 0 && (math.Abs(way[1]) > 0.9 || turned < 0) {
			turned = same
		}
		if turned < 0 {
			continue
		}
		next := Leaving{i, can[i][turned]}
		if turned == same {
			next.Way = way
		}
		if !slices.ContainsFunc(out, func(l Leaving) bool {
			against := next.Way.Sub(l.Way)
			return against.Len() > alongside && p.stands(i, l.Piece, against.Unit())
		}) {
			out = append(out, next)
		}
	}
	return out
}

// stuck is what is in the way of a piece where that is least.
func (p *planner) stuck(i int, there func(k int) bool) Stuck {
	out := Stuck{Piece: i}
	for w, way := range p.ways[i] {
		if got := p.blockers(exit{i, w}, there); out.By == nil || len(got) < len(out.By) {
			out.Way, out.By = way, got
		}
	}
	return out
}

// held is how large, as a share of a piece, another one is at most that holds it and goes along with it.
const held = 0.7

// carry lets fasteners go along with what they hold: a small piece that has left, and that kept another one which it touched from going
// its later way forth and back, as what goes through it does, takes each later way of that piece too, so that it stays over its hole. One that leaves along the same line as what it
// holds is on its axis as it is.
func (b *blocking) carry(steps []Step) {
	for k := len(steps) - 1; k >= 0; k-- { // so that what is held itself is carried already
		for _, l := range steps[k].Pieces {
			holds := b.holds(l, steps[k+1:])
			if holds < 0 {
				continue
			}
			for n := k + 1; n < len(steps); n++ {
				s := &steps[n]
				in := func(piece int) int {
					return slices.IndexFunc(s.Pieces, func(o Leaving) bool { return o.Piece == piece })
				}
				if at := in(holds); at >= 0 && in(l.Piece) < 0 {
					s.Pieces = append(s.Pieces, Leaving{l.Piece, s.Pieces[at].Way})
				}
			}
		}
	}
}

// holds is the next piece to leave that one which leaves now has held, -1 for none.
func (b *blocking) holds(l Leaving, later []Step) int {
	x := &b.pieces[l.Piece]
	for _, s := range later {
		for _, o := range s.Pieces {
			y := &b.pieces[o.Piece]
			touch := tolerance * x.Size()
			if o.Piece == l.Piece || x.Size() > held*y.Size() || math.Abs(o.Way.Dot(l.Way)) > 0.9 || Apart(x.Bounds(), y.Bounds()) > touch {
				continue
			}
			if b.stands(o.Piece, l.Piece, o.Way) && b.stands(o.Piece, l.Piece, o.Way.Mul(-1)) {
				return o.Piece
			}
		}
	}
	return -1
}

// Arrange gives each step the shortest distance that leaves a gap to what is near its way, where that will be: from the last step to the
// first, since what leaves first goes furthest. Boxes that hold all of a piece's later way stand for it.
func Arrange(list []Piece, steps []Step, gaps func(way geom.Vec3) float64) {
	hull := make([]geom.Box, len(list)) // over all that is later
	for i := range hull {
		hull[i] = list[i].Bounds()
		if l := list[i].Later; l != (geom.Box{}) {
			hull[i] = hull[i].Union(l)
		}
	}
	gone := make([][]int, len(list))    // the steps by which each has left
	left := make([][][]int, len(steps)) // the same before each step
	for k := range steps {
		left[k] = slices.Clone(gone)
		for _, l := range steps[k].Pieces {
			gone[l.Piece] = append(slices.Clone(gone[l.Piece]), k)
		}
	}
	for k := len(steps) - 1; k >= 0; k-- {
		s := &steps[k]
		s.By = 0
		mine := func(i int) bool {
			return slices.ContainsFunc(s.Pieces, func(l Leaving) bool { return l.Piece == i })
		}
		for _, l := range s.Pieces {
			side, gap := across(l.Way), gaps(l.Way)
			up := l.Way.Cross(side)
			from, _ := extent(hull[l.Piece], l.Way)
			by := gap
			for i := range list {
				with := slices.Equal(left[k][i], left[k][l.Piece]) // else the step that parted them has cleared its whole way
				if mine(i) || !with || !overlaps(hull[i], hull[l.Piece], side, gap/2) || !overlaps(hull[i], hull[l.Piece], up, gap/2) {
					continue
				}
				if _, to := extent(hull[i], l.Way); to > from-gap {
					by = max(by, to-from+gap)
				}
			}
			s.By = max(s.By, by)
		}
		for _, l := range s.Pieces {
			h := hull[l.Piece]
			move := l.Way.Mul(s.By)
			hull[l.Piece] = h.Union(geom.Box{Min: h.Min.Add(move), Max: h.Max.Add(move)})
		}
	}
}

// overlaps reports whether two boxes are nearer than a distance along a direction.
func overlaps(a, b geom.Box, way geom.Vec3, near float64) bool {
	x0, x1 := extent(a, way)
	y0, y1 := extent(b, way)
	return x0 < y1+near && y0 < x1+near
}
