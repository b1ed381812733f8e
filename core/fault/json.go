package fault

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
)

// JSON says what is wrong with a JSON text in words of the text: where it cannot be read, or what kind of value stands where
// another belongs. Other errors come back as they are.
func JSON(err error) error {
	var kind *json.UnmarshalTypeError
	var syntax *json.SyntaxError
	switch {
	case errors.As(err, &kind):
		at := kind.Field
		if at == "" {
			at = "its top"
		}
		return fmt.Errorf("at %s it has %s where %s belongs (byte %d)", at, article(kind.Value), belongs(kind.Type.Kind().String()), kind.Offset)
	case errors.As(err, &syntax):
		return fmt.Errorf("it is no valid JSON from byte %d on (%s)", syntax.Offset, syntax.Error())
	case errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF):
		return errors.New("its JSON breaks off")
	}
	return err
}

func article(value string) string {
	switch first, _, _ := strings.Cut(value, " "); first {
	case "array", "object":
		return "an " + first
	case "number":
		return "the " + value // with its digits
	case "bool":
		return "true or false"
	default:
		return "a " + first
	}
}

func belongs(kind string) string {
	switch {
	case strings.HasPrefix(kind, "int"), strings.HasPrefix(kind, "uint"):
		return "a whole number within its limits"
	case strings.HasPrefix(kind, "float"):
		return "a number"
	case kind == "slice" || kind == "array":
		return "an array"
	case kind == "struct" || kind == "map":
		return "an object"
	case kind == "bool":
		return "true or false"
	}
	return "a text"
}
