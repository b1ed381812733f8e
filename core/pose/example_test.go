package pose_test

import (
	"fmt"

	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// A wheel that rolls a turn in a loop of 96 frames has gone half its circumference on frame 48.
func ExampleEvaluator() {
	s := shot.New("wheel")
	s.Parts = []shot.Part{{ID: "w", Name: "Wheel", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{{
		ID: "r", Kind: "roll", Data: &move.Roll{Radius: 0.5, Along: geom.Vec3{1, 0, 0}, Turns: 1, Contact: "ground"},
	}}}}
	e := pose.New(s)
	fmt.Printf("%.4f m\n", e.At(48)[0].Column(3)[0])
	// Output: 1.5708 m
}
