package planar

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/geom"
)

// tangles are layers of every hard kind: random lines on coarse and on fine grids, so that corners lie on lines, edges
// double and many cross in one place; stars, slits, near-parallels; far from the origin.
func tangles(rng *rand.Rand) map[string][]Layer {
	out := map[string][]Layer{}
	random := func(n int, steps, size, far float64) (l [][]geom.Vec2) {
		for range 3 {
			var line []geom.Vec2
			for range n {
				line = append(line, geom.Vec2{far + math.Floor(rng.Float64()*steps)/steps*size, math.Floor(rng.Float64()*steps) / steps * size})
			}
			l = append(l, line)
		}
		return l
	}
	for name, l := range map[string][][]geom.Vec2{
		"coarse": random(12, 5, 1, 0), "coarser": random(30, 3, 1, 0), "fine": random(20, 1e9, 1, 0), "far": random(15, 1e6, 1, 1e9),
		"tiny": random(12, 4, 3e-8, 0), "few pixels": append(random(40, 1e12, 1e-6, 0), []geom.Vec2{{0, 0}, {20, 0}, {20, 20}}),
	} {
		out[name] = []Layer{{l[:1], NonZero}, {l[1:], EvenOdd}}
	}
	star := [][]geom.Vec2{{}}
	for i := range 41 {
		sin, cos := math.Sincos(float64(i*20) * 2 * math.Pi / 41)
		star[0] = append(star[0], geom.Vec2{cos, sin})
	}
	out["star"] = []Layer{{star, NonZero}, {star, EvenOdd}}
	out["slit"] = []Layer{{[][]geom.Vec2{{{0, 0}, {4, 0}, {4, 4}, {0, 4}, {0, 0}, {1, 1}, {1, 3}, {3, 3}, {3, 1}, {1, 1}}}, NonZero}}
	near := Layer{}
	for i := range 30 {
		y := float64(i) * 3e-9
		near.Lines = append(near.Lines, []geom.Vec2{{0, y}, {1, 3e-8 - y}, {0.5, 1}})
	}
	out["near-parallel"] = []Layer{near}
	return out
}

// What an arrangement says, by brute force: no two of its edges meet but at their ends; the winding numbers beside every
// edge are those of the lines as they went in; and each face's triangles are counter-clockwise and fill what its borders
// enclose, to the unit of the grid.
func TestArrangements(t *testing.T) {
	for seed := range uint64(60) {
		for name, layers := range tangles(rand.New(rand.NewPCG(seed, 4))) {
			a, err := Arrange(context.Background(), layers...)
			if err != nil {
				t.Fatal(name, err)
			}
			for i, e := range a.edges {
				for _, f := range a.edges[i+1:] {
					p, q, r, s := a.points[e.a], a.points[e.b], a.points[f.a], a.points[f.b]
					if touching(p, q, r, s) {
						t.Fatalf("%s %d: the edges %v-%v and %v-%v meet between their ends", name, seed, p, q, r, s)
					}
				}
			}
			checkWindings(t, name, a, layers)
			of := func(c *Cover) int {
				face := Outside
				for i := range layers {
					if a.Inside(c, i) {
						face += 1 << i
					}
				}
				return face
			}
			faces, err := a.Faces(context.Background(), of)
			if err != nil {
				t.Fatal(err)
			}
			filled, enclosed := map[int]int64{}, map[int]int64{}
			for _, tr := range faces.Triangles {
				area := side(a.points[tr.Corners[0]], a.points[tr.Corners[1]], a.points[tr.Corners[2]])
				if area <= 0 {
					t.Fatalf("%s %d: a triangle of area %d", name, seed, area)
				}
				filled[tr.Face] += area
			}
			for _, e := range faces.Edges {
				c := cross(a.points[e.A], a.points[e.B])
				enclosed[e.Left] += c
				enclosed[e.Right] -= c
			}
			delete(enclosed, Outside)
			for f, want := range enclosed {
				if filled[f] != want {
					t.Fatalf("%s %d: face %d is %d, its triangles %d", name, seed, f, want, filled[f])
				}
			}
			// Outlines of the layers enclose the faces that are in them.
			for i, loops := range a.Outlines(len(layers), func(c *Cover, add func(int)) {
				for i := range layers {
					if a.Inside(c, i) {
						add(i)
					}
				}
			}) {
				sum, want := int64(0), int64(0)
				for _, l := range loops {
					for k := range l {
						sum += cross(a.grid.to(l[k]), a.grid.to(l[(k+1)%len(l)]))
					}
				}
				for f, area := range enclosed {
					if (f+1)&(1<<i) != 0 {
						want += area
					}
				}
				if sum != want {
					t.Fatalf("%s %d: the outlines of layer %d enclose %d of %d", name, seed, i, sum, want)
				}
			}
		}
	}
}

func touching(p, q, r, s point) bool {
	if boxOf(p, q).apart(boxOf(r, s)) {
		return false
	}
	inside := func(p, q, c point) bool {
		return c != p && c != q && side(p, q, c) == 0 && !boxOf(p, q).apart(boxOf(c, c))
	}
	if inside(p, q, r) || inside(p, q, s) || inside(r, s, p) || inside(r, s, q) {
		return true
	}
	a, b, c, d := side(p, q, r), side(p, q, s), side(r, s, p), side(r, s, q)
	return (a > 0) != (b > 0) && (c > 0) != (d > 0) && a != 0 && b != 0 && c != 0 && d != 0
}

