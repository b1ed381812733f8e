// Package mesh holds indexed triangle meshes: normals, clean-up, measures and the primitives that
// sets and demonstration products are made of.
package mesh

import (
	"fmt"
	"math"
	"math/bits"

	"perigyre/core/geom"
)

// Mesh is one indexed triangle mesh with one material: a glTF mesh primitive. Every attribute is
// nil or has one entry for each position. Indices has three entries for each triangle, wound
// counter-clockwise seen from outside.
type Mesh struct {
	Positions [][3]float32 // in the mesh's own frame, metres
	Normals   [][3]float32 // unit length
	Tangents  [][4]float32 // unit length, w is the sign of the bitangent (glTF 2.0, 3.7.2.1)
	UV        [][2]float32 // v = 0 at the top of the picture, as in glTF
	Colors    [][4]float32 // linear
	Indices   []uint32

	Bones   []Bones  // how each position hangs on bones; nil for what has none
	Targets []Target // shapes that it can be mixed with
}

// Triangles returns the number of triangles.
func (m *Mesh) Triangles() int { return len(m.Indices) / 3 }

// Bounds returns the box round all positions.
func (m *Mesh) Bounds() geom.Box {
	if len(m.Positions) == 0 {
		return geom.EmptyBox()
	}
	lo, hi := m.Positions[0], m.Positions[0]
	for _, p := range m.Positions {
		for a := range p {
			lo[a], hi[a] = min(lo[a], p[a]), max(hi[a], p[a])
		}
	}
	return geom.Box{Min: geom.V3(lo), Max: geom.V3(hi)}
}

// Check returns an error that says what is wrong where attributes do not match the positions, an
// index is out of range or a position is not a finite number.
func (m *Mesh) Check() error {
	n := len(m.Positions)
	for _, a := range []struct {
		name string
		n    int
	}{{"normals", len(m.Normals)}, {"tangents", len(m.Tangents)}, {"texture coordinates", len(m.UV)}, {"colours", len(m.Colors)}, {"bones", len(m.Bones)}} {
		if a.n != 0 && a.n != n {
			return fmt.Errorf("%d %s for %d positions", a.n, a.name, n)
		}
	}
	if err := m.checkFlesh(); err != nil {
		return err
	}
	if len(m.Indices)%3 != 0 {
		return fmt.Errorf("%d indices are not a whole number of triangles", len(m.Indices))
	}
	for i, v := range m.Indices {
		if int(v) >= n {
			return fmt.Errorf("triangle %d refers to vertex %d, but there are only %d", i/3, v, n)
		}
	}
	for i, p := range m.Positions {
		if !geom.V3(p).Finite() {
			return fmt.Errorf("vertex %d has a position that is not a number", i)
		}
	}
	return nil
}

// corner returns the position of corner k of triangle t.
func (m *Mesh) corner(t, k int) geom.Vec3 { return geom.V3(m.Positions[m.Indices[3*t+k]]) }

// areaVector returns the triangle's normal at the length of twice its area.
func (m *Mesh) areaVector(t int) geom.Vec3 {
	a := m.corner(t, 0)
	return m.corner(t, 1).Sub(a).Cross(m.corner(t, 2).Sub(a))
}

// RemoveDegenerate drops the triangles that have no area and returns how many there were.
func (m *Mesh) RemoveDegenerate() int {
	kept := m.Indices[:0]
	for t := 0; t < m.Triangles(); t++ {
		if m.areaVector(t).Len() > 0 {
			kept = append(kept, m.Indices[3*t:3*t+3]...)
		}
	}
	removed := (len(m.Indices) - len(kept)) / 3
	m.Indices = kept
	return removed
}

// weld numbers the distinct positions: vertices at the same place get the same number.
func (m *Mesh) weld() (id []uint32, count int) {
	size := 1 << bits.Len(uint(2*len(m.Positions)+8))
	slots := make([]int32, size) // number of the first vertex at a place plus 1, by the place's hash
	id = make([]uint32, len(m.Positions))
	for i, p := range m.Positions {
		h := uint64(0)
		for a := range p {
			h = (h ^ uint64(math.Float32bits(p[a]+0))) * 0x9e3779b97f4a7c15 // -0 and 0 are the same place
			h ^= h >> 32
		}
		for at := h & uint64(size-1); ; at = (at + 1) & uint64(size-1) {
			first := slots[at] - 1
			if first < 0 {
				slots[at] = int32(i) + 1
				id[i] = uint32(count)
				count++
				break
			}
			if m.Positions[first] == p {
				id[i] = id[first]
				break
			}
		}
	}
	return id, count
}

// OpenEdges returns the number of edges, between places rather than vertices, that do not have
// exactly one triangle on each side: 0 for a closed surface.
func (m *Mesh) OpenEdges() int {
	id, _ := m.weld()
	sides := newCounts(len(m.Indices))
	for t := 0; t < m.Triangles(); t++ {
		for k := 0; k < 3; k++ {
			a, b := uint64(id[m.Indices[3*t+k]]), uint64(id[m.Indices[3*t+(k+1)%3]])
			if a < b {
				*sides.at(a<<32 | b)++
			} else {
				*sides.at(b<<32 | a)--
			}
		}
	}
	open := 0
	for _, balance := range sides.values {
		if balance != 0 {
			open++
		}
	}
	return open
}

