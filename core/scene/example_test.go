package scene_test

import (
	"fmt"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/pose"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

// What does not show leaves a picture's fingerprint as it is.
func ExampleResolve() {
	print := func(change func(s *shot.Shot)) string {
		s := shot.New("box")
		s.Parts = []shot.Part{
			{ID: "b", Name: "Box", Kind: shot.Made, Rest: shot.AtRest, Shape: &mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{1, 1, 1}}},
			{ID: "c", Name: "Camera", Kind: shot.Camera, Rest: shot.AtRest, Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger}},
		}
		s.Camera = "c"
		change(s)
		from, err := scene.Resolve(pose.New(s), 0, nil, scene.Options{})
		if err != nil {
			return err.Error()
		}
		return from.Fingerprint()
	}
	before := print(func(*shot.Shot) {})
	fmt.Println(before == print(func(s *shot.Shot) { s.Parts[0].Name = "Crate" }))
	fmt.Println(before == print(func(s *shot.Shot) { s.Parts[0].Shape.Size[1] = 2 }))
	// Output:
	// true
	// false
}
