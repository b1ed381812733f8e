package stage

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/lighting"
	"perigyre/core/shot"
)

// Empty returns a shot with nothing to show yet: a floor that receives shadow, a camera that is kept fitted to what comes, and
// light for something 200 mm large.
func Empty(name string, newID func() string) *shot.Shot {
	s := shot.New(name)
	add := func(p shot.Part) string {
		p.ID, p.Moves = newID(), []shot.Move{}
		if p.Rest == (shot.Rest{}) {
			p.Rest = shot.AtRest
		}
		s.Parts = append(s.Parts, p)
		return p.ID
	}
	add(shot.Part{Name: "Floor, shadow only", Kind: shot.Floor})
	if rig, err := lighting.FindRig(s, "window left"); err == nil {
		s.Environment = rig.Environment
		for k := range rig.Lights {
			at, spec := lighting.Place(&rig.Lights[k], geom.Vec3{0, 0.1, 0}, 0.1)
			spec.Rig = rig.Name
			_, turn, _, _ := at.Decompose()
			add(shot.Part{Name: rig.Lights[k].Name, Kind: shot.Light, Light: &spec, Rest: shot.Rest{Position: at.Column(3), Rotation: turn, Size: geom.Vec3{1, 1, 1}}})
		}
	}
	look := geom.AxisAngle(geom.Vec3{0, 1, 0}, 28*math.Pi/180).Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, -14*math.Pi/180))
	back := look.Rotate(geom.Vec3{0, 0, 1})
	s.Camera = add(shot.Part{
		Name: "Three-quarter", Kind: shot.Camera, Rest: shot.Rest{Position: geom.Vec3{0, 0.05, 0}.Add(back.Mul(0.6)), Rotation: look, Size: geom.Vec3{1, 1, 1}},
		Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger, Margin: 8, Fitted: true},
	})
	return s
}
