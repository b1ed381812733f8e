// Package edit is the one door for changes of a document: everything that a button or a command changes is an edit, a file
// each, and goes through Apply. An edit names only what it changes.
package edit

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"perigyre/core/numbers"
)

// Change is what one edit asks for. It is decoded from foreign JSON and looks at all of it before it believes it.
type Change interface {
	// Do changes the work's document and returns words for the history. After an error the document is thrown away.
	Do(w *Work) (words string, err error)
}

// Edit is a change with its name, as it goes over the wire: {"rename": {"name": "Front"}}.
type Edit struct{ Change }

// kind is a kind of edit.
type kind struct {
	name  string
	blank func() Change
}

var kinds = map[string]kind{}

// Register makes a kind of edit known under a name. The type is a pointer to a struct.
func Register[T any, P interface {
	*T
	Change
}](name string) {
	kinds[name] = kind{name, func() Change { return P(new(T)) }}
}

// Kinds returns the names of all kinds of edits with an empty change of each.
func Kinds() map[string]Change {
	out := map[string]Change{}
	for name, k := range kinds {
		out[name] = k.blank()
	}
	return out
}

// Name returns the name of an edit's kind.
func (e Edit) Name() string {
	want := fmt.Sprintf("%T", e.Change)
	for name, k := range kinds {
		if fmt.Sprintf("%T", k.blank()) == want {
			return name
		}
	}
	return ""
}

// MarshalJSON writes the edit under its kind's name.
func (e Edit) MarshalJSON() ([]byte, error) {
	return json.Marshal(map[string]Change{e.Name(): e.Change})
}

// UnmarshalJSON reads an edit. One of no kind, or of several, and fields that its kind has not, are errors.
func (e *Edit) UnmarshalJSON(b []byte) error {
	var all map[string]json.RawMessage
	if err := json.Unmarshal(b, &all); err != nil {
		return fmt.Errorf("an edit is an object with the name of its kind: %w", err)
	}
	if len(all) != 1 {
		return fmt.Errorf("an edit says one thing to change, not %d", len(all))
	}
	for name, data := range all {
		k, ok := kinds[name]
		if !ok {
			return fmt.Errorf("there is no edit %q; there are %q", name, slices.Sorted(maps.Keys(kinds)))
		}
		c := k.blank()
		d := json.NewDecoder(bytes.NewReader(data))
		d.DisallowUnknownFields()
		if err := d.Decode(c); err != nil {
			return &DecodeError{name, err}
		}
		if err := numbers.Missing(data, c); err != nil {
			return &DecodeError{name, err}
		}
		e.Change = c
	}
	return nil
}

// DecodeError is an edit that cannot be read.
type DecodeError struct {
	Edit string // the name of its kind
	Err  error
}

func (e *DecodeError) Error() string {
	what := "it is not what is expected there"
	switch err := e.Err.(type) {
	case *json.UnmarshalTypeError:
		if err.Field != "" {
			what = fmt.Sprintf("its %s is a %s, which it cannot be", err.Field, err.Value)
		}
	case *json.SyntaxError:
	default:
		what = strings.TrimPrefix(e.Err.Error(), "json: ")
	}
	return fmt.Sprintf("the edit %s cannot be read: %s", e.Edit, what)
}

func (e *DecodeError) Unwrap() error { return e.Err }
