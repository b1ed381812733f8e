package assembly

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
)

// brick is a box from one corner to another, millimetres.
func brick(x0, y0, z0, x1, y1, z1 float64) []geom.Box {
	return []geom.Box{{Min: geom.Vec3{x0, y0, z0}.Mul(1e-3), Max: geom.Vec3{x1, y1, z1}.Mul(1e-3)}}
}

// blocks is a piece that is made of boxes, millimetres.
func blocks(list ...[]geom.Box) Piece {
	var points []geom.Vec3
	var faces []uint32
	for _, l := range list {
		for _, b := range l {
			m := (&mesh.Shape{Kind: mesh.BoxShape, Size: b.Size()}).Build()
			low := m.Bounds().Min
			n := uint32(len(points))
			for _, p := range m.Positions {
				points = append(points, geom.V3(p).Sub(low).Add(b.Min))
			}
			for _, i := range m.Indices {
				faces = append(faces, n+i)
			}
		}
	}
	return Piece{Solid: NewSolid(points, faces, geom.Vec3{1, 1, 1}), Turn: geom.NoTurn}
}

// shaped is a shape as a piece at a place, millimetres.
func shaped(s mesh.Shape, at geom.Vec3, turn geom.Quat) Piece {
	m := s.Build()
	var points []geom.Vec3
	for _, p := range m.Positions {
		points = append(points, turn.Rotate(geom.V3(p)).Add(at.Mul(1e-3)))
	}
	return Piece{Solid: NewSolid(points, m.Indices, geom.Vec3{1, 1, 1}), Turn: turn}
}

// ring is a short tube that stands on its origin, metres.
func ring(inner, outer, height float64, sides int) mesh.Shape {
	return mesh.Shape{Kind: mesh.LatheShape, Sides: sides, Points: []geom.Vec3{{inner, 0, 0}, {outer, 0, 0}, {outer, height, 0}, {inner, height, 0}, {inner, 0, 0}}}
}

// told is a plan in a line: pieces by number, with the axis that they go along.
func told(p Plan) string {
	out := fmt.Sprintf("%d stays", p.Stays)
	for _, s := range p.Steps {
		out += ";"
		for _, l := range s.Pieces {
			axis := "?"
			for k, v := range l.Way {
				if math.Abs(v) > 0.999 {
					axis = string("-+"[int(v+1)/2]) + string("xyz"[k])
				}
			}
			out += fmt.Sprintf(" %d%s", l.Piece, axis)
		}
	}
	for _, s := range p.Stuck {
		out += fmt.Sprintf("; %d stuck by %v", s.Piece, s.By)
	}
	return out
}

