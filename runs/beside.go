package runs

import (
	"context"
	"runtime"
	"slices"
	"sync"
	"sync/atomic"

	"github.com/sourcegraph/conc/pool"

	"perigyre/core/fault"
	"perigyre/core/pose"
	"perigyre/core/render"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

// A frame's neighbours are the frame before it and the one after, in a loop across its seam; at the ends of a shot that is none, two
// on the one side. What still regions of the picture look like then does not change from frame to frame if each of these threes has
// the same noise in it: samples have as many phases as go into the loop evenly.

// phases returns how many phases the samples of a shot's frames have.
func phases(d *shot.Shot) int {
	switch {
	case d.Ending != shot.Loop || d.Frames%3 == 0:
		return 3
	case d.Frames%2 == 0:
		return 2 // of the three the outer two have the same, and count half
	}
	return 1
}

// beside returns the phase of a frame and its neighbours: other moments than its own, each once. Frames that show the same have
// the same phase and the same neighbours, in the same order, wherever they are: they are drawn once.
func (p *Plan) beside(frame int, own *scene.Scene) (phase int, list []render.Moment, err error) {
	n := p.Document.Frames
	around := []int{frame - 1, frame + 1}
	switch {
	case p.Document.Ending == shot.Loop:
		around = []int{(frame + n - 1) % n, (frame + 1) % n}
	case frame == 0:
		around = []int{1, 2}
	case frame == n-1:
		around = []int{n - 2, n - 3}
	}
	count := phases(p.Document)
	seen := []string{own.Fingerprint()} // and of the list, in its order
	for _, f := range around {
		if f < 0 || f >= n {
			continue
		}
		sc, err := p.scene(f)
		if err != nil {
			return 0, nil, err
		}
		print := sc.Fingerprint()
		if slices.Contains(seen, print) {
			continue
		}
		first, err := p.first(f)
		if err != nil {
			return 0, nil, err
		}
		seen, list = append(seen, print), append(list, render.Moment{Scene: sc, Phase: first % count})
	}
	if len(list) == 0 {
		return 0, nil, nil // it stands still: the picture is that of a still
	}
	if len(list) == 2 && seen[1] > seen[2] {
		list[0], list[1] = list[1], list[0]
	}
	first, err := p.first(frame)
	return first % count, list, err
}

// first returns the first frame of the shot that shows the same.
func (p *Plan) first(frame int) (int, error) {
	if p.Single {
		return frame, nil
	}
	if err := p.Compare(context.Background(), nil); err != nil {
		return 0, err
	}
	return p.firsts[frame], nil
}

// Compare finds, once, which frames of the shot show the same, where a picture depends on it: all are resolved for that, on all processors,
// and told hears what share of them is.
func (p *Plan) Compare(ctx context.Context, told func(share float64)) (err error) {
	defer fault.Catch(&err)
	if p.firsts != nil || p.Single || !p.Settings.along() {
		return nil
	}
	prints := make([]string, p.Document.Frames)
	var next atomic.Int64
	var tells sync.Mutex
	done := 0
	all := pool.New().WithContext(ctx).WithCancelOnError().WithFirstError()
	for range min(runtime.GOMAXPROCS(0), len(prints)) {
		all.Go(func(ctx context.Context) error {
			own := pose.New(p.Document)
			for f := int(next.Add(1)) - 1; f < len(prints) && ctx.Err() == nil; f = int(next.Add(1)) - 1 {
				sc, err := p.resolve(own, f)
				if err != nil {
					return err
				}
				prints[f] = sc.Fingerprint()
				tells.Lock() // one after the other, so that the share never falls
				if done++; told != nil {
					told(float64(done) / float64(len(prints)))
				}
				tells.Unlock()
			}
			return ctx.Err()
		})
	}
	if err := all.Wait(); err != nil {
		return err
	}
	known := map[string]int{}
	firsts := make([]int, len(prints))
	for f, print := range prints {
		if _, ok := known[print]; !ok {
			known[print] = f
		}
		firsts[f] = known[print]
	}
	p.firsts = firsts
	return nil
}
