package mesh

import (
	"fmt"
	"math"

	"perigyre/core/geom"
)

// Cylinder is the axis and radius of a round hole, pin or rim.
type Cylinder struct {
	Centre geom.Vec3 `json:"centre"` // on the axis, in the middle of the faces
	Axis   geom.Vec3 `json:"axis"`   // unit length
	Radius float64   `json:"radius"`
	Off    float64   `json:"off"` // most that a corner is off the radius
}

// smoothly is the angle between faces up to which they count as one round surface: a 12-sided hole.
const smoothly = 31 * math.Pi / 180

// FitCylinder returns the cylinder of the round surface that a triangle is part of: the faces reached
// over edges that bend by little. The axis is the direction that their normals have least of (the
// eigenvector of the smallest eigenvalue of the sum of n n^T over area), and the radius that of the
// circle fitted to their corners in the plane across it by least squares (Kasa 1976).
func (m *Mesh) FitCylinder(triangle int) (Cylinder, error) {
	if triangle < 0 || triangle >= m.Triangles() {
		return Cylinder{}, fmt.Errorf("there is no triangle %d", triangle)
	}
	faces := m.smoothRegion(triangle)
	var sum [3][3]float64
	for _, t := range faces {
		n := m.areaVector(t)
		if l := n.Len(); l > 0 {
			for r := range 3 {
				for c := range 3 {
					sum[r][c] += n[r] * n[c] / l
				}
			}
		}
	}
	values, vectors := geom.Eigen(sum)
	if !(values[1] > 1e-3*values[2]) {
		return Cylinder{}, fmt.Errorf("the face that was picked is flat; pick the inside of a hole or the side of a pin")
	}
	axis := vectors[0]
	side := axis.Cross(geom.Vec3{1, 0, 0})
	if math.Abs(axis[0]) > 0.9 {
		side = axis.Cross(geom.Vec3{0, 1, 0})
	}
	side = side.Unit()
	up := axis.Cross(side)
	var points []geom.Vec3
	var mean geom.Vec3
	low, high := math.Inf(1), math.Inf(-1)
	for _, t := range faces {
		for k := range 3 {
			p := m.corner(t, k)
			points = append(points, p)
			mean = mean.Add(p)
			low, high = math.Min(low, p.Dot(axis)), math.Max(high, p.Dot(axis))
		}
	}
	mean = mean.Mul(1 / float64(len(points)))
	// x^2 + y^2 = 2 a x + 2 b y + c about the mean, solved for a, b and c.
	var uu, vv, uv, u3, v3 float64
	var su, sv, sq float64
	for _, p := range points {
		d := p.Sub(mean)
		u, v := d.Dot(side), d.Dot(up)
		q := u*u + v*v
		uu, vv, uv, u3, v3 = uu+u*u, vv+v*v, uv+u*v, u3+u*q, v3+v*q
		su, sv, sq = su+u, sv+v, sq+q
	}
	n := float64(len(points))
	// The sums of u and v vanish about the mean, but for rounding.
	det := uu*vv - uv*uv
	if !(math.Abs(det) > 1e-12*uu*vv) {
		return Cylinder{}, fmt.Errorf("the face that was picked is flat; pick the inside of a hole or the side of a pin")
	}
	a, b := (u3*vv-v3*uv)/(2*det), (v3*uu-u3*uv)/(2*det)
	out := Cylinder{Axis: axis, Radius: math.Sqrt(math.Max(0, sq/n+a*a+b*b))}
	out.Centre = mean.Add(side.Mul(a)).Add(up.Mul(b))
	out.Centre = out.Centre.Add(axis.Mul((low+high)/2 - out.Centre.Dot(axis)))
	for _, p := range points {
		d := p.Sub(out.Centre)
		r := math.Hypot(d.Dot(side), d.Dot(up))
		out.Off = math.Max(out.Off, math.Abs(r-out.Radius))
	}
	if out.Off > 0.1*out.Radius {
		return out, fmt.Errorf("the face that was picked is not part of a round hole or pin: it is off a circle by %.0f %% of its radius", 100*out.Off/out.Radius)
	}
	return out, nil
}

// smoothRegion returns the triangles that are reached from one over edges between faces that bend by
// little, and across which the bend stays about the same kind: flat neighbours are taken only beside
// flat ones of the same side.
func (m *Mesh) smoothRegion(start int) []int {
	id, _ := m.weld()
	sides := map[[2]uint32][]int{}
	for t := range m.Triangles() {
		for k := range 3 {
			a, b := id[m.Indices[3*t+k]], id[m.Indices[3*t+(k+1)%3]]
			key := [2]uint32{min(a, b), max(a, b)}
			sides[key] = append(sides[key], t)
		}
	}
	seen := map[int]bool{start: true}
	queue := []int{start}
	for at := 0; at < len(queue); at++ {
		t := queue[at]
		n := m.areaVector(t).Unit()
		for k := range 3 {
			a, b := id[m.Indices[3*t+k]], id[m.Indices[3*t+(k+1)%3]]
			for _, o := range sides[[2]uint32{min(a, b), max(a, b)}] {
				if !seen[o] && angle(n, m.areaVector(o)) < smoothly {
					seen[o] = true
					queue = append(queue, o)
				}
			}
		}
	}
	return queue
}
