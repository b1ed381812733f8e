package edit

import (
	"encoding/json"
	"math"
	"testing"

	"perigyre/core/doctree"
	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// A move of any kind whose numbers validation lets pass has a pose at every time: every number of it is made huge, tiny and nothing, and
// parts stay where numbers reach.
func TestWhatMovesAcceptHasAPose(t *testing.T) {
	base := tree(3)
	base.Parts = append(base.Parts,
		shot.Part{ID: "cam", Name: "Cam", Kind: shot.Camera, Rest: shot.Rest{Position: geom.Vec3{0, 1, 3}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}},
			Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger}},
		shot.Part{ID: "many", Name: "Many", Kind: shot.Copies, Rest: shot.AtRest, Copies: &shot.Spread{Of: "d", Kind: shot.Row, Count: [3]int{3, 1, 1}}})
	base.Camera = "cam"
	base = apply(t, base, &AddMove{Part: "d", Kind: "turn", ID: "driver"})
	tried, refused := 0, 0
	for _, k := range move.Kinds() {
		s, on := (*shot.Shot)(nil), ""
		for _, on = range []string{"b", "g1", "g2", "cam", "many"} {
			if out, err := Apply(base, []Edit{{&AddMove{Part: on, Kind: k.Name}}}, env()); err == nil {
				s = out.Shot
				break
			}
		}
		if s == nil {
			if k.Name != move.PlayKind && k.Name != "take apart" { // which want a clip, and a plan
				t.Errorf("nothing takes a %s", k.Name)
			}
			continue
		}
		all, list, err := doctree.Numbers(s.Part(on).Moves)
		if err != nil {
			t.Fatal(err)
		}
		try := func(path string, v float64) {
			text, err := json.Marshal(all)
			if err != nil {
				t.Fatal(err)
			}
			c := s.Clone()
			moves := []shot.Move{}
			if json.Unmarshal(text, &moves) != nil {
				return
			}
			c.Part(on).Moves = moves
			tried++
			if c.Validate() != nil {
				refused++
				return
			}
			defer func() {
				if r := recover(); r != nil {
					t.Errorf("%s%s = %g: %v", k.Name, path, v, r)
				}
			}()
			e := pose.New(c)
			for _, at := range []float64{0, 13.7, 48, 95} {
				for i, m := range e.At(at) {
					for _, x := range m {
						if math.IsNaN(x) || math.IsInf(x, 0) {
							t.Errorf("%s%s = %g: on frame %g %s is at %v", k.Name, path, v, at, c.Parts[i].Name, m)
							return
						}
					}
				}
			}
		}
		for _, one := range list {
			for _, x := range []float64{0, -1, 1e-300, 1e9, -1e9, 1e15, 1e300, -math.MaxFloat64} {
				one.Put(x)
				try(one.Path, x)
			}
			one.Put(one.Value)
		}
	}
	if tried < 1000 || refused < 100 || refused > tried*9/10 {
		t.Errorf("%d numbers were tried, of which %d were refused", tried, refused)
	}
}
