// Command bench measures what people wait for and prints a table: rays, trees, frames of the
// demonstration, baking and importing. Numbers are of the machine it runs on.
package main

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"runtime"
	"strconv"
	"strings"
	"time"

	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/pose"
	"perigyre/core/render"
	"perigyre/core/render/bvh"
	"perigyre/core/scene"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/demo"
	"perigyre/library"
)

func main() {
	if len(os.Args) == 5 && os.Args[1] == "worker" {
		asWorker(os.Args[2], os.Args[3], os.Args[4])
		return
	}
	fmt.Printf("%-52s %12s\n", fmt.Sprintf("%s, %d processors", runtime.Version(), runtime.GOMAXPROCS(0)), "")
	row("kernel: "+bvh.Kernel(), 1, "")
	all := []struct {
		name string
		do   func()
	}{
		{"rays", rays}, {"paths", paths}, {"imports", imports}, {"frames", frames}, {"quality", qualities}, {"flicker", flicker}, {"motion", bake}, {"dependents", dependents},
		{"studio", studio}, {"parted", parted}, {"farm", farms},
	}
	for _, one := range all {
		if len(os.Args) < 2 || os.Args[1] == one.name {
			one.do()
		}
	}
	row("peak memory of all this", peak()/1e6, "MB")
}

func check(err error) {
	if err != nil {
		fmt.Fprintln(os.Stderr, "bench:", err)
		os.Exit(1)
	}
}

func row(name string, value float64, unit string) {
	fmt.Printf("%-52s %12s %s\n", name, strconv.FormatFloat(value, 'g', 4, 64), unit)
}

// fastest returns the least seconds of a few runs, since a busy machine only ever makes them longer.
func fastest(runs int, f func()) float64 {
	best := math.Inf(1)
	for range runs {
		start := time.Now()
		f()
		best = math.Min(best, time.Since(start).Seconds())
	}
	return best
}

// bumpy is a wavy sheet of 2 n^2 triangles.
func bumpy(n int) *mesh.Mesh {
	m := &mesh.Mesh{}
	for i := range n + 1 {
		for j := range n + 1 {
			x, z := float64(i)/float64(n)-0.5, float64(j)/float64(n)-0.5
			m.Positions = append(m.Positions, [3]float32{float32(x), float32(0.05 * math.Sin(30*x) * math.Cos(23*z)), float32(z)})
		}
	}
	for i := range uint32(n) {
		for j := range uint32(n) {
			a := i*uint32(n+1) + j
			b := a + uint32(n) + 1
			m.Indices = append(m.Indices, a, a+1, b, a+1, b+1, b)
		}
	}
	return m
}

func rays() {
	m := bumpy(660)
	tree := bvh.NewMesh(m.Positions, m.Indices)
	one := bvh.Matrix{X: bvh.Vec{X: 1}, Y: bvh.Vec{Y: 1}, Z: bvh.Vec{Z: 1}}
	w := new(bvh.Walker)
	s := bvh.NewScene([]bvh.Instance{{Mesh: tree, ToRoom: one, ToMesh: one, Visible: 1}})
	const side = 700
	var camera, bounce, shadow []bvh.Ray
	rng := rand.New(rand.NewPCG(1, 1))
	around := func(up float32) bvh.Vec {
		y := float32(rng.NormFloat64())
		if up > 0 {
			y = up * float32(math.Abs(float64(y)))
		}
		return bvh.Vec{X: float32(rng.NormFloat64()), Y: y, Z: float32(rng.NormFloat64())}
	}
	var h bvh.Hit
	for k := range side * side {
		r := bvh.Ray{Origin: bvh.Vec{Y: 1, Z: 1}, Direction: bvh.Vec{X: float32(k%side)/side - 0.5, Y: -1, Z: float32(k/side)/side - 1.5}, Far: math.MaxFloat32, Mask: 1}
		camera = append(camera, r)
		if s.Intersect(&r, w, &h) {
			p := r.Origin.Add(r.Direction.Mul(h.T * 0.9999))
			bounce = append(bounce, bvh.Ray{Origin: p, Direction: around(0.3), Far: math.MaxFloat32, Mask: 1})
			shadow = append(shadow, bvh.Ray{Origin: p, Direction: around(1), Far: math.MaxFloat32, Mask: 1})
		}
	}
	rate := func(rays []bvh.Ray, f func(*bvh.Ray)) float64 {
		return float64(len(rays)) / 1e6 / fastest(3, func() {
			for i := range rays {
				f(&rays[i])
			}
		})
	}
	sets := [3][]bvh.Ray{camera, bounce, shadow}
	var hits [3]int
	for k, rays := range sets {
		for i := range rays {
			if k == 2 && s.Occluded(&rays[i], w) {
				hits[k]++
			} else if k < 2 {
				if s.Intersect(&rays[i], w, &h) {
					hits[k]++
				}
			}
		}
	}
	var ours, theirs [3]float64
	var found [3]int
	seconds, built := math.Inf(1), math.Inf(1)
	ok := true
	for range 4 { // by turns, since a machine is faster at one time than at another
		seconds = math.Min(seconds, fastest(3, func() { tree = bvh.NewMesh(m.Positions, m.Indices) }))
		for k, rays := range sets {
			ours[k] = math.Max(ours[k], rate(rays, func(r *bvh.Ray) {
				if k == 2 {
					s.Occluded(r, w)
				} else {
					s.Intersect(r, w, &h)
				}
			}))
		}
		if !ok {
			continue
		}
		var took float64
		var rates [3]float64
		if took, rates, found, ok = embree(m, sets); ok {
			built = math.Min(built, took)
			for k := range theirs {
				theirs[k] = math.Max(theirs[k], rates[k])
			}
		}
	}
	row("tree over 871,200 triangles", float64(m.Triangles())/seconds/1e6, "million triangles a second")
	row("tree, memory", float64(tree.Bytes())/float64(m.Triangles()), "bytes a triangle")
	for k, name := range []string{"camera rays (coherent), one processor", "bounce rays (incoherent), one processor", "shadow rays, one processor"} {
		row(name, ours[k], "million a second")
		if ok {
			row("  over Embree's single rays in this run", ours[k]/theirs[k], fmt.Sprintf("(%d of %d rays differ in hitting)", max(hits[k]-found[k], found[k]-hits[k]), len(sets[k])))
		}
	}
	if ok {
		row("tree: our time over Embree's", seconds/built, "")
	}
}

