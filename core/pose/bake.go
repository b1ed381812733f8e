package pose

import (
	"runtime"
	"sync"

	"perigyre/core/geom"
)

// Bake is the motion of a shot, frame by frame, ready to be played back.
type Bake struct {
	Frames   int
	Animated []int         // parts, by index, whose matrix changes
	Still    []geom.Mat4   // world matrix of every part on frame 0
	World    [][]geom.Mat4 // for each frame the matrices of the animated parts, in the same order
}

// Bake evaluates every frame, on all processors.
func (e *Evaluator) Bake() *Bake {
	b := &Bake{Frames: e.Shot.Frames, Still: e.At(0), World: make([][]geom.Mat4, e.Shot.Frames)}
	for i, c := range e.Carrier() {
		if c >= 0 {
			b.Animated = append(b.Animated, i)
		}
	}
	var next sync.Mutex
	frame := 0
	var wg sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			for {
				next.Lock()
				f := frame
				frame++
				next.Unlock()
				if f >= b.Frames {
					return
				}
				world := e.At(float64(f))
				row := make([]geom.Mat4, len(b.Animated))
				for k, i := range b.Animated {
					row[k] = world[i]
				}
				b.World[f] = row
			}
		})
	}
	wg.Wait()
	return b
}
