package render

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

// A thing of six sides that turns by a twelfth each frame shows two pictures: moments with the same key look the same,
// those with another do not. Its axis is not in the middle of its frame.
func TestTurnedPicturesAreTheSame(t *testing.T) {
	six := mesh.Lathe([]geom.Vec2{{0, -0.4}, {0.5, -0.4}, {0.35, 0.3}, {0, 0.4}}, 6, mesh.DefaultCrease)
	six.Transform(geom.TRS(geom.Vec3{0.2, 0, 0.1}, geom.NoTurn, geom.Vec3{1, 1, 1}))
	m := material.Default()
	m.BaseColor, m.Roughness = [4]float64{0.8, 0.4, 0.2, 1}, 0.5
	s := still(m, 0.5)
	s.Format, s.Frames = shot.Format{Width: 48, Height: 48}, 12
	s.Environment.Ground = [3]float64{}
	thing := s.Part("thing")
	thing.Pivot = geom.Vec3{0.2, 0, 0.1}
	thing.Moves = []shot.Move{{ID: "t", Kind: "turn", Data: &move.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: 1, Direction: shot.Clockwise}}}
	a := things{six}
	props := NewProps(a)
	keys := map[string][]int{}
	for f := range s.Frames {
		from, err := scene.Resolve(pose.New(s), float64(f), nil, scene.Options{Symmetry: props})
		if err != nil {
			t.Fatal(err)
		}
		k := from.Fingerprint()
		keys[k] = append(keys[k], f)
	}
	if len(keys) != 2 {
		t.Fatalf("there are %d pictures: %v", len(keys), keys)
	}
	at := func(f int) *Film { return expose(t, s, a, float64(f), Options{Quality: Final, Samples: 256}) }
	off := func(a, b *Film) (sum float64) {
		for i := range a.Pix {
			sum += math.Abs(float64(a.Pix[i]-b.Pix[i])) / float64(len(a.Pix))
		}
		return sum
	}
	first := at(0)
	if same, other := off(first, at(2)), off(first, at(1)); same > 0.003 || other < 5*same {
		t.Errorf("two frames with the same key differ by %.5f, with another by %.5f", same, other)
	}
}
