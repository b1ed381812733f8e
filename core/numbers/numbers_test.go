package numbers

import (
	"encoding/json"
	"testing"
)

type size struct{ Width int }

type own struct{}

func (*own) UnmarshalJSON([]byte) error { return nil }

// Null is taken where it can be left out, and nowhere that a number has to be.
func TestMissing(t *testing.T) {
	type all struct {
		size
		From  int                  `json:"from"`
		Share *float64             `json:"share,omitempty"`
		Color *[3]float64          `json:"color"`
		Only  []int                `json:"only"`
		By    map[string][]float32 `json:"by"`
		Sizes []*size              `json:"sizes"`
		Name  string               `json:"name"`
		Own   own                  `json:"own"`
	}
	for text, want := range map[string]string{
		`{"from": 0, "share": null, "color": null, "only": null, "by": null, "sizes": [null], "name": null, "own": null}`: "",
		`{}`:                           "",
		`null`:                         "",
		`{"from": null}`:               "its from is no number",
		`{"FROM": null}`:               "its from is no number",
		`{"Width": null}`:              "its Width is no number",
		`{"color": [1, null, 0]}`:      "its color[1] is no number",
		`{"only": [null]}`:             "its only[0] is no number",
		`{"by": {"x": [0, null]}}`:     "its by.x[1] is no number",
		`{"sizes": [{"Width": null}]}`: "its sizes[0].Width is no number",
		`{"own": {"Width": null}}`:     "",
	} {
		var into all
		if err := json.Unmarshal([]byte(text), &into); err != nil {
			t.Fatalf("%s: %v", text, err)
		}
		got := ""
		if err := Missing([]byte(text), &into); err != nil {
			got = err.Error()
		}
		if got != want {
			t.Errorf("%s: %q, want %q", text, got, want)
		}
	}
}
