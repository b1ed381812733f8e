package demo

import (
	"fmt"
	"math"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// Marching lets rows of cartons topple forwards, open and close, one row after another. Over the loop each goes once round over its edges,
// to where the one before it began: the loop closes by marching. One carton is what the camera is fitted to; the others are of the set.
type Marching struct{}

// What the rows do, in frames, and how they stand, metres.
const (
	marchRows    = 3 // before and behind the one in the middle
	marchLanes   = 2 // on each side of it
	marchLater   = 6 // frames by which a row begins after the one before it
	marchTopples = 50
	marchOpens   = 64
	marchAside   = 0.72                                  // from lane to lane
	marchWide    = (cartonAcross + 2*cartonSheet) / 1000 // of a carton, along the way
	marchHigh    = (cartonHeight + 2*cartonSheet) / 1000 //
	marchPitch   = 2 * (marchWide + marchHigh)           // once round over four edges
	marchFrames  = 2*marchRows*marchLater + marchTopples + marchOpens
)

// opens is the pace of a carton that opens, stays open for a while and closes.
var opens = shot.Pace{Kind: shot.Drawn, Curve: []shot.Pin{
	{Time: 0, Value: 0, Next: shot.Smooth}, {Time: 0.4, Value: 1, Next: shot.Smooth}, {Time: 0.6, Value: 1, Next: shot.Smooth}, {Time: 1, Value: 0, Next: shot.Smooth},
}}

// Do implements edit.Change.
func (*Marching) Do(w *edit.Work) (string, error) {
	s := w.Shot
	if err := Play(s, "cartons", w.NewID); err != nil {
		return "", err
	}
	s.Name, s.Frames = "Cartons", marchFrames
	if p := named(s, "Plinth"); p != nil {
		p.Hidden = true
	}
	carton := named(s, "Carton")
	w.Changed()
	if _, err := (&edit.Stand{Parts: []string{carton.ID}}).Do(w); err != nil {
		return "", err
	}
	carton = named(s, "Carton")
	for n, k := 0, marchRows; k >= -marchRows; n, k = n+1, k-1 {
		row := carton
		if k != 0 {
			if _, err := (&edit.Duplicate{Parts: []string{carton.ID}, ID: fmt.Sprint("row-", n)}).Do(w); err != nil {
				return "", err
			}
			w.Changed()
			carton = named(s, "Carton")
			row = s.Part(w.Made[len(w.Made)-1])
			row.Rest.Position, row.Set = carton.Rest.Position.Add(geom.Vec3{float64(k) * marchPitch, 0, 0}), true
		}
		row.Name = fmt.Sprint("Carton ", n+1)
		from := float64(n * marchLater)
		row.Moves = []shot.Move{
			{ID: w.NewID(), Kind: "topple", Span: &shot.Span{From: from, To: from + marchTopples}, Pace: shot.Pace{Kind: shot.Sine, Way: "both"}, After: shot.Stays,
				Data: &move.Topple{Along: geom.Vec3{1, 0, 0}, Sides: 4, Width: marchWide, High: marchHigh, Steps: 4}},
			{ID: w.NewID(), Kind: "unfold", Span: &shot.Span{From: from + marchTopples, To: from + marchTopples + marchOpens}, Pace: opens, After: shot.Stays,
				Data: &move.Unfold{Angle: 79 * math.Pi / 180, Order: "list", Deep: true, Share: 0.5, Base: partIn(s, row.ID, "Base")}},
		}
		if k == 0 {
			carton.Name = "Carton" // until all are made
		}
		for lane := 1; lane <= marchLanes; lane++ {
			aside := geom.Vec3{0, 0, marchAside * float64(lane)}
			s.Parts = append(s.Parts, shot.Part{
				ID: w.NewID(), Name: fmt.Sprintf("Lanes %d of row %d", lane, n+1), Parent: row.Parent, Kind: shot.Copies, Set: true, Moves: []shot.Move{},
				Rest:   shot.Rest{Position: row.Rest.Position.Sub(aside), Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}},
				Copies: &shot.Spread{Of: row.ID, Kind: shot.Row, Count: [3]int{2, 1, 1}, Step: aside.Mul(2)},
			})
			w.Changed()
			carton = named(s, "Carton")
		}
	}
	if c := s.Part(s.Camera); c != nil {
		c.Camera.Across = 1 // as far as it is fitted to
	}
	w.Changed()
	return "March", nil
}

// partIn is the id of a part of a name in another part.
func partIn(s *shot.Shot, root, name string) string {
	for i := range s.Parts {
		if s.Parts[i].Name == name && s.Parts[i].Parent == root {
			return s.Parts[i].ID
		}
	}
	return ""
}
