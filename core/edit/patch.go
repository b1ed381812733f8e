package edit

import (
	"bytes"
	"encoding/json"
	"fmt"

	jsonpatch "github.com/evanphx/json-patch/v5"
)

// Patch is a JSON Merge Patch (RFC 7396): it names the fields that change; null takes one away, lists are replaced as a
// whole.
type Patch json.RawMessage

// MarshalJSON writes the patch as it is.
func (p Patch) MarshalJSON() ([]byte, error) { return json.RawMessage(p).MarshalJSON() }

// UnmarshalJSON takes the patch as it is; what it says is looked at when it is merged.
func (p *Patch) UnmarshalJSON(b []byte) error {
	*p = append((*p)[:0], b...)
	return nil
}

// merge changes what of points to. Fields that it has not, and values that they cannot have, are errors.
func (p Patch) merge(of any, what string) error {
	if t := bytes.TrimSpace(p); len(t) == 0 || t[0] != '{' {
		return fmt.Errorf("what is to change of the %s is an object with the fields that change", what)
	}
	was, err := json.Marshal(of)
	if err != nil {
		return err
	}
	now, err := jsonpatch.MergePatch(was, p)
	if err != nil {
		return fmt.Errorf("what is to change of the %s cannot be read", what)
	}
	d := json.NewDecoder(bytes.NewReader(now))
	d.DisallowUnknownFields()
	if err := d.Decode(of); err != nil {
		return &DecodeError{what, err}
	}
	return nil
}
