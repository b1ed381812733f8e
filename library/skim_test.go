package library

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// What skims over a ball keeps to the plane of its cut and stays away from it by what is asked for in metres, upright on it and looking
// along its way, at an even speed, and closes after whole laps; so it does where the ball stands turned in a group of another size.
// All of it is geometry: the cut of a sphere of radius r by a plane at a distance h is a circle of radius sqrt(r^2 - h^2).
func TestSkimOverABall(t *testing.T) {
	const r, h, away = 0.5, 0.2, 0.03
	twice := shot.Rest{Position: geom.Vec3{1, 2, 3}, Size: geom.Vec3{2, 2, 2}, Rotation: geom.AxisAngle(geom.Vec3{1, 2, 0.5}.Unit(), 1)}
	for what, c := range map[string]struct {
		stand  shot.Rest
		parent string
	}{
		"at rest": {shot.AtRest, ""}, "over what is turned in a group twice as large": {twice, ""}, "in that group": {twice, "group"},
	} {
		metre := 1 / c.stand.Size[0] // of the room, in the group
		d := shot.New("skim")
		s := &move.Skim{On: "ball", Normal: geom.Vec3{0, 0, 2}, Offset: h, Away: away, Laps: 2}
		d.Parts = []shot.Part{
			{ID: "group", Name: "Group", Kind: shot.Group, Rest: c.stand},
			{ID: "ball", Name: "Ball", Kind: shot.Solid, Parent: "group", Rest: shot.AtRest, Shape: &mesh.Shape{Kind: "sphere", Radius: r * metre, Sides: 512}},
			{ID: "fly", Name: "Fly", Kind: shot.Group, Parent: c.parent, Rest: shot.AtRest, Moves: []shot.Move{{ID: "m", Kind: move.SkimKind, Data: s}}},
		}
		if err := Skims(d, &Assets{}); err != nil {
			t.Fatal(err)
		}
		e := pose.New(d)
		centre := e.At(0)[1].Point(geom.Vec3{0, r * metre, 0}) // it stands on its pivot
		axis := e.At(0)[1].Vector(geom.Vec3{0, 0, 1}).Unit()
		var before geom.Vec3
		step, ways := 0.0, 0.0
		for f := range d.Frames + 1 {
			m := e.At(float64(f))[2]
			to := m.Column(3).Sub(centre)
			up, ahead := m.Column(1).Unit(), m.Column(2).Unit()
			if off := to.Len() - r - away; math.Abs(off) > 1e-4 {
				t.Errorf("%s, frame %d: it is %.5f away from the ball, want %.5f", what, f, away+off, away)
			}
			// The surface's normal leans from the plane, so that what is away from it leaves the plane by as much.
			if off := to.Dot(axis) - h*(1+away/r); math.Abs(off) > 3e-4 {
				t.Errorf("%s, frame %d: it is %.5f off the plane", what, f, off)
			}
			if up.Dot(to.Unit()) < 1-1e-4 || math.Abs(ahead.Dot(axis)) > 1e-2 || math.Abs(ahead.Dot(up)) > 1e-9 {
				t.Errorf("%s, frame %d: it is upright by %v and looks along %v", what, f, up, ahead)
			}
			if way := m.Column(3).Sub(before); f > 0 {
				if step = way.Len(); f == 1 {
					ways = step
				}
				if math.Abs(step/ways-1) > 5e-3 || way.Unit().Dot(ahead) < 0.98 {
					t.Errorf("%s, frame %d: it goes %.6f a frame, and went %.6f; it looks along %v and goes along %v", what, f, step, ways, ahead, way)
				}
			}
			before = m.Column(3)
		}
		if gap := before.Sub(e.At(0)[2].Column(3)).Len(); gap > 1e-9 {
			t.Errorf("%s: after two laps it is %g from where it began", what, gap)
		}
		turn := 2 * math.Pi * s.Laps / float64(d.Frames)
		if want := 2 * math.Sqrt(r*r-h*h) * (1 + away/r) * math.Sin(turn/2); math.Abs(ways/want-1) > 2e-3 {
			t.Errorf("%s: it goes %.6f a frame, want %.6f", what, ways, want)
		}
	}
}
