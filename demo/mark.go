package demo

import (
	_ "embed"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/shot"
)

// Mark is the maker's mark: a ring with a wick curl, in two colours and with holes, as SVG.
//
//go:embed mark.svg
var Mark []byte

// Word returns the maker's name as a part, lettering that stands before the mark.
func Word(id string) shot.Part {
	return shot.Part{
		ID: id, Name: "Brindlewick", Kind: shot.Group, Moves: []shot.Move{},
		Rest: shot.Rest{Position: geom.Vec3{0, 0, 0.075}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}},
		Mark: &shot.Mark{
			Word:  &shot.Word{Text: "Brindlewick", Font: "Go Bold", Size: 0.028, Spacing: 0.02, Leading: 1.2, Align: "centre"},
			Solid: mesh.Extrusion{Depth: 0.006, Bevel: mesh.RoundBevel, Width: 0.0006, Steps: 4}, Tolerance: 0.00003,
		},
	}
}
