package library

import (
	"context"
	"fmt"
	"runtime"
	"runtime/metrics"
	"time"

	"perigyre/core/model"
)

// budget ends the context, with the reason, once this program holds more memory than the limits say beyond what it held when
// the work began. It is asked for ten times a second: what is asked for at once in one piece is bound by the other limits.
func budget(ctx context.Context, limits model.Limits) (context.Context, func()) {
	ctx, cancel := context.WithCancelCause(ctx)
	if limits.Memory <= 0 {
		return ctx, func() { cancel(nil) }
	}
	began := held()
	tick := time.NewTicker(100 * time.Millisecond)
	go func() {
		defer tick.Stop()
		for {
			select {
			case <-ctx.Done():
				return
			case <-tick.C:
				if held() <= began+uint64(limits.Memory) {
					continue
				}
				if runtime.GC(); held() > began+uint64(limits.Memory) {
					cancel(fmt.Errorf("it takes more memory than the %d MB that --max-memory allows; make it simpler before it is exported, or allow more", limits.Memory>>20))
					return
				}
			}
		}
	}()
	return ctx, func() { cancel(nil) }
}

// held returns how many bytes of objects the program holds, those included that are not used any more but not yet swept.
func held() uint64 {
	s := []metrics.Sample{{Name: "/memory/classes/heap/objects:bytes"}}
	metrics.Read(s)
	return s[0].Value.Uint64()
}
