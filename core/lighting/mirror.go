package lighting

import (
	"fmt"

	"perigyre/core/geom"
)

// Highlight returns the place, at a distance from a point of a surface, at which a light is mirrored there for an eye: along the
// direction to the eye reflected at the normal, r = 2 (n . v) n - v (law of reflection; Glassner, "An Introduction to Ray
// Tracing", 4.2, from memory). The normal may point either way. It is an error where the eye sees the surface from its edge.
func Highlight(eye, point, normal geom.Vec3, distance float64) (geom.Vec3, error) {
	v, n := eye.Sub(point), normal
	if v.Len() < 1e-12 || n.Len() < 1e-12 {
		return geom.Vec3{}, fmt.Errorf("there is no surface there that could have a highlight")
	}
	v, n = v.Unit(), n.Unit()
	c := n.Dot(v)
	if c < 0 {
		n, c = n.Mul(-1), -c
	}
	if c < 1e-3 {
		return geom.Vec3{}, fmt.Errorf("the camera sees that place from its edge; press where it faces the camera more")
	}
	return point.Add(n.Mul(2 * c).Sub(v).Mul(distance)), nil
}

// Shadow returns the place, at a distance from what throws it, of a light whose shadow of that falls on a point: on the line
// from the point through it.
func Shadow(thrower, point geom.Vec3, distance float64) (geom.Vec3, error) {
	d := thrower.Sub(point)
	if d.Len() < 1e-9 {
		return geom.Vec3{}, fmt.Errorf("the shadow cannot fall into the middle of what throws it")
	}
	if d = d.Unit(); d[1] < 0.02 {
		return geom.Vec3{}, fmt.Errorf("the light would have to stand below the floor; press on the floor, lower than what throws the shadow")
	}
	return thrower.Add(d.Mul(distance)), nil
}
