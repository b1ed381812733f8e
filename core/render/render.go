package render

import (
	"context"
	"fmt"
	"math"
	"runtime"
	"sync"
	"sync/atomic"

	"perigyre/core/render/bvh"
)

// Quality names how much work goes into a picture.
type Quality string

const (
	Draft Quality = "draft" // direct light only, few samples: for timing and framing
	Proof Quality = "proof"
	Final Quality = "final" // as many samples as each place needs
	Exact Quality = "exact" // nothing clamped, many samples everywhere
)

type settings struct {
	samples, most, bounces int     // at least and at most so many samples a pixel
	pixel                  float32 // width of a pixel at a distance of 1
	clamp                  float32 // of light that bounced more than once; 0 for none
	noise                  float32 // error at which a pixel is done, of the square root of its luminance
	caustics               bool    // light is bent by glass wherever it goes, not only where the camera looks through it
	layers                 bool    // the light is kept apart by where it came from
	occlusion              float32 // distance within which things occlude, metres; 0 for not asked
}

var qualities = map[Quality]settings{
	Draft: {samples: 8, most: 8},
	Proof: {samples: 32, most: 32, bounces: 4, clamp: 12},
	Final: {samples: 32, most: 512, bounces: 8, clamp: 24, noise: 0.01},
	Exact: {samples: 1024, most: 1024, bounces: 64, caustics: true},
}

// Options say how a picture is rendered.
type Options struct {
	Quality  Quality
	Noise    float64 // of final quality: the error that is let pass, of the square root of luminance; 0 for the usual
	Denoise  bool
	Passes   []Pass
	Threads  int           // 0 for all processors
	Progress func(float64) // told the share that is done; may be nil
}

// Check returns an error for a quality that does not exist.
func (q Quality) Check() error {
	if _, ok := qualities[q]; !ok {
		return fmt.Errorf("there is no quality %q; there are draft, proof, final and exact", q)
	}
	return nil
}

// Samples returns the least number of samples a pixel.
func (q Quality) Samples() int { return qualities[q].samples }

// tile is the side of the squares that threads take in turn.
const tile = 16

// Render renders the scene with a quality and nothing else asked for.
func (s *Scene) Render(ctx context.Context, width, height int, quality Quality, threads int, progress func(float64)) (*Film, error) {
	return s.Expose(ctx, width, height, Options{Quality: quality, Threads: threads, Progress: progress})
}

// Expose renders the scene through the shot's camera. It stops early with the context's error.
func (s *Scene) Expose(ctx context.Context, width, height int, o Options) (*Film, error) {
	if err := o.Quality.Check(); err != nil {
		return nil, err
	}
	if err := CheckPasses(o.Passes); err != nil {
		return nil, err
	}
	if s.camera.ahead == (bvh.Vec{}) {
		return nil, fmt.Errorf("the shot has no camera to render through")
	}
	threads := o.Threads
	if threads <= 0 {
		threads = runtime.GOMAXPROCS(0)
	}
	q := qualities[o.Quality]
	if o.Noise > 0 && q.noise > 0 {
		q.noise = float32(o.Noise)
	}
	q.pixel = s.camera.pixel(width)
	f := &Film{Width: width, Height: height, Pix: make([]float32, 4*width*height), full: s.seen}
	var err error
	if q.layers, err = f.prepare(o, s); err != nil {
		return nil, err
	}
	for _, p := range o.Passes {
		if p == Occlusion {
			q.occlusion = s.size / 4
		}
	}
	across, down := (width+tile-1)/tile, (height+tile-1)/tile
	var next, done atomic.Int64
	var wg sync.WaitGroup
	for range threads {
		wg.Go(func() {
			w := new(bvh.Walker)
			var pixels [tile * tile]gathered
			for ctx.Err() == nil {
				k := int(next.Add(1)) - 1
				if k >= across*down {
					return
				}
				s.tile(f, k%across*tile, k/across*tile, &pixels, &q, w)
				if n := done.Add(1); o.Progress != nil {
					o.Progress(float64(n) / float64(across*down))
				}
			}
		})
	}
	wg.Wait()
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	if o.Denoise {
		f.denoise(threads)
	}
	return f, nil
}

