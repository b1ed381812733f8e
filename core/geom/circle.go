package geom

import (
	"math"
	"math/rand/v2"
)

// Circle is a circle in a plane.
type Circle struct {
	Centre Vec2
	Radius float64
}

// holds reports whether p lies in c, allowing for rounding relative to the radius.
func (c Circle) holds(p Vec2) bool {
	return p.Sub(c.Centre).Len() <= c.Radius*(1+1e-12)+1e-300
}

// EnclosingCircle returns the smallest circle that holds every point: Welzl, "Smallest enclosing
// disks (balls and ellipsoids)", 1991, in its iterative form with a fixed shuffle, so that the
// result does not depend on the run. Expected time is linear. No points give the zero Circle.
func EnclosingCircle(points []Vec2) Circle {
	if len(points) == 0 {
		return Circle{}
	}
	p := append([]Vec2(nil), points...)
	rand.New(rand.NewPCG(1991, 359)).Shuffle(len(p), func(i, j int) { p[i], p[j] = p[j], p[i] })
	c := Circle{Centre: p[0]}
	for i := 1; i < len(p); i++ {
		if c.holds(p[i]) {
			continue
		}
		c = Circle{Centre: p[i]} // p[i] is on the boundary of the circle of p[:i+1]
		for j := 0; j < i; j++ {
			if c.holds(p[j]) {
				continue
			}
			c = diameterCircle(p[i], p[j]) // and so is p[j]
			for k := 0; k < j; k++ {
				if !c.holds(p[k]) {
					c = circumcircle(p[i], p[j], p[k])
				}
			}
		}
	}
	return c
}

func diameterCircle(a, b Vec2) Circle {
	return Circle{Vec2{(a[0] + b[0]) / 2, (a[1] + b[1]) / 2}, b.Sub(a).Len() / 2}
}

// circumcircle returns the circle through three points, or the widest diameter circle of a pair
// where they lie on a line.
func circumcircle(a, b, c Vec2) Circle {
	u, v := b.Sub(a), c.Sub(a)
	d := 2 * (u[0]*v[1] - u[1]*v[0])
	uu, vv := u[0]*u[0]+u[1]*u[1], v[0]*v[0]+v[1]*v[1]
	x, y := (v[1]*uu-u[1]*vv)/d, (u[0]*vv-v[0]*uu)/d
	if d == 0 || math.IsInf(x, 0) || math.IsInf(y, 0) || math.IsNaN(x+y) {
		widest := diameterCircle(a, b)
		for _, o := range []Circle{diameterCircle(a, c), diameterCircle(b, c)} {
			if o.Radius > widest.Radius {
				widest = o
			}
		}
		return widest
	}
	return Circle{Vec2{a[0] + x, a[1] + y}, math.Hypot(x, y)}
}
