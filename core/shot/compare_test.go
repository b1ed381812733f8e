package shot

import (
	"slices"
	"testing"
)

// Of things that have the same name each is compared with the one of its place; what goes, comes or changes places is told by name.
func TestComparingListsOfThings(t *testing.T) {
	rig := func(name string, lights ...string) Rig {
		r := Rig{Name: name}
		for _, l := range lights {
			r.Lights = append(r.Lights, RigLight{Name: l, High: 30})
		}
		return r
	}
	a := &Shot{Rigs: []Rig{rig("Soft", "Key"), rig("Soft", "Rim"), rig("Hard", "Sun")}}
	b := &Shot{Rigs: []Rig{rig("Hard", "Sun"), rig("Soft", "Key"), rig("Soft", "Rim"), rig("Lighting of mine")}}
	b.Rigs[2].Lights[0].High = 45
	want := []string{"Lighting Soft: lights 1 high 45 instead of 30.", "Lighting of mine is new.", "The lightings are in another order."}
	if got := Compare(a, b); !slices.Equal(got, want) {
		t.Errorf("%q", got)
	}
	if got := Compare(b, a); !slices.Contains(got, "Lighting of mine is gone.") {
		t.Errorf("%q", got)
	}
}
