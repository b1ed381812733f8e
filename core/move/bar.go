package move

import (
	"math"
	"slices"

	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Bar is how a move is drawn in the score.
type Bar struct {
	Words string       `json:"words"`
	Spans [][2]float64 `json:"spans"`           // stretches of time in frames that it fills
	Curve []float64    `json:"curve,omitempty"` // how its progress runs over each, from 0 to 1, at even times; none for straight
	Fixed bool         `json:"fixed,omitempty"` // it has no span that could be dragged
	Pace  []float64    `json:"pace,omitempty"`  // the course of one lap of a drawn pace, at even times
}

// maxSpans of one bar are drawn, and curvePoints of its curve.
const (
	maxSpans    = 400
	curvePoints = 33
)

// paces in words.
var paces = map[shot.PaceKind]string{"": "constant", shot.Constant: "constant", shot.Bezier: "eased"}

// BarOf returns how a move is drawn in the score of a shot.
func BarOf(s *shot.Shot, m *shot.Move) Bar {
	k := kinds[m.Kind]
	b := Bar{Words: k.description.Name}
	if k.about != nil {
		b.Words += " · " + k.about(m.Data, Setting{s, m})
	}
	if k.bar != nil {
		if words := k.bar(m.Data); words != "" {
			b.Words += " · " + words
		}
	}
	n := float64(s.Frames)
	paced := says(k.description.Sentence, timing.Is) || says(k.description.Sentence, begin.Is)
	b.Fixed = !paced && !says(k.description.Sentence, span.Is)
	if period := Period(s, m); period > 0 && (k.wave != nil || !b.Fixed) {
		for f := 0.0; f < n-1e-6 && len(b.Spans) < maxSpans; f += period {
			to := f + period
			if k.wave == nil {
				to = math.Min(to, n) // cut off where the shot ends
			}
			b.Spans = append(b.Spans, [2]float64{f, to})
		}
		if k.wave != nil {
			b.Curve = curve(k.wave)
		}
		return b
	}
	if k.period != nil && b.Fixed || k.places {
		b.Spans = [][2]float64{{0, n}}
		return b
	}
	pace, ok := paces[m.Pace.Kind]
	if !ok {
		pace = string(m.Pace.Kind)
	}
	if paced || k.Table {
		b.Words += " · " + pace
	}
	in := shot.Span{From: 0, To: n}
	if m.Span != nil {
		in = *m.Span
	}
	if m.Pace.Kind == shot.Drawn {
		b.Pace = curve(func(u float64) float64 { v, _ := motion.Pace(m.Pace, u); return v })
	}
	laps := float64(max(1, m.Laps))
	b.Spans = append(b.Spans, [2]float64{in.From, in.To})
	repeats := m.After == shot.Repeats || m.After == shot.CarriesOn || m.After == shot.Mirrored
	for from := in.To; repeats && m.Span != nil && from < n-1e-6 && len(b.Spans) < maxSpans; from += in.Long() {
		b.Spans = append(b.Spans, [2]float64{from, from + in.Long()})
	}
	if s.Ending == shot.Loop && in.To > n {
		b.Spans = append(b.Spans, [2]float64{in.From - n, in.To - n}) // it began before the seam
	}
	if m.Pace.Kind == "" || m.Pace.Kind == shot.Constant {
		if laps == 1 && m.After != shot.Mirrored {
			return b
		}
	}
	whole := *m
	whole.Span = &shot.Span{From: 0, To: 1}
	most := laps
	if m.After == shot.Mirrored || m.After == shot.Repeats {
		most = 1
	}
	b.Curve = curve(func(u float64) float64 {
		return motion.Progress(motion.Time{T: u, Frames: 1, Rate: 1}, &whole) / most
	})
	if m.After == shot.Repeats && laps > 1 {
		for i := range b.Curve {
			b.Curve[i] -= math.Floor(b.Curve[i] - 1e-9)
		}
	}
	return b
}

// says reports whether a word of a kind is in a sentence.
func says(sentence []Word, is string) bool {
	return slices.ContainsFunc(sentence, func(w Word) bool { return w.Is == is || says(w.Words, is) })
}

func curve(f func(u float64) float64) []float64 {
	out := make([]float64, curvePoints)
	for i := range out {
		out[i] = math.Round(f(float64(i)/(curvePoints-1))*1e3) / 1e3
	}
	return out
}
