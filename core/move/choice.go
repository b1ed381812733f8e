package move

import (
	"encoding/json"
	"fmt"
)

// chosen is one of two values of a choice.
func chosen(yes bool, is, not string) string {
	if yes {
		return is
	}
	return not
}

// choose is the setting of a choice that is no single field.
func choose[T any](set func(m *T, v string, s *Subject)) func(m *T, raw json.RawMessage, s *Subject) error {
	return func(m *T, raw json.RawMessage, s *Subject) error {
		var v string
		if err := json.Unmarshal(raw, &v); err != nil {
			return fmt.Errorf("a choice is a word, not %s", raw)
		}
		set(m, v, s)
		return nil
	}
}
