package mesh

import (
	"math"
	"slices"

	"perigyre/core/geom"
)

// maxTurned triangles are looked at for symmetry: beyond it looking takes longer than it spares.
const maxTurned = 300_000

// Turns returns the largest number of equal turns about an axis of the meshes' frame (0 for x, 1 for y, 2 for z)
// after each of which they lie on themselves, face on face and normal on normal, and a point of that axis.
// It is 1 for what has no such symmetry. Pictures and colours of vertices are not looked at.
func Turns(list []*Mesh, axis int) (k int, through geom.Vec3) {
	t := newTurned(list)
	if t == nil {
		return 1, geom.Vec3{}
	}
	side, up := (axis+1)%3, (axis+2)%3
	off := func(p geom.Vec3) float64 { return math.Hypot(p[side]-t.centre[side], p[up]-t.centre[up]) }
	far := slices.MaxFunc(t.points, func(a, b geom.Vec3) int { return int(math.Copysign(1, off(a)-off(b))) })
	like := 0 // points that it may be turned to
	for _, p := range t.points {
		if math.Abs(off(p)-off(far)) < t.near && math.Abs(p[axis]-far[axis]) < t.near {
			like++
		}
	}
	about := geom.Vec3{}
	about[axis] = 1
	for k := min(like, 3600); k > 1; k-- {
		if like%k == 0 && t.fits(about, k) {
			return k, t.centre
		}
	}
	return 1, t.centre
}

// turned is what the shape of meshes is told by: its points, and the edges at which faces meet at an angle or end.
// How a flat face is cut into triangles does not matter.
type turned struct {
	near   float64 // distance within which places are one
	centre geom.Vec3
	points []geom.Vec3
	cells  map[[3]int32][]uint32
	edges  map[[3]uint32][]side // by mesh and points, the lower first
}

// side is a face at an edge.
type side struct {
	face geom.Vec3    // its normal
	ends [2]geom.Vec3 // the normals it is shaded with at the edge's ends
}

func newTurned(list []*Mesh) *turned {
	box, n := geom.EmptyBox(), 0
	for _, m := range list {
		box, n = box.Union(m.Bounds()), n+m.Triangles()
	}
	if n == 0 || n > maxTurned {
		return nil
	}
	t := &turned{near: 1e-5 * box.Size().Len(), cells: map[[3]int32][]uint32{}, edges: map[[3]uint32][]side{}}
	area := 0.0
	for number, m := range list {
		id := make([]uint32, len(m.Positions))
		for i, p := range m.Positions {
			at := geom.V3(p)
			k, ok := t.at(at)
			if !ok {
				k = uint32(len(t.points))
				t.points = append(t.points, at)
				t.cells[t.cell(at)] = append(t.cells[t.cell(at)], k)
			}
			id[i] = k
		}
		for i := range m.Triangles() {
			var c [3]uint32
			var normals [3]geom.Vec3
			for k, v := range m.Indices[3*i : 3*i+3] {
				if c[k] = id[v]; m.Normals != nil {
					normals[k] = geom.V3(m.Normals[v])
				}
			}
			if c[0] == c[1] || c[1] == c[2] || c[2] == c[0] {
				continue
			}
			face := m.areaVector(i)
			a := face.Len()
			if a == 0 {
				continue
			}
			face = face.Mul(1 / a)
			area += a
			for k := range 3 {
				t.centre = t.centre.Add(t.points[c[k]].Mul(a / 3)) // the middle of the surface stays where it is
				next := (k + 1) % 3
				one := side{face, [2]geom.Vec3{normals[k], normals[next]}}
				if c[k] > c[next] {
					one.ends[0], one.ends[1] = one.ends[1], one.ends[0]
				}
				key := [3]uint32{uint32(number), min(c[k], c[next]), max(c[k], c[next])}
				t.edges[key] = append(t.edges[key], one)
			}
		}
	}
	if area == 0 {
		return nil
	}
	t.centre = t.centre.Mul(1 / area)
	for key, list := range t.edges { // within a flat face
		if flatly(list, 0.002) {
			delete(t.edges, key)
		}
	}
	return t
}

// flatly reports whether two faces meet at an edge without an angle.
func flatly(list []side, most float64) bool {
	return len(list) == 2 && list[0].face.Sub(list[1].face).Len() < most
}

// alike reports whether two sides have the same normals, to about half a degree: small faces are not known better.
func (s side) alike(o side) bool {
	const most = 0.01
	return s.face.Sub(o.face).Len() < most && s.ends[0].Sub(o.ends[0]).Len() < most && s.ends[1].Sub(o.ends[1]).Len() < most
}

func (t *turned) cell(p geom.Vec3) (c [3]int32) {
	for k := range c {
		c[k] = int32(math.Floor(p[k] / (4 * t.near)))
	}
	return c
}

// at returns the point at a place.
func (t *turned) at(p geom.Vec3) (uint32, bool) {
	low, high := t.cell(p.Sub(geom.Vec3{t.near, t.near, t.near})), t.cell(p.Add(geom.Vec3{t.near, t.near, t.near}))
	for x := low[0]; x <= high[0]; x++ {
		for y := low[1]; y <= high[1]; y++ {
			for z := low[2]; z <= high[2]; z++ {
				for _, k := range t.cells[[3]int32{x, y, z}] {
					if t.points[k].Sub(p).Len() <= t.near {
						return k, true
					}
				}
			}
		}
	}
	return 0, false
}

// fits reports whether a kth of a turn brings all onto itself.
func (t *turned) fits(axis geom.Vec3, k int) bool {
	turn := geom.AxisAngle(axis, 2*math.Pi/float64(k))
	to := make([]uint32, len(t.points))
	for i, p := range t.points {
		var ok bool
		if to[i], ok = t.at(turn.Rotate(p.Sub(t.centre)).Add(t.centre)); !ok {
			return false
		}
	}
	for key, list := range t.edges {
		a, b := to[key[1]], to[key[2]]
		other := t.edges[[3]uint32{key[0], min(a, b), max(a, b)}]
		if len(other) != len(list) {
			if flatly(list, 0.02) { // one of the two was taken for flat
				continue
			}
			return false
		}
		for _, one := range list {
			moved := side{turn.Rotate(one.face), [2]geom.Vec3{turn.Rotate(one.ends[0]), turn.Rotate(one.ends[1])}}
			if a > b {
				moved.ends[0], moved.ends[1] = moved.ends[1], moved.ends[0]
			}
			if !slices.ContainsFunc(other, moved.alike) {
				return false
			}
		}
	}
	return true
}
