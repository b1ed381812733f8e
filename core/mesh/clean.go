package mesh

import (
	"math"

	"perigyre/core/geom"
)

// Weld joins vertices that lie within a tolerance of each other, a length, in the order they come;
// normals are dropped, so that they can be made anew. It returns how many vertices went.
func (m *Mesh) Weld(tolerance float64) int {
	cell := func(p geom.Vec3) [3]int64 {
		return [3]int64{int64(math.Floor(p[0] / tolerance)), int64(math.Floor(p[1] / tolerance)), int64(math.Floor(p[2] / tolerance))}
	}
	seen := map[[3]int64][]uint32{}
	to := make([]uint32, len(m.Positions))
	var keep []uint32
	for i, raw := range m.Positions {
		p := geom.V3(raw)
		c := cell(p)
		found := false
		for dx := int64(-1); dx <= 1 && !found; dx++ {
			for dy := int64(-1); dy <= 1 && !found; dy++ {
				for dz := int64(-1); dz <= 1 && !found; dz++ {
					for _, k := range seen[[3]int64{c[0] + dx, c[1] + dy, c[2] + dz}] {
						if geom.V3(m.Positions[keep[k]]).Sub(p).Len() <= tolerance {
							to[i], found = k, true
							break
						}
					}
				}
			}
		}
		if !found {
			to[i] = uint32(len(keep))
			seen[c] = append(seen[c], to[i])
			keep = append(keep, uint32(i))
		}
	}
	gone := len(m.Positions) - len(keep)
	for i, v := range m.Indices {
		m.Indices[i] = to[v]
	}
	m.Positions = chosen(m.Positions, keep)
	m.UV, m.Colors = chosen(m.UV, keep), chosen(m.Colors, keep)
	m.Normals, m.Tangents = nil, nil
	m.RemoveDegenerate()
	return gone
}

// neighbours returns, for each corner's edge (corner k of triangle t to the next), the triangle on the
// other side, or -1, and whether that one runs along the edge the same way, which two faces of one
// side must not. Edges of more than two triangles have no neighbours.
func (m *Mesh) neighbours() (across []int32, same []bool) {
	id, _ := m.weld()
	type half struct {
		corner  int32
		forward bool
	}
	edges := make(map[uint64][]half, len(m.Indices)/2)
	for c := range m.Indices {
		t, k := c/3, c%3
		a, b := uint64(id[m.Indices[c]]), uint64(id[m.Indices[3*t+(k+1)%3]])
		key, forward := a<<32|b, true
		if b < a {
			key, forward = b<<32|a, false
		}
		edges[key] = append(edges[key], half{int32(c), forward})
	}
	across, same = make([]int32, len(m.Indices)), make([]bool, len(m.Indices))
	for i := range across {
		across[i] = -1
	}
	for _, e := range edges {
		if len(e) == 2 && e[0].corner/3 != e[1].corner/3 {
			across[e[0].corner], across[e[1].corner] = e[1].corner/3, e[0].corner/3
			same[e[0].corner] = e[0].forward == e[1].forward
			same[e[1].corner] = same[e[0].corner]
		}
	}
	return across, same
}

// FixWinding turns faces so that neighbours agree and each connected closed piece has its outside out:
// a positive volume. Open pieces keep the side that most of their area had. It returns how many faces
// were turned; normals are dropped if there were any.
func (m *Mesh) FixWinding() int {
	across, same := m.neighbours()
	tris := m.Triangles()
	state := make([]int8, tris) // 0 not seen, 1 as it is, -1 turned
	turned := 0
	for start := range tris {
		if state[start] != 0 {
			continue
		}
		state[start] = 1
		piece := []int{start}
		closed := true
		for at := 0; at < len(piece); at++ {
			t := piece[at]
			for k := range 3 {
				o := across[3*t+k]
				if o < 0 {
					closed = false
					continue
				}
				if state[o] == 0 {
					state[o] = state[t]
					if same[3*t+k] {
						state[o] = -state[t]
					}
					piece = append(piece, int(o))
				}
			}
		}
		volume, kept, lost := 0.0, 0.0, 0.0
		for _, t := range piece {
			volume += float64(state[t]) * m.corner(t, 0).Dot(m.corner(t, 1).Cross(m.corner(t, 2)))
			if area := m.areaVector(t).Len(); state[t] > 0 {
				kept += area
			} else {
				lost += area
			}
		}
		if closed && volume < 0 || !closed && lost > kept {
			for _, t := range piece {
				state[t] = -state[t]
			}
		}
		for _, t := range piece {
			if state[t] < 0 {
				m.Indices[3*t+1], m.Indices[3*t+2] = m.Indices[3*t+2], m.Indices[3*t+1]
				turned++
			}
		}
	}
	if turned > 0 {
		m.Normals, m.Tangents = nil, nil
	}
	return turned
}

// Pieces splits a mesh into its connected parts, joined where vertices are at the same place, largest
// first by triangles. A mesh in one piece gives itself.
func (m *Mesh) Pieces() []*Mesh {
	id, places := m.weld()
	root := make([]uint32, places)
	for i := range root {
		root[i] = uint32(i)
	}
	find := func(i uint32) uint32 {
		for root[i] != i {
			root[i] = root[root[i]]
			i = root[i]
		}
		return i
	}
	for c := 0; c < len(m.Indices); c += 3 {
		a := find(id[m.Indices[c]])
		root[find(id[m.Indices[c+1]])] = a
		root[find(id[m.Indices[c+2]])] = a
	}
	parts := map[uint32][]uint32{}
	var order []uint32
	for c := 0; c < len(m.Indices); c += 3 {
		r := find(id[m.Indices[c]])
		if parts[r] == nil {
			order = append(order, r)
		}
		parts[r] = append(parts[r], m.Indices[c:c+3]...)
	}
	if len(order) <= 1 {
		return []*Mesh{m}
	}
	var out []*Mesh
	for _, r := range order {
		p := *m
		p.Indices = parts[r]
		p.DropUnused()
		out = append(out, &p)
	}
	return out
}

// Faceted gives every triangle its own flat normal.
func (m *Mesh) Faceted() { m.MakeNormals(1e-6) }
