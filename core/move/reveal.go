package move

import (
	"fmt"
	"math"
	"math/rand/v2"
	"sort"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Reveal lets the parts of a group arrive, one after another. The span of the move is when the first one starts.
type Reveal struct {
	Order string    `json:"order"` // list, left, right, centre or random
	Delay float64   `json:"delay"` // frames from one to the next
	Takes float64   `json:"takes"` // frames that each arrives in
	From  string    `json:"from"`  // scale, slide, turn or fade
	By    geom.Vec3 `json:"by"`    // metres that it slides from, along its parent's axes
	Turn  float64   `json:"turn"`  // radians that it turns from, about the upright
	Seed  uint64    `json:"seed,omitempty"`

	Leaves bool `json:"leaves,omitempty"` // at the end of the shot they leave again as they came
}

// onGroup refuses moves of groups on anything else.
func onGroup(what string) func(on *shot.Part) error {
	return func(on *shot.Part) error {
		if on.Kind != shot.Group {
			return fmt.Errorf("%s is on a group, whose parts it acts on", what)
		}
		return nil
	}
}

// onMany does so, and takes copies.
func onMany(what string) func(on *shot.Part) error {
	return func(on *shot.Part) error {
		if on.Kind == shot.Copies {
			return nil
		}
		return onGroup(what)(on)
	}
}

var _ = define(Spec[Reveal]{
	Kind: "reveal", Note: "its parts arrive one after another", Find: "letters appear fade in build stagger",
	Suits: (*Subject).holdsMany,
	First: func(s *Subject) (Reveal, Timing) {
		return Reveal{Order: "left", Delay: 3, Takes: 12, From: "scale", By: geom.Vec3{0, s.Step(), 0}, Turn: math.Pi / 2},
			Timing{Span: &shot.Span{From: 0, To: 12}, Pace: shot.Pace{Kind: shot.Back, Way: "out"}, After: shot.Stays}
	},
	Words: []Value[Reveal]{
		{Name: "order", Label: "Order", Options: []Option{{"list", "as they are listed"}, {"left", "from the left"}, {"right", "from the right"}, {"centre", "from the centre"}, {"random", "at random"}}, Str: func(m *Reveal) *string { return &m.Order }},
		{Name: "from", Label: "Arriving by", Options: []Option{{"scale", "growing"}, {"slide", "sliding"}, {"turn", "turning"}, {"fade", "fading in"}}, Str: func(m *Reveal) *string { return &m.From }},
		{Name: "by", Label: "From", Unit: Length, Pins: true, Vec: func(m *Reveal) *geom.Vec3 { return &m.By }},
		{Name: "turn", Label: "Turn", Unit: Angle, Pins: true, At: func(m *Reveal) *float64 { return &m.Turn }},
		{Name: "delay", Label: "Delay", Unit: Frames, In: notBelow, Pins: true, At: func(m *Reveal) *float64 { return &m.Delay }},
		{Name: "takes", Label: "Takes", Unit: Frames, In: &Range{1e-3, most}, Pins: true, At: func(m *Reveal) *float64 { return &m.Takes }},
		{Name: "then", Label: "Then", As: AsChoice, Options: []Option{{"stay", "and stay"}, {"leave", "and leave again as they came"}},
			Get: func(m *Reveal, _ *shot.Part) any { return chosen(m.Leaves, "leave", "stay") },
			Set: choose(func(m *Reveal, v string, _ *Subject) { m.Leaves = v == "leave" })},
	},
	Sentence: say("The parts of ", part, " arrive ", val("order"), ", by ", val("from"), when("from", "slide", " from", val("by")), when("from", "turn", " by ", val("turn")),
		", each ", val("delay"), " after the one before, in ", val("takes"), ", beginning at ", begin, ", at ", pace, ", ", val("then"), "."),
	Check: func(m *Reveal, on *shot.Part) error { return onMany("a reveal")(on) },
	Times: func(m *Reveal, _, long func(*float64)) {
		long(&m.Delay)
		long(&m.Takes)
	},
	Mends: func(m *Reveal, b *Mending) {
		b.Change("Let them leave again as they came", func(c *shot.Move) { c.Data.(*Reveal).Leaves = true })
	},
	Members: &Members[Reveal]{
		Each:  true,
		Order: func(m *Reveal, at []geom.Vec3) []int { return m.ranks(at) },
		Apply: func(m *Reveal, c *Context, p *shot.Rest) { m.arrive(c, p) },
		Fades: func(m *Reveal) bool { return m.From == "fade" },
		Fade: func(m *Reveal, c *Context) float64 {
			_, e := m.arrival(c)
			return math.Max(0, math.Min(1, e))
		},
	},
	Bar: func(m *Reveal) string { return fmt.Sprintf("every %.4g f", m.Delay) },
	Examples: []Example[Reveal]{{
		Says: "half-way through its time it has half of the way to come, less what the pace has it overshoot", Frame: 6, At: geom.Vec3{0.5, 0, 0}, Turn: geom.NoTurn,
		Move: Reveal{Order: "list", Takes: 12, From: "slide", By: geom.Vec3{1, 0, 0}},
	}},
})

// ranks returns the places in the order of arrival of parts with these places of rest: for each part, how many arrive
// before it.
func (m *Reveal) ranks(at []geom.Vec3) []int {
	n := len(at)
	by := make([]float64, n)
	middle := 0.0
	for _, p := range at {
		middle += p[0] / float64(n)
	}
	rng := rand.New(rand.NewPCG(m.Seed, 0x4eea1))
	for i, p := range at {
		switch m.Order {
		case "left":
			by[i] = p[0]
		case "right":
			by[i] = -p[0]
		case "centre":
			by[i] = math.Abs(p[0] - middle)
		case "random":
			by[i] = rng.Float64()
		default:
			by[i] = float64(i)
		}
	}
	list := make([]int, n)
	for i := range list {
		list[i] = i
	}
	sort.SliceStable(list, func(a, b int) bool { return by[list[a]] < by[list[b]] })
	rank := make([]int, n)
	for k, i := range list {
		rank[i] = k
	}
	return rank
}

// arrival returns how far a part has come at its time, before and after the pace.
func (m *Reveal) arrival(c *Context) (u, e float64) {
	begin := 0.0
	if c.Move.Span != nil {
		begin = c.Move.Span.From
	}
	t := c.Time.T
	if m.Leaves { // what comes late leaves early
		t = math.Min(t, c.Time.Backwards().T)
	}
	u = (t - begin - m.Delay*float64(c.Place.Rank)) / math.Max(1e-3, m.Takes)
	e, _ = motion.Pace(c.Move.Pace, math.Max(0, math.Min(1, u)))
	return u, e
}

// arrive brings a part: at its time it comes from where it is told to, and then it is at rest. Before its time it is
// not there.
func (m *Reveal) arrive(c *Context, p *shot.Rest) {
	u, e := m.arrival(c)
	switch m.From {
	case "slide":
		p.Position = p.Position.Add(m.By.Mul((1 - e) * c.Metre))
	case "turn":
		p.Rotation = geom.AxisAngle(up, m.Turn*(1-e)).Mul(p.Rotation)
	}
	if k := e; m.From == "scale" || u <= 0 {
		if u <= 0 {
			k = 0
		}
		const least = 1e-6 // nothing is seen, and the matrix can be inverted
		for i := range p.Size {
			p.Size[i] *= math.Copysign(math.Max(least, math.Abs(k)), k)
		}
	}
}
