package assembly

import (
	"math"
	"slices"

	"perigyre/core/geom"
)

// Piece is a part of an assembly, or a group that leaves as one, as it is at rest in the room.
type Piece struct {
	*Solid
	Turn  geom.Quat // of its own axes
	Alike string    // pieces with the same word are equal; empty for what has no equal
	Later geom.Box  // the room that it needs once it is opened itself; the zero box for none
}

// tolerance is how near parts count as touching, and how much deeper than at rest they may come, as a share of the size of the
// smaller one: meshes of round things have corners.
const tolerance = 1.5e-3

// thorough is how much of a contact is looked at: all of it, but where two meshes of very many triangles lie on each other.
const thorough = 300_000

// alongside are two ways that are one: they are nearer to each other than this, radians.
const alongside = 0.02

// ways are directions, each of them once.
type ways []geom.Vec3

// add takes a direction both ways, unless it is there.
func (w *ways) add(v geom.Vec3) {
	if !(v.Len() > 1e-9) {
		return
	}
	v = v.Unit()
	for k := range v { // what is along an axis of the room is so exactly
		if math.Abs(math.Abs(v[k])-1) < 1e-6 {
			s := math.Copysign(1, v[k])
			v = geom.Vec3{}
			v[k] = s
		}
	}
	for _, one := range [2]geom.Vec3{v, v.Mul(-1)} {
		if w.find(one) < 0 {
			*w = append(*w, one)
		}
	}
}

func (w ways) find(v geom.Vec3) int {
	for i, x := range w {
		if x.Dot(v) > math.Cos(alongside) {
			return i
		}
	}
	return -1
}

// waysOf are the directions in which a piece may leave: the axes of the room, its own, and those that its contacts with others let it
// go along: normals of contacts lie across the axis of a hole or of a pin, and their mean leads away from what it lies on.
// The latter are told by themselves, too.
func waysOf(p *Piece, near []*Piece) (out, given ways) {
	for _, v := range []geom.Vec3{{0, 1, 0}, {1, 0, 0}, {0, 0, 1}} {
		out.add(v)
	}
	for _, v := range []geom.Vec3{{0, 1, 0}, {1, 0, 0}, {0, 0, 1}} {
		out.add(p.Turn.Rotate(v))
	}
	var spread [3][3]float64
	var mean geom.Vec3
	area, parted := 0.0, false // only a part of the contact was looked at
	for _, q := range near {
		parted = pairsOf(p.Solid, q.Solid, geom.Identity, tolerance*min(p.Size(), q.Size()), thorough, func(_, _ int, u, t *triangle) bool {
			n := u[1].Sub(u[0]).Cross(u[2].Sub(u[0]))
			m := t[1].Sub(t[0]).Cross(t[2].Sub(t[0]))
			if n.Len() == 0 || m.Len() == 0 || n.Unit().Dot(m.Unit()) > -0.95 { // they do not lie on each other
				return false
			}
			face := min(n.Len(), m.Len())
			n = n.Unit()
			mean, area = mean.Sub(n.Mul(face)), area+face
			for i := range 3 {
				for k := range 3 {
					spread[i][k] += face * n[i] * n[k]
				}
			}
			return false
		}) || parted
	}
	if area == 0 {
		return out, nil
	}
	plain := slices.Clone(out)             // the axes of the room and its own
	along := func(v geom.Vec3) geom.Vec3 { // an axis, where it is nearly that, or where more is not known
		near := 0.985
		if parted {
			near = 0.9
		}
		for _, axis := range plain {
			if axis.Dot(v) > near {
				return axis
			}
		}
		return v
	}
	values, axes := geom.Eigen(spread)
	for k := range axes {
		axes[k] = along(axes[k])
	}
	if values[0] < 0.05*values[2] { // along a pin or a groove
		out.add(axes[0])
		if values[1] > 0.2*values[2] {
			given.add(axes[0])
		}
	}
	if values[1] < 0.05*values[2] { // off a face
		out.add(axes[2])
	}
	if mean.Len() < 0.3*area {
		return out, given
	}
	off := along(mean.Unit())
	if out.add(off); mean.Len() > 0.6*area {
		given = append(given, off)
	}
	return out, given
}
