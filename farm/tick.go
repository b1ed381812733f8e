package farm

import (
	"cmp"
	"maps"
	"slices"
	"time"
)

// tick looks once a second after what does not go on by itself.
func (b *Boss) tick() {
	t := time.NewTicker(time.Second)
	defer t.Stop()
	for {
		select {
		case <-b.ctx.Done():
			return
		case <-t.C:
		}
		b.mu.Lock()
		now := time.Now()
		for _, w := range b.waits {
			b.sift(w, now, "")
			b.settle(w)
		}
		lost := b.lost(now)
		idle := b.idle(now)
		changed := b.changed
		b.changed = false
		b.mu.Unlock()
		var queued map[string]bool
		if len(lost) > 0 {
			queued = b.queued(b.ctx)
		}
		for _, w := range lost {
			if !queued[w.key] {
				b.mu.Lock()
				not := ""
				if len(w.results) > 0 {
					not = w.results[0].Worker
				}
				b.again(w, not)
				b.mu.Unlock()
			}
		}
		if idle != nil {
			b.mu.Lock()
			idle.twice = true
			b.again(idle, "")
			b.mu.Unlock()
		}
		if changed && b.tell != nil {
			b.tell()
		}
	}
}

// lost are orders that nobody draws, of which nothing came, or one result where two are wanted, and that were asked for a while ago:
// they are asked for again unless they are in the queue. The caller holds the lock.
func (b *Boss) lost(now time.Time) (out []*wait) {
	on := map[string]bool{}
	for _, m := range b.members {
		if now.Sub(m.seen) < gone {
			on[m.On] = true
		}
	}
	for key, w := range b.waits {
		if wanted := len(w.results) == 0 || w.twice && len(w.results) < 2; wanted && !on[key] && now.Sub(w.asked) > 3*time.Second {
			w.asked = now
			out = append(out, w)
		}
	}
	return out
}

// idle returns an order that takes so long that a worker that waits may be done with it first: more than twice what it would
// take there. The caller holds the lock.
func (b *Boss) idle(now time.Time) *wait {
	waiting := slices.Collect(maps.Values(b.members))
	waiting = slices.DeleteFunc(waiting, func(m *member) bool { return !b.usable(m, now) || m.On != "" })
	if len(waiting) == 0 {
		return nil
	}
	var oldest *wait
	for _, w := range b.waits {
		if len(w.results) == 0 && !w.twice && (oldest == nil || w.since.Before(oldest.since)) {
			oldest = w
		}
	}
	if oldest == nil {
		return nil
	}
	var share, speed float64
	for _, m := range b.members {
		if m.On == oldest.key {
			share, speed = m.Share, b.speed(m)
		}
	}
	if now.Sub(oldest.since) < patience {
		return nil
	}
	if speed == 0 { // nobody draws it, but one may have taken it with others
		if len(oldest.order.Beside) > 0 && now.Sub(oldest.asked) > 2*patience {
			return oldest
		}
		return nil
	}
	best := slices.MaxFunc(waiting, func(a, c *member) int { return cmp.Compare(b.speed(a), b.speed(c)) })
	if left, anew := (1-share)/speed, 1/max(0.001, b.speed(best)); left < 2*anew {
		return nil
	}
	return oldest
}
