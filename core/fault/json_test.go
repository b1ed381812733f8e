package fault

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"
)

// What is wrong with JSON is said of the text, and nothing of the program that reads it.
func TestJSONSentences(t *testing.T) {
	var into struct {
		Parts []struct {
			Count int     `json:"count"`
			Size  float64 `json:"size"`
			Name  string  `json:"name"`
			On    bool    `json:"on"`
		} `json:"parts"`
	}
	for text, says := range map[string]string{
		`{"parts": 3}`:                 "at parts it has the number where an array belongs",
		`{"parts": [{"count": "a"}]}`:  "it has a string where a whole number within its limits belongs",
		`{"parts": [{"count": 1e40}]}`: "it has the number 1e40 where a whole number",
		`{"parts": [{"size": [1]}]}`:   "it has an array where a number belongs",
		`{"parts": [{"name": {}}]}`:    "it has an object where a text belongs",
		`{"parts": [{"on": 1}]}`:       "where true or false belongs",
		`{"parts": [`:                  "byte",
		`{"parts": [}`:                 "no valid JSON from byte 12",
		`[]`:                           "at its top it has an array where an object belongs",
	} {
		err := JSON(json.Unmarshal([]byte(text), &into))
		if err == nil || !strings.Contains(err.Error(), says) || strings.Contains(err.Error(), "Go ") {
			t.Errorf("%s: %v, want something with %q", text, err, says)
		}
	}
	other := errors.New("other")
	if JSON(other) != other || JSON(nil) != nil {
		t.Error("other errors are changed")
	}
}
