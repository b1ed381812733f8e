package upgrade

import (
	"encoding/json"
	"math"
	"os"
	"testing"

	"perigyre/core/pose"
	"perigyre/core/shot"
)

// A document of the first version, of parts in a group of 1 : 1000 that slide, roll, travel, float, bend and carry on over
// the seam, stands where the program that saved it had it: first.matrices.json has what that program's bake command wrote
// of first.json, to twelve places.
func TestTheFirstVersionStandsWhereItStood(t *testing.T) {
	text, err := os.ReadFile("testdata/first.json")
	if err != nil {
		t.Fatal(err)
	}
	s, err := Read(text)
	if err != nil {
		t.Fatal(err)
	}
	want := map[string]map[int][16]float64{}
	b, err := os.ReadFile("testdata/first.matrices.json")
	if err != nil || json.Unmarshal(b, &want) != nil {
		t.Fatal(err)
	}
	if s.Schema != shot.Schema || len(want) != len(s.Parts) {
		t.Fatalf("it is a %s with %d parts", s.Schema, len(s.Parts))
	}
	e := pose.New(s)
	for name, frames := range want {
		for f, m := range frames {
			for i, p := range s.Parts {
				if p.Name != name {
					continue
				}
				for k, v := range e.At(float64(f))[i] {
					if math.Abs(v-m[k]) > 2e-12 {
						t.Errorf("%s on frame %d stands at %v, not at %v", name, f, e.At(float64(f))[i], m)
						break
					}
				}
			}
		}
	}
	// What is read once reads the same again.
	now, _ := json.Marshal(s)
	again, err := Read(now)
	if err != nil {
		t.Fatal(err)
	}
	if twice, _ := json.Marshal(again); string(twice) != string(now) {
		t.Error("read a second time it is another document")
	}
}
