package motion

import (
	"math"
	"math/rand/v2"
	"sort"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

var up = geom.Vec3{0, 1, 0}

// Ground is the surface that copies are scattered on, in the frame of the copies.
type Ground struct {
	Points  []geom.Vec3
	Indices []uint32
}

// Places returns where the copies of a spread stand, as matrices in the frame of the part that is
// copied at its own place, of whose unit a metre has so many: the first copy of a row or grid is the identity, unless it lies about its middle. A scatter gives fewer
// than it is asked for where no more fit apart; on a surface copies stand upright on it. The same spread
// always gives the same places. The ground may be nil but for a spread on a surface.
func Places(c *shot.Spread, metre float64, on *Ground) []geom.Mat4 {
	var at, normal []geom.Vec3
	var yaw []float64
	add := func(p geom.Vec3, angle float64) {
		at, yaw = append(at, p.Mul(metre)), append(yaw, angle)
	}
	switch c.Kind {
	case shot.Row:
		for i := range c.Count[0] {
			add(c.Step.Mul(float64(i)), 0)
		}
	case shot.Grid:
		for k := range c.Count[2] {
			for j := range c.Count[1] {
				for i := range c.Count[0] {
					add(geom.Vec3{float64(i) * c.Step[0], float64(j) * c.Step[1], float64(k) * c.Step[2]}, 0)
				}
			}
		}
	case shot.Ring:
		n := float64(c.Count[0])
		whole := c.Sweep == 0 || math.Abs(c.Sweep) >= 2*math.Pi-1e-9
		for i := range c.Count[0] {
			angle := 2 * math.Pi * float64(i) / n
			if !whole {
				angle = c.Sweep * float64(i) / math.Max(1, n-1)
			}
			sin, cos := math.Sincos(angle)
			if !c.Face {
				add(geom.Vec3{c.Radius * sin, 0, c.Radius * cos}, 0)
			} else {
				add(geom.Vec3{c.Radius * sin, 0, c.Radius * cos}, angle)
			}
		}
	case shot.Along:
		along(c, add)
	case shot.Scatter:
		scatter(c, add)
	case shot.Surface:
		if on != nil {
			at, normal = on.scatter(c, metre)
			yaw = make([]float64, len(at))
		}
	}
	if c.Middle && (c.Kind == shot.Row || c.Kind == shot.Grid) {
		box := geom.EmptyBox()
		for _, p := range at {
			box = box.With(p)
		}
		for i := range at {
			at[i] = at[i].Sub(box.Centre())
		}
	}
	out := make([]geom.Mat4, len(at))
	for i := range at {
		rng := rand.New(rand.NewPCG(c.Seed, uint64(i)))
		angle := yaw[i] + c.Turn*(2*rng.Float64()-1)
		if c.Every > 0 && (i+1)%c.Every == 0 {
			angle += c.Flip
		}
		size := 1 + c.Vary*(2*rng.Float64()-1)
		turn, over := geom.AxisAngle(up, angle), up
		if normal != nil {
			over = normal[i]
			turn = geom.Between(up, over).Mul(turn)
		}
		out[i] = geom.TRS(at[i].Add(over.Mul(c.Rise*metre*rng.Float64())), turn, geom.Vec3{size, size, size})
	}
	return out
}

// along spaces copies evenly by arc length over the corners of a path.
func along(c *shot.Spread, add func(geom.Vec3, float64)) {
	length := make([]float64, len(c.Path))
	for i := 1; i < len(c.Path); i++ {
		length[i] = length[i-1] + c.Path[i].Sub(c.Path[i-1]).Len()
	}
	total := length[len(length)-1]
	k := 1
	for i := range c.Count[0] {
		s := total * float64(i) / math.Max(1, float64(c.Count[0]-1))
		for k+1 < len(c.Path) && length[k] < s {
			k++
		}
		d := c.Path[k].Sub(c.Path[k-1])
		share := 0.0
		if l := length[k] - length[k-1]; l > 0 {
			share = math.Min(1, (s-length[k-1])/l)
		}
		angle := 0.0
		if c.Face {
			angle = math.Atan2(d[0], d[2])
		}
		add(c.Path[k-1].Add(d.Mul(share)), angle)
	}
}

// scatter throws copies on the area until they are as many as asked for or none has fitted for long,
// each at least so far apart from every other; a grid of cells keeps the search short.
func scatter(c *shot.Spread, add func(geom.Vec3, float64)) {
	rng := rand.New(rand.NewPCG(c.Seed, 0x5ca77e))
	room := crowd{apart: c.Apart}
	for made, missed := 0, 0; made < c.Count[0] && missed < maxMissed; {
		p := geom.Vec3{(rng.Float64() - 0.5) * c.Area[0], 0, (rng.Float64() - 0.5) * c.Area[1]}
		if !room.take(p) {
			missed++
			continue
		}
		made, missed = made+1, 0
		add(p, 0)
	}
}

// maxMissed throws in a row are taken to mean that nothing fits any more.
const maxMissed = 2000

// crowd keeps points apart, by a grid of cells.
type crowd struct {
	apart float64
	cells map[[3]int][]geom.Vec3
}

// take keeps a point if it is far enough from all others.
func (c *crowd) take(p geom.Vec3) bool {
	if c.apart <= 0 {
		return true
	}
	cell := [3]int{int(math.Floor(p[0] / c.apart)), int(math.Floor(p[1] / c.apart)), int(math.Floor(p[2] / c.apart))}
	for k := range 27 {
		for _, o := range c.cells[[3]int{cell[0] + k%3 - 1, cell[1] + k/3%3 - 1, cell[2] + k/9 - 1}] {
			if o.Sub(p).Len() < c.apart {
				return false
			}
		}
	}
	if c.cells == nil {
		c.cells = map[[3]int][]geom.Vec3{}
	}
	c.cells[cell] = append(c.cells[cell], p)
	return true
}

// scatter throws copies on the ground, evenly by area, as scatter does on a plane.
func (g *Ground) scatter(c *shot.Spread, metre float64) (at, normal []geom.Vec3) {
	sums := make([]float64, len(g.Indices)/3)
	total := 0.0
	corner := func(t, k int) geom.Vec3 { return g.Points[g.Indices[3*t+k]] }
	for t := range sums {
		total += corner(t, 1).Sub(corner(t, 0)).Cross(corner(t, 2).Sub(corner(t, 0))).Len()
		sums[t] = total
	}
	if !(total > 0) {
		return nil, nil
	}
	rng := rand.New(rand.NewPCG(c.Seed, 0x5ca77e))
	room := crowd{apart: c.Apart * metre}
	for missed := 0; len(at) < c.Count[0] && missed < maxMissed; {
		t := min(sort.SearchFloat64s(sums, rng.Float64()*total), len(sums)-1)
		u, v := rng.Float64(), rng.Float64()
		if u+v > 1 {
			u, v = 1-u, 1-v
		}
		a, b, d := corner(t, 0), corner(t, 1).Sub(corner(t, 0)), corner(t, 2).Sub(corner(t, 0))
		p := a.Add(b.Mul(u)).Add(d.Mul(v))
		if !room.take(p) {
			missed++
			continue
		}
		missed = 0
		at, normal = append(at, p), append(normal, b.Cross(d).Unit())
	}
	return at, normal
}
