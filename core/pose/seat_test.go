package pose

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// corner is the surface of every part: a triangle about its origin.
type corner struct{}

func (corner) Surface(*shot.Part) ([]geom.Vec3, []uint32, error) {
	return []geom.Vec3{{-1, -1, 0}, {1, -1, 0}, {0, 1, 0}}, []uint32{0, 1, 2}, nil
}
func (corner) Flesh(*shot.Part) (*mesh.Mesh, error) { return &mesh.Mesh{}, nil }

// What goes two ways one after another in a group that is turned, three times as large and stretched goes as far in the room as its plan
// says, in metres; its guide line bends where it did; and a step that waits begins so much later.
func TestAwayAlongTwoLegs(t *testing.T) {
	s := shot.New("legs")
	s.Frames, s.Ending = 401, shot.Once
	frame := geom.TRS(geom.Vec3{1, 2, 3}, geom.AxisAngle(geom.Vec3{0, 1, 0}, 0.6), geom.Vec3{3, 0.5, 2})
	back, _ := frame.Inverse()
	way := func(v geom.Vec3) geom.Vec3 { return back.Vector(v).Unit() }
	a, b := geom.Vec3{1, 0, 0}, geom.Vec3{0, 1, 0}
	plan := move.Apart{Spread: 1, Lines: true, Steps: []move.ApartStep{
		{Parts: []move.ApartPart{{Part: "p", Way: way(a)}}, By: 0.4},
		{Parts: []move.ApartPart{{Part: "p", Way: way(b)}}, By: 0.3, Wait: 2},
	}}
	s.Parts = []shot.Part{
		{ID: "g", Name: "G", Kind: shot.Group, Rest: shot.Rest{Position: geom.Vec3{1, 2, 3}, Rotation: geom.AxisAngle(geom.Vec3{0, 1, 0}, 0.6), Size: geom.Vec3{3, 0.5, 2}},
			Moves: []shot.Move{{ID: "m", Kind: "take apart", Pace: shot.Pace{Kind: shot.Constant}, After: shot.Stays, Data: &plan}}},
		{ID: "p", Name: "P", Parent: "g", Kind: shot.Made, Rest: shot.Rest{Position: geom.Vec3{0.1, 0, 0}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}, Shape: &mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{1, 1, 1}}},
	}
	e := New(s)
	list, err := e.Guided(corner{})
	if err != nil || len(list) != 1 || !list[0].Drawn {
		t.Fatalf("%+v %v", list, err)
	}
	seat := frame.Point(geom.Vec3{0.1, 0, 0})
	for f, want := range map[float64][]geom.Vec3{ // a step takes a quarter of the time, and the second waits for two of them
		0:   {seat},
		50:  {seat, seat.Add(a.Mul(0.2))},
		100: {seat, seat.Add(a.Mul(0.4))},
		300: {seat, seat.Add(a.Mul(0.4))},
		350: {seat, seat.Add(a.Mul(0.4)), seat.Add(a.Mul(0.4)).Add(b.Mul(0.15))},
		400: {seat, seat.Add(a.Mul(0.4)), seat.Add(a.Mul(0.4)).Add(b.Mul(0.3))},
	} {
		at := motion.At(s, f)
		got := list[0].Line(e, at, e.World(at))
		if len(got) != len(want) {
			t.Errorf("frame %g: %v, want %v", f, got, want)
			continue
		}
		for k := range got {
			if d := got[k].Sub(want[k]).Len(); !(d < 1e-3) || math.IsNaN(d) {
				t.Errorf("frame %g: point %d is %v, %g m from %v", f, k, got[k], d, want[k])
			}
		}
	}
}
