package shot

import "fmt"

// PaceKind names how progress runs over a span.
type PaceKind string

const (
	Constant    PaceKind = "constant"
	Bezier      PaceKind = "bezier"
	Steps       PaceKind = "steps"
	Sine        PaceKind = "sine"
	Power       PaceKind = "power"
	Exponential PaceKind = "exponential"
	Circular    PaceKind = "circular"
	Back        PaceKind = "back"
	Elastic     PaceKind = "elastic"
	Bounce      PaceKind = "bounce"
	Spring      PaceKind = "spring"
	Drawn       PaceKind = "drawn"
)

// Pace is how a move's progress runs over its span.
type Pace struct {
	Kind   PaceKind    `json:"kind"`             // constant if empty
	Bezier *[4]float64 `json:"bezier,omitempty"` // x1 y1 x2 y2, as in CSS cubic-bezier()
	Way    string      `json:"way,omitempty"`    // in (starts gently), out (ends gently) or both, of sine to bounce
	Power  float64     `json:"power,omitempty"`  // 2 to 5
	Steps  int         `json:"steps,omitempty"`
	Jump   string      `json:"jump,omitempty"` // jump-start, jump-end, jump-none or jump-both, as in CSS steps()
	Spring *SpringSpec `json:"spring,omitempty"`
	Curve  []Pin       `json:"curve,omitempty"` // of a drawn pace: times and values from 0 to 1
}

// SpringSpec is a weight on a damped spring, let go at a distance of 1.
type SpringSpec struct {
	Mass      float64 `json:"mass"`
	Stiffness float64 `json:"stiffness"`
	Damping   float64 `json:"damping"`
}

// Check returns an error in a sentence for a pace that nothing can run by.
func (p Pace) Check() error {
	switch p.Kind {
	case "", Constant:
		return nil
	case Bezier:
		b := p.Bezier
		if b == nil || !(b[0] >= 0 && b[0] <= 1 && b[2] >= 0 && b[2] <= 1 && finite(b[1]) && finite(b[3])) {
			return fmt.Errorf("the times of an eased pace lie from 0 to 1")
		}
		return nil
	case Steps:
		least := 1
		if p.Jump == "jump-none" {
			least = 2
		}
		if p.Steps < least || p.Steps > 100_000 {
			return fmt.Errorf("a pace in steps has %d or more of them, not %d", least, p.Steps)
		}
		switch p.Jump {
		case "", "jump-start", "jump-end", "jump-none", "jump-both":
			return nil
		}
		return fmt.Errorf("steps jump at the start, the end, both or none, not at %q", p.Jump)
	case Sine, Power, Exponential, Circular, Back, Elastic, Bounce:
		if p.Way != "in" && p.Way != "out" && p.Way != "both" {
			return fmt.Errorf("a pace is gentle going in, going out or both, not %q", p.Way)
		}
		if p.Kind == Power && !(p.Power >= 1 && p.Power <= 10) {
			return fmt.Errorf("the power of a pace is 1 to 10")
		}
		return nil
	case Spring:
		if s := p.Spring; s == nil || !positive(s.Mass) || !positive(s.Stiffness) || !positive(s.Damping) {
			return fmt.Errorf("a spring has a mass, a stiffness and a damping of more than 0")
		}
		return nil
	case Drawn:
		t := Track{Value: "pace", Pins: p.Curve}
		if err := t.check(false); err != nil {
			return err
		}
		first, last := p.Curve[0], p.Curve[len(p.Curve)-1]
		if first.Time != 0 || last.Time != 1 || len(p.Curve) < 2 {
			return fmt.Errorf("a drawn pace runs from time 0 to time 1")
		}
		return nil
	}
	return fmt.Errorf("there is no pace %q", p.Kind)
}
