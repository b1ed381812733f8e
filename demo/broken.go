package demo

import (
	"fmt"
	"math"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// Broken breaks the lantern in the ways that people break loops, to learn from what Check says.
type Broken struct{}

// Do implements edit.Change.
func (*Broken) Do(w *edit.Work) (string, error) {
	w.Shot.Name = "Broken on purpose"
	turn := func(turns float64) shot.Move {
		return shot.Move{Kind: "turn", After: shot.Stays, Data: &move.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: turns, Direction: shot.Clockwise}}
	}
	eased := turn(1)
	eased.Pace = shot.Pace{Kind: shot.Sine, Way: "both"}
	for _, b := range []struct {
		part  string
		moves []shot.Move
		pins  []shot.Track
		off   geom.Vec3 // from where it stands
	}{
		{part: "Winding", moves: []shot.Move{turn(1.0 / 3)}},                                                                                                                                // a third of a turn: jumps at the seam
		{part: "Bail", pins: []shot.Track{{Value: shot.TrackTurnY, Pins: []shot.Pin{{Time: 0}, {Time: 95, Value: 2 * math.Pi}}}}},                                                           // the doubled last frame
		{part: "Head", moves: []shot.Move{eased}},                                                                                                                                           // stutters each lap
		{part: "Collar", moves: []shot.Move{{Kind: "look", After: shot.Stays, Data: &move.Look{What: "glow", To: [3]float64{0.6, 0.2, 0}}}}},                                                // glows, and is dark again at once
		{part: "Cage", moves: []shot.Move{{Kind: "slide", After: shot.Returns, Span: &shot.Span{From: 24, To: 48}, Data: &move.Slide{By: geom.Vec3{0.03, 0, 0}, Frame: shot.ParentFrame}}}}, // is back in one step
		{part: "Key softbox", moves: []shot.Move{{Kind: "slide", After: shot.Stays, Data: &move.Slide{By: geom.Vec3{0.2, 0, 0}, Frame: shot.RoomFrame}}}},                                   // light that does not come back
		{part: "Chimney", pins: []shot.Track{{Value: shot.TrackY, Pins: []shot.Pin{{Time: 0}, {Time: 96, Value: 0.01}}}}},                                                                   // pins that end elsewhere
		{part: "Lantern", off: geom.Vec3{0.006, 0, 0}},                                                                                                                                      // off the axis: wobbles
	} {
		p := named(w.Shot, b.part)
		if p == nil {
			return "", fmt.Errorf("the lantern has no part %s to break", b.part)
		}
		for _, m := range b.moves {
			m.ID = w.NewID()
			p.Moves = append(p.Moves, m)
		}
		p.Tracks = append(p.Tracks, b.pins...)
		p.Rest.Position = p.Rest.Position.Add(b.off)
	}
	c := w.Shot.Part(w.Shot.Camera)
	c.Camera.Fitted = false
	c.Camera.Focal *= 1.25 // cuts off what it fitted
	w.Changed()
	return "Break it on purpose", nil
}
