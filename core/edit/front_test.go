package edit

import (
	"encoding/json"
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// What travels facing along its way goes with its length first, whichever of its axes that is, and however it was set
// upright: a model that came in lying, long along its own y, included. What nobody has said a front of is guessed.
func TestTheFrontLeads(t *testing.T) {
	for _, c := range []struct {
		says string
		size geom.Vec3
		rest geom.Quat
		want geom.Vec3
	}{
		{"long along x", geom.Vec3{0.4, 0.1, 0.15}, geom.NoTurn, geom.Vec3{1, 0, 0}},
		{"long along z", geom.Vec3{0.1, 0.1, 0.4}, geom.NoTurn, geom.Vec3{0, 0, 1}},
		{"as long as wide", geom.Vec3{0.2, 0.5, 0.2}, geom.NoTurn, geom.Vec3{0, 0, 1}},
		{"came in lying", geom.Vec3{0.1, 0.4, 0.15}, geom.AxisAngle(geom.Vec3{1, 0, 0}, -math.Pi/2), geom.Vec3{0, 1, 0}},
	} {
		s := shot.New(c.says)
		s.Frames = 48
		p := shot.Part{ID: "car", Name: "Car", Kind: shot.Made, Rest: shot.AtRest, Moves: []shot.Move{}, Shape: &mesh.Shape{Kind: mesh.BoxShape, Size: c.size}}
		p.Rest.Rotation = c.rest
		s.Parts = []shot.Part{p}
		s = apply(t, s, &AddMove{Part: "car", Kind: "travel", ID: "way"})
		s = apply(t, s, &SetMove{Move: "way", Values: map[string]json.RawMessage{
			"facing": json.RawMessage(`"along"`), "width": json.RawMessage("2")}})
		car := s.Part("car")
		if car.Front.Sub(c.want).Len() > 1e-9 {
			t.Fatalf("%s: the front is %v, not %v", c.says, car.Front, c.want)
		}
		e := pose.New(s)
		for f := 1.0; f < 47; f += 5 {
			at := func(f float64) geom.Mat4 { return e.At(f)[0] }
			way := at(f + 1e-3).Column(3).Sub(at(f - 1e-3).Column(3)).Unit()
			if front := at(f).Vector(car.Front).Unit(); front.Sub(way).Len() > 1e-3 {
				t.Fatalf("%s: on frame %g its front looks along %v and it goes along %v", c.says, f, front, way)
			}
			if up := at(f).Vector(c.rest.Inverse().Rotate(geom.Vec3{0, 1, 0})); up.Unit()[1] < 1-1e-9 {
				t.Fatalf("%s: it tips over: %v", c.says, up)
			}
		}
	}
}
