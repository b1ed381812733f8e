package library

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// A box that is one mesh, turned and off its origin, is split into its six sides, which lie flat in one plane half-way, as large as they
// were, and are a box again at the end.
func TestABoxUnfolds(t *testing.T) {
	s := shot.New("t")
	rest := shot.Rest{Position: geom.Vec3{0.4, 0.1, -0.2}, Rotation: geom.AxisAngle(geom.Vec3{0, 1, 0}, 0.7), Size: geom.Vec3{2, 2, 2}}
	s.Parts = []shot.Part{{ID: "box", Name: "Box", Kind: shot.Made, Rest: rest, Moves: []shot.Move{}, Shape: &mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{0.3, 0.1, 0.2}, Bevel: 0.01}}}
	a := InMemory(model.DefaultLimits)
	n := 0
	env := edit.Env{Assets: a, NewID: func() string { n++; return fmt.Sprint("n", n) }}
	done, err := edit.Apply(s, []edit.Edit{{Change: &FindHinges{Part: "box"}}}, env)
	if err != nil {
		t.Fatal(err)
	}
	d := done.Shot
	m := d.Part("box").Moves[0].Data.(*move.Unfold)
	if len(d.Parts) != 7 || len(m.Panels) != 5 || m.Panels[4].To != 1 || m.Panels[4].Pace.Way != "out" {
		t.Fatalf("%d parts, %+v", len(d.Parts), m.Panels)
	}
	e := pose.New(d)
	surface := func(frame float64) (lo, hi, area float64) {
		lo, hi = math.Inf(1), math.Inf(-1)
		world := e.World(motion.At(d, frame))
		for i := range d.Parts {
			if d.Parts[i].Mesh == nil {
				continue
			}
			points, of, err := a.Surface(&d.Parts[i])
			if err != nil {
				t.Fatal(err)
			}
			for k, p := range points {
				points[k] = world[i].Point(p)
				lo, hi = math.Min(lo, points[k][1]), math.Max(hi, points[k][1])
			}
			for k := 0; k+2 < len(of); k += 3 {
				area += points[of[k+1]].Sub(points[of[k]]).Cross(points[of[k+2]].Sub(points[of[k]])).Len() / 2
			}
		}
		return lo, hi, area
	}
	const whole = 2 * 4 * (0.3*0.1 + 0.3*0.2 + 0.1*0.2)
	if lo, hi, area := surface(48); hi-lo > 1e-6 || math.Abs(area-whole) > 1e-6 {
		t.Errorf("open it is %g high and has %g of %g", hi-lo, area, whole)
	}
	if lo, hi, _ := surface(0); math.Abs(hi-lo-0.2) > 1e-6 {
		t.Errorf("closed it is %g high", hi-lo)
	}
	s.Parts[0].Shape = &mesh.Shape{Kind: mesh.SphereShape, Radius: 0.1, Sides: 48}
	if _, err := edit.Apply(s, []edit.Edit{{Change: &FindHinges{Part: "box"}}}, env); err == nil || !strings.Contains(err.Error(), "flat sides") {
		t.Errorf("a ball unfolds: %v", err)
	}
}
