package motion

import (
	"math"
	"math/rand/v2"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Places returns where the copies of a spread stand, as matrices in the frame of the part that is
// copied at its own place: the first copy of a row or grid is the identity. A scatter gives fewer
// than it is asked for where no more fit apart. The same spread always gives the same places.
func Places(c *shot.Spread) []geom.Mat4 {
	var at []geom.Vec3
	var yaw []float64
	add := func(p geom.Vec3, angle float64) {
		at, yaw = append(at, p), append(yaw, angle)
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
	}
	out := make([]geom.Mat4, len(at))
	for i := range at {
		rng := rand.New(rand.NewPCG(c.Seed, uint64(i)))
		angle := yaw[i] + c.Turn*(2*rng.Float64()-1)
		if c.Every > 0 && (i+1)%c.Every == 0 {
			angle += c.Flip
		}
		size := 1 + c.Vary*(2*rng.Float64()-1)
		out[i] = geom.TRS(at[i], geom.AxisAngle(up, angle), geom.Vec3{size, size, size})
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
	cells := map[[2]int][]geom.Vec2{}
	made, missed := 0, 0
	for made < c.Count[0] && missed < 2000 {
		p := geom.Vec2{(rng.Float64() - 0.5) * c.Area[0], (rng.Float64() - 0.5) * c.Area[1]}
		if c.Apart > 0 {
			cell := [2]int{int(math.Floor(p[0] / c.Apart)), int(math.Floor(p[1] / c.Apart))}
			if tooNear(cells, cell, p, c.Apart) {
				missed++
				continue
			}
			cells[cell] = append(cells[cell], p)
		}
		made, missed = made+1, 0
		add(geom.Vec3{p[0], 0, p[1]}, 0)
	}
}

func tooNear(cells map[[2]int][]geom.Vec2, cell [2]int, p geom.Vec2, apart float64) bool {
	for dx := -1; dx <= 1; dx++ {
		for dy := -1; dy <= 1; dy++ {
			for _, o := range cells[[2]int{cell[0] + dx, cell[1] + dy}] {
				if o.Sub(p).Len() < apart {
					return true
				}
			}
		}
	}
	return false
}
