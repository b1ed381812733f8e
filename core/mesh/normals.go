package mesh

import (
	"math"

	"perigyre/core/geom"
)

// DefaultCrease is the angle between two faces, in radians, above which the edge between them is
// drawn hard: 40 degrees.
const DefaultCrease = 40 * math.Pi / 180

// largestFan bounds the work at one place: where more triangles meet than this, each keeps its own
// flat normal, so that a hostile file cannot make the work grow with the square of its size.
const largestFan = 512

// MakeNormals replaces the normals: at each corner the mean of the faces that meet at that place
// and lie within crease radians of the corner's own face, weighted by area and by the angle at the
// corner. Vertices are joined where place, normal and the other attributes agree, and split where
// they do not. Tangents are dropped.
func (m *Mesh) MakeNormals(crease float64) {
	tris := m.Triangles()
	id, places := m.weld()
	face := make([]geom.Vec3, tris) // unit normal
	weight := make([]float64, 3*tris)
	fan := make([]uint32, places+1) // corners at each place, as offsets into corners
	for t := 0; t < tris; t++ {
		n := m.areaVector(t)
		area := n.Len()
		face[t] = n.Unit()
		for k := 0; k < 3; k++ {
			p := m.corner(t, k)
			weight[3*t+k] = area * angle(m.corner(t, (k+1)%3).Sub(p), m.corner(t, (k+2)%3).Sub(p))
			fan[id[m.Indices[3*t+k]]+1]++
		}
	}
	for i := 1; i <= places; i++ {
		fan[i] += fan[i-1]
	}
	corners := make([]uint32, 3*tris)
	fill := append([]uint32(nil), fan[:places]...)
	for c, v := range m.Indices {
		corners[fill[id[v]]] = uint32(c)
		fill[id[v]]++
	}

	// The new vertices at each place hang together in a chain: there are few.
	first, next := make([]int32, places), make([]int32, 0, places)
	quantum := func(n geom.Vec3) [3]int16 {
		return [3]int16{int16(n[0] * 32767), int16(n[1] * 32767), int16(n[2] * 32767)}
	}
	normals := make([][3]int16, 0, places) // of the new vertices, to compare
	out := Mesh{Indices: make([]uint32, len(m.Indices))}
	limit := math.Cos(crease)
	for c, v := range m.Indices {
		own := face[c/3]
		sum := geom.Vec3{}
		around := corners[fan[id[v]]:fan[id[v]+1]]
		if len(around) > largestFan {
			sum = own
		} else {
			for _, o := range around {
				if f := face[o/3]; f.Dot(own) >= limit {
					sum = sum.Add(f.Mul(weight[o]))
				}
			}
		}
		n := sum.Unit()
		if n == (geom.Vec3{}) {
			n = own
		}
		if n == (geom.Vec3{}) {
			n = geom.Vec3{0, 1, 0}
		}
		place, key := id[v], quantum(n)
		i := first[place] - 1
		for ; i >= 0; i = next[i] - 1 {
			if normals[i] == key && (m.UV == nil || out.UV[i] == m.UV[v]) && (m.Colors == nil || out.Colors[i] == m.Colors[v]) {
				break
			}
		}
		if i < 0 {
			i = int32(len(out.Positions))
			next = append(next, first[place])
			first[place] = i + 1
			normals = append(normals, key)
			out.Positions = append(out.Positions, m.Positions[v])
			out.Normals = append(out.Normals, n.F32())
			if m.UV != nil {
				out.UV = append(out.UV, m.UV[v])
			}
			if m.Colors != nil {
				out.Colors = append(out.Colors, m.Colors[v])
			}
		}
		out.Indices[c] = uint32(i)
	}
	*m = out
}
