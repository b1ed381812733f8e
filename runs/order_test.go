package runs

import (
	"bytes"
	"encoding/json"
	"testing"

	"perigyre/core/render"
)

// An order that went to another machine as JSON is the same order there: it has the same fingerprint, which hashes all of it, and
// gives the same files.
func TestAnOrderTravels(t *testing.T) {
	s := boxShot()
	o := Defaults(s)
	o.Format, o.Bits, o.Passes = EXR, 16, []render.Pass{render.Motion, render.Matte}
	p, err := NewPlan(s, Names{}, o, "", Stock{Props: boxes})
	if err != nil {
		t.Fatal(err)
	}
	order, err := p.Order(2)
	if err != nil {
		t.Fatal(err)
	}
	b, err := json.Marshal(order)
	if err != nil {
		t.Fatal(err)
	}
	there := new(Order)
	if err := json.Unmarshal(b, there); err != nil {
		t.Fatal(err)
	}
	if order.Fingerprint() != there.Fingerprint() {
		t.Fatal("the order has another fingerprint there")
	}
	here, _, err := order.Draw(t.Context(), boxes, 0, nil)
	if err != nil {
		t.Fatal(err)
	}
	files, _, err := there.Draw(t.Context(), boxes, 1, nil)
	if err != nil || !bytes.Equal(here[0], files[0]) {
		t.Errorf("the files differ there: %v", err)
	}
}
