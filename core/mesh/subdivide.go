package mesh

import (
	"math"

	"perigyre/core/geom"
)

// Subdivide makes each triangle four by Loop's scheme (C. Loop, "Smooth Subdivision Surfaces Based on
// Triangles", 1987), with the rules of Hoppe et al. (1994) on edges that stay sharp: open ones, and
// those where faces bend by more than sharp radians. Texture coordinates and colours are put midway.
// Normals are made anew with the same angle.
func (m *Mesh) Subdivide(sharp float64) {
	id, places := m.weld()
	at := make([]geom.Vec3, places)
	for i, p := range m.Positions {
		at[id[i]] = geom.V3(p)
	}
	type edge struct {
		a, b     uint32
		opposite [2]uint32
		faces    int
		normal   geom.Vec3
		crease   bool
	}
	edges := map[uint64]*edge{}
	key := func(a, b uint32) uint64 {
		if b < a {
			a, b = b, a
		}
		return uint64(a)<<32 | uint64(b)
	}
	var order []uint64
	for t := range m.Triangles() {
		n := m.areaVector(t).Unit()
		for k := range 3 {
			a, b, c := id[m.Indices[3*t+k]], id[m.Indices[3*t+(k+1)%3]], id[m.Indices[3*t+(k+2)%3]]
			e := edges[key(a, b)]
			if e == nil {
				e = &edge{a: min(a, b), b: max(a, b), normal: n}
				edges[key(a, b)] = e
				order = append(order, key(a, b))
			} else if e.faces == 1 && angle(e.normal, n) > sharp {
				e.crease = true
			}
			if e.faces < 2 {
				e.opposite[e.faces] = c
			}
			e.faces++
		}
	}
	// Old places: smooth, on a crease, or kept at corners of creases.
	around := make([]geom.Vec3, places)
	valence := make([]int, places)
	along := make([]geom.Vec3, places)
	creases := make([]int, places)
	for _, k := range order {
		e := edges[k]
		e.crease = e.crease || e.faces != 2
		around[e.a], around[e.b] = around[e.a].Add(at[e.b]), around[e.b].Add(at[e.a])
		valence[e.a]++
		valence[e.b]++
		if e.crease {
			along[e.a], along[e.b] = along[e.a].Add(at[e.b]), along[e.b].Add(at[e.a])
			creases[e.a]++
			creases[e.b]++
		}
	}
	moved := make([]geom.Vec3, places)
	for i := range moved {
		switch n := valence[i]; {
		case creases[i] == 2:
			moved[i] = at[i].Mul(0.75).Add(along[i].Mul(0.125))
		case creases[i] > 2 || n == 0:
			moved[i] = at[i]
		default:
			beta := loopWeight(n)
			moved[i] = at[i].Mul(1 - float64(n)*beta).Add(around[i].Mul(beta))
		}
	}
	middle := make(map[uint64]geom.Vec3, len(edges))
	for k, e := range edges {
		ends := at[e.a].Add(at[e.b])
		if e.crease {
			middle[k] = ends.Mul(0.5)
		} else {
			middle[k] = ends.Mul(0.375).Add(at[e.opposite[0]].Add(at[e.opposite[1]]).Mul(0.125))
		}
	}
	out := &Mesh{}
	for i := range m.Positions {
		out.Positions = append(out.Positions, moved[id[i]].F32())
	}
	out.UV = append(out.UV, m.UV...)
	out.Colors = append(out.Colors, m.Colors...)
	mids := map[uint64]uint32{} // by vertices, so that seams of texture coordinates stay
	mid := func(a, b uint32) uint32 {
		k := key(a, b)
		i, ok := mids[k]
		if !ok {
			i = uint32(len(out.Positions))
			mids[k] = i
			out.Positions = append(out.Positions, middle[key(id[a], id[b])].F32())
			if m.UV != nil {
				out.UV = append(out.UV, [2]float32{(m.UV[a][0] + m.UV[b][0]) / 2, (m.UV[a][1] + m.UV[b][1]) / 2})
			}
			if m.Colors != nil {
				var c [4]float32
				for k := range c {
					c[k] = (m.Colors[a][k] + m.Colors[b][k]) / 2
				}
				out.Colors = append(out.Colors, c)
			}
		}
		return i
	}
	for c := 0; c < len(m.Indices); c += 3 {
		p, q, r := m.Indices[c], m.Indices[c+1], m.Indices[c+2]
		x, y, z := mid(p, q), mid(q, r), mid(r, p)
		out.Indices = append(out.Indices, p, x, z, x, q, y, z, y, r, x, y, z)
	}
	*m = *out
	m.MakeNormals(sharp)
}

// loopWeight is Loop's weight of each neighbour of a vertex with n of them.
func loopWeight(n int) float64 {
	c := 0.375 + 0.25*math.Cos(2*math.Pi/float64(n))
	return (0.625 - c*c) / float64(n)
}
