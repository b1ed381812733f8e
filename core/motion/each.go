package motion

import (
	"math"
	"math/rand/v2"
	"sort"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Child is a part of a group whose moves act on each of its parts.
type Child struct {
	Part  *shot.Part
	Depth int // 1 for a part of the group itself
	Index int // among those of its depth and parent, in the order of the list
}

// Each reports whether a move acts on the parts of its group rather than on the group.
func Each(m *shot.Move) bool { return m.Reveal != nil || m.Unfold != nil || m.Burst != nil }

// Orders returns the places in the order of arrival of n parts with these places of rest: for each part,
// how many arrive before it.
func Orders(r *shot.Reveal, at []geom.Vec3) []int {
	n := len(at)
	by := make([]float64, n)
	middle := 0.0
	for _, p := range at {
		middle += p[0] / float64(n)
	}
	rng := rand.New(rand.NewPCG(r.Seed, 0x4eea1))
	for i, p := range at {
		switch r.Order {
		case "left":
			by[i] = p[0]
		case "right":
			by[i] = -p[0]
		case "centre":
			by[i] = math.Abs(p[0] - middle)
		case "random":
			by[i] = rng.Float64()
		default:
			by[i] = float64(i)
		}
	}
	list := make([]int, n)
	for i := range list {
		list[i] = i
	}
	sort.SliceStable(list, func(a, b int) bool { return by[list[a]] < by[list[b]] })
	rank := make([]int, n)
	for k, i := range list {
		rank[i] = k
	}
	return rank
}

// ApplyEach changes the pose of a part of a group by a move of the group: rank is how many parts come
// before it, count how many there are, deep how many panels it lies on.
func ApplyEach(m *shot.Move, t Time, part *shot.Part, p *shot.Rest, rank, count, deep int) {
	if m.Muted {
		return
	}
	t = t.of(m)
	m = Pinned(m, t)
	switch {
	case m.Reveal != nil:
		reveal(m, t, p, rank)
	case m.Unfold != nil:
		u := m.Unfold
		if deep > 1 && !u.Deep {
			return
		}
		e := overlapped(m, t, rank, count, u.Order == "list")
		p.Rotation = p.Rotation.Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, u.Angle*e))
	case m.Burst != nil:
		if deep > 1 {
			return
		}
		rng := rand.New(rand.NewPCG(m.Burst.Seed, uint64(rank)+1))
		e := Progress(t, m)
		way := randomWay(rng).Mul(m.Burst.Spread * math.Cbrt(rng.Float64()))
		p.Position = p.Position.Add(way.Mul(e))
		p.Rotation = geom.AxisAngle(randomWay(rng), m.Burst.Turn*(2*rng.Float64()-1)*e).Mul(p.Rotation)
	}
}

// randomWay returns a direction, evenly over the sphere.
func randomWay(rng *rand.Rand) geom.Vec3 {
	z := 2*rng.Float64() - 1
	sin, cos := math.Sincos(2 * math.Pi * rng.Float64())
	r := math.Sqrt(1 - z*z)
	return geom.Vec3{r * cos, z, r * sin}
}

// overlapped is the progress of one of several that begin one after another, each taking the same share of
// the whole.
func overlapped(m *shot.Move, t Time, rank, count int, staggered bool) float64 {
	if !staggered || count < 2 {
		return Progress(t, m)
	}
	share := math.Max(1e-3, math.Min(1, m.Unfold.Share)) // pins may ask for more
	begin := (1 - share) * float64(rank) / float64(count-1)
	bare := *m
	bare.Pace = shot.Pace{}
	u := (Progress(t, &bare) - begin) / share
	e, _ := Pace(m.Pace, math.Max(0, math.Min(1, u)))
	return e
}

// arrival returns how far a part has come at its time, before and after the pace. The span of the move is when
// the first one starts.
func arrival(m *shot.Move, t Time, rank int) (u, e float64) {
	r := m.Reveal
	begin := 0.0
	if m.Span != nil {
		begin = m.Span.From
	}
	u = (t.T - begin - r.Delay*float64(rank)) / math.Max(1e-3, r.Takes) // pins may ask for less
	e, _ = Pace(m.Pace, math.Max(0, math.Min(1, u)))
	return u, e
}

// Faded returns how much of a part's opacity a move of its group leaves, by the place in its order.
func Faded(m *shot.Move, t Time, rank int) float64 {
	if m.Muted || m.Reveal == nil || m.Reveal.From != "fade" {
		return 1
	}
	t = t.of(m)
	_, e := arrival(Pinned(m, t), t, rank)
	return math.Max(0, math.Min(1, e))
}

// reveal lets a part arrive: at its time it comes from where it is told to, and then it is at rest. Before
// its time it is not there.
func reveal(m *shot.Move, t Time, p *shot.Rest, rank int) {
	r := m.Reveal
	u, e := arrival(m, t, rank)
	switch r.From {
	case "slide":
		p.Position = p.Position.Add(r.By.Mul(1 - e))
	case "turn":
		p.Rotation = geom.AxisAngle(up, r.Turn*(1-e)).Mul(p.Rotation)
	}
	if k := e; r.From == "scale" || u <= 0 {
		if u <= 0 {
			k = 0
		}
		const least = 1e-6 // nothing is seen, and the matrix can be inverted
		for i := range p.Size {
			p.Size[i] *= math.Copysign(math.Max(least, math.Abs(k)), k)
		}
	}
}
