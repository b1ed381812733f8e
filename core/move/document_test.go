package move

import (
	"encoding/json"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"perigyre/core/doctree"
	"perigyre/core/shot"
)

// full gives everything that a document can say some value other than that of nothing: one of each list, behind every pointer.
func full(v reflect.Value, n *int) {
	*n++
	switch v.Kind() {
	case reflect.Pointer:
		v.Set(reflect.New(v.Type().Elem()))
		full(v.Elem(), n)
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() && v.Type().Field(i).Tag.Get("json") != "-" {
				full(v.Field(i), n)
			}
		}
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 1, 1))
		full(v.Index(0), n)
	case reflect.Array:
		for i := range v.Len() {
			full(v.Index(i), n)
		}
	case reflect.String:
		v.SetString(fmt.Sprint("w", *n))
	case reflect.Bool:
		v.SetBool(true)
	case reflect.Int, reflect.Int64, reflect.Int32:
		v.SetInt(int64(*n))
	case reflect.Uint8, reflect.Uint32, reflect.Uint64:
		v.SetUint(uint64(*n % 200))
	case reflect.Float64, reflect.Float32:
		v.SetFloat(float64(*n) + 0.5)
	case reflect.Map:
		v.Set(reflect.MakeMap(v.Type()))
	}
}

// fullShots say everything that a document can: one all but what moves do, and then one of each kind of move.
func fullShots() []*shot.Shot {
	first, n := new(shot.Shot), 0
	full(reflect.ValueOf(first).Elem(), &n)
	move := first.Parts[0].Moves[0]
	first.Parts[0].Moves = nil
	out := []*shot.Shot{first}
	for _, k := range Kinds() {
		m := move.Clone()
		m.Kind, m.Data = k.Name, k.blank()
		full(reflect.ValueOf(m.Data).Elem(), &n)
		out = append(out, &shot.Shot{Parts: []shot.Part{{ID: "p", Name: "P", Moves: []shot.Move{m}}}})
	}
	return out
}

// Whatever number, word or switch of a document is another, comparing two versions says so, however little it is: otherwise the history says
// that they are the same. A part is not the same either, and a copy of a document is. What the server makes from the rest is left out.
func TestEveryDifferenceIsTold(t *testing.T) {
	changed := 0
	for _, s := range fullShots() {
		if said := shot.Compare(s, s.Clone()); len(said) != 0 {
			t.Fatalf("a copy differs: %v", said)
		}
		changed += everyChange(t, s)
	}
	if changed < 1500 {
		t.Errorf("only %d changes", changed)
	}
}

// everyChange makes each change to a document and looks whether it is told. It returns how many there were.
func everyChange(t *testing.T, s *shot.Shot) (changed int) {
	tree, list, err := doctree.Leaves(s)
	if err != nil {
		t.Fatal(err)
	}
	try := func(path string) {
		text, _ := json.Marshal(tree)
		other := new(shot.Shot)
		if json.Unmarshal(text, other) != nil || reflect.DeepEqual(s, other) || strings.Contains(path, ".mark.built") || strings.Contains(path, ".mark.places") {
			return
		}
		changed++
		if len(shot.Compare(s, other)) == 0 {
			t.Errorf("%s: nothing is said", path)
		}
		if len(other.Parts) == 1 && !reflect.DeepEqual(s.Parts, other.Parts) && s.Parts[0].Same(&other.Parts[0]) {
			t.Errorf("%s: the part is the same", path)
		}
	}
	for _, one := range list {
		switch v := one.Value.(type) {
		case []any:
			one.Put([]any{})
		case float64:
			one.Put(v + 1e-9*max(1, v))
		case bool:
			one.Put(!v)
		case string:
			one.Put(v + "x")
		}
		try(one.Path)
		one.Put(one.Value)
	}
	return changed
}