// gathered is what a pixel has got so far.
type gathered struct {
	sample
	hits, n       int
	floors        float32 // how many samples saw the shadow floor
	sum, sum2     float64 // of luminance
	root, root2   float64 // of its square root, in which errors are judged
	depth, depth2 float32
	albedo2       float32 // sum of the squares of the base colour's luminance
	parts         [6]struct {
		part int32
		hits int
	}
}

// batch is how many samples a pixel gets before it is looked at whether it needs more.
const batch = 16

// tile renders a square of pixels. In it those whose error, or a neighbour's, is too large get more samples:
// what is decided depends on the square alone.
func (s *Scene) tile(f *Film, left, top int, pixels *[tile * tile]gathered, q *settings, w *bvh.Walker) {
	wide, high := min(tile, f.Width-left), min(tile, f.Height-top)
	more := func(x, y, n int) {
		p := &pixels[y*tile+x]
		i := (top+y)*f.Width + left + x
		for range n {
			g := newSampler(uint32(i), uint32(p.n), w)
			u, v := g.next2()
			if s.moving {
				g.time = g.next1()
			}
			o, d := s.camera.ray((float32(left+x)+0.5+filterOffset(u))/float32(f.Width), (float32(top+y)+0.5+filterOffset(v))/float32(f.Height), &g)
			one := s.trace(o, d, &g, q)
			p.add(&one, s.camera.depth(one.first.position))
		}
	}
	for y := range high {
		for x := range wide {
			pixels[y*tile+x] = gathered{}
			more(x, y, q.samples)
		}
	}
	for n := q.samples; n < q.most; n += batch {
		var again [tile * tile]bool
		some := false
		for y := range high {
			for x := range wide {
				if pixels[y*tile+x].error() <= q.noise {
					continue
				}
				some = true
				for v := max(0, y-1); v <= min(high-1, y+1); v++ {
					for u := max(0, x-1); u <= min(wide-1, x+1); u++ {
						again[v*tile+u] = true
					}
				}
			}
		}
		if !some {
			break
		}
		for y := range high {
			for x := range wide {
				if again[y*tile+x] {
					more(x, y, batch)
				}
			}
		}
	}
	for y := range high {
		for x := range wide {
			f.put((top+y)*f.Width+left+x, &pixels[y*tile+x], &s.camera)
		}
	}
}

// error estimates how far the square root of the pixel's luminance is off.
func (p *gathered) error() float32 {
	n := float64(p.n)
	mean := p.root / n
	return float32(math.Sqrt(math.Max(0, p.root2/n-mean*mean) / n))
}

func (p *gathered) add(one *sample, depth float32) {
	p.n++
	p.light = p.light.Add(one.light)
	p.alpha += one.alpha
	p.shaded += one.shaded
	p.unshaded += one.unshaded
	p.ground = p.ground.Add(one.ground)
	p.floors += one.floor
	l := float64(luminance(one.light))
	p.sum, p.sum2 = p.sum+l, p.sum2+l*l
	r := math.Sqrt(math.Max(0, l)) + float64(one.alpha) // an edge of something dark needs its samples too
	if one.unshaded > 0 {                               // and so does a shadow, half as much: it has no texture of its own
		r += 0.5 * float64(one.floor*(1-one.shaded/one.unshaded))
	}
	p.root, p.root2 = p.root+r, p.root2+r*r
	if one.alpha == 0 {
		return
	}
	p.emission, p.diffuse, p.specular = p.emission.Add(one.emission), p.diffuse.Add(one.diffuse), p.specular.Add(one.specular)
	p.indirectDiffuse, p.indirectSpecular = p.indirectDiffuse.Add(one.indirectDiffuse), p.indirectSpecular.Add(one.indirectSpecular)
	p.hits++
	p.depth += depth
	p.depth2 += depth * depth
	if b := luminance(one.first.albedo); b > 0 {
		p.albedo2 += b * b
	}
	a, b := &p.first, &one.first
	a.position, a.normal, a.albedo, a.open = a.position.Add(b.position), a.normal.Add(b.normal), a.albedo.Add(b.albedo), a.open+b.open
	a.way[0], a.way[1] = a.way[0]+b.way[0], a.way[1]+b.way[1]
	for k := range p.parts {
		c := &p.parts[k]
		if c.hits == 0 || c.part == b.part {
			c.part = b.part
			c.hits++
			break
		}
	}
}
