package framing_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// cubes are surfaces of unit cubes.
type cubes struct{}

func (cubes) Surface(*shot.Part) ([]geom.Vec3, []uint32, error) {
	return []geom.Vec3{{-0.1, -0.1, -0.1}, {0.1, 0.1, 0.1}, {0.1, -0.1, 0.1}}, []uint32{0, 1, 2}, nil
}

func (cubes) Flesh(*shot.Part) (*mesh.Mesh, error) { return &mesh.Mesh{}, nil }

// Whatever way parts leave, on no frame do two lines of labels cross or two texts come near each other, and all stay in the picture. A
// label is as much there as its part has gone, and not at all where it sits.
func TestLabelsDoNotCross(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	for round := range 40 {
		s := shot.New("labels")
		s.Frames, s.Format = 60, shot.Format{Width: 900 + r.IntN(900), Height: 900}
		group := shot.Part{ID: "g", Name: "G", Kind: shot.Group, Rest: shot.AtRest}
		m := move.Apart{Spread: 1, Hold: 0.2, Back: true, Labels: move.LightNames}
		s.Parts = []shot.Part{group}
		for k := range 3 + r.IntN(20) {
			p := shot.Part{ID: fmt.Sprint("p", k), Name: fmt.Sprint("Part of the thing ", string(rune('a'+k))), Kind: shot.Made, Parent: "g", Rest: shot.AtRest, Shape: &mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{0.2, 0.2, 0.2}}}
			p.Rest.Position = geom.Vec3{r.Float64() - 0.5, r.Float64() - 0.5, r.Float64() - 0.5}
			s.Parts = append(s.Parts, p)
			way := geom.Vec3{r.NormFloat64(), r.NormFloat64(), r.NormFloat64()}.Unit()
			m.Steps = append(m.Steps, move.ApartStep{Parts: []move.ApartPart{{Part: p.ID, Way: way}}, By: 0.2 + r.Float64()})
		}
		s.Parts[0].Moves = []shot.Move{{ID: "m", Kind: "take apart", After: shot.Stays, Data: &m}}
		camera := shot.Part{ID: "c", Name: "Camera", Kind: shot.Camera, Rest: shot.AtRest, Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger}}
		camera.Rest.Position = geom.Vec3{0, 0, 8}
		s.Parts = append(s.Parts, camera)
		s.Camera = "c"
		e := pose.New(s)
		w, h := float64(s.Format.Width)/float64(min(s.Format.Width, s.Format.Height)), float64(s.Format.Height)/float64(min(s.Format.Width, s.Format.Height))
		for f := range s.Frames {
			at := motion.At(s, float64(f))
			list, err := framing.Labels(e, at, e.World(at), cubes{})
			if err != nil || len(list) != len(m.Steps) {
				t.Fatalf("round %d: %d labels of %d steps: %v", round, len(list), len(m.Steps), err)
			}
			for i, a := range list {
				if f == 0 && a.Strength != 0 || f == 30 && a.Strength < 1-1e-9 {
					t.Fatalf("round %d, frame %d: a strength of %g", round, f, a.Strength)
				}
				if a.At[0] < 0 || a.At[1] > h || a.At[0] > w || a.At[1] < 0 {
					t.Fatalf("round %d, frame %d: a label at %v", round, f, a.At)
				}
				for _, b := range list[:i] {
					same := (a.At[0] < w/2) == (b.At[0] < w/2)
					if same && math.Abs(a.At[1]-b.At[1]) < 1.4*a.Size {
						t.Fatalf("round %d, frame %d: two labels are %g ems from each other", round, f, math.Abs(a.At[1]-b.At[1])/a.Size)
					}
					if same && crosses(a.Line, b.Line) {
						t.Fatalf("round %d, frame %d: the lines of %q and %q cross", round, f, a.Text, b.Text)
					}
				}
			}
		}
	}
}

// crosses reports whether two lines of two pieces each cross.
func crosses(a, b [3][2]float64) bool {
	turn := func(p, q, r [2]float64) float64 {
		return (q[0]-p[0])*(r[1]-p[1]) - (q[1]-p[1])*(r[0]-p[0])
	}
	for i := range 2 {
		for k := range 2 {
			p, q, r, s := a[i], a[i+1], b[k], b[k+1]
			if turn(p, q, r)*turn(p, q, s) < -1e-15 && turn(r, s, p)*turn(r, s, q) < -1e-15 {
				return true
			}
		}
	}
	return false
}
