package edit

import (
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// Of a group that is duplicated or pasted, what its moves and its cutter name are the copies of the parts, where those came along.
func TestCopiesReferToCopies(t *testing.T) {
	rod := func(id string) shot.Part {
		return shot.Part{ID: id, Name: id, Parent: "all", Kind: shot.Made, Rest: shot.AtRest, Moves: []shot.Move{}, Shape: &mesh.Shape{Kind: mesh.CylinderShape, Radius: 0.1, Height: 1}}
	}
	s := shot.New("t")
	apart := move.TakenApart([]move.ApartStep{{Parts: []move.ApartPart{{Part: "a", Way: geom.Vec3{0, 1, 0}}}, By: 0.2}})
	apart.ID = "apart"
	b := rod("b")
	b.Moves = []shot.Move{{ID: "follow", Kind: "follow", After: shot.Stays, Data: &move.Follow{Position: true, Of: "a"}}, {ID: "beyond", Kind: "follow", After: shot.Stays, Data: &move.Follow{Position: true, Of: "out"}}}
	out := rod("out")
	out.Parent = ""
	s.Parts = []shot.Part{
		{ID: "all", Name: "All", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{apart}}, rod("a"), b,
		{ID: "cut", Name: "Cut", Parent: "all", Kind: shot.Cutter, Rest: shot.AtRest, Moves: []shot.Move{}, Cut: &shot.Cut{Shape: "sphere", Radius: 1, Parts: []string{"a", "out"}}}, out,
	}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	n := 0
	for name, c := range map[string]Change{"duplicated": &Duplicate{Parts: []string{"all"}, ID: "new"}, "pasted": &Paste{From: s, Parts: []string{"all"}}} {
		r, err := Apply(s, []Edit{{Change: c}}, Env{Assets: built{}, NewID: func() string { n++; return "n" + string(rune('a'+n)) }})
		if err != nil {
			t.Fatal(name, err)
		}
		var group, a, b, cut *shot.Part
		for i := range r.Shot.Parts {
			switch p := &r.Shot.Parts[i]; {
			case s.Part(p.ID) != nil:
			case p.Kind == shot.Group:
				group = p
			case p.Kind == shot.Cutter:
				cut = p
			case len(p.Moves) > 0:
				b = p
			default:
				a = p
			}
		}
		if got := group.Moves[0].Data.(*move.Apart).Steps[0].Parts[0].Part; got != a.ID {
			t.Errorf("%s: %s leaves, not %s", name, got, a.ID)
		}
		if x, y := b.Moves[0].Data.(*move.Follow).Of, b.Moves[1].Data.(*move.Follow).Of; x != a.ID || y != "out" {
			t.Errorf("%s: it follows %s and %s", name, x, y)
		}
		if cut.Cut.Parts[0] != a.ID || cut.Cut.Parts[1] != "out" || s.Part("cut").Cut.Parts[0] != "a" {
			t.Errorf("%s: it cuts %v", name, cut.Cut.Parts)
		}
	}
}
