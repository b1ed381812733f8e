package server

import (
	"encoding/json"
	"sync"
	"time"
)

// hub passes events to every open window.
type hub struct {
	mu      sync.Mutex
	windows map[chan []byte]bool
	closed  bool
}

// send never waits: a window that does not keep up is cut off, connects again and asks anew.
func (h *hub) send(e Event) {
	b, err := json.Marshal(e)
	if err != nil {
		return
	}
	h.mu.Lock()
	defer h.mu.Unlock()
	for w := range h.windows {
		select {
		case w <- b:
		default:
			delete(h.windows, w)
			close(w)
		}
	}
}

// stepTime is how far apart the shares of one step are told: windows that are sent each of thousands do not keep up.
const stepTime = 150 * time.Millisecond

// steps returns what sends the share of a step that is done, from any thread; the first of each step at once.
func (h *hub) steps(event func(doing string, share float64) Event) func(doing string, share float64) {
	var mu sync.Mutex
	var last time.Time
	var was string
	return func(doing string, share float64) {
		mu.Lock()
		defer mu.Unlock()
		if now := time.Now(); last.IsZero() || doing != was || now.Sub(last) > stepTime {
			last, was = now, doing
			h.send(event(doing, share))
		}
	}
}

func (h *hub) join() chan []byte {
	w := make(chan []byte, 256)
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.closed {
		close(w)
		return w
	}
	if h.windows == nil {
		h.windows = map[chan []byte]bool{}
	}
	h.windows[w] = true
	return w
}

func (h *hub) leave(w chan []byte) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.windows[w] {
		delete(h.windows, w)
		close(w)
	}
}

func (h *hub) close() {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.closed = true
	for w := range h.windows {
		delete(h.windows, w)
		close(w)
	}
}
