package render

import (
	"context"
	"fmt"
	"math"
	"runtime"
	"slices"
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
	shadowRays             int     // sent where a camera ray ends on the shadow floor: with four of them, half of a proof's time where the floor is most of the picture
	split                  int     // ways in which a path goes on at the first glass that scatters
	pixel                  float32 // width of a pixel at a distance of 1
	clamp                  float32 // of light that bounced more than once; 0 for none
	noise                  float32 // error at which the noisiest pixels are done, of the square root of luminance
	caustics               bool    // light is bent by glass wherever it goes, not only where the camera looks through it
	layers                 bool    // the light is kept apart by where it came from
	occlusion              float32 // distance within which things occlude, metres; 0 for not asked
	motion                 bool    // where things go is asked for
	random                 bool    // samples are independent of each other
	phase                  uint32  // others have other samples
}

// QualityWords say what a quality is chosen for.
type QualityWords struct {
	Quality    Quality `json:"quality"`
	Note       string  `json:"note"`
	Denoised   bool    `json:"denoised"`   // where nothing is said: drafts show their noise, and exact has none taken away
	Neighbours bool    `json:"neighbours"` // where nothing is said: frames of a sequence are denoised with their neighbours
	Noise      float64 `json:"noise"`      // that is let pass where nothing is said, of the square root of luminance; 0 where samples are counted
}

// Qualities are all there are, the fastest first.
var Qualities = []QualityWords{
	{Draft, "direct light, for timing", false, false, 0},
	{Proof, fmt.Sprintf("%d samples", qualities[Proof].samples), true, false, 0},
	{Final, "as many samples as each place needs", true, true, float64(qualities[Final].noise)},
	{Exact, fmt.Sprintf("%d samples, nothing clamped", qualities[Exact].samples), false, false, 0},
}

// Words are what is said of a quality.
func (q Quality) Words() QualityWords {
	if i := slices.IndexFunc(Qualities, func(w QualityWords) bool { return w.Quality == q }); i >= 0 {
		return Qualities[i]
	}
	return QualityWords{}
}

var qualities = map[Quality]settings{
	Draft: {samples: 8, most: 8, split: 1},
	Proof: {samples: 32, most: 32, bounces: 4, clamp: 12, split: 4},
	Final: {samples: 16, most: 512, bounces: 8, clamp: 24, noise: 0.02, split: 4},
	Exact: {samples: 1024, most: 1024, bounces: 64, caustics: true, split: 1},
}

// Options say how a picture is rendered.
type Options struct {
	Quality  Quality
	Noise    float64 // of final quality: the error that is let pass, of the square root of luminance; 0 for the usual
	Denoise  bool
	Samples  int  // of each pixel; 0 for as many as the quality has it take
	Random   bool // samples are drawn independently of each other, and paths do not split: to measure what it brings that they are and do
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
	q, threads, err := s.ready(width, &o)
	if err != nil {
		return nil, err
	}
	if o.Denoise {
		f, err := s.inStrips(width, height, o, func(k int, progress func(float64)) (*Film, error) {
			return s.strip(ctx, width, height, k, o, q, threads, progress)
		})
		if err == nil {
			s.annotate(f)
		}
		return f, err
	}
	f := newFilm(width, height, s)
	if q.layers, err = f.prepare(o, s); err != nil {
		return nil, err
	}
	if err := s.fill(ctx, f, &q, threads, o.Progress); err != nil {
		return nil, err
	}
	s.annotate(f)
	return f, nil
}

// ready checks options and returns what they come to.
func (s *Scene) ready(width int, o *Options) (q settings, threads int, err error) {
	if err := o.Quality.Check(); err != nil {
		return q, 0, err
	}
	if err := CheckPasses(o.Passes); err != nil {
		return q, 0, err
	}
	if s.camera.ahead == (bvh.Vec{}) {
		return q, 0, fmt.Errorf("the shot has no camera to render through")
	}
	threads = o.Threads
	if threads <= 0 {
		threads = runtime.GOMAXPROCS(0)
	}
	q = qualities[o.Quality]
	if o.Noise > 0 && q.noise > 0 {
		q.noise = float32(o.Noise)
	}
	if o.Samples > 0 {
		q.samples, q.most = o.Samples, o.Samples
	}
	if q.random = o.Random; q.random {
		q.split = 1
	}
	if q.shadowRays = 4; o.Denoise && q.noise == 0 { // the noise of fewer is smoothed
		q.shadowRays = 2
	}
	q.pixel = s.camera.pixel(width)
	for _, p := range o.Passes {
		switch p {
		case Occlusion:
			q.occlusion = s.size / 4
		case Motion:
			q.motion = true
		}
	}
	return q, threads, nil
}

