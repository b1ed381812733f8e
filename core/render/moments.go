package render

import (
	"context"
	"fmt"
	"slices"
	"sync"
	"time"

	"perigyre/core/scene"
)

// Moment is a scene as it is exposed for its own picture and for those beside it.
type Moment struct {
	Scene *scene.Scene
	Phase int // of its samples, from 0: moments of one phase that show the same have the same noise
}

// MostAlong is how many pixels a picture may have for its neighbours to be used: what is kept of four is four gigabytes.
const MostAlong = 9_000_000

// ExposeAlong renders the first of some moments, denoised with what the others saw: of a run, its neighbours. What it is depends on
// the moments and the options alone. Exposures are kept for pictures that follow; spare is how long those of the others took.
func (p *Props) ExposeAlong(ctx context.Context, moments []Moment, width, height int, o Options) (f *Film, spare time.Duration, err error) {
	s, err := NewScene(moments[0].Scene, p)
	if err != nil {
		return nil, 0, err
	}
	o.Denoise = true
	q, threads, err := s.ready(width, &o)
	if err != nil {
		return nil, 0, err
	}
	names := make([]string, len(moments))
	for i, m := range moments {
		names[i] = fmt.Sprintf("%s %d %d %d %s %g %d %v", m.Scene.Fingerprint(), m.Phase, width, height, o.Quality, o.Noise, o.Samples, o.Passes)
	}
	f, err = s.inStrips(width, height, o, func(k int, progress func(float64)) (*Film, error) {
		list := make([]*exposure, len(moments))
		lacks, made := 0, 0
		for i := range names {
			if !p.exposures.has(fmt.Sprint(names[i], " ", k)) {
				lacks++
			}
		}
		for i, m := range moments {
			start := time.Now()
			list[i], err = p.exposures.get(fmt.Sprint(names[i], " ", k), Strips(width, height), func() (*exposure, error) {
				defer func() { made++ }()
				return p.exposure(ctx, s, m, i == 0, width, height, k, o, q, threads, func(share float64) {
					if progress != nil {
						progress(min(1, (float64(made)+share)/float64(max(1, lacks))))
					}
				})
			})
			if err != nil {
				return nil, err
			}
			if i > 0 {
				spare += time.Since(start)
			}
		}
		f := list[0].along(ctx, list[1:], threads)
		f.denoise(ctx, threads)
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		return s.trimmed(f, k, o)
	})
	if err != nil {
		return nil, 0, err
	}
	s.annotate(f)
	return f, spare, nil
}

// exposure takes the samples of a strip of a moment; s is the scene of the first.
func (p *Props) exposure(ctx context.Context, s *Scene, m Moment, first bool, width, height, k int, o Options, q settings, threads int, progress func(float64)) (*exposure, error) {
	if !first {
		var err error
		if s, err = NewScene(m.Scene, p); err != nil {
			return nil, err
		}
	}
	q.phase = uint32(m.Phase)
	f, err := s.sampled(ctx, width, height, k, o, q, threads, progress)
	if err != nil {
		return nil, err
	}
	e := &exposure{film: f, from: m.Scene, camera: s.camera, phase: m.Phase, spread: make([]float32, len(f.guides.cover))}
	e.anchors = s.newAnchors(ctx, f, m.Scene, threads)
	f.guides.spreads(ctx, f.Width, f.Height, threads, e.spread)
	return e, ctx.Err()
}

// exposures are kept for the pictures beside theirs, the last first, by all that they depend on.
type exposures struct {
	mu   sync.Mutex
	list []kept
}

type kept struct {
	name string
	*exposure
}

// keptPictures are kept at a time: those of a picture and its neighbours, and one more, since of the next picture the new neighbour
// may be exposed before the old one is asked for.
const keptPictures = 4

func (x *exposures) has(name string) bool {
	x.mu.Lock()
	defer x.mu.Unlock()
	return slices.ContainsFunc(x.list, func(k kept) bool { return k.name == name })
}

// get returns what has a name, or makes it. Of so many strips each picture has as many exposures.
func (x *exposures) get(name string, strips int, make func() (*exposure, error)) (*exposure, error) {
	x.mu.Lock()
	for i, k := range x.list {
		if k.name == name {
			copy(x.list[1:], x.list[:i])
			x.list[0] = k
			x.mu.Unlock()
			return k.exposure, nil
		}
	}
	x.mu.Unlock()
	e, err := make()
	if err != nil {
		return nil, err
	}
	x.mu.Lock()
	defer x.mu.Unlock()
	x.list = append([]kept{{name, e}}, x.list...)
	x.list = x.list[:min(len(x.list), keptPictures*strips)]
	return e, nil
}

// forget lets go of what is kept for pictures that follow.
func (x *exposures) forget() {
	x.mu.Lock()
	defer x.mu.Unlock()
	x.list = nil
}
