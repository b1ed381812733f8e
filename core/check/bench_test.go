package check

import (
	"context"
	"fmt"
	"testing"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// BenchmarkFindings looks for everything in a shot of 2,000 boxes in a block that fly apart and come back, each its own way.
func BenchmarkFindings(b *testing.B) {
	s := box()
	one := s.Parts[0]
	one.Shape.Size = geom.Vec3{0.03, 0.03, 0.03}
	s.Parts = s.Parts[1:]
	for k := range 2000 {
		p := one
		at := geom.Vec3{float64(k%20) - 9.5, float64(k / 20 % 10), float64(k/200) - 4.5}
		p.ID, p.Name, p.Rest.Position = fmt.Sprintf("b%d", k), fmt.Sprintf("Box %d", k), at.Mul(0.03)
		p.Moves = []shot.Move{{ID: fmt.Sprintf("m%d", k), Kind: "slide", After: shot.Mirrored, Laps: 2, Data: &move.Slide{By: at.Mul(0.03), Frame: shot.ParentFrame}}}
		s.Parts = append(s.Parts, p)
	}
	if err := s.Validate(); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		u, err := framing.NewSubject(s, nothing{}, nil)
		if err != nil {
			b.Fatal(err)
		}
		f, err := Measure(u, nothing{}, alike{})
		if err != nil {
			b.Fatal(err)
		}
		found, err := Find(context.Background(), f, Watch{})
		if err != nil || len(of(found, "clearance")) > 0 {
			b.Fatal(err, found)
		}
	}
}
