package pose

import (
	"runtime"
	"sync/atomic"

	"github.com/sourcegraph/conc"

	"perigyre/core/fault"
	"perigyre/core/geom"
)

// Animated returns the parts, by index, whose matrix may change over the shot.
func (e *Evaluator) Animated() (out []int) {
	for i, c := range e.Carrier() {
		if c >= 0 {
			out = append(out, i)
		}
	}
	return out
}

// Bake evaluates every frame, on all processors, and hands the matrices of all parts on in the order of the frames. No
// more frames are held at a time than a few for each processor. It stops with the first error that visit gives.
func (e *Evaluator) Bake(visit func(frame int, world []geom.Mat4) error) error {
	threads := runtime.GOMAXPROCS(0)
	type baked struct {
		frame int
		world []geom.Mat4
		err   error // a fault of the program
	}
	frames := make(chan baked, threads)
	slots := make(chan struct{}, 4*threads) // frames that are held
	var next atomic.Int64
	stop := make(chan struct{})
	var all conc.WaitGroup
	for range threads {
		all.Go(func() {
			for {
				select {
				case slots <- struct{}{}:
				case <-stop:
					return
				}
				f := int(next.Add(1)) - 1
				if f >= e.Shot.Frames {
					<-slots
					return
				}
				b := baked{frame: f}
				func() {
					defer fault.Catch(&b.err)
					b.world = e.At(float64(f))
				}()
				select {
				case frames <- b:
				case <-stop:
					return
				}
			}
		})
	}
	var err error
	waiting := map[int][]geom.Mat4{}
	for f := 0; f < e.Shot.Frames && err == nil; {
		world, ok := waiting[f]
		if !ok {
			b := <-frames
			waiting[b.frame], err = b.world, b.err
			continue
		}
		delete(waiting, f)
		err = visit(f, world)
		<-slots
		f++
	}
	close(stop)
	all.Wait()
	return err
}
