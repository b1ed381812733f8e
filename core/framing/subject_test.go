package framing

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// crew is a shot of parts in groups with pins, moves that look at other parts, and a group whose parts come from the left, seen by a camera of
// one of three sorts: one that stands, one that a turntable carries, one that moves by itself.
func crew(rng *rand.Rand, camera int) (*shot.Shot, cloud) {
	s, g := testShot(rng, []string{"object", "camera", "object"}[camera])
	group := func(id, parent string, moves ...shot.Move) shot.Part {
		p := shot.Part{ID: id, Name: id, Parent: parent, Kind: shot.Group, Rest: shot.AtRest, Moves: moves}
		for j := range moves {
			moves[j].ID = fmt.Sprint(id, j)
		}
		p.Rest.Position = geom.Vec3{rng.NormFloat64() / 2, rng.NormFloat64() / 4, rng.NormFloat64() / 2}
		points := make([]geom.Vec3, 20)
		for k := range points {
			points[k] = geom.Vec3{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}.Mul(0.05)
		}
		g[id] = points
		return p
	}
	turn := shot.Move{Kind: "turn", Data: &move.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: 1, Direction: shot.Clockwise}}
	s.Parts = append(s.Parts,
		group("row", "", shot.Move{Kind: "reveal", Span: &shot.Span{From: 2, To: 18}, Data: &move.Reveal{Order: "left", Delay: 12, Takes: 8, From: "slide", By: geom.Vec3{0, -2, 0}}}),
		group("wheel", "table", turn),
		group("driven", "thing", shot.Move{Kind: "gear", Data: &move.Gear{Driver: "wheel", Axis: geom.Vec3{0, 0, 1}, Frame: shot.OwnFrame, Num: 1, Den: 2, Mesh: "outside"}}),
		group("tail", "", shot.Move{Kind: "follow", Data: &move.Follow{Of: "driven", Position: true, Rotation: true, Lag: 3}}),
	)
	for k, parent := range []string{"row", "row", "row", "row", "row", "wheel", "tail", "", "", ""} {
		p := group(fmt.Sprint("p", k), parent)
		p.Tracks = []shot.Track{{Value: shot.TrackX, Pins: []shot.Pin{{Time: 0, Value: 0}, {Time: 9, Value: rng.NormFloat64() / 8, Next: shot.Smooth}, {Time: 20, Value: 0}}}}
		s.Parts = append(s.Parts, p)
	}
	if camera == 2 {
		s.Parts[2].Moves = []shot.Move{{ID: "o", Kind: "orbit", Data: &move.Orbit{Turns: 1, Radius: 1, Height: 0.5, Wave: 0.2, Waves: 2}}}
	}
	return s, g
}

// What is taken from an earlier subject changes nothing: fits are the same to the bit as without a memory, margins as near as
// they are measured, over many random edits, undone ones among them.
func TestMemoryChangesNothing(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 6))
	taken := 0
	for camera := range 3 {
		s, g := crew(rng, camera)
		memory := &Memory{}
		var earlier []*shot.Shot
		for step := range 60 {
			d := s.Clone()
			p := &d.Parts[rng.IntN(len(d.Parts))]
			moved := geom.Vec3{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}.Mul(0.5)
			switch rng.IntN(10) {
			case 0, 1, 2:
				p.Rest.Position = p.Rest.Position.Add(moved)
			case 3:
				p.Hidden = !p.Hidden
			case 4:
				if len(p.Tracks) > 0 {
					p.Tracks[0].Pins[1].Value = rng.NormFloat64() / 4
				}
			case 5:
				if w := d.Part("wheel"); w != nil && len(w.Moves) > 0 {
					w.Moves[0].Data = &move.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: float64(rng.IntN(3)), Direction: shot.Clockwise}
				}
			case 6:
				if len(p.Moves) > 0 {
					p.Moves[0].Muted = !p.Moves[0].Muted
				}
			case 7:
				c := d.Part("cam")
				if c.Camera.Focal = 30 + rng.Float64()*60; rng.IntN(2) == 0 {
					c.Rest.Rotation = c.Rest.Rotation.Mul(geom.AxisAngle(geom.Vec3{0, 1, 0}, rng.NormFloat64()))
				}
			case 8:
				if rng.IntN(4) == 0 {
					d.Frames = 20 + rng.IntN(30)
				} else if last := len(d.Parts) - 1; d.Parts[last].Parent == "" {
					d.Parts[last].Parent = "wheel"
				} else {
					d.Parts[last].Parent = ""
				}
			case 9:
				if len(earlier) > 0 {
					d = earlier[rng.IntN(len(earlier))].Clone()
				}
			}
			if err := d.Validate(); err != nil {
				t.Fatal(err)
			}
			s, earlier = d, append(earlier, d)
			what := fmt.Sprintf("camera %d, step %d", camera, step)
			look := func(m *Memory) *Subject {
				u, err := NewSubject(s, g, m)
				if err != nil {
					t.Fatal(err)
				}
				for _, k := range u.was {
					if k >= 0 {
						taken++
					}
				}
				return u
			}
			with, err1 := look(memory).Fit()
			without, err2 := look(nil).Fit()
			if (err1 == nil) != (err2 == nil) || with != without {
				t.Fatalf("%s: fitted at %v with a memory, %v without", what, with, without)
			}
			s = s.Clone()
			if c := s.Part("cam"); camera == 2 {
				c.Camera.Offset = with.At
			} else {
				c.Rest.Position = with.At
			}
			u := look(memory)
			a, _, _ := u.Margins()
			b, ok, _ := look(nil).Margins()
			if math.Abs(a.Tightest-b.Tightest) > 1e-6 || math.Abs(a.Filled-b.Filled) > 1e-6 {
				t.Fatalf("%s: margins %+v with a memory, %+v without", what, a, b)
			}
			if camera == 0 && ok && math.Abs(a.Tightest-8) > 1e-4 {
				t.Fatalf("%s: fitted for 8 %%, measured %+v", what, a)
			}
			s = s.Clone()
			s.Part("cam").Camera.Offset = geom.Vec3{}
		}
	}
	if taken < 500 {
		t.Errorf("only %d bodies were taken from earlier subjects", taken)
	}
}