// Closed reports whether meshes, that have an inside together, are closed: every edge between places is gone along as often one way as the
// other. No meshes are not.
func Closed(list ...*Mesh) bool {
	edges := map[[2][3]float32]int{}
	for _, m := range list {
		for t := 0; t < len(m.Indices); t += 3 {
			for k := range 3 {
				a, b := m.Positions[m.Indices[t+k]], m.Positions[m.Indices[t+(k+1)%3]]
				if a == b {
					continue
				}
				edges[[2][3]float32{a, b}]++
				edges[[2][3]float32{b, a}]--
			}
		}
	}
	for _, n := range edges {
		if n != 0 {
			return false
		}
	}
	return len(list) > 0
}

// Volume returns the volume enclosed, by the divergence theorem: the sum of the signed tetrahedra
// between the origin and each triangle. It is meaningful for closed meshes only.
func (m *Mesh) Volume() float64 {
	sum := 0.0
	for t := 0; t < m.Triangles(); t++ {
		sum += m.corner(t, 0).Dot(m.corner(t, 1).Cross(m.corner(t, 2)))
	}
	return sum / 6
}

// Mass returns the volume enclosed and the centre of mass at one density throughout: those of the signed
// tetrahedra between the middle of the box and each triangle, together. It is meaningful for closed meshes
// only.
func (m *Mesh) Mass() (volume float64, centre geom.Vec3) {
	if len(m.Indices) == 0 {
		return 0, geom.Vec3{}
	}
	o := m.Bounds().Centre()
	moment := geom.Vec3{}
	for t := 0; t < m.Triangles(); t++ {
		a, b, c := m.corner(t, 0).Sub(o), m.corner(t, 1).Sub(o), m.corner(t, 2).Sub(o)
		v := a.Dot(b.Cross(c)) / 6
		volume += v
		moment = moment.Add(a.Add(b).Add(c).Mul(v / 4)) // the mean of its four corners, one of which is o
	}
	if volume == 0 {
		return 0, o
	}
	return volume, o.Add(moment.Mul(1 / volume))
}

// Area returns the area of the surface.
func (m *Mesh) Area() float64 {
	sum := 0.0
	for t := 0; t < m.Triangles(); t++ {
		sum += m.areaVector(t).Len()
	}
	return sum / 2
}

// Transform moves every position by x and turns normals and tangents along; a mirror flips the
// winding, so that the outside stays outside.
func (m *Mesh) Transform(x geom.Mat4) {
	inv, ok := x.Inverse()
	if !ok {
		inv = geom.Identity
	}
	for i, p := range m.Positions {
		m.Positions[i] = x.Point(geom.V3(p)).F32()
	}
	for i, n := range m.Normals {
		m.Normals[i] = inv.Transposed(geom.V3(n)).Unit().F32()
	}
	mirror := x.Det() < 0
	for i, t := range m.Tangents {
		d := x.Vector(geom.Vec3{float64(t[0]), float64(t[1]), float64(t[2])}).Unit().F32()
		w := t[3]
		if mirror {
			w = -w
		}
		m.Tangents[i] = [4]float32{d[0], d[1], d[2], w}
	}
	if mirror {
		for t := 0; t < len(m.Indices); t += 3 {
			m.Indices[t+1], m.Indices[t+2] = m.Indices[t+2], m.Indices[t+1]
		}
	}
}

// Append adds a copy of n's triangles. Attributes that only one of the two has are dropped.
func (m *Mesh) Append(n *Mesh) {
	base := uint32(len(m.Positions))
	first := base == 0
	m.Normals = joined(m.Normals, n.Normals, first)
	m.Tangents = joined(m.Tangents, n.Tangents, first)
	m.UV = joined(m.UV, n.UV, first)
	m.Colors = joined(m.Colors, n.Colors, first)
	m.Positions = append(m.Positions, n.Positions...)
	for _, i := range n.Indices {
		m.Indices = append(m.Indices, base+i)
	}
}

func joined[T any](a, b []T, first bool) []T {
	if len(b) == 0 || (len(a) == 0 && !first) {
		return nil
	}
	return append(a, b...)
}

// angle returns the angle between two vectors in radians, accurate for small angles too.
func angle(a, b geom.Vec3) float64 { return math.Atan2(a.Cross(b).Len(), a.Dot(b)) }

// DropUnused removes the vertices that no triangle uses.
func (m *Mesh) DropUnused() {
	at := make([]uint32, len(m.Positions))
	var keep []uint32
	indices := make([]uint32, len(m.Indices))
	for i, v := range m.Indices {
		if at[v] == 0 {
			keep = append(keep, v)
			at[v] = uint32(len(keep))
		}
		indices[i] = at[v] - 1
	}
	*m = Mesh{
		Positions: chosen(m.Positions, keep), Normals: chosen(m.Normals, keep), Tangents: chosen(m.Tangents, keep),
		UV: chosen(m.UV, keep), Colors: chosen(m.Colors, keep), Indices: indices,
	}
}

func chosen[T any](list []T, keep []uint32) []T {
	if list == nil {
		return nil
	}
	out := make([]T, len(keep))
	for i, k := range keep {
		out[i] = list[k]
	}
	return out
}
