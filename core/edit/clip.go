package edit

import (
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// AsLongAs gives the shot the length of the clip that a move plays, in whole frames, and plays it once over it from its beginning, so
// that what goes round over the shot closes with it. The clip goes as much faster or slower as the frame asks for.
type AsLongAs struct {
	Move string `json:"move"`
}

func init() { Register[AsLongAs]("asLongAs") }

// Touches implements Toucher.
func (e *AsLongAs) Touches() []Touch { return []Touch{{Field: "frames"}, {Move: e.Move}} }

// Do implements Change.
func (e *AsLongAs) Do(w *Work) (string, error) {
	_, m, p, c, err := w.played(e.Move)
	if err != nil {
		return "", err
	}
	natural := c.Seconds * w.Shot.Rate.PerSecond()
	frames := math.Round(natural)
	if frames < 2 || frames > shot.MaxFrames {
		return "", fmt.Errorf("%s takes %.4g frames, and a shot has 2 to %d", c.Name, natural, shot.MaxFrames)
	}
	w.Shot.Frames = int(frames)
	m.Span, m.Laps = nil, 0
	p.Speed, p.From, p.Repeats, p.In, p.Out = natural/frames, 0, true, 0, 0
	return fmt.Sprintf("Make the shot as long as %s, %.0f f", c.Name, frames), nil
}

// played is a move that plays a clip, with its part, what it takes and its clip.
func (w *Work) played(id string) (*shot.Part, *shot.Move, *move.Play, *shot.Clip, error) {
	on, m := w.Shot.Move(id)
	if m == nil {
		return nil, nil, nil, nil, fmt.Errorf("the move is not there any more")
	}
	p, ok := m.Data.(*move.Play)
	if !ok || p.Clip < 0 || p.Clip >= len(on.Clips) {
		return nil, nil, nil, nil, fmt.Errorf("the move of %s plays no clip", on.Name)
	}
	return on, m, p, &on.Clips[p.Clip], nil
}

// ClipToPins gives the parts that a clip moves pins that say what the clip says, in the place of the move that plays it.
type ClipToPins struct {
	Move string `json:"move"`
}

func init() { Register[ClipToPins]("clipToPins") }

// Do implements Change.
func (e *ClipToPins) Do(w *Work) (string, error) {
	on, m, p, c, err := w.played(e.Move)
	if err != nil {
		return "", err
	}
	for i := range c.Tracks {
		if c.Tracks[i].Value == shot.ClipWeights {
			return "", fmt.Errorf("%s mixes morph targets, which carry no pins; it stays a clip", c.Name)
		}
	}
	if m.Span != nil || p.In > 0 || p.Out > 0 || m.Backwards || m.Muted {
		return "", fmt.Errorf("pins say what %s says over the whole shot, forwards, and without fading; let the move play it so first", c.Name)
	}
	time := func(seconds float64) float64 { return (seconds - p.From) / p.Speed * w.Shot.Rate.PerSecond() }
	parts := 0
	pins := map[string][]shot.Track{}
	for i := range c.Tracks {
		t := &c.Tracks[i]
		k := w.Index().Part(t.Part)
		if k < 0 {
			continue
		}
		if pins[t.Part] == nil {
			parts++
		}
		pins[t.Part] = append(pins[t.Part], clipPins(c, t, time, w.Pose().Metre(k))...)
	}
	for id, list := range pins {
		q := w.Shot.Part(id)
		if len(q.Tracks) > 0 {
			return "", fmt.Errorf("%s has pins of its own already; remove those, or leave %s a clip", q.Name, c.Name)
		}
		if p.Repeats {
			for k := range list {
				list[k].After = shot.BeyondRepeat
				if p.From > 0 {
					list[k].Before = shot.BeyondRepeat
				}
				through(&list[k], time(0), time(c.Seconds))
			}
		}
		q.Tracks = list
	}
	for k := range on.Moves {
		if on.Moves[k].ID == e.Move {
			on.Moves = append(on.Moves[:k:k], on.Moves[k+1:]...)
			break
		}
	}
	w.Changed()
	return fmt.Sprintf("Turn %s into pins of %d parts", c.Name, parts), nil
}

// through lets a track reach from the clip's beginning to its end, so that all of a clip's tracks go round together.
func through(t *shot.Track, from, to float64) {
	if first := t.Pins[0]; first.Time > from {
		t.Pins = append([]shot.Pin{{Time: from, Value: first.Value, Turn: first.Turn}}, t.Pins...)
	}
	if last := &t.Pins[len(t.Pins)-1]; last.Time < to {
		last.Next = shot.Straight
		t.Pins = append(t.Pins, shot.Pin{Time: to, Value: last.Value, Turn: last.Turn})
	}
}

// clipPins is a track of a clip as pins. Lengths of pins are metres, of which a part's parent has so many units; tangents of a
// clip are by the second, and handles stand a third of the way (glTF 2.0, Appendix C.5).
func clipPins(c *shot.Clip, t *shot.ClipTrack, time func(float64) float64, metre float64) []shot.Track {
	times, values := c.Numbers(t.Times, t.Keys), c.Numbers(t.Values, t.Keys*t.Per())
	value := 0
	if t.Next == shot.Curves {
		value = t.Width
	}
	third := func(i, k int) float64 { return (times[k] - times[i]) / 3 }
	if t.Value == shot.ClipTurn {
		out := shot.Track{Value: shot.TrackOrientation}
		handle := func(at, k float64, v []float64) *shot.Handle {
			turn := [4]float64{v[0] * k, v[1] * k, v[2] * k, v[3] * k}
			return &shot.Handle{Time: at, Turn: &turn}
		}
		for i := range times {
			v := values[i*t.Per():]
			q := geom.Quat(v[value : value+4]).Unit()
			p := shot.Pin{Time: time(times[i]), Turn: &q, Next: t.Next}
			if t.Next == shot.Curves && i > 0 {
				p.In = handle((time(times[i-1])-time(times[i]))/3, -third(i-1, i), v[:4])
			}
			if t.Next == shot.Curves && i+1 < len(times) {
				p.Out = handle((time(times[i+1])-time(times[i]))/3, third(i, i+1), v[8:12])
			}
			out.Pins = append(out.Pins, p)
		}
		return []shot.Track{out}
	}
	names, scale := []shot.Value{shot.TrackX, shot.TrackY, shot.TrackZ}, 1/metre
	if t.Value == shot.ClipSize {
		names, scale = []shot.Value{shot.TrackWidth, shot.TrackHeight, shot.TrackDepth}, 1
	}
	var out []shot.Track
	for k, name := range names {
		one := shot.Track{Value: name}
		for i := range times {
			v := values[i*t.Per():]
			p := shot.Pin{Time: time(times[i]), Value: v[value+k] * scale, Next: t.Next}
			if t.Next == shot.Curves && i > 0 {
				p.In = &shot.Handle{Time: (time(times[i-1]) - time(times[i])) / 3, Value: -third(i-1, i) * scale * v[k]}
			}
			if t.Next == shot.Curves && i+1 < len(times) {
				p.Out = &shot.Handle{Time: (time(times[i+1]) - time(times[i])) / 3, Value: third(i, i+1) * scale * v[6+k]}
			}
			one.Pins = append(one.Pins, p)
		}
		out = append(out, one)
	}
	return out
}
