// Package loop proves that a shot closes: that frame N, which is never rendered, is frame 0.
package loop

import (
	"fmt"
	"math"
	"strings"

	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Closing says whether a move, or the pins of a part, come back to their beginning over the shot, in words, and what
// would mend it if they do not. What is not brought back by itself may be brought back by something else: whether the shot
// closes, the seam says.
type Closing struct {
	Part   string
	Move   string // or empty for the part's pins
	Closes bool
	Laps   float64 // how often the move repeats over the shot, where that can be said
	Words  string
	Mends  []move.Mend
}

// Limits below which nothing jumps: radians, a share of the part's size, and a share.
const (
	maxAngle = 1e-6
	maxWay   = 1e-9
	maxShare = 1e-6
)

// whole reports whether v is a whole number to within rounding.
func whole(v float64) bool { return math.Abs(v-math.Round(v)) < 1e-9*math.Max(1, math.Abs(v)) }

// Closings looks at every move of the shot that is not muted, and at the pins of every part. A shot that ends has nothing
// to close. Mends have been tried.
func Closings(e *pose.Evaluator) []Closing {
	out := []Closing{}
	s := e.Shot
	if s.Ending != shot.Loop {
		return out
	}
	for i := range s.Parts {
		p := &s.Parts[i]
		if len(p.Tracks) > 0 {
			out = append(out, pins(e, i))
		}
		for j := range p.Moves {
			if m := &p.Moves[j]; !m.Muted {
				c := closing(e, i, m)
				c.Move, c.Part = m.ID, p.ID
				out = append(out, c)
			}
		}
	}
	return out
}

func closing(e *pose.Evaluator, i int, m *shot.Move) Closing {
	s := e.Shot
	frames := float64(s.Frames)
	n, often := move.Laps(s, m), move.Period(s, m) > 0
	j := jumpOf(e, i, m, frames, nil)
	if !j.any() {
		return Closing{Closes: true, Laps: n, Words: "closes: " + closed(m, n, often, e.Shot.Frames)}
	}
	words := fmt.Sprintf("does not close: it jumps %s at the seam", j.words(move.Looks(m)))
	if often && !whole(n) {
		words = fmt.Sprintf("does not close: %d / %.4g = %.4g laps", s.Frames, frames/n, n)
	}
	c := Closing{Laps: n, Words: words}
	for _, mend := range move.Mends(s, m) {
		now, length, swap := m, frames, (*shot.Move)(nil)
		for k := range mend.Moves {
			if mend.Moves[k].ID == m.ID {
				now = &mend.Moves[k]
			} else {
				swap = &mend.Moves[k]
			}
		}
		if mend.Frames > 0 {
			length = float64(mend.Frames)
		}
		if now.Data == nil || !move.Valid(now, &s.Parts[i]) || jumpOf(e, i, now, length, swap).any() { // what is offered is tried first
			continue
		}
		c.Mends = appendNew(c.Mends, mend)
	}
	return c
}

// jump is how far something is thrown where time begins anew: radians, metres, and a share of its size or of a change.
type jump struct{ angle, offset, share float64 }

func (j jump) any() bool { return j.angle >= maxAngle || j.offset >= maxWay || j.share >= maxShare }

func (j *jump) between(a, b shot.Rest, metre float64) {
	q := a.Rotation.Unit().Mul(b.Rotation.Unit().Inverse())
	j.angle = math.Max(j.angle, 2*math.Atan2(math.Sqrt(q[0]*q[0]+q[1]*q[1]+q[2]*q[2]), math.Abs(q[3])))
	j.offset = math.Max(j.offset, a.Position.Sub(b.Position).Len()/metre)
	for k := range a.Size {
		j.share = math.Max(j.share, math.Abs(a.Size[k]-b.Size[k]))
	}
}

func (j jump) words(look bool) string {
	var off []string
	if j.angle >= maxAngle {
		off = append(off, fmt.Sprintf("%.4g degrees", j.angle*180/math.Pi))
	}
	if j.offset >= maxWay {
		off = append(off, Distance(j.offset))
	}
	if len(off) == 0 {
		off = append(off, fmt.Sprintf("%.3g %% %s", j.share*100, map[bool]string{true: "of its change", false: "in size"}[look]))
	}
	return strings.Join(off, " and ")
}

// Distance writes metres in the unit that suits them.
func Distance(m float64) string {
	switch {
	case m >= 10:
		return fmt.Sprintf("%.4g m", m)
	case m >= 1e-6:
		return fmt.Sprintf("%.4g mm", m*1000)
	}
	return fmt.Sprintf("%.2g µm", m*1e6)
}

// jumpOf returns how far a move alone throws its part where time begins anew, in a shot of so many frames: at the seam,
// and where a span that runs across it begins again. Another move may take the place of the one with its id.
func jumpOf(e *pose.Evaluator, i int, m *shot.Move, frames float64, swap *shot.Move) (j jump) {
	before := motion.BeforeSeam(e.Shot)
	before.Frames, before.T = frames, frames
	first := before
	first.T = 0
	pairs := [][2]motion.Time{{before, first}}
	if m.Span != nil && m.Span.To > frames {
		late, begin := first, first
		late.T, begin.T = m.Span.From+frames, m.Span.From
		pairs = append(pairs, [2]motion.Time{late, begin})
	}
	for _, p := range pairs {
		switch {
		case move.Bends(m):
			a, b := e.BendAlone(i, m, p[0]), e.BendAlone(i, m, p[1])
			j.angle = math.Max(j.angle, math.Abs(a.Angle-b.Angle))
			if a.Cage != nil && b.Cage != nil {
				for k, p := range a.Cage.Offsets {
					j.offset = math.Max(j.offset, p.Sub(b.Cage.Offsets[k]).Len()/e.OwnMetre(i))
				}
			}
		case move.Only(m, &e.Shot.Parts[i]) != nil: // that it acts on, each in its own way
			for id := range move.Only(m, &e.Shot.Parts[i]) {
				if k := e.Index.Part(id); k >= 0 {
					a, b := e.AloneOn(i, k, m, p[0]), e.AloneOn(i, k, m, p[1])
					j.between(a.Rest, b.Rest, e.Metre(k))
					for n, w := range a.Weights {
						j.share = math.Max(j.share, math.Abs(w-b.Weights[n]))
					}
				}
			}
		case move.Poses(m) || move.ActsOnMembers(m):
			j.between(e.Alone(i, m, p[0], swap), e.Alone(i, m, p[1], swap), e.Metre(i))
		default: // a look
			j.share = math.Max(j.share, math.Abs(motion.Progress(p[0], m)-motion.Progress(p[1], m)))
		}
	}
	return j
}

// pins says whether the pins of a part come back over the seam.
func pins(e *pose.Evaluator, i int) Closing {
	p := &e.Shot.Parts[i]
	var j jump
	j.between(e.Pinned(i, motion.BeforeSeam(e.Shot)), e.Pinned(i, motion.At(e.Shot, 0)), e.Metre(i))
	c := Closing{Part: p.ID, Closes: !j.any(), Laps: 1, Words: "closes: its pins end as they begin"}
	if !c.Closes {
		c.Words = fmt.Sprintf("does not close: its pins jump %s at the seam", j.words(false))
	}
	return c
}

func closed(m *shot.Move, n float64, often bool, frames int) string {
	switch {
	case often:
		return times(int(math.Round(n)))
	case move.CountsLaps(m) && n == 0:
		return "it does not turn"
	case move.CountsLaps(m) && whole(n):
		return fmt.Sprintf("%s in %d frames", laps(int(math.Round(math.Abs(n)))), frames)
	case m.After == shot.Mirrored:
		return "it goes there and back"
	case m.After == shot.Returns:
		return "it returns"
	}
	return "it ends as it begins"
}

func appendNew(list []move.Mend, m move.Mend) []move.Mend {
	for _, o := range list {
		if o.Words == m.Words || o.Words+", over the whole loop" == m.Words {
			return list
		}
	}
	return append(list, m)
}

func times(n int) string {
	switch n {
	case 1:
		return "once in the loop"
	case 2:
		return "twice in the loop"
	}
	return fmt.Sprintf("%d times in the loop", n)
}

func laps(n int) string {
	if n == 1 {
		return "one lap"
	}
	return fmt.Sprintf("%d laps", n)
}
