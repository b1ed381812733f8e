// Package numbers looks after numbers in JSON (RFC 8259), which has none that are not finite: what a browser makes of those is null,
// and Go takes null for a number as 0.
package numbers

import (
	"encoding/json"
	"fmt"
	"reflect"
	"strings"
)

// Missing returns an error that names the first place of a text, in JSON that has been read into a value, where null stands for a
// number. Values that read themselves look after their own.
func Missing(text []byte, into any) error {
	var all any
	if err := json.Unmarshal(text, &all); err != nil {
		return err
	}
	return missing(all, reflect.TypeOf(into), "")
}

var reads = reflect.TypeFor[json.Unmarshaler]()

func missing(v any, t reflect.Type, at string) error {
	for ; t.Kind() == reflect.Pointer; t = t.Elem() {
		if v == nil && at != "" {
			return nil // may be left out
		}
	}
	if reflect.PointerTo(t).Implements(reads) {
		return nil
	}
	switch k := t.Kind(); {
	case k >= reflect.Int && k <= reflect.Float64 && v == nil:
		return fmt.Errorf("its %s is no number", at)
	case k == reflect.Struct:
		fields, _ := v.(map[string]any)
		for i := range t.NumField() {
			f := t.Field(i)
			name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
			if f.Anonymous && name == "" {
				if err := missing(v, f.Type, at); err != nil {
					return err
				}
				continue
			}
			if name == "" {
				name = f.Name
			}
			for key, x := range fields {
				if !strings.EqualFold(key, name) { // as Go reads them
					continue
				}
				if err := missing(x, f.Type, join(at, name)); err != nil {
					return err
				}
			}
		}
	case k == reflect.Slice || k == reflect.Array:
		list, _ := v.([]any)
		for i, x := range list {
			if err := missing(x, t.Elem(), fmt.Sprintf("%s[%d]", at, i)); err != nil {
				return err
			}
		}
	case k == reflect.Map:
		fields, _ := v.(map[string]any)
		for name, x := range fields {
			if err := missing(x, t.Elem(), join(at, name)); err != nil {
				return err
			}
		}
	}
	return nil
}

func join(at, name string) string { return strings.TrimPrefix(at+"."+name, ".") }
