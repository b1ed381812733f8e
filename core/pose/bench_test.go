package pose

import (
	"fmt"
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// 1,000 parts, each with four tracks of five pins: a frame of them.
func BenchmarkPinned(b *testing.B) {
	s := shot.New("bench")
	s.Frames = 240
	for i := range 1000 {
		p := shot.Part{ID: fmt.Sprint(i), Name: "p", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}
		tracks := []shot.Track{{Value: shot.TrackX}, {Value: shot.TrackY}, {Value: shot.TrackZ}, {Value: shot.TrackOrientation}}
		for _, t := range []float64{0, 24, 60, 144, 240} {
			for k, v := range []float64{t + float64(i), math.Sin(t), -t} {
				tracks[k].Pins = append(tracks[k].Pins, shot.Pin{Time: t, Value: v, Next: shot.Smooth})
			}
			tracks[3].Pins = append(tracks[3].Pins, shot.Pin{Time: t, Turn: &geom.Quat{0, math.Sin(t / 4), 0, math.Cos(t / 4)}})
		}
		p.Tracks = tracks
		s.Parts = append(s.Parts, p)
	}
	at := New(s).Some(0)
	b.ResetTimer()
	for k := range b.N {
		at.Go(float64(k % 240))
		for i := range s.Parts {
			at.Of(i)
		}
	}
}
