package mesh

import "perigyre/core/geom"

// MaxCage is how many points a cage has at most each way; the least is two.
const MaxCage = 8

// Cage deforms space by points on a lattice in a box: where a point goes is the sum of how far each lattice point has been moved,
// weighted by the Bernstein polynomials of where it is in the box (Sederberg and Parry, "Free-Form Deformation of Solid Geometric
// Models", 1986). What lies outside goes along with the nearest place of the box.
type Cage struct {
	Low, Size geom.Vec3
	N         [3]int      // points along x, y and z, 2 to MaxCage
	Offsets   []geom.Vec3 // x runs fastest, then y
}

// Point returns where a point goes.
func (c *Cage) Point(p geom.Vec3) geom.Vec3 {
	var b [3][MaxCage]float64
	for a := range b {
		u := 0.5
		if c.Size[a] > 0 {
			u = min(max((p[a]-c.Low[a])/c.Size[a], 0), 1)
		}
		bernstein(b[a][:c.N[a]], u)
	}
	across, left := b[0][:c.N[0]], c.Offsets
	px, py, pz := p[0], p[1], p[2]
	for _, wz := range b[2][:c.N[2]] {
		for _, wy := range b[1][:c.N[1]] {
			row := left[:len(across)]
			left = left[len(across):]
			var x, y, z float64
			for k, w := range across {
				o := &row[k]
				x += w * o[0]
				y += w * o[1]
				z += w * o[2]
			}
			w := wy * wz
			px += w * x
			py += w * y
			pz += w * z
		}
	}
	return geom.Vec3{px, py, pz}
}

// bernstein writes the Bernstein polynomials of a degree of one less than there is room for: C(n, i) u^i (1-u)^(n-i).
func bernstein(out []float64, u float64) {
	out[0] = 1
	for n := 1; n < len(out); n++ { // those of a degree from those of the one below
		out[n] = u * out[n-1]
		for i := n - 1; i > 0; i-- {
			out[i] = u*out[i-1] + (1-u)*out[i]
		}
		out[0] *= 1 - u
	}
}
