package farm

import (
	"strings"
	"time"
	"unicode"

	"perigyre/core/render/bvh"
	"perigyre/runs"
)

// Wishes of a worker.
const (
	Work  = "work"
	Pause = "pause" // takes nothing, and gives back what it draws
	Drain = "drain" // ends what it draws and takes no more
)

// States of a worker.
const (
	Waiting  = "waiting"
	Drawing  = "drawing"
	Paused   = "paused"
	Draining = "draining"
	Drained  = "drained"
	Away     = "away"    // nothing was heard of it for a while
	Refused  = "refused" // its pictures are not used; why is said
	Trying   = "trying"  // it draws the reference picture
)

// Member is a worker as the page of workers shows it.
type Member struct {
	ID         string  `json:"id"`
	Name       string  `json:"name"`
	Here       bool    `json:"here"` // it is this program itself
	Processors int     `json:"processors"`
	Kernel     string  `json:"kernel"`
	Speed      float64 `json:"speed"`     // as a multiple of this machine's; 0 for unknown
	Reference  int64   `json:"reference"` // milliseconds that it took for it
	State      string  `json:"state"`
	Wish       string  `json:"wish"`
	Why        string  `json:"why"` // a sentence, where it is refused
	On         string  `json:"on"`  // the file that it draws
	Share      float64 `json:"share"`
	Done       int     `json:"done"`  // frames and strips that were used
	Seen       float64 `json:"seen"`  // seconds since it was heard of
	Clock      float64 `json:"clock"` // seconds that its clock is ahead
}

// beat is what a worker says every second.
type beat struct {
	ID         string  `json:"id"`
	Name       string  `json:"name"`
	Processors int     `json:"processors"`
	Kernel     string  `json:"kernel"`
	Program    string  `json:"program"`
	Hash       string  `json:"hash"`   // of the last reference picture, empty before the first
	Millis     int64   `json:"millis"` // the least that one took
	Tests      int     `json:"tests"`  // reference pictures so far
	Testing    bool    `json:"testing"`
	On         string  `json:"on"` // name of the order, empty for none
	Share      float64 `json:"share"`
	Wish       string  `json:"wish"` // that it follows, and the program whose that is
	By         string  `json:"by"`
	At         int64   `json:"at"` // by its clock, milliseconds since 1970
}

// answer is what the first program wishes.
type answer struct {
	From  string `json:"from"` // the program's id
	Wish  string `json:"wish"` // empty where it is refused
	Why   string `json:"why"`
	Takes int    `json:"takes"` // how many orders it is to take at a time
}

// member is what the first program knows of a worker.
type member struct {
	beat
	here    bool
	wish    string
	refused string
	passed  int // how many tests it has passed: what it drew before the last of them is as it should be
	done    int
	pace    pace
	seen    time.Time // by this machine's clock
	ahead   time.Duration
}

// thisMachine is what the first program calls its own worker.
const thisMachine = "This machine"

func (m *member) name() string {
	if m.here {
		return thisMachine
	}
	return m.Name
}

// gone is after how long a worker is away.
const gone = 12 * time.Second

// maxMembers are kept.
const maxMembers = 2000

// cut bounds a word that comes from another machine, and leaves out what cannot be seen.
func cut(s string, n int) string {
	s = strings.Map(func(r rune) rune {
		if !unicode.IsPrint(r) {
			return -1
		}
		return r
	}, s)
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}

// hear takes a beat and returns what the worker is told. The caller holds the lock.
func (b *Boss) hear(m beat, now time.Time) (a answer) {
	defer func() { a.From = b.id }()
	m.Name, m.Kernel, m.Program, m.Hash = cut(m.Name, 60), cut(m.Kernel, 80), cut(m.Program, 64), cut(m.Hash, 64)
	if !properID(m.ID) {
		return answer{Why: "its name is not one that a worker gives itself"}
	}
	m.On = strings.TrimPrefix(cut(m.On, 120), b.id+".")
	m.Processors, m.Millis, m.Share = min(max(m.Processors, 0), 4096), min(max(m.Millis, 0), 1<<32), min(max(m.Share, 0), 1)
	w, ok := b.members[m.ID]
	if !ok {
		if len(b.members) >= maxMembers {
			return answer{Why: "there are too many workers"}
		}
		w = &member{beat: m, wish: Work, here: b.local != nil && m.ID == b.local.id}
		if was, ok := b.wishes[w.name()]; ok {
			w.wish = was
		}
		b.members[m.ID] = w
	}
	w.beat, w.seen = m, now
	for id, o := range b.members { // it was started again
		if o.Name == m.Name && id != m.ID && now.Sub(o.seen) > gone && !o.here {
			w.done += o.done
			delete(b.members, id)
		}
	}
	w.ahead = time.UnixMilli(m.At).Sub(now)
	switch {
	case w.here:
		w.passed = m.Tests
		if m.Millis > 0 && m.Millis < b.millis {
			b.millis = m.Millis // it was busy when it began
		}
	case w.refused != "":
	case m.Program != runs.Program():
		w.refused = "it is another build of Perigyre than this one: give it the same program, so that its pictures are the same"
	case m.Hash == "" || b.hash == "":
	case m.Hash != b.hash:
		w.refused = "the reference picture that it draws differs from this machine's"
		if m.Kernel != bvh.Kernel() {
			w.refused += "; it traces rays with another kernel (" + m.Kernel + ")"
		}
		b.distrust(m.ID)
	default:
		w.passed = max(w.passed, m.Tests)
	}
	if w.refused != "" {
		return answer{Why: w.refused}
	}
	return answer{Wish: w.wish, Takes: b.takes()}
}

// properID reports whether an id is of the kind that workers give themselves, and can be part of a name on the queue.
func properID(id string) bool {
	if len(id) < 4 || len(id) > 40 {
		return false
	}
	for _, r := range id {
		if !(r >= 'a' && r <= 'z' || r >= '0' && r <= '9') {
			return false
		}
	}
	return true
}

// usable reports whether what it draws is wanted.
func (b *Boss) usable(m *member, now time.Time) bool {
	return m.refused == "" && b.follows(m) == Work && now.Sub(m.seen) < gone && (m.here || m.passed > 0)
}

// follows is what a worker does: what is wished here, or that it rests because another first program on the queue wishes it.
func (b *Boss) follows(m *member) string {
	if m.wish == Work && m.By != b.id && (m.Wish == Pause || m.Wish == Drain) {
		return m.Wish
	}
	return m.wish
}

// speed of a worker as a multiple of this machine's: by the frames of a run that both have drawn, and before there are any by the
// reference picture. It is 0 where neither is known.
func (b *Boss) speed(m *member) float64 {
	if b.local != nil {
		if own := b.members[b.local.id]; own != nil {
			if v := m.pace.over(&own.pace); v > 0 {
				return v
			}
		}
	}
	if m.Millis <= 0 || b.millis <= 0 {
		return 0
	}
	return float64(b.millis) / float64(m.Millis)
}

// state of a worker.
func (b *Boss) state(m *member, now time.Time) string {
	wish := b.follows(m)
	switch {
	case now.Sub(m.seen) >= gone:
		return Away
	case m.refused != "":
		return Refused
	case wish == Pause:
		return Paused
	case wish == Drain && m.On == "":
		return Drained
	case wish == Drain:
		return Draining
	case m.Hash == "" || m.Testing:
		return Trying
	case m.On != "":
		return Drawing
	}
	return Waiting
}
