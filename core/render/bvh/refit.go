package bvh

// maxDegraded is how much dearer a refitted tree may be than the one it comes from, by the surface area of its
// boxes, before building anew pays.
const maxDegraded = 1.5

// Refit returns the tree for the same triangles with their corners elsewhere: the boxes follow, the order stays, and
// it takes a small part of the time of building. Where the tree has become poor by it, it is built anew.
func (m *Mesh) Refit(positions [][3]float32, indices []uint32) *Mesh {
	if len(m.nodes) == 0 {
		return NewMesh(positions, indices)
	}
	out := &Mesh{nodes: append([]wide(nil), m.nodes...), packets: make([]packet, len(m.packets)), whole: emptyBox()}
	boxes := make([]box, len(out.packets))
	for i := range out.packets {
		p := &out.packets[i]
		p.id = m.packets[i].id
		boxes[i] = emptyBox()
		for k, t := range p.id {
			for c := range 3 {
				v := positions[indices[3*t+uint32(c)]]
				p.corner[3*c][k], p.corner[3*c+1][k], p.corner[3*c+2][k] = v[0], v[1], v[2]
				boxes[i].hold(Vec{v[0], v[1], v[2]})
			}
		}
	}
	own := make([]box, len(out.nodes))
	before, after := 0.0, 0.0
	for i := len(out.nodes) - 1; i >= 0; i-- { // children stand behind their parents
		n := &out.nodes[i]
		own[i] = emptyBox()
		for k, c := range n.child {
			if n.bounds[0][k] == nowhere {
				continue
			}
			var b box
			if c&leaf != 0 {
				b = boxes[c&^leaf]
			} else {
				b = own[c]
			}
			was := n.box(k)
			before += float64(was.area())
			after += float64(b.area())
			for row, v := range [6]float32{b.lo.X, b.lo.Y, b.lo.Z, b.hi.X, b.hi.Y, b.hi.Z} {
				n.bounds[row][k] = v
			}
			own[i].hold(b.lo)
			own[i].hold(b.hi)
		}
	}
	out.whole = own[0]
	if after*float64(m.whole.area()) > maxDegraded*before*float64(out.whole.area()) {
		return NewMesh(positions, indices)
	}
	return out
}

// box returns that of a child.
func (n *wide) box(k int) box {
	b := &n.bounds
	return box{Vec{b[0][k], b[1][k], b[2][k]}, Vec{b[3][k], b[4][k], b[5][k]}}
}
