package render

import (
	"context"
	"fmt"
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
	Final Quality = "final"
)

type settings struct {
	samples, bounces int
	clamp            float32 // of light that bounced more than once; 0 for none
}

var qualities = map[Quality]settings{
	Draft: {8, 0, 0},
	Proof: {32, 4, 12},
	Final: {128, 8, 24},
}

// Check returns an error for a quality that does not exist.
func (q Quality) Check() error {
	if _, ok := qualities[q]; !ok {
		return fmt.Errorf("there is no quality %q; there are draft, proof and final", q)
	}
	return nil
}

// Samples returns the number of samples a pixel.
func (q Quality) Samples() int { return qualities[q].samples }

// tile is the side of the squares that threads take in turn.
const tile = 16

// Render renders the scene through the shot's camera. Threads of 0 stands for all processors;
// progress, which may be nil, is told the share that is done. It stops early with the context's
// error.
func (s *Scene) Render(ctx context.Context, width, height int, quality Quality, threads int, progress func(float64)) (*Film, error) {
	if err := quality.Check(); err != nil {
		return nil, err
	}
	if s.camera.ahead == (bvh.Vec{}) {
		return nil, fmt.Errorf("the shot has no camera to render through")
	}
	if threads <= 0 {
		threads = runtime.GOMAXPROCS(0)
	}
	q := qualities[quality]
	f := &Film{Width: width, Height: height, Pix: make([]float32, 4*width*height)}
	across, down := (width+tile-1)/tile, (height+tile-1)/tile
	var next, done atomic.Int64
	var wg sync.WaitGroup
	for range threads {
		wg.Go(func() {
			for ctx.Err() == nil {
				k := int(next.Add(1)) - 1
				if k >= across*down {
					return
				}
				for y := k / across * tile; y < min(height, (k/across+1)*tile); y++ {
					for x := k % across * tile; x < min(width, (k%across+1)*tile); x++ {
						s.pixel(f, x, y, &q)
					}
				}
				if n := done.Add(1); progress != nil {
					progress(float64(n) / float64(across*down))
				}
			}
		})
	}
	wg.Wait()
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	return f, nil
}

// pixel gathers the samples of one pixel. Shadow on the floor becomes alpha: the share of the light
// there that something keeps away.
func (s *Scene) pixel(f *Film, x, y int, q *settings) {
	var sum sample
	floor := 0
	i := y*f.Width + x
	for k := range q.samples {
		g := newSampler(uint32(i), uint32(k))
		u, v := g.next2()
		o, d := s.camera.ray((float32(x)+0.5+filterOffset(u))/float32(f.Width), (float32(y)+0.5+filterOffset(v))/float32(f.Height))
		one := s.trace(o, d, &g, q)
		sum.light = sum.light.Add(one.light)
		sum.alpha += one.alpha
		sum.shaded += one.shaded
		sum.unshaded += one.unshaded
		if one.floor {
			floor++
		}
	}
	n := float32(q.samples)
	alpha := sum.alpha / n
	if sum.unshaded > 0 {
		alpha += float32(floor) / n * max(0, 1-sum.shaded/sum.unshaded)
	}
	copy(f.Pix[4*i:], []float32{sum.light.X / n, sum.light.Y / n, sum.light.Z / n, min(1, alpha)})
}
