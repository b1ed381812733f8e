package check

import (
	"encoding/json"
	"sync"

	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Memory keeps which meshes are open, and what passed through what in the last few documents, which takes the longest to find out, by what that depends on:
// an edit of a look, a light, a lens or a name leaves it as it is. nil keeps nothing. It may be used from several goroutines.
type Memory struct {
	mu   sync.Mutex
	last []passed
	open map[any]bool // of meshes, by reference or by the key of a shape: whether they have open edges
}

type passed struct {
	key   string
	met   []met
	whole bool
}

const maxMemories = 8

// motionOf is all of a document that tells where its surfaces are over time.
func motionOf(s *shot.Shot) string {
	type part struct {
		ID, Parent string
		Kind       shot.PartKind
		Rest, Mesh any
		Pivot      any
		Hidden     bool
		Set        bool
		Moves      []shot.Move
		Tracks     []shot.Track
		Shape      any
		Copies     any
		Camera     bool
	}
	out := struct {
		Frames int
		Rate   any
		Ending shot.Ending
		Parts  []part
	}{Frames: s.Frames, Rate: s.Rate, Ending: s.Ending}
	for i := range s.Parts {
		p := &s.Parts[i]
		out.Parts = append(out.Parts, part{p.ID, p.Parent, p.Kind, p.Rest, p.Mesh, p.Pivot, p.Hidden, p.Set, p.Moves, p.Tracks, p.Shaped(), p.Copies, p.Camera != nil})
	}
	text, err := json.Marshal(out)
	if err != nil {
		return ""
	}
	return string(text)
}

// met finds what passes through what in a document, or remembers it.
func (f *Facts) met(e *pose.Evaluator) ([]met, bool) {
	m := f.memory
	if m == nil {
		return f.meetings(e, nil)
	}
	key := motionOf(e.Shot)
	m.mu.Lock()
	for _, p := range m.last {
		if p.key == key && key != "" {
			m.mu.Unlock()
			return p.met, p.whole
		}
	}
	m.mu.Unlock()
	list, whole := f.meetings(e, nil)
	if f.ctx.Err() == nil {
		m.mu.Lock()
		if m.last = append(m.last, passed{key, list, whole}); len(m.last) > maxMemories {
			m.last = m.last[1:]
		}
		m.mu.Unlock()
	}
	return list, whole
}