func plan(t *testing.T, list ...Piece) Plan {
	t.Helper()
	p, err := TakeApart(context.Background(), list, Want{Gap: Even(0.01), Stays: -1}, func(float64) {})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// Puzzles of which the order is known, by hand.
func TestPuzzles(t *testing.T) {
	tray := [][]geom.Box{brick(0, 0, 0, 60, 10, 60), brick(0, 10, 0, 10, 40, 60), brick(50, 10, 0, 60, 40, 60), brick(10, 10, 0, 50, 40, 10), brick(10, 10, 50, 50, 40, 60)}
	lip := append(slices.Clone(tray), brick(10, 30, 10, 50, 40, 15), brick(10, 30, 45, 50, 40, 50)) // over the long sides
	open := [][]geom.Box{tray[0], tray[1], tray[3], tray[4], brick(10, 30, 10, 50, 40, 15), brick(10, 30, 45, 50, 40, 50)}
	for name, c := range map[string]struct {
		list []Piece
		want string
	}{
		"a box in a tray under a lid": {[]Piece{blocks(tray...), blocks(brick(10, 10, 10, 50, 30, 50)), blocks(brick(0, 40, 0, 60, 45, 60))}, "0 stays; 2+y; 1+y"},
		// The plate lies under two lips: it slides out where the wall is missing.
		"a lid under a lip":              {[]Piece{blocks(open...), blocks(brick(10, 10, 10, 60, 30, 50))}, "0 stays; 1+x"},
		"a block under a lip, walled in": {[]Piece{blocks(lip...), blocks(brick(10, 10, 10, 50, 30, 50))}, "0 stays; 1 stuck by [0]"},
		// A dovetail along z, as steps: it lifts not, it slides.
		"a dovetail": {[]Piece{
			blocks(brick(0, 0, 0, 60, 10, 80), brick(0, 10, 0, 15, 20, 80), brick(45, 10, 0, 60, 20, 80), brick(0, 20, 0, 22, 30, 80), brick(38, 20, 0, 60, 30, 80)),
			blocks(brick(15, 10, 0, 45, 20, 80), brick(22, 20, 0, 38, 40, 80)),
		}, "0 stays; 1+z"},
		"three boxes in each other, with lids": {[]Piece{
			blocks(tray...), blocks(brick(12, 10, 12, 48, 12, 48), brick(12, 12, 12, 14, 30, 48), brick(46, 12, 12, 48, 30, 48), brick(14, 12, 12, 46, 30, 14), brick(14, 12, 46, 46, 30, 48)),
			blocks(brick(20, 12, 20, 40, 25, 40)), blocks(brick(0, 40, 0, 60, 45, 60)), blocks(brick(12, 30, 12, 48, 34, 48)),
		}, "0 stays; 3+y; 4+y; 2+y; 1+y"},
		// Two bars across each other, half and half: neither is let go by a third that keeps both from lifting.
		"bolts in blind holes": {[]Piece{
			blocks(brick(0, 0, 0, 60, 30, 60)),
			shaped(ring(0.005, 0.02, 0.01, 48), geom.Vec3{30, 30, 30}, geom.NoTurn),
			shaped(mesh.Shape{Kind: mesh.CylinderShape, Radius: 0.005, Height: 0.01, Sides: 48}, geom.Vec3{30, 30, 30}, geom.NoTurn),
			shaped(mesh.Shape{Kind: mesh.CylinderShape, Radius: 0.009, Height: 0.004, Sides: 32}, geom.Vec3{30, 40, 30}, geom.NoTurn),
		}, "0 stays; 3+y; 2+y; 1+y"},
	} {
		if got := told(plan(t, c.list...)); got != c.want {
			t.Errorf("%s: %s, want %s", name, got, c.want)
		}
	}
}

// A bolt that keeps a plate from sliding out from under two lips leaves upwards and then goes along with the plate, over its hole; two of
// which one holds the other go along with it together. What leaves along the same line as what it holds does not need to.
func TestFastenersGoAlongWithWhatTheyHold(t *testing.T) {
	rail := [][]geom.Box{brick(0, 0, 0, 60, 10, 60), brick(0, 10, 0, 60, 40, 10), brick(0, 10, 50, 60, 40, 60), brick(0, 30, 10, 60, 40, 15), brick(0, 30, 45, 60, 40, 50)}
	drilled := func(y, high float64) []geom.Box { // a plate of 40 x 40 mm about x = 30, with a square hole
		return slices.Concat(brick(10, y, 10, 26, y+high, 50), brick(34, y, 10, 50, y+high, 50), brick(26, y, 10, 34, y+high, 26), brick(26, y, 34, 34, y+high, 50))
	}
	under := slices.Concat(brick(0, 0, 0, 26, 10, 60), brick(34, 0, 0, 60, 10, 60), brick(26, 0, 0, 34, 10, 26), brick(26, 0, 34, 34, 10, 60)) // the floor of the rail has the hole too
	bolt := blocks(brick(26, 0, 26, 34, 24, 34), brick(24, 24, 24, 36, 28, 36))
	list := []Piece{blocks(append(rail[1:], under)...), blocks(drilled(10, 14)), bolt}
	p := plan(t, list...)
	if got := told(p); got != "0 stays; 2+y; 1+x 2+x" && got != "0 stays; 2+y; 1-x 2-x" {
		t.Fatal(got)
	}
	if up := p.Steps[0].By; up < 0.028 {
		t.Errorf("the bolt leaves by %g m, less than it is long", up)
	}
}

// Of two ways out that are equally good a part takes that on which it hides nothing from what looks at it.
func TestWaysAcrossTheView(t *testing.T) {
	// A slab between a floor and a roof on a post at the corner: it leaves to the right or to the front.
	list := []Piece{blocks(brick(0, 0, 0, 60, 10, 60), brick(0, 30, 0, 60, 40, 60), brick(0, 10, 0, 60, 30, 10), brick(0, 10, 10, 10, 30, 60)), blocks(brick(10, 10, 10, 60, 30, 60))}
	for axis, want := range map[int]string{0: "0 stays; 1+z", 2: "0 stays; 1+x"} {
		p, err := TakeApart(context.Background(), list, Want{Gap: Even(0.01), Stays: -1, Hides: func(w geom.Vec3) float64 { return w[axis] * w[axis] }}, func(float64) {})
		if err != nil {
			t.Fatal(err)
		}
		if got := told(p); got != want {
			t.Errorf("seen along axis %d: %s, want %s", axis, got, want)
		}
	}
}

// A pin that stands askew in a tube leaves along their axis, which is none of the room's or of its own.
func TestAPinLeavesAlongItsHole(t *testing.T) {
	turn := geom.AxisAngle(geom.Vec3{1, 0, 2}.Unit(), 0.7)
	tube := shaped(ring(0.01, 0.02, 0.05, 40), geom.Vec3{}, turn)
	pin := shaped(mesh.Shape{Kind: mesh.CylinderShape, Radius: 0.01, Height: 0.05, Sides: 64}, geom.Vec3{}, turn)
	tube.Turn, pin.Turn = geom.NoTurn, geom.NoTurn // as after an import that has lost them
	p := plan(t, tube, pin)
	if len(p.Steps) != 1 || math.Abs(p.Steps[0].Pieces[0].Way.Dot(turn.Rotate(geom.Vec3{0, 1, 0}))) < 0.9999 {
		t.Errorf("%+v", p)
	}
}

// Two equal cubes of which one leaves to the right and the other, turned, to the front: where their ways cross and both would be there
// at the same time, they do not leave at the same time; a step further off they do.
func TestEqualPiecesDoNotMeetOnTheirWay(t *testing.T) {
	for z, want := range map[float64]int{-30: 1, -60: 2} {
		a, b := blocks(brick(0, 0, 0, 10, 10, 10)), blocks(brick(30, 0, z, 40, 10, z+10))
		a.Alike, b.Alike, b.Turn = "cube", "cube", geom.AxisAngle(geom.Vec3{0, 1, 0}, -math.Pi/2) // takes x to z
		p := planner{blocking: newBlocking(context.Background(), []Piece{a, b}), ctx: context.Background()}
		tries := []exit{{0, p.ways[0].find(geom.Vec3{1, 0, 0})}, {1, p.ways[1].find(geom.Vec3{0, 0, 1})}}
		if got := p.alike(tries[0], tries); len(got) != want {
			t.Errorf("%g mm: %+v", z, got)
		}
	}
}

// voxels are a piece of cubes of 10 mm on a grid: the faces between cubes and nothing.
func voxels(cells map[[3]int]int, of int) Piece {
	var points []geom.Vec3
	var faces []uint32
	for c, owner := range cells {
		if owner != of {
			continue
		}
		for axis := range 3 {
			for side := range 2 {
				next := c
				next[axis] += 2*side - 1
				if o, ok := cells[next]; ok && o == of {
					continue
				}
				n := uint32(len(points))
				for _, corner := range [4][2]int{{0, 0}, {1, 0}, {1, 1}, {0, 1}} {
					p := c
					p[axis] += side
					p[(axis+1)%3] += corner[0]
					p[(axis+2)%3] += corner[1]
					points = append(points, geom.Vec3{float64(p[0]), float64(p[1]), float64(p[2])}.Mul(0.01))
				}
				if side == 1 {
					faces = append(faces, n, n+1, n+2, n, n+2, n+3)
				} else {
					faces = append(faces, n, n+2, n+1, n, n+3, n+2)
				}
			}
		}
	}
	return Piece{Solid: NewSolid(points, faces, geom.Vec3{1, 1, 1}), Turn: geom.NoTurn}
}

// Random assemblies of pieces that fill a grid of cubes and interlock: whether one stands in the way of another is just as counting
// cubes says, in all 500 of them: never a wrong free, and a wrong block only where cubes of a piece touch along nothing but an edge, which
// is no solid.
func TestBlockingIsAsCountingCubesSays(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 5))
	right := 0
	for n := range 500 {
		count := 2 + rng.IntN(3)
		cells := map[[3]int]int{}
		for k := range 27 + rng.IntN(20) {
			c := [3]int{rng.IntN(4), rng.IntN(4), rng.IntN(4)}
			if _, ok := cells[c]; !ok {
				cells[c] = k % count
			}
		}
		var list []Piece
		for k := range count {
			list = append(list, voxels(cells, k))
		}
		b := newBlocking(context.Background(), list)
		for i := range list {
			for k := range list {
				for axis := range 3 {
					for _, sign := range []int{1, -1} {
						want := false
						for c, owner := range cells {
							for s := 1; s < 4 && owner == i && i != k; s++ {
								d := c
								d[axis] += sign * s
								o, ok := cells[d]
								want = want || ok && o == k
							}
						}
						way := geom.Vec3{}
						way[axis] = float64(sign)
						got := i != k && b.stands(i, k, way)
						if got == want {
							right++
							continue
						}
						if want || proper(cells, i) && proper(cells, k) {
							t.Fatalf("%d: %d stands in the way of %d along %v: %v, and counting says %v", n, k, i, way, got, want)
						}
					}
				}
			}
		}
	}
	if right < 18_000 {
		t.Errorf("only %d of them were told right", right)
	}
}

