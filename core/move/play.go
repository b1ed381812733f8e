package move

import (
	"encoding/json"
	"fmt"
	"math"

	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Play plays a clip that came with a model on the parts of the group that holds it: bones, nodes and weights of morph targets. What
// several of them say adds up, each by its share, so that one that fades out while the next fades in blends into it.
type Play struct {
	Clip    int     `json:"clip"`    // number of the clip of its group
	Speed   float64 `json:"speed"`   // 1 as it was made
	From    float64 `json:"from"`    // where in the clip it begins, seconds
	Repeats bool    `json:"repeats"` // it goes round; else it stays on its last pose
	In      float64 `json:"in"`      // frames over which it fades in, and out
	Out     float64 `json:"out"`
}

// PlayKind is the kind of a move that plays a clip.
const PlayKind shot.MoveKind = "play"

var _ = define(Spec[Play]{
	Kind: PlayKind, Note: "a clip that came with the model", Find: "animation clip walk cycle skeleton bones skin morph",
	Suits: func(s *Subject) bool { return len(s.Part().Clips) > 0 },
	First: func(s *Subject) (Play, Timing) { return Play{Speed: 1, Repeats: true}, throughout() },
	Words: []Value[Play]{
		{Name: "clip", Label: "Clip", As: AsClip, Get: func(m *Play, _ *shot.Part) any { return m.Clip },
			Set: func(m *Play, raw json.RawMessage, s *Subject) error {
				var k int
				if json.Unmarshal(raw, &k) != nil || k < 0 || k >= len(s.Part().Clips) {
					return fmt.Errorf("%s has no clip %s", s.Part().Name, raw)
				}
				m.Clip = k
				return nil
			}},
		{Name: "speed", Label: "Speed", Unit: Share, In: &Range{1e-3, 1000}, At: func(m *Play) *float64 { return &m.Speed }},
		{Name: "from", Label: "Seconds into the clip", In: &Range{0, 1e5}, At: func(m *Play) *float64 { return &m.From }},
		{Name: "repeats", Label: "At its end", As: AsChoice, Options: []Option{{"repeats", "repeating"}, {"once", "once"}},
			Get: func(m *Play, _ *shot.Part) any { return chosen(m.Repeats, "repeats", "once") },
			Set: choose(func(m *Play, v string, _ *Subject) { m.Repeats = v == "repeats" })},
		{Name: "in", Label: "Fades in over", Unit: Frames, In: &Range{0, shot.MaxFrames}, At: func(m *Play) *float64 { return &m.In }},
		{Name: "out", Label: "Fades out over", Unit: Frames, In: &Range{0, shot.MaxFrames}, At: func(m *Play) *float64 { return &m.Out }},
	},
	Sentence: say("Play ", val("clip"), " of ", part, " ", val("repeats"), ", at ", val("speed"), " of its speed, from ", val("from"), " s into it on, ", span,
		". It fades in over ", val("in"), " and out over ", val("out"), "."),
	Check: func(m *Play, on *shot.Part) error {
		if m.Clip < 0 || m.Clip >= len(on.Clips) {
			return fmt.Errorf("%s has no clip number %d", on.Name, m.Clip+1)
		}
		return nil
	},
	Times: func(m *Play, _, long func(*float64)) {
		long(&m.In)
		long(&m.Out)
	},
	Prepare: func(m *Play, on *shot.Part) any { return motion.NewClip(&on.Clips[m.Clip]) },
	Period: func(m *Play, in Setting) float64 {
		if on := in.On(); on != nil && m.Repeats && m.Clip < len(on.Clips) && in.Move.Span == nil {
			return on.Clips[m.Clip].Seconds / m.Speed * in.Rate()
		}
		return 0
	},
	Mends: func(m *Play, b *Mending) {
		on := Setting{b.Shot, b.Move}.On()
		if on == nil || !m.Repeats || b.Move.Span != nil {
			return
		}
		natural := on.Clips[m.Clip].Seconds * b.Shot.Rate.PerSecond()
		b.Periods(func(data any, frames float64) string {
			data.(*Play).Speed = natural / frames
			return fmt.Sprintf("%s at %.4g %% of its speed", times(float64(b.Shot.Frames)/frames), natural/frames*100)
		})
		if n := math.Max(1, math.Round(float64(b.Shot.Frames)/natural)); n*natural < shot.MaxFrames && n*natural >= 2 {
			whole := math.Round(n * natural) // frames, of which a clip need not have a whole number
			c := b.Move.Clone()
			c.Data.(*Play).Speed = n * natural / whole
			b.Mends = append(b.Mends, Mend{Words: fmt.Sprintf("Shot of %.0f f, %s at %.4g %%", whole, lower(times(n)), n*natural/whole*100), Moves: []shot.Move{c}, Frames: int(whole)})
		}
	},
	Members: &Members[Play]{
		Deep: true,
		Only: func(m *Play, on *shot.Part) []string {
			out := []string{}
			for _, t := range on.Clips[m.Clip].Tracks {
				out = append(out, t.Part)
			}
			return out
		},
		Apply: func(m *Play, c *Context, p *shot.Rest) {
			clip := c.Ready.(*motion.Clip)
			if at, share := m.at(c, clip.Seconds); share > 0 {
				clip.Apply(c.Part.ID, at, share, p)
			}
		},
		Mix: func(m *Play, c *Context, w []float64) {
			clip := c.Ready.(*motion.Clip)
			if at, share := m.at(c, clip.Seconds); share > 0 {
				clip.Mix(c.Part.ID, at, share, w)
			}
		},
	},
	About: func(m *Play, in Setting) string {
		if on := in.On(); on != nil && m.Clip < len(on.Clips) {
			return on.Clips[m.Clip].Name
		}
		return ""
	},
	Bar: func(m *Play) string { return fmt.Sprintf("%.4g %%", m.Speed*100) },
})

func times(n float64) string {
	if math.Abs(n-1) < 1e-9 {
		return "Once"
	}
	return fmt.Sprintf("%.4g times", n)
}

// at is where in its clip the move is, in seconds, and by which share it acts.
func (m *Play) at(c *Context, long float64) (seconds, share float64) {
	begins, lasts := 0.0, c.Time.Frames
	if s := c.Move.Span; s != nil {
		begins, lasts = s.From, s.Long()
	} else if !c.Time.Loop {
		lasts--
	}
	u := c.Time.T - begins
	if u < 0 && c.Time.Loop && begins+lasts > c.Time.Frames {
		u += c.Time.Frames // it began before the seam
	}
	share = 1
	if u > lasts && c.Move.After == shot.Returns {
		share = 0
	}
	u = math.Max(0, math.Min(u, lasts))
	if m.In > 0 {
		share = math.Min(share, u/m.In)
	}
	if m.Out > 0 {
		share = math.Min(share, (lasts-u)/m.Out)
	}
	at := m.From + u/c.Time.Rate*m.Speed
	if !m.Repeats {
		return math.Min(at, long), math.Max(0, share)
	}
	laps := math.Floor(at/long + 1e-9)
	if rest := at - laps*long; laps > 0 && rest < 1e-9*long && u == lasts { // the end itself, not the beginning again
		return long, math.Max(0, share)
	}
	return math.Max(0, at-laps*long), math.Max(0, share)
}
