package server

import (
	"encoding/json"
	"sync"
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