// staged returns a model of the demonstration as it is staged by default.
func staged(make func() ([]byte, error)) (*shot.Shot, *library.Assets) {
	glb, err := make()
	check(err)
	m, r, err := library.Bring(context.Background(), []library.File{{Name: "demo.glb", Data: glb}}, "", model.DefaultLimits, nil)
	check(err)
	assets := library.InMemory(model.DefaultLimits)
	asset, err := assets.KeepModel(m)
	check(err)
	d := shot.New("bench")
	o := stage.Defaults()
	count := 0
	o.File, o.Asset, o.Name, o.Unit, o.NewID = "demo.glb", asset, "demo", r.Unit, func() string { count++; return fmt.Sprint(count) }
	seconds := fastest(1, func() { check(stage.Put(d, m, o, assets)) })
	row("staging a model of the demonstration, with the exact fit", seconds*1000, "ms")
	return d, assets
}

// drawn makes frame 0 ready to be rendered.
func drawn(e *pose.Evaluator, props *render.Props, g pose.Surfaces) *render.Scene {
	from, err := scene.Resolve(e, 0, g, scene.Options{Symmetry: props})
	check(err)
	s, err := render.NewScene(from, props)
	check(err)
	return s
}

// qualities measures pictures of 256 pixels; of smaller ones nearly every pixel is an edge, which no denoiser can do much for. `quality 512` measures those of
// 512, whose reference takes half an hour.
func qualities() {
	side, reference := 256, 4096
	if len(os.Args) > 2 {
		_, err := fmt.Sscan(os.Args[2], &side)
		check(err)
		reference = 2048
	}
	for _, one := range []struct {
		name string
		make func() ([]byte, error)
	}{{"lantern", demo.Lantern}, {"gears", demo.Winding}} {
		d, assets := staged(one.make)
		props := render.NewProps(assets)
		e := pose.New(d)
		var moments []render.Moment
		for k, f := range []int{0, -2, 2} { // of a turntable of 48 frames
			from, err := scene.Resolve(e, float64((d.Frames+f)%d.Frames), assets, scene.Options{Symmetry: props})
			check(err)
			moments = append(moments, render.Moment{Scene: from, Phase: k})
		}
		quality(one.name, drawn(e, props, assets), d.View, moments, props, side, reference)
	}
}

func frames() {
	d, assets := staged(demo.Lantern)
	e, props := pose.New(d), render.NewProps(assets)
	var shown []float64 // seconds after a change at which a proof's pictures come
	for range 3 {
		start := time.Now()
		s := drawn(e, props, assets)
		shown = nil
		check(s.Refine(context.Background(), 640, 360, 32, func(*render.Film, int) error {
			shown = append(shown, time.Since(start).Seconds())
			return nil
		}))
	}
	row("a proof of it, 640 x 360: its first picture", shown[0]*1000, "ms after a change")
	row("  and its last, of 32 samples", shown[len(shown)-1], "s after it")
	for _, q := range []render.Quality{render.Draft, render.Proof, render.Final} {
		seconds := fastest(1, func() {
			s := drawn(e, props, assets)
			_, err := s.Render(context.Background(), 512, 512, q, 0, nil)
			check(err)
		})
		row(fmt.Sprintf("a frame of it, 512 x 512, %s (%d samples and more)", q, q.Samples()), seconds, "s")
	}
}

// peak returns the most memory that the process has held, in bytes, as Linux counts it.
func peak() float64 {
	b, err := os.ReadFile("/proc/self/status")
	if err != nil {
		return math.NaN()
	}
	for line := range strings.Lines(string(b)) {
		if f := strings.Fields(line); len(f) > 1 && f[0] == "VmHWM:" {
			kb, _ := strconv.ParseFloat(f[1], 64)
			return kb * 1024
		}
	}
	return math.NaN()
}