// checkWindings compares the cover above edges with how the lines, as they went in, wind round a place there, where no
// line is so near that rounding may have brought it to the other side.
func checkWindings(t *testing.T, name string, a *Arrangement, layers []Layer) {
	t.Helper()
	for _, e := range a.edges {
		p, q := a.grid.from(a.points[e.a]), a.grid.from(a.points[e.b])
		d := q.Sub(p)
		far := 40 * a.grid.step
		at := geom.Vec2{(p[0]+q[0])/2 - d[1]/d.Len()*far, (p[1]+q[1])/2 + d[0]/d.Len()*far}
		x := point{int64(math.Round(at[0]/a.grid.step) - a.grid.ox), int64(math.Round(at[1]/a.grid.step) - a.grid.oy)}
		for _, f := range a.edges {
			if (box{point{x.x - 45, x.y - 45}, point{x.x + 45, x.y + 45}}).reaches(a.points[f.a], a.points[f.b]) && (f.a != e.a || f.b != e.b) {
				far = 0 // too near to tell
			}
		}
		if far == 0 || d.Len() < 200*a.grid.step {
			continue
		}
		for i, l := range layers {
			want := 0
			for _, line := range l.Lines {
				for k := range line {
					u, v := line[k], line[(k+1)%len(line)]
					if (u[1] > at[1]) == (v[1] > at[1]) || u[0]+(v[0]-u[0])*(at[1]-u[1])/(v[1]-u[1]) < at[0] {
						continue
					}
					if v[1] > u[1] {
						want++
					} else {
						want--
					}
				}
			}
			if got := e.above.Winding(i); got != want {
				t.Fatalf("%s: layer %d winds %d times above %v-%v, want %d", name, i, got, p, q, want)
			}
		}
	}
}

// The slit polygon of which readers of models are asked: its hole, joined by a doubled edge, is a hole.
func TestSlit(t *testing.T) {
	a, err := Arrange(context.Background(), tangles(rand.New(rand.NewPCG(1, 1)))["slit"]...)
	if err != nil {
		t.Fatal(err)
	}
	area := 0.0
	for _, l := range a.Outlines(1, func(c *Cover, add func(int)) {
		if a.Inside(c, 0) {
			add(0)
		}
	})[0] {
		for k, p := range l {
			q := l[(k+1)%len(l)]
			area += (p[0]*q[1] - q[0]*p[1]) / 2
		}
	}
	if math.Abs(area-12) > 1e-6 {
		t.Errorf("a square of 16 with a hole of 4, joined by a slit, has %g", area)
	}
}

func TestRefused(t *testing.T) {
	if _, err := Arrange(context.Background(), Layer{Lines: [][]geom.Vec2{{{0, 0}, {math.NaN(), 1}, {1, 1}}}}); err == nil {
		t.Error("a corner that is no number is taken")
	}
	ctx, stop := context.WithCancel(context.Background())
	stop()
	if _, err := Arrange(ctx, tangles(rand.New(rand.NewPCG(1, 1)))["fine"]...); err != context.Canceled {
		t.Errorf("stopped before: %v", err)
	}
	for _, l := range [][]geom.Vec2{nil, {{1, 1}}, {{1, 1}, {1, 1}}, {{0, 0}, {1, 0}}} {
		a, err := Arrange(context.Background(), Layer{Lines: [][]geom.Vec2{l}})
		if err != nil || len(a.edges) != 0 {
			t.Errorf("%v: %v, %d edges", l, err, len(a.edges))
		}
	}
}

func BenchmarkArrange(b *testing.B) {
	var round [][]geom.Vec2 // 2,000 rings of 24 corners that overlap
	rng := rand.New(rand.NewPCG(1, 2))
	for range 2000 {
		x, y := rng.Float64(), rng.Float64()
		var ring []geom.Vec2
		for k := range 24 {
			sin, cos := math.Sincos(float64(k) / 24 * 2 * math.Pi)
			ring = append(ring, geom.Vec2{x + 0.02*cos, y + 0.02*sin})
		}
		round = append(round, ring)
	}
	hatch := Layer{Rule: EvenOdd} // 600 lines across 600
	for i := range 600 {
		k := float64(i) / 600
		hatch.Lines = append(hatch.Lines, []geom.Vec2{{0, k}, {1, k}, {1, k + 1e-4}, {0, k + 1e-4}}, []geom.Vec2{{k, 0}, {k, 1}, {k + 1e-4, 1}, {k + 1e-4, 0}})
	}
	for name, l := range map[string]Layer{"rings": {Lines: round}, "hatch": hatch} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				a, err := Arrange(context.Background(), l)
				if err != nil {
					b.Fatal(err)
				}
				if _, err := a.Faces(context.Background(), func(c *Cover) int {
					if a.Inside(c, 0) {
						return 0
					}
					return Outside
				}); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
