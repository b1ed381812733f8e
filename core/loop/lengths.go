package loop

import (
	"context"
	"math"
	"math/big"
	"slices"

	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// maxPart is the largest denominator of a period in frames that counts as meant: 2.5 s at 23.976 frames a second has 1001.
const maxPart = 2002

// fraction returns the fraction with the smallest denominator that a number of frames is, by its continued fraction; nil where none
// is near enough.
func fraction(v float64) *big.Rat {
	h0, h1, k0, k1 := int64(0), int64(1), int64(1), int64(0)
	for x := v; ; {
		a := int64(math.Floor(x))
		h0, h1 = h1, a*h1+h0
		k0, k1 = k1, a*k1+k0
		if k1 > maxPart || h1 > 1<<40 {
			return nil
		}
		if math.Abs(float64(h1)/float64(k1)-v) < 1e-9*math.Max(1, v) {
			return big.NewRat(h1, k1)
		}
		if x -= float64(a); x < 1e-12 {
			return nil
		}
		x = 1 / x
	}
}

// Periods are the times in frames, exactly, after which what goes by a clock of its own comes round: moves with a period, and pins
// that repeat.
func Periods(s *shot.Shot) (out []*big.Rat) {
	add := func(frames float64) {
		if f := fraction(frames); f != nil && f.Sign() > 0 {
			out = append(out, f)
		}
	}
	for i := range s.Parts {
		p := &s.Parts[i]
		for j := range p.Moves {
			if m := &p.Moves[j]; !m.Muted {
				add(move.Period(s, m))
			}
		}
		for k := range p.Tracks {
			if t := &p.Tracks[k]; t.After == shot.BeyondRepeat && len(t.Pins) > 1 {
				add(t.Pins[len(t.Pins)-1].Time - t.Pins[0].Time)
			}
		}
	}
	return out
}

// Together is the shortest time after which periods all come round at once: their least common multiple, of fractions in lowest terms
// that of the numerators over the greatest common divisor of the denominators; nil for none, or where it is beyond any shot.
func Together(periods []*big.Rat) *big.Rat {
	if len(periods) == 0 {
		return nil
	}
	num, den := new(big.Int).Set(periods[0].Num()), new(big.Int).Set(periods[0].Denom())
	for _, p := range periods[1:] {
		g := new(big.Int).GCD(nil, nil, num, p.Num())
		num.Mul(num, new(big.Int).Div(p.Num(), g))
		den.GCD(nil, nil, den, p.Denom())
		if num.BitLen() > 62 {
			return nil
		}
	}
	return new(big.Rat).SetFrac(num, den)
}

// Lengths are the lengths in frames, at most from half to twice the present one, at which everything that goes by a clock of its own
// comes round, the nearest first.
func Lengths(s *shot.Shot) (out []int) {
	t := Together(Periods(s))
	if t == nil || t.Num().BitLen() > 31 {
		return nil
	}
	whole := int(t.Num().Int64()) // frames are whole: so many of the common time at once
	for n := whole; n <= min(2*s.Frames, shot.MaxFrames); n += whole {
		if 2*n >= s.Frames {
			out = append(out, n)
		}
	}
	slices.SortStableFunc(out, func(a, b int) int { return abs(a-s.Frames) - abs(b-s.Frames) })
	return out
}

func abs(v int) int { return max(v, -v) }

// Shorter is the smallest number of frames that show all that a loop shows: on every frame the picture is as it is so many frames
// later, by the symmetry of what turns or as it repeats. It is 0 where it takes all frames, and where nothing moves at all.
func (w *Sight) Shorter(ctx context.Context) (int, error) {
	s := w.Pose.Shot
	if w.surfaces == nil {
		w.surfaces = map[int]*surface{}
	}
	only := *w
	only.decides = true
	for n := 1; n < s.Frames; n++ {
		if s.Frames%n != 0 {
			continue
		}
		same := true
		for _, t := range Spread(s.Frames, max(1, s.Frames/7)) {
			if err := ctx.Err(); err != nil {
				return 0, err
			}
			gap, err := only.Between(motion.At(s, float64(t)), motion.At(s, float64(t+n)))
			if err != nil {
				return 0, err
			}
			if same = gap.Closes; !same {
				break
			}
		}
		switch {
		case same && n == 1:
			return 0, nil
		case same:
			return n, nil
		}
	}
	return 0, nil
}

// Spread are all frames of a shot, every so many of them first: what is far apart soon tells where there is nothing to be found.
func Spread(n, step int) []int {
	out := make([]int, 0, n)
	for t := 0; t < n; t += step {
		out = append(out, t)
	}
	for t := range n {
		if t%step != 0 {
			out = append(out, t)
		}
	}
	return out
}
