package scene

import (
	"crypto/sha256"
	"math"
	"reflect"
	"slices"

	"perigyre/core/geom"
)

// Symmetry tells of meshes that look the same turned: by so many equal turns about an axis of their own frame (0 to 2 for
// x to z) through a point, which is known to about a millionth of the size. Turns is 1 for others.
type Symmetry interface {
	Turns(m Mesh) (turns, axis int, through geom.Vec3, size float64)
}

// Canonical brings a scene to the one form that all scenes have that look the same, before it is hashed and drawn: bodies
// that are alike stand in each other's places in one order, and what looks the same turned lies in one of the ways in which
// it does (a jar of 48 sides on a turntable of 96 frames shows two pictures). Why it looks the same: swapping two bodies
// that are equal but for where they are leaves the set of what is drawn as it was; and a turn that takes a mesh to itself
// takes every point of it to a point of it with the same normal, while its surfaces, without textures, look the same
// everywhere on it. Scenes with mattes, with cutters or with what bends or hangs on bones are left as they are, since a body is more than its
// looks there; where the shutter or a pass sees how bodies move, they are not turned either.
func (s *Scene) Canonical(sym Symmetry) {
	if len(s.Mattes) > 0 || len(s.Cutters) > 0 {
		return
	}
	for i := range s.Bodies {
		if s.Bodies[i].Soft() {
			return
		}
	}
	if sym != nil {
		for i := range s.Bodies {
			s.Bodies[i].turn(sym)
		}
	}
	groups := map[[32]byte][]int{}
	for i := range s.Bodies {
		bare := s.Bodies[i]
		bare.At, bare.Before, bare.After, bare.Keys = geom.Mat4{}, geom.Mat4{}, geom.Mat4{}, nil
		w := writer{h: sha256.New()}
		w.value(reflect.ValueOf(bare))
		w.flush()
		key := [32]byte(w.h.Sum(nil))
		groups[key] = append(groups[key], i)
	}
	for _, list := range groups {
		if len(list) < 2 {
			continue
		}
		alike := make([]Body, len(list))
		for k, i := range list {
			alike[k] = s.Bodies[i]
		}
		slices.SortStableFunc(alike, func(a, b Body) int { return compare(&a.At, &b.At) })
		for k, i := range list {
			s.Bodies[i] = alike[k]
		}
	}
}

// turn lays a body that looks the same turned in the way whose matrix comes first.
func (b *Body) turn(sym Symmetry) {
	if len(b.Keys) > 0 || b.Before != b.After {
		return
	}
	for i := range b.Surfaces {
		if b.Surfaces[i].Textured() {
			return
		}
	}
	turns, axis, through, size := sym.Turns(b.Mesh)
	if turns < 2 {
		return
	}
	per := math.Pow(10, math.Ceil(5-math.Log10(size))) // round places in a metre
	for k, v := range through {                        // an axis that is on a round place to within what is known of it, is on it
		if round := math.Round(v*per) / per; math.Abs(v-round) < 2e-6*size {
			through[k] = round
		}
	}
	about := geom.Vec3{}
	about[axis] = 1
	to, back := geom.Translation(through), geom.Translation(through.Mul(-1))
	least := b.At
	for n := 1; n < turns; n++ {
		q := geom.AxisAngle(about, 2*math.Pi*float64(n)/float64(turns))
		m := b.At.Mul(to).Mul(geom.TRS(geom.Vec3{}, q, geom.Vec3{1, 1, 1})).Mul(back)
		if compare(&m, &least) < 0 {
			least = m
		}
	}
	b.At = least
}

// compare orders matrices by their numbers as the fingerprint takes them.
func compare(a, b *geom.Mat4) int {
	for k := range a {
		x, y := math.Round(a[k]*1e10), math.Round(b[k]*1e10)
		switch {
		case x < y:
			return -1
		case x > y:
			return 1
		}
	}
	return 0
}
