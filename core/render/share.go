package render

import (
	"context"
	"sync/atomic"

	"github.com/sourcegraph/conc"
)

// shareOut has threads take n pieces of work in turn, until the context ends. Start makes what does them on a thread.
func shareOut(ctx context.Context, threads, n int, start func() (do func(k int))) {
	var next atomic.Int64
	var all conc.WaitGroup
	for range min(threads, n) {
		all.Go(func() {
			do := start()
			for k := int(next.Add(1)) - 1; k < n && ctx.Err() == nil; k = int(next.Add(1)) - 1 {
				do(k)
			}
		})
	}
	all.Wait()
}

// eachRow is shareOut of the rows of a picture.
func eachRow(ctx context.Context, threads, height int, do func(y int)) {
	shareOut(ctx, threads, height, func() func(int) { return do })
}