// fill samples all pixels of a film, square by square.
func (s *Scene) fill(ctx context.Context, f *Film, q *settings, threads int, progress func(float64)) error {
	across, down := (f.Width+tile-1)/tile, (f.Height+tile-1)/tile
	var done atomic.Int64
	shareOut(ctx, threads, across*down, func() func(int) {
		w := new(bvh.Walker)
		var pixels [tile * tile]gathered
		return func(k int) {
			s.tile(ctx, f, k%across*tile, k/across*tile, &pixels, q, w)
			if n := done.Add(1); progress != nil {
				progress(float64(n) / float64(across*down))
			}
		}
	})
	return ctx.Err()
}

// gathered is what a pixel has got so far.
type gathered struct {
	sample
	hits, n       int
	floors        float32 // how many samples saw the shadow floor
	odd           bvh.Vec // light of every second sample, without what glows
	oddHits       int
	oddShaded     float32 // and of the light on the floor
	oddUnshaded   float32
	squares       bvh.Vec   // of the light without what glows
	shadow        spreading // on the floor
	root          spreading // the square root of luminance, in which errors are judged
	depth, depth2 float32
	albedo2       float32 // sum of the squares of the base colour's luminance
	parts         [8]struct{ part, hits int32 }
	things        [4]struct{ thing, hits int32 }
}

// batch is how many samples a pixel gets before it is looked at whether it needs more.
const batch = 16

