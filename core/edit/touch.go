package edit

import (
	"encoding/json"
	"errors"
	"reflect"
	"strings"

	"perigyre/core/move"
	"perigyre/core/shot"
)

// ErrStale is for an edit of something that has been changed since it was seen.
var ErrStale = errors.New("the shot has been changed meanwhile, in another window or by someone else; the edit was not made")

// Touch is a value that an edit sets: of the shot, of a part, or of a move. Field is a path of names in the document,
// parted by dots.
type Touch struct{ Part, Move, Field string }

// Toucher is a change that sets values which others may have set since. What names parts and works from how they stand
// when it is carried out, needs not to be one.
type Toucher interface{ Touches() []Touch }

// Fresh reports whether edits that were made for an older document may be carried out on a newer one: whether all that
// they set is in it as it was. What has been changed by others is never overwritten, and nothing is merged by guess.
func Fresh(list []Edit, older, newer *shot.Shot) bool {
	if older == newer {
		return true
	}
	for _, e := range list {
		t, ok := e.Change.(Toucher)
		if !ok {
			continue
		}
		for _, touch := range t.Touches() {
			if !reflect.DeepEqual(touch.value(older), touch.value(newer)) {
				return false
			}
		}
	}
	return true
}

// value returns what stands there in a document, decoded from its JSON; nil for nothing.
func (t Touch) value(s *shot.Shot) any {
	var of any
	field := t.Field
	switch {
	case t.Move != "":
		p, m := s.Move(t.Move)
		if m == nil {
			return nil
		}
		if name, ok := strings.CutPrefix(field, "values."); ok {
			if n := move.Number(m, name); n != nil {
				return *n
			}
			return move.Values(m, p)[name]
		}
		if name, ok := strings.CutPrefix(field, "pins."); ok {
			return trackOf(m.Pins, name)
		}
		of = m
	case t.Part != "":
		p := s.Part(t.Part)
		if p == nil {
			return nil
		}
		if name, ok := strings.CutPrefix(field, "tracks."); ok {
			return trackOf(p.Tracks, name)
		}
		bare := *p
		bare.Moves, bare.Tracks = nil, nil
		of = bare
	default:
		bare := *s
		bare.Parts, bare.Materials, bare.Sources, bare.Finishes, bare.Angles, bare.Rigs, bare.Accepted = nil, nil, nil, nil, nil, nil, nil
		of = bare
	}
	b, err := json.Marshal(of)
	if err != nil {
		return nil
	}
	var tree any
	if json.Unmarshal(b, &tree) != nil {
		return nil
	}
	for name := range strings.SplitSeq(field, ".") {
		in, ok := tree.(map[string]any)
		if !ok {
			return nil
		}
		tree = in[name]
	}
	return tree
}

func trackOf(list []shot.Track, name string) any {
	for i := range list {
		if string(list[i].Value) == name {
			return list[i]
		}
	}
	return nil
}

// leaves returns the paths to everything that a merge patch sets.
func leaves(patch json.RawMessage, at string) []string {
	var in map[string]json.RawMessage
	if json.Unmarshal(patch, &in) != nil || len(in) == 0 {
		return []string{at}
	}
	var out []string
	for name, v := range in {
		if at != "" {
			name = at + "." + name
		}
		out = append(out, leaves(v, name)...)
	}
	return out
}
