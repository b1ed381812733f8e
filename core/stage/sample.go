package stage

import (
	"math"

	"perigyre/core/color"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/shot"
)

// Sample is a shot that shows a material: a ball 60 mm across that reaches over the picture's edge nowhere, before a sky that
// is seen, so that glass has something to bend, with one soft window from the upper left.
func Sample(m material.Material) *shot.Shot {
	s := shot.New("Sample")
	s.Frames, s.Format, s.View = 1, shot.Format{Width: 96, Height: 96}, color.Neutral
	s.Environment = shot.Environment{
		Zenith: [3]float64{0.9, 0.92, 0.95}, Horizon: [3]float64{0.42, 0.42, 0.43}, Ground: [3]float64{0.07, 0.07, 0.075}, Strength: 0.8, Seen: true,
	}
	m.ID = "m"
	s.Materials = []material.Material{m}
	at := func(p shot.Part, position geom.Vec3, turn geom.Quat) {
		p.ID, p.Rest, p.Moves = p.Name, shot.Rest{Position: position, Rotation: turn, Size: geom.Vec3{1, 1, 1}}, []shot.Move{}
		s.Parts = append(s.Parts, p)
	}
	from := geom.Vec3{-0.12, 0.14, 0.12}
	at(shot.Part{Name: "ball", Kind: shot.Made, Shape: &mesh.Shape{Kind: mesh.SphereShape, Radius: 0.03, Sides: 96}, Materials: []string{"m"}}, geom.Vec3{0, -0.03, 0}, geom.NoTurn) // it stands on its origin
	at(shot.Part{Name: "window", Kind: shot.Light, Light: &shot.LightSpec{Width: 0.12, Height: 0.12, Color: [3]float64{1, 1, 1}, Strength: 7}}, from, geom.LookAlong(from.Mul(-1)))
	// The ball's outline, of the angle asin(r / d), fills 90 % of the picture.
	const distance, focal = 0.25, 50.0
	half := math.Tan(math.Asin(0.03/distance)) / 0.9
	at(shot.Part{Name: "camera", Kind: shot.Camera, Camera: &shot.Lens{Focal: focal, SensorWidth: 2 * half * focal, SensorHeight: 2 * half * focal, Sensor: shot.FitLonger}}, geom.Vec3{0, 0, distance}, geom.NoTurn)
	s.Camera = "camera"
	return s
}
