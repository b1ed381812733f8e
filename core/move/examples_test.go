package move

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// nowhere is a room with nothing in it but the part itself.
type nowhere struct{}

func (nowhere) Turned(string, motion.Time) float64               { return 0 }
func (nowhere) Moved(string, motion.Time) shot.Rest              { return shot.AtRest }
func (nowhere) Seat(string) geom.Vec3                            { return geom.Vec3{} }
func (nowhere) Place(string, motion.Time) (geom.Mat4, geom.Vec3) { return geom.Identity, geom.Vec3{} }
func (nowhere) Inverse(p geom.Vec3, _ motion.Time) geom.Vec3     { return p }

// elsewhere are kinds whose motion comes from other parts, which core/pose has, from a clip, which library compares, or from chance.
var elsewhere = map[shot.MoveKind]bool{"gear": true, "follow": true, "skim": true, PlayKind: true, "burst": true}

// Every kind shows what it does with worked examples: a part at rest in the middle of the room, in a loop of 96
// frames at 24 a second.
func TestExamplesOfEveryKind(t *testing.T) {
	s := shot.New("t")
	for _, k := range Kinds() {
		list := k.examples()
		if len(list) == 0 && k.look == nil && k.bend == nil && !elsewhere[k.Name] {
			t.Errorf("a %s has no worked example", k.Name)
		}
		for _, e := range list {
			m := &shot.Move{ID: "m", Kind: k.Name, Pace: shot.Pace{Kind: shot.Constant}, After: shot.Stays, Data: e.data}
			part := &shot.Part{ID: "a", Name: "P", Kind: shot.Group, Rest: shot.AtRest}
			if err := m.Check(part); err != nil {
				t.Errorf("%s: %v", k.Name, err)
				continue
			}
			c := Context{Move: m, Time: motion.At(s, e.frame), Part: part, Metre: 1, Own: 1, Room: nowhere{}, Ready: Prepare(m, part), Place: Place{Count: 1, Deep: 1}}
			p := shot.AtRest
			if k.members != nil {
				ApplyMember(c, &p)
			} else {
				Apply(c, &p)
			}
			turn := math.Min(apart(p.Rotation, e.turn), apart(p.Rotation, geom.Quat{-e.turn[0], -e.turn[1], -e.turn[2], -e.turn[3]}))
			if p.Position.Sub(e.at).Len() > 1e-9 || turn > 1e-9 {
				t.Errorf("%s, %s: on frame %g it is at %v turned %v, not at %v turned %v", k.Name, e.says, e.frame, p.Position, p.Rotation, e.at, e.turn)
			}
		}
	}
}

func apart(a, b geom.Quat) float64 {
	sum := 0.0
	for i := range a {
		sum += (a[i] - b[i]) * (a[i] - b[i])
	}
	return math.Sqrt(sum)
}
