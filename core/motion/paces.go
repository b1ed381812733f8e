package motion

import "perigyre/core/shot"

// PaceKind describes a kind of pace, as the interface draws it.
type PaceKind struct {
	Kind  shot.PaceKind `json:"kind"`
	Name  string        `json:"name"`  // as it reads in a sentence
	First shot.Pace     `json:"first"` // first values
}

// Paces are all kinds of paces, the plain ones first.
var Paces = []PaceKind{
	{shot.Constant, "constant speed", shot.Pace{Kind: shot.Constant}},
	{shot.Bezier, "an eased pace", shot.Pace{Kind: shot.Bezier, Bezier: &[4]float64{0.42, 0, 0.58, 1}}},
	{shot.Sine, "a sine", shot.Pace{Kind: shot.Sine, Way: "both"}},
	{shot.Power, "a power", shot.Pace{Kind: shot.Power, Way: "both", Power: 3}},
	{shot.Exponential, "an exponential pace", shot.Pace{Kind: shot.Exponential, Way: "both"}},
	{shot.Circular, "a circular pace", shot.Pace{Kind: shot.Circular, Way: "both"}},
	{shot.Back, "a pace that overshoots", shot.Pace{Kind: shot.Back, Way: "out"}},
	{shot.Elastic, "an elastic pace", shot.Pace{Kind: shot.Elastic, Way: "out"}},
	{shot.Bounce, "bounces", shot.Pace{Kind: shot.Bounce, Way: "out"}},
	{shot.Spring, "a spring's pace", shot.Pace{Kind: shot.Spring, Spring: &shot.SpringSpec{Mass: 1, Stiffness: 120, Damping: 8}}},
	{shot.Drawn, "a drawn pace", shot.Pace{Kind: shot.Drawn, Curve: []shot.Pin{{Time: 0, Value: 0, Next: shot.Smooth}, {Time: 0.5, Value: 0.7, Next: shot.Smooth}, {Time: 1, Value: 1}}}},
	{shot.Steps, "steps", shot.Pace{Kind: shot.Steps, Steps: 8, Jump: "jump-end"}},
}