// tile renders a square of pixels. In it those whose error, or a neighbour's, is too large get more samples:
// what is decided depends on the square alone. It is left as it is when the context ends, which is looked at for each
// pixel, so that giving up takes a few milliseconds.
func (s *Scene) tile(ctx context.Context, f *Film, left, top int, pixels *[tile * tile]gathered, q *settings, w *bvh.Walker) {
	wide, high := min(tile, f.Width-left), min(tile, f.Height-top)
	more := func(x, y, n int) {
		s.expose(&pixels[y*tile+x], left+x, f.top+top+y, n, f.Width, f.of, q, w)
	}
	for y := range high {
		for x := range wide {
			if ctx.Err() != nil {
				return
			}
			pixels[y*tile+x] = gathered{}
			more(x, y, q.samples)
		}
	}
	sharp := !s.moving && s.camera.radius == 0
	for n := q.samples; n < q.most; n += batch {
		var again [tile * tile]bool
		some := false
		for y := range high {
			for x := range wide {
				if p := &pixels[y*tile+x]; q.done(p, p.root.off(p.n), p.shadow.off(p.n), sharp) {
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
				if ctx.Err() != nil {
					return
				}
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

// enough reports whether a pixel with an estimated error has had enough samples. Were all brought to the same error, the
// few that are very noisy would take nearly all the time. The whole is nearest to what it converges to, for the time,
// where samples go with the noise itself (Neyman's allocation), and evenest where they go with its square: this is
// between. The noise that was asked for is let pass where the most samples were taken, and less where fewer were.
func (q *settings) enough(off float32, n int) bool {
	return off <= q.noise*sqrt(sqrt(float32(n)/float32(q.most)))
}

// done reports whether a pixel has had enough samples, with its light and the shadow on the floor so far off.
func (q *settings) done(p *gathered, light, shadow float32, sharp bool) bool {
	return q.enough(light, p.n) && max(p.edge(sharp), shadow) <= q.noise
}

// expose takes more samples of a pixel of a picture.
func (s *Scene) expose(p *gathered, x, y, n, width, height int, q *settings, w *bvh.Walker) {
	var one sample
	var met shading
	var g sampler
	g.walker, g.random = w, q.random
	var drawn [8]points
	for done := range n {
		k := done % len(drawn)
		if k == 0 {
			g.beginAll(uint32(y*width+x), uint32(p.n), drawn[:min(len(drawn), n-done)])
		}
		g.beginWith(uint32(p.n), &drawn[k])
		g.shadowRays = p.shadowRays(q)
		u, v := g.next2()
		if s.moving {
			g.time = g.next1()
		}
		o, d := s.camera.ray((float32(x)+0.5+filterOffset(u))/float32(width), (float32(y)+0.5+filterOffset(v))/float32(height), &g)
		g.shift(q.phase) // what is looked at is the same in all phases: edges do not flicker
		s.trace(o, d, &met, &g, q, &one)
		p.add(&one, s.camera.depth(one.first.position), q)
	}
}

// edge estimates how far its alpha is off. Of well spread points an edge that is sharp cuts the cells of the square
// root of them, so that the error goes with their number to the power of -3/4 (Mitchell, "Consequences of stratified
// sampling in graphics", 1996); of others with that to -1/2.
func (p *gathered) edge(sharp bool) float32 {
	solid, n := float64(p.hits)/float64(p.n), float64(p.n)
	off := math.Sqrt(solid * (1 - solid) / n)
	if sharp {
		off /= math.Sqrt(math.Sqrt(n))
	}
	return float32(off)
}

// spreading is what the spread of some numbers is worked out from: their sum, and that of their squares.
type spreading struct{ sum, squares float64 }

func (s *spreading) add(v float64) { s.sum, s.squares = s.sum+v, s.squares+v*v }

// off is the standard deviation of the mean of n of them.
func (s *spreading) off(n int) float32 {
	mean := s.sum / float64(n)
	return float32(math.Sqrt(math.Max(0, s.squares/float64(n)-mean*mean) / float64(n)))
}

func (p *gathered) add(one *sample, depth float32, q *settings) {
	p.n++
	p.light = p.light.Add(one.light)
	p.alpha += one.alpha
	p.shaded += one.shaded
	p.unshaded += one.unshaded
	p.ground = p.ground.Add(one.ground)
	p.floors += one.floor
	shadow := 0.0
	if one.unshaded > 0 {
		shadow = float64(one.floor * (1 - one.shaded/one.unshaded))
	}
	p.shadow.add(shadow)
	if p.n&1 == 0 {
		p.oddShaded, p.oddUnshaded = p.oddShaded+one.shaded, p.oddUnshaded+one.unshaded
	}
	if q.most > q.samples { // it is asked how far it is off
		p.root.add(float64(sqrt(max(0, luminance(one.light)))))
	}
	p.emission = p.emission.Add(one.emission)
	if one.alpha == 0 {
		return
	}
	dull := one.light.Sub(one.emission)
	p.squares = p.squares.Add(mul(dull, dull))
	if p.n&1 == 0 {
		p.odd = p.odd.Add(dull)
		p.oddHits++
	}
	if q.layers {
		p.diffuse, p.specular = p.diffuse.Add(one.diffuse), p.specular.Add(one.specular)
		p.indirectDiffuse, p.indirectSpecular = p.indirectDiffuse.Add(one.indirectDiffuse), p.indirectSpecular.Add(one.indirectSpecular)
	}
	p.hits++
	p.depth += depth
	p.depth2 += depth * depth
	if b := luminance(one.first.albedo); b > 0 {
		p.albedo2 += b * b
	}
	a, b := &p.first, &one.first
	a.position, a.normal, a.albedo, a.open = a.position.Add(b.position), a.normal.Add(b.normal), a.albedo.Add(b.albedo), a.open+b.open
	a.motion[0], a.motion[1] = a.motion[0]+b.motion[0], a.motion[1]+b.motion[1]
	for k := range p.parts {
		c := &p.parts[k]
		if c.hits == 0 || c.part == b.part {
			c.part = b.part
			c.hits++
			break
		}
	}
	thing := b.thing()
	for k := range p.things {
		c := &p.things[k]
		if c.hits == 0 || c.thing == thing {
			c.thing = thing
			c.hits++
			break
		}
	}
}
