package edit

import (
	"slices"
	"strings"

	"perigyre/core/shot"
)

// Accept lets something that was found stay, for a reason; or takes that back.
type Accept struct {
	shot.Accepted
	Undo bool `json:"undo,omitempty"`
}

func init() { Register[Accept]("accept") }

// Touches implements Toucher.
func (e *Accept) Touches() []Touch { return nil } // it does no harm to others

// Do implements Change.
func (e *Accept) Do(w *Work) (string, error) {
	s := w.Shot
	for _, id := range e.Parts {
		if w.Index().Part(id) < 0 {
			return "", ErrGone
		}
	}
	s.Accepted = slices.DeleteFunc(slices.Clone(s.Accepted), func(a shot.Accepted) bool { return a.Kind == e.Kind && slices.Equal(a.Parts, e.Parts) })
	if e.Undo {
		return "Look at it again", nil
	}
	a := e.Accepted
	if a.Reason = strings.TrimSpace(a.Reason); a.Parts == nil {
		a.Parts = []string{}
	}
	s.Accepted = append(s.Accepted, a)
	return "Accept what was found", nil
}
