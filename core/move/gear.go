package move

import (
	"encoding/json"
	"fmt"
	"math/big"
	"strconv"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Gear turns as another part turns, in an exact ratio.
type Gear struct {
	Driver string     `json:"driver"` // part
	Axis   geom.Vec3  `json:"axis"`
	Frame  shot.Frame `json:"frame"`
	Num    int        `json:"num"` // driven = driver x Num / Den: the driver's teeth over its own
	Den    int        `json:"den"`
	Mesh   string     `json:"mesh"`            // outside (reverses), inside or belt
	Phase  float64    `json:"phase,omitempty"` // radians
}

var _ = define(Spec[Gear]{
	Kind: "gear", Note: "driven by another part, in a ratio", Find: "ratio teeth cog drive belt",
	Suits: func(s *Subject) bool { return s.Other(turns) != nil },
	First: func(s *Subject) (Gear, Timing) {
		return Gear{Driver: s.Other(turns).ID, Axis: up, Frame: shot.OwnFrame, Num: 1, Den: 1, Mesh: "outside"}, throughout()
	},
	Words: []Value[Gear]{
		{Name: "driver", Label: "Driver", As: AsPart, Str: func(m *Gear) *string { return &m.Driver }},
		{Name: "num", Label: "Driver's teeth", In: &Range{1e-6, maxTeeth}, Get: func(m *Gear, _ *shot.Part) any { return m.Num },
			Set: func(m *Gear, raw json.RawMessage, _ *Subject) error { return m.set(raw, true) }},
		{Name: "den", Label: "Own teeth", In: &Range{1e-6, maxTeeth}, Get: func(m *Gear, _ *shot.Part) any { return m.Den },
			Set: func(m *Gear, raw json.RawMessage, _ *Subject) error { return m.set(raw, false) }},
		{Name: "mesh", Label: "Mesh", Options: []Option{{"outside", "teeth outside, so that it reverses"}, {"inside", "teeth inside the other"}, {"belt", "by a belt"}}, Str: func(m *Gear) *string { return &m.Mesh }},
		{Name: "axis", Label: "Axis", As: AsAxis, Vec: func(m *Gear) *geom.Vec3 { return &m.Axis }},
		{Name: "frame", Label: "Whose axis", As: AsChoice, Options: frames, Str: func(m *Gear) *string { return (*string)(&m.Frame) }},
		{Name: "phase", Label: "Phase", Unit: Angle, Pins: true, At: func(m *Gear) *float64 { return &m.Phase }},
	},
	Sentence: say(part, " is driven by ", val("driver"), " in the ratio ", val("num"), " to ", val("den"), ", ", val("mesh"), ", about ", val("frame"), " ", val("axis"), ", ahead by ", val("phase"), "."),
	Needs:    func(m *Gear) []string { return []string{m.Driver} },
	Check: func(m *Gear, _ *shot.Part) error {
		if m.Num < 1 || m.Den < 1 || m.Num > maxTeeth || m.Den > maxTeeth {
			return fmt.Errorf("the teeth of a gear are 1 to %d, not %d and %d", maxTeeth, m.Num, m.Den)
		}
		return nil
	},
	Apply: func(m *Gear, c *Context, p *shot.Rest) { c.rotate(p, m.Axis, m.Frame, m.angle(c)) },
	Angle: func(m *Gear, c *Context) float64 { return m.angle(c) },
	Mends: func(m *Gear, b *Mending) {
		d := b.Shot.Part(m.Driver)
		if d == nil {
			return
		}
		for j := range d.Moves {
			for k := 1; k <= m.Den && k <= 1000; k++ {
				c := d.Moves[j].Clone()
				if k*m.Num%m.Den == 0 && setTurns(&c, k) {
					b.Mends = append(b.Mends, Mend{Words: fmt.Sprintf("%s makes %s", d.Name, counted("turn", float64(k))), Moves: []shot.Move{c}})
					break
				}
			}
		}
	},
	Bar:     func(m *Gear) string { return fmt.Sprintf("%d to %d", m.Num, m.Den) },
	Handles: []Handle{{Is: "axis", Name: "Axis", Values: map[string]string{"axis": "axis", "frame": "frame"}}},
})

// maxTeeth of a wheel.
const maxTeeth = 1_000_000

// set sets one side of the ratio. A decimal is taken as what it is: 0.62 to 1 is 31 to 50, exactly.
func (m *Gear) set(raw json.RawMessage, driver bool) error {
	const digits = 32 // and within its bounds: an exponent may stand for any number of them
	about, err := strconv.ParseFloat(string(raw), 64)
	if err != nil || len(raw) > digits || !(about >= 1e-6 && about <= maxTeeth) {
		return fmt.Errorf("teeth, or a share of a ratio, are a number from 0.000001 to %d, not %.40s", maxTeeth, raw)
	}
	v, ok := new(big.Rat).SetString(string(raw))
	if !ok {
		return fmt.Errorf("%s is no number", raw)
	}
	num, den := big.NewRat(int64(m.Num), 1), big.NewRat(int64(m.Den), 1)
	if driver {
		num = v
	} else {
		den = v
	}
	if num.IsInt() && den.IsInt() && num.Num().IsInt64() && den.Num().IsInt64() { // as they are: wheels of 16 and 20 teeth are not 4 and 5
		m.Num, m.Den = int(num.Num().Int64()), int(den.Num().Int64())
	} else if r := new(big.Rat).Quo(num, den); r.Num().IsInt64() && r.Denom().IsInt64() {
		m.Num, m.Den = int(r.Num().Int64()), int(r.Denom().Int64())
	} else {
		m.Num = 0
	}
	if m.Num < 1 || m.Den < 1 || m.Num > maxTeeth || m.Den > maxTeeth {
		return fmt.Errorf("the ratio that %s makes has more than %d teeth; fewer digits do", raw, maxTeeth)
	}
	return nil
}

// turns reports whether something of a part can drive others.
func turns(p *shot.Part) bool {
	for i := range p.Moves {
		if Drives(&p.Moves[i]) {
			return true
		}
	}
	return false
}

// setTurns has a move make whole turns, if its kind is one that makes a number of them.
func setTurns(m *shot.Move, k int) bool {
	for _, v := range kinds[m.Kind].description.Values {
		if v.Name == "turns" && v.Unit == Turns {
			return kinds[m.Kind].set(m.Data, "turns", fmt.Appendf(nil, "%d", k), nil) == nil
		}
	}
	return false
}

// angle follows the driver's. Teeth that mesh pass each other in equal numbers: outside one another they turn against
// each other, inside and by a belt along with each other.
func (m *Gear) angle(c *Context) float64 {
	ratio := float64(m.Num) / float64(m.Den)
	if m.Mesh == "outside" {
		ratio = -ratio
	}
	return ratio*c.Room.Turned(m.Driver, c.Time) + m.Phase
}
