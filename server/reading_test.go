package server

import (
	"math"
	"testing"

	"perigyre/core/edit"
	"perigyre/core/shot"
)

// A file that was read in the wrong unit, or with the wrong axis upright, is read anew: the thing has the size of that unit, its
// set and its camera go with it, so that the picture stays the same, and reading it as before brings all of it back.
func TestAFileIsReadAnew(t *testing.T) {
	h := newHouse(t, "")
	var got Imported
	h.send(upload(t, "tetra.obj", []byte(tetra)), &got)
	first, d := h.shot(got.Shot)
	src := d.Sources[0]
	if first.Margins == nil || src.Unit == "" || src.Up == "" {
		t.Fatalf("the shot has the margins %v, and its file is read as %+v", first.Margins, src)
	}
	root := func(d *shot.Shot) shot.Rest { return d.Part(src.Root).Rest }
	near := func(a, b float64) bool { return math.Abs(a-b) <= 1e-6*math.Max(math.Abs(a), math.Abs(b)) }
	for unit, metres := range shot.Units {
		h.edit(got.Shot, &edit.SetReading{Root: src.Root, Unit: unit})
		s, now := h.shot(got.Shot)
		if times := metres / shot.Units[src.Unit]; !near(root(now).Size[0], root(d).Size[0]*times) {
			t.Errorf("in %s it has the size %v, and had %v in %s", unit, root(now).Size, root(d).Size, src.Unit)
		}
		if math.Abs(s.Margins.Tightest-first.Margins.Tightest) > 0.05 {
			t.Errorf("in %s the tightest margin is %.3f %%, and was %.3f", unit, s.Margins.Tightest, first.Margins.Tightest)
		}
		if len(now.Parts) != len(d.Parts) {
			t.Fatalf("in %s there are %d parts, and were %d", unit, len(now.Parts), len(d.Parts))
		}
		lights := 0
		for i := range d.Parts {
			if a, b := d.Parts[i].Rest.Position, now.Parts[i].Rest.Position; d.Parts[i].Kind == shot.Light {
				if lights++; !near(b.Len(), a.Len()*metres/shot.Units[src.Unit]) {
					t.Errorf("in %s %s stands at %v, and stood at %v", unit, d.Parts[i].Name, b, a)
				}
			}
		}
		if lights == 0 {
			t.Error("it has no lights")
		}
	}
	other := map[string]string{"y": "z", "z": "y"}[src.Up]
	h.edit(got.Shot, &edit.SetReading{Root: src.Root, Up: other})
	if _, now := h.shot(got.Shot); root(now).Rotation == root(d).Rotation {
		t.Error("with another axis upright it lies as before")
	}
	h.edit(got.Shot, &edit.SetReading{Root: src.Root, Unit: src.Unit, Up: src.Up})
	_, now := h.shot(got.Shot)
	for i := range d.Parts {
		a, b := d.Parts[i].Rest, now.Parts[i].Rest
		for k := range 3 {
			if math.Abs(a.Position[k]-b.Position[k]) > 1e-6*root(d).Size[0]*60 || !near(a.Size[k], b.Size[k]) {
				t.Errorf("%s was at %v with %v, and is at %v with %v", d.Parts[i].Name, a.Position, a.Size, b.Position, b.Size)
				break
			}
		}
		if both := a.Rotation.Inverse().Mul(b.Rotation); math.Abs(both[3]) < 1-1e-9 {
			t.Errorf("%s was turned by %v, and is by %v", d.Parts[i].Name, a.Rotation, b.Rotation)
		}
	}
}