// proper reports whether the cubes of a piece touch with their faces wherever they touch.
func proper(cells map[[3]int]int, of int) bool {
	in := func(c [3]int) bool { o, ok := cells[c]; return ok && o == of }
	for c := range cells {
		if !in(c) {
			continue
		}
		for d := range 27 {
			step := [3]int{d%3 - 1, d/3%3 - 1, d/9 - 1}
			to := [3]int{c[0] + step[0], c[1] + step[1], c[2] + step[2]}
			if !in(to) {
				continue
			}
			joined := false // by cubes between them
			for axis := range 3 {
				via := c
				via[axis] += step[axis]
				joined = joined || step[axis] != 0 && in(via)
			}
			if !joined && to != c {
				return false
			}
		}
	}
	return true
}

// What is taken apart step by step lies on no frame deeper in anything else than at rest: looked at along the whole way of random
// assemblies that can be, in the order of the plan, with what has left where it has gone to.
func TestPlansPassThroughNothing(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 2))
	steps := 0
	for n := range 30 {
		cells := map[[3]int]int{}
		for k := range 40 {
			cells[[3]int{rng.IntN(4), rng.IntN(4), rng.IntN(3)}] = k / 8
		}
		var list []Piece
		for k := range 5 {
			list = append(list, voxels(cells, k))
		}
		list = slices.DeleteFunc(list, func(p Piece) bool { return p.Empty() })
		p := plan(t, list...)
		at := make([]geom.Vec3, len(list))
		for _, s := range p.Steps {
			steps++
			for share := 0.0; share <= 1; share += 1.0 / 24 {
				now := slices.Clone(at)
				for _, l := range s.Pieces {
					now[l.Piece] = at[l.Piece].Add(l.Way.Mul(share * s.By))
				}
				for i := range list {
					for k := range i {
						if d, deep := Overlap(list[i].Solid, list[k].Solid, geom.Translation(now[k].Sub(now[i])), 2e-3*0.02); deep {
							t.Fatalf("%d: %d lies %g deep in %d at %g of %+v", n, k, d.Depth, i, share, s)
						}
					}
				}
			}
			for _, l := range s.Pieces {
				at[l.Piece] = at[l.Piece].Add(l.Way.Mul(s.By))
			}
		}
	}
	if steps < 30 {
		t.Errorf("only %d steps", steps)
	}
}
