package edit

import (
	"fmt"
	"strings"

	"perigyre/core/shot"
)

// SetFlags sets the flags that are given.
type SetFlags struct {
	Parts  []string `json:"parts"`
	Hidden *bool    `json:"hidden,omitempty"`
	Away   *bool    `json:"away,omitempty"`
	Locked *bool    `json:"locked,omitempty"`
	Tag    *string  `json:"tag,omitempty"`
}

func init() { Register[SetFlags]("flag") }

// Do implements Change.
func (e *SetFlags) Do(w *Work) (string, error) {
	words := []string{}
	var list []int
	for _, id := range e.Parts {
		i := w.Index().Part(id)
		if i < 0 {
			return "", ErrGone
		}
		list = append(list, i)
	}
	flag := func(v *bool, on, off string, set func(*shot.Part, bool)) {
		if v == nil {
			return
		}
		words = append(words, map[bool]string{true: on, false: off}[*v])
		for _, i := range list {
			set(&w.Shot.Parts[i], *v)
		}
	}
	flag(e.Hidden, "Hide", "Show", func(p *shot.Part, v bool) { p.Hidden = v })
	flag(e.Away, "Put away", "Bring back", func(p *shot.Part, v bool) { p.Away = v })
	flag(e.Locked, "Lock", "Unlock", func(p *shot.Part, v bool) { p.Locked = v })
	if e.Tag != nil {
		words = append(words, "Tag")
		for _, i := range list {
			w.Shot.Parts[i].Tag = *e.Tag
		}
	}
	if len(words) == 0 || len(list) == 0 {
		return "", fmt.Errorf("nothing is set")
	}
	return strings.Join(words, ", ") + " " + w.names(list), nil
}
