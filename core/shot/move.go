package shot

import (
	"fmt"
	"math"

	"github.com/tdewolff/canvas"

	"perigyre/core/geom"
)

// MoveKind names a kind of move.
type MoveKind string

const (
	KindTurntable MoveKind = "turntable"
	KindTurn      MoveKind = "turn"
	KindSlide     MoveKind = "slide"
	KindFloat     MoveKind = "float"
	KindSwing     MoveKind = "swing"
	KindRoll      MoveKind = "roll"
	KindTopple    MoveKind = "topple"
	KindTravel    MoveKind = "travel"
	KindGear      MoveKind = "gear"
	KindFollow    MoveKind = "follow"
	KindOrbit     MoveKind = "orbit"
	KindFlight    MoveKind = "flight"
	KindReveal    MoveKind = "reveal"
	KindUnfold    MoveKind = "unfold"
	KindBurst     MoveKind = "burst"
	KindSkim      MoveKind = "skim"
	KindSquash    MoveKind = "squash"
	KindFlex      MoveKind = "flex"
	KindLook      MoveKind = "look"
)

// Move is one parametric motion on one part. The field that its kind names is set. Moves with a progress
// run it over their span.
type Move struct {
	ID    string   `json:"id"`
	Kind  MoveKind `json:"kind"`
	Muted bool     `json:"muted"`
	Solo  bool     `json:"solo,omitempty"` // while any move of a part is solo, its others rest

	Backwards bool `json:"backwards,omitempty"` // time runs from the shot's end to its beginning

	Span  *Span   `json:"span"`           // null for the whole shot
	Pace  Pace    `json:"pace"`           // of each lap
	Laps  int     `json:"laps,omitempty"` // how often progress runs over the span; 0 for once
	After After   `json:"after"`          // what follows the span
	Pins  []Track `json:"pins,omitempty"` // pins on parameters, by the names that Params gives them

	Turntable *Turntable `json:"turntable,omitempty"`
	Turn      *Turn      `json:"turn,omitempty"`
	Slide     *Slide     `json:"slide,omitempty"`
	Float     *Float     `json:"float,omitempty"`
	Swing     *Swing     `json:"swing,omitempty"`
	Roll      *Roll      `json:"roll,omitempty"`
	Topple    *Topple    `json:"topple,omitempty"`
	Travel    *Travel    `json:"travel,omitempty"`
	Gear      *Geared    `json:"gear,omitempty"`
	Follow    *Follow    `json:"follow,omitempty"`
	Orbit     *Orbit     `json:"orbit,omitempty"`
	Flight    *Flight    `json:"flight,omitempty"`
	Reveal    *Reveal    `json:"reveal,omitempty"`
	Unfold    *Unfold    `json:"unfold,omitempty"`
	Burst     *Burst     `json:"burst,omitempty"`
	Skim      *Skim      `json:"skim,omitempty"`
	Squash    *Squash    `json:"squash,omitempty"`
	Flex      *Flex      `json:"flex,omitempty"`
	Look      *Look      `json:"look,omitempty"`
}

// Direction is seen from the tip of the axis: from above for an upright one.
type Direction string

const (
	Clockwise        Direction = "clockwise"
	CounterClockwise Direction = "counterclockwise"
)

// Sign returns the sign of the angle: a positive angle turns counter-clockwise.
func (d Direction) Sign() float64 {
	if d == Clockwise {
		return -1
	}
	return 1
}

// Frame says whose axes are meant.
type Frame string

const (
	OwnFrame    Frame = "own"
	ParentFrame Frame = "parent"
)

// Span is a stretch of time in frames. In a loop it may run across the seam.
type Span struct {
	From float64 `json:"from"`
	To   float64 `json:"to"` // greater than From
}

// After says what a move does after its span.
type After string

const (
	Stays     After = "stays"
	Returns   After = "returns"
	Repeats   After = "repeats"
	CarriesOn After = "carries on"     // repeats, adding what it has done
	Mirrored  After = "there and back" // repeats, every second time backwards
)

type (
	// Turntable turns everything in its group, or the shot's camera, about the group's upright axis:
	// whole turns, over the whole shot, at constant speed. It has no pace, so that it cannot stutter.
	Turntable struct {
		Moves     TurntableMoves `json:"moves"`
		Direction Direction      `json:"direction"` // of what moves
		Turns     int            `json:"turns"`
		Plinth    bool           `json:"plinth"` // whether a plinth in the group turns along
	}

	// Turn rotates a part about an axis through its pivot, in one go or with rests.
	Turn struct {
		Axis      geom.Vec3 `json:"axis"`
		Frame     Frame     `json:"frame"` // of the axis
		Turns     float64   `json:"turns"`
		Direction Direction `json:"direction"`
		Stops     int       `json:"stops,omitempty"` // evenly over the whole angle, each reached by the pace; 0 for none
		Rest      float64   `json:"rest,omitempty"`  // share of each stop's time that it rests there
	}

	// Slide moves a part along.
	Slide struct {
		By    geom.Vec3 `json:"by"` // metres
		Frame Frame     `json:"frame"`
	}

	// Float lifts a part and lets it down again in a sine, swaying as it goes. It starts at the lowest
	// point, so that what stands on a plinth never sinks into it.
	Float struct {
		Height float64 `json:"height"` // from lowest to highest
		Period float64 `json:"period"` // frames
		Tilt   float64 `json:"tilt"`   // sway either way about the parent's z axis
	}

	// Swing goes to and fro about an axis through the pivot.
	Swing struct {
		Axis      geom.Vec3 `json:"axis"`
		Frame     Frame     `json:"frame"`
		Amplitude float64   `json:"amplitude"`        // radians either way
		Shape     string    `json:"shape"`            // sine, pendulum or weighted
		Period    float64   `json:"period"`           // frames; of a pendulum with a length, that follows from it
		Length    float64   `json:"length,omitempty"` // metres, of a pendulum; 0 to give the period instead
		Phase     float64   `json:"phase,omitempty"`  // share of a period that it is ahead; it begins in the middle
	}

	// Roll turns a round part as far as it travels: no slip.
	Roll struct {
		Radius  float64   `json:"radius"`          // metres
		Along   geom.Vec3 `json:"along"`           // in the parent's frame; its upright part is left out
		Turns   float64   `json:"turns"`           // its own, on the ground; laps round the other, on or in it
		Contact string    `json:"contact"`         // ground, on or in: outside or inside another round part
		Other   float64   `json:"other,omitempty"` // radius of the other part, metres
	}

	// Topple rolls a prism over its lower edges, one after another, always touching the floor.
	Topple struct {
		Along geom.Vec3 `json:"along"` // in the parent's frame; its upright part is left out
		Sides int       `json:"sides"` // of the cross section: 4 for a box
		Width float64   `json:"width"` // of the side it stands on, along the way, metres
		High  float64   `json:"high"`  // of a box; of others it follows from the width
		Base  geom.Vec3 `json:"base"`  // the middle of what it stands on, in the parent's frame
		Steps int       `json:"steps"`
	}

	// Travel goes along a path at the pace of its arc length.
	Travel struct {
		Path    string      `json:"path"`              // circle, ellipse, rounded, points, closed or drawn
		Width   float64     `json:"width,omitempty"`   // of the first three, metres
		Depth   float64     `json:"depth,omitempty"`   // of an ellipse or rounded rectangle
		Corner  float64     `json:"corner,omitempty"`  // radius of a rounded rectangle's corners
		Points  []geom.Vec3 `json:"points,omitempty"`  // that a smooth curve goes through, in the parent's frame from the part's place
		Drawing string      `json:"drawing,omitempty"` // SVG path data, laid on the floor as wide as Width
		From    float64     `json:"from"`              // shares of the path
		To      float64     `json:"to"`
		Lay     bool        `json:"lay"`            // z along the path, rather than facing as at rest
		Bank    float64     `json:"bank,omitempty"` // radians that it leans into a curve of the radius of its width
	}

	// Geared turns as another part turns, in an exact ratio.
	Geared struct {
		Driver string    `json:"driver"` // part
		Axis   geom.Vec3 `json:"axis"`
		Frame  Frame     `json:"frame"`
		Num    int       `json:"num"` // driven = driver x Num / Den: the driver's teeth over its own
		Den    int       `json:"den"`
		Mesh   string    `json:"mesh"`            // outside (reverses), inside or belt
		Phase  float64   `json:"phase,omitempty"` // radians
	}

	// Follow goes along with what another part's own moves do.
	Follow struct {
		Of       string  `json:"of"` // part
		Position bool    `json:"position"`
		Rotation bool    `json:"rotation"`
		Size     bool    `json:"size"`
		Lag      float64 `json:"lag"` // frames
	}

	// Orbit revolves a camera, or anything else, round a target and keeps it looking there.
	Orbit struct {
		Target string    `json:"target"`          // part, or empty for a point
		Point  geom.Vec3 `json:"point"`           // in the room; with a target, added to its pivot
		Start  float64   `json:"start"`           // radians from the target's front, z
		Turns  float64   `json:"turns"`           // counter-clockwise from above
		Radius float64   `json:"radius"`          // on the floor, metres
		Height float64   `json:"height"`          // over the target
		Wave   float64   `json:"wave,omitempty"`  // that the height goes up and down by
		Waves  float64   `json:"waves,omitempty"` // times over the progress
	}

	// Flight goes through saved poses, stopping at each for as long as it rests.
	Flight struct {
		Stops []Stop `json:"stops"` // in the order of their times
	}

	// Stop is a pose of a flight.
	Stop struct {
		At       float64   `json:"at"`       // frame that it is reached on
		Rest     float64   `json:"rest"`     // frames that it stays
		Position geom.Vec3 `json:"position"` // in the room
		Rotation geom.Quat `json:"rotation"`
		Focal    float64   `json:"focal,omitempty"` // mm, of a camera
	}

	// Reveal lets the parts of a group arrive, one after another.
	Reveal struct {
		Order string    `json:"order"` // list, left, right, centre or random
		Delay float64   `json:"delay"` // frames from one to the next
		Takes float64   `json:"takes"` // frames that each arrives in
		From  string    `json:"from"`  // scale, slide, turn or fade
		By    geom.Vec3 `json:"by"`    // metres that it slides from
		Turn  float64   `json:"turn"`  // radians that it turns from, about the upright
		Seed  uint64    `json:"seed,omitempty"`
	}

	// Unfold turns the panels of a group about their own hinges, x, from closed to open.
	Unfold struct {
		Angle float64 `json:"angle"`          // radians
		Order string  `json:"order"`          // together or list
		Deep  bool    `json:"deep"`           // panels on panels open too, each after what it is on
		Share float64 `json:"share"`          // of the progress that one panel takes; 1 for all of it
		Base  string  `json:"base,omitempty"` // the part that stays, which the others hang on
	}

	// Burst throws the parts of a group to random places and orientations. The same seed gives the same.
	Burst struct {
		Spread float64 `json:"spread"` // metres
		Turn   float64 `json:"turn"`   // most turn, radians
		Seed   uint64  `json:"seed"`
	}

	// Squash stretches a part along one of its axes, or squashes it, and keeps its volume.
	Squash struct {
		Axis   int     `json:"axis"`   // 0 to 2 for x to z
		Amount float64 `json:"amount"` // more than -1: 0.5 makes it half as long again, -0.5 half as long
	}

	// Flex bends or twists the meshes of a part, and of all in it as they are at rest, along one of its axes.
	// Below its base they stay, beyond its length they go on straight.
	Flex struct {
		Shape   string    `json:"shape"`   // bend or twist
		Axis    int       `json:"axis"`    // 0 to 2 for x to z of the part's own frame
		Towards int       `json:"towards"` // the axis that a bend goes towards
		Base    geom.Vec3 `json:"base"`    // where it begins, in the part's own frame
		Length  float64   `json:"length"`  // along the axis, in the part's own measure
		Angle   float64   `json:"angle"`   // radians over the whole length
	}

	// Look changes the material of a part and of all in it, or a light.
	Look struct {
		What string     `json:"what"` // colour, glow, opacity or strength
		Own  bool       `json:"own"`  // it begins as the part is by itself, rather than with From
		From [3]float64 `json:"from"` // a scene-linear colour; of opacity, 0 to 1, and strength, a factor, the first number
		To   [3]float64 `json:"to"`
	}

	// Skim travels along the cut of a part's surface by a plane, upright on it.
	Skim struct {
		On      string      `json:"on"`                // part
		Normal  geom.Vec3   `json:"normal"`            // of the plane, in that part's frame
		Offset  float64     `json:"offset"`            // of the plane from that part's pivot, metres in its frame
		Away    float64     `json:"away"`              // from the surface, metres
		Flip    bool        `json:"flip"`              // the other way round
		Contour []geom.Vec3 `json:"contour,omitempty"` // the cut, in that part's frame; the server's
		Normals []geom.Vec3 `json:"normals,omitempty"` // of the surface there
		Key     string      `json:"key,omitempty"`     // what the contour was cut from
	}
)

// TurntableMoves says what goes round.
type TurntableMoves string

const (
	ObjectMoves TurntableMoves = "object"
	CameraMoves TurntableMoves = "camera"
)

// Params returns the numbers of the move that can carry pins, by name.
func (m *Move) Params() map[string]*float64 {
	vec := func(out map[string]*float64, name string, v *geom.Vec3) {
		for k, axis := range []string{" x", " y", " z"} {
			out[name+axis] = &v[k]
		}
	}
	out := map[string]*float64{}
	switch {
	case m.Turn != nil:
		out["turns"], out["rest"] = &m.Turn.Turns, &m.Turn.Rest
	case m.Slide != nil:
		vec(out, "by", &m.Slide.By)
	case m.Float != nil:
		out["height"], out["period"], out["tilt"] = &m.Float.Height, &m.Float.Period, &m.Float.Tilt
	case m.Swing != nil:
		out["amplitude"], out["period"], out["phase"] = &m.Swing.Amplitude, &m.Swing.Period, &m.Swing.Phase
	case m.Roll != nil:
		out["turns"] = &m.Roll.Turns
	case m.Travel != nil:
		out["from"], out["to"], out["bank"] = &m.Travel.From, &m.Travel.To, &m.Travel.Bank
	case m.Gear != nil:
		out["phase"] = &m.Gear.Phase
	case m.Follow != nil:
		out["lag"] = &m.Follow.Lag
	case m.Orbit != nil:
		o := m.Orbit
		out["start"], out["turns"], out["radius"], out["height"], out["wave"] = &o.Start, &o.Turns, &o.Radius, &o.Height, &o.Wave
		vec(out, "point", &o.Point)
	case m.Reveal != nil:
		out["delay"], out["turn"], out["takes"] = &m.Reveal.Delay, &m.Reveal.Turn, &m.Reveal.Takes
		vec(out, "by", &m.Reveal.By)
	case m.Unfold != nil:
		out["angle"], out["share"] = &m.Unfold.Angle, &m.Unfold.Share
	case m.Burst != nil:
		out["spread"], out["turn"] = &m.Burst.Spread, &m.Burst.Turn
	case m.Squash != nil:
		out["amount"] = &m.Squash.Amount
	case m.Flex != nil:
		out["angle"] = &m.Flex.Angle
	case m.Look != nil:
		if m.Look.What == "opacity" || m.Look.What == "strength" {
			out["to"] = &m.Look.To[0]
			break
		}
		out["to red"], out["to green"], out["to blue"] = &m.Look.To[0], &m.Look.To[1], &m.Look.To[2]
	case m.Skim != nil:
		out["away"] = &m.Skim.Away
	}
	return out
}

// Copy returns the move with parameters of its own, so that pins can change them.
func (m *Move) Copy() *Move {
	c := *m
	if m.Span != nil {
		span := *m.Span
		c.Span = &span
	}
	switch {
	case m.Turn != nil:
		c.Turn = new(Turn)
		*c.Turn = *m.Turn
	case m.Slide != nil:
		c.Slide = new(Slide)
		*c.Slide = *m.Slide
	case m.Float != nil:
		c.Float = new(Float)
		*c.Float = *m.Float
	case m.Swing != nil:
		c.Swing = new(Swing)
		*c.Swing = *m.Swing
	case m.Roll != nil:
		c.Roll = new(Roll)
		*c.Roll = *m.Roll
	case m.Travel != nil:
		c.Travel = new(Travel)
		*c.Travel = *m.Travel
	case m.Gear != nil:
		c.Gear = new(Geared)
		*c.Gear = *m.Gear
	case m.Follow != nil:
		c.Follow = new(Follow)
		*c.Follow = *m.Follow
	case m.Orbit != nil:
		c.Orbit = new(Orbit)
		*c.Orbit = *m.Orbit
	case m.Reveal != nil:
		c.Reveal = new(Reveal)
		*c.Reveal = *m.Reveal
	case m.Unfold != nil:
		c.Unfold = new(Unfold)
		*c.Unfold = *m.Unfold
	case m.Burst != nil:
		c.Burst = new(Burst)
		*c.Burst = *m.Burst
	case m.Squash != nil:
		c.Squash = new(Squash)
		*c.Squash = *m.Squash
	case m.Flex != nil:
		c.Flex = new(Flex)
		*c.Flex = *m.Flex
	case m.Look != nil:
		c.Look = new(Look)
		*c.Look = *m.Look
	case m.Skim != nil:
		c.Skim = new(Skim)
		*c.Skim = *m.Skim
	}
	return &c
}

// Needs returns the parts that the move looks at.
func (m *Move) Needs() []string {
	var ids []string
	switch {
	case m.Gear != nil:
		ids = append(ids, m.Gear.Driver)
	case m.Follow != nil:
		ids = append(ids, m.Follow.Of)
	case m.Orbit != nil && m.Orbit.Target != "":
		ids = append(ids, m.Orbit.Target)
	case m.Skim != nil:
		ids = append(ids, m.Skim.On)
	}
	return ids
}

func (m *Move) validate(p *Part) error {
	if m.Span != nil && !(finite(m.Span.From) && finite(m.Span.To) && m.Span.To > m.Span.From) {
		return fmt.Errorf("a span ends after it begins; from %g to %g does not", m.Span.From, m.Span.To)
	}
	switch m.After {
	case "", Stays, Returns, Repeats, CarriesOn, Mirrored:
	default:
		return fmt.Errorf("after its span a move stays, returns, repeats, carries on or goes there and back, not %q", m.After)
	}
	if m.Laps < 0 || m.Laps > 100_000 {
		return fmt.Errorf("a move makes 1 to 100,000 laps of its span, not %d", m.Laps)
	}
	if err := m.Pace.validate(); err != nil {
		return err
	}
	params := m.Params()
	for name, v := range params {
		if !finite(*v) || math.Abs(*v) > 1e9 {
			return fmt.Errorf("the %s of a %s is not a number that it can have", name, m.Kind)
		}
	}
	for i := range m.Pins {
		t := &m.Pins[i]
		if params[string(t.Value)] == nil {
			return fmt.Errorf("a %s has no parameter %q that could carry pins", m.Kind, t.Value)
		}
		if err := t.check(false); err != nil {
			return err
		}
	}
	axis := func(v geom.Vec3, what string) error {
		if !allFinite(v) || v.Len() == 0 {
			return fmt.Errorf("a %s needs %s with a length", m.Kind, what)
		}
		return nil
	}
	flat := func(v geom.Vec3) error {
		if !allFinite(v) || math.Hypot(v[0], v[2]) < 1e-9 {
			return fmt.Errorf("a %s needs a way along the floor", m.Kind)
		}
		return nil
	}
	frame := func(f Frame) error {
		if f != OwnFrame && f != ParentFrame {
			return fmt.Errorf("an axis is the part's own or its parent's, not %q", f)
		}
		return nil
	}
	switch {
	case m.Kind == KindTurntable && m.Turntable != nil:
		t := m.Turntable
		if p.Kind != Group {
			return fmt.Errorf("a turntable turns a group")
		}
		if t.Turns < 1 || t.Turns > 1000 {
			return fmt.Errorf("a turntable makes 1 to 1000 whole turns, not %d, so that it closes", t.Turns)
		}
		if t.Moves != ObjectMoves && t.Moves != CameraMoves {
			return fmt.Errorf("a turntable moves the object or the camera, not %q", t.Moves)
		}
		return t.Direction.validate()
	case m.Kind == KindTurn && m.Turn != nil:
		t := m.Turn
		if t.Stops < 0 || t.Stops > 10_000 || !(t.Rest >= 0 && t.Rest < 1) {
			return fmt.Errorf("a turn has 0 to 10,000 stops, and rests for less than the whole of each")
		}
		return first(axis(t.Axis, "an axis"), frame(t.Frame), t.Direction.validate())
	case m.Kind == KindSlide && m.Slide != nil:
		return frame(m.Slide.Frame)
	case m.Kind == KindFloat && m.Float != nil:
		f := m.Float
		if !positive(f.Period) {
			return fmt.Errorf("a period is more than 0 frames")
		}
		if f.Height < 0 {
			return fmt.Errorf("a float's height is not below 0")
		}
		return nil
	case m.Kind == KindSwing && m.Swing != nil:
		s := m.Swing
		switch {
		case s.Shape != "sine" && s.Shape != "pendulum" && s.Shape != "weighted":
			return fmt.Errorf("a swing is a sine, a pendulum or weighted, not %q", s.Shape)
		case !positive(s.Period) && !(s.Shape == "pendulum" && s.Length > 0):
			return fmt.Errorf("a swing has a period of more than 0 frames")
		case !(s.Length >= 0) || s.Shape == "pendulum" && !(math.Abs(s.Amplitude) < math.Pi):
			return fmt.Errorf("a pendulum swings by less than half a turn either way, on a length not below 0")
		}
		return first(axis(s.Axis, "an axis"), frame(s.Frame))
	case m.Kind == KindRoll && m.Roll != nil:
		r := m.Roll
		switch {
		case !positive(r.Radius):
			return fmt.Errorf("what rolls has a radius of more than 0")
		case r.Contact != "ground" && r.Contact != "on" && r.Contact != "in":
			return fmt.Errorf("a part rolls on the ground, on another or in another, not %q", r.Contact)
		case r.Contact != "ground" && !positive(r.Other) || r.Contact == "in" && r.Other <= r.Radius:
			return fmt.Errorf("the other part has a radius of more than 0, and more than that of what rolls in it")
		}
		return flat(r.Along)
	case m.Kind == KindTopple && m.Topple != nil:
		t := m.Topple
		if t.Sides < 3 || t.Sides > 100 || t.Steps < 1 || t.Steps > 1000 || !positive(t.Width) || t.Sides == 4 && !positive(t.High) || !allFinite(t.Base) {
			return fmt.Errorf("what topples has 3 to 100 sides with lengths of more than 0, and topples 1 to 1000 times")
		}
		return flat(t.Along)
	case m.Kind == KindTravel && m.Travel != nil:
		t := m.Travel
		switch t.Path {
		case "circle", "ellipse", "rounded":
			if !positive(t.Width) || t.Path != "circle" && !positive(t.Depth) || t.Path == "rounded" && !(t.Corner >= 0 && 2*t.Corner <= math.Min(t.Width, t.Depth)*(1+1e-9)) {
				return fmt.Errorf("a path has a width and depth of more than 0, and corners that fit")
			}
		case "drawn":
			if !positive(t.Width) || len(t.Drawing) > 200_000 {
				return fmt.Errorf("a drawn path is more than 0 wide, and its data at most 200,000 letters long")
			}
			line, err := canvas.ParseSVGPath(t.Drawing)
			if err != nil {
				return fmt.Errorf("the path data cannot be read: %w", err)
			}
			if lines := line.Split(); len(lines) == 0 || !(lines[0].Length() > 0) {
				return fmt.Errorf("the path data draws no line; it looks like M 0 0 C 10 0 20 10 20 20")
			}
		case "points", "closed":
			if len(t.Points) < 2 || t.Path == "closed" && len(t.Points) < 3 || len(t.Points) > 10_000 {
				return fmt.Errorf("a path through points has 2 of them, a closed one 3, and at most 10,000")
			}
			for i, q := range t.Points {
				if !allFinite(q) || i > 0 && q == t.Points[i-1] {
					return fmt.Errorf("the points of a path are numbers, each apart from the one before")
				}
			}
		default:
			return fmt.Errorf("a path is a circle, an ellipse, a rounded rectangle, drawn or goes through points, not %q", t.Path)
		}
		return nil
	case m.Kind == KindGear && m.Gear != nil:
		g := m.Gear
		if g.Num < 1 || g.Den < 1 || g.Num > 1_000_000 || g.Den > 1_000_000 {
			return fmt.Errorf("a ratio is of whole numbers from 1, such as 16 to 20")
		}
		if g.Mesh != "outside" && g.Mesh != "inside" && g.Mesh != "belt" {
			return fmt.Errorf("gears mesh outside, inside or by a belt, not %q", g.Mesh)
		}
		return first(axis(g.Axis, "an axis"), frame(g.Frame))
	case m.Kind == KindFollow && m.Follow != nil:
		return nil
	case m.Kind == KindOrbit && m.Orbit != nil:
		if !positive(m.Orbit.Radius) {
			return fmt.Errorf("an orbit has a radius of more than 0")
		}
		if o := m.Orbit; !allFinite(o.Point) || !finite(o.Waves) || !finite(o.Wave) {
			return fmt.Errorf("an orbit's point and waves are not numbers that they can be")
		}
		return nil
	case m.Kind == KindFlight && m.Flight != nil:
		for i, s := range m.Flight.Stops {
			if !finite(s.At) || !finite(s.Rest) || s.Rest < 0 || !allFinite(s.Position) || i > 0 && s.At < m.Flight.Stops[i-1].At+m.Flight.Stops[i-1].Rest {
				return fmt.Errorf("the stops of a flight come one after another, each after the rest before it")
			}
		}
		if len(m.Flight.Stops) == 0 {
			return fmt.Errorf("a flight has at least one stop")
		}
		return nil
	case m.Kind == KindReveal && m.Reveal != nil:
		r := m.Reveal
		switch {
		case p.Kind != Group:
			return fmt.Errorf("a reveal is on a group, whose parts arrive")
		case r.From != "scale" && r.From != "slide" && r.From != "turn" && r.From != "fade":
			return fmt.Errorf("parts arrive by scale, slide, turn or fade, not by %q", r.From)
		case r.Order != "list" && r.Order != "left" && r.Order != "right" && r.Order != "centre" && r.Order != "random":
			return fmt.Errorf("parts arrive in the order of the list, from left or right, from the centre or at random, not by %q", r.Order)
		case !(r.Delay >= 0) || !positive(r.Takes):
			return fmt.Errorf("each part arrives in more than 0 frames, not before the one before")
		}
		return nil
	case m.Kind == KindUnfold && m.Unfold != nil:
		if p.Kind != Group || m.Unfold.Order != "together" && m.Unfold.Order != "list" || !(m.Unfold.Share > 0 && m.Unfold.Share <= 1) {
			return fmt.Errorf("a group unfolds, its panels together or in the order of the list, each in a share of more than 0 of the progress")
		}
		return nil
	case m.Kind == KindBurst && m.Burst != nil:
		if p.Kind != Group {
			return fmt.Errorf("a burst is on a group, whose parts fly")
		}
		return nil
	case m.Kind == KindSquash && m.Squash != nil:
		if m.Squash.Axis < 0 || m.Squash.Axis > 2 || m.Squash.Amount <= -1 {
			return fmt.Errorf("a squash is along x, y or z and leaves something of the part")
		}
		return nil
	case m.Kind == KindFlex && m.Flex != nil:
		x := m.Flex
		if x.Shape != "bend" && x.Shape != "twist" || x.Axis < 0 || x.Axis > 2 || x.Towards < 0 || x.Towards > 2 || x.Towards == x.Axis {
			return fmt.Errorf("a flex bends or twists along x, y or z, and bends towards another of them")
		}
		if !allFinite(x.Base) || !positive(x.Length) {
			return fmt.Errorf("a flex has a length of more than 0")
		}
		return nil
	case m.Kind == KindLook && m.Look != nil:
		l := m.Look
		if l.What != "colour" && l.What != "glow" && l.What != "opacity" && l.What != "strength" {
			return fmt.Errorf("a look changes colour, glow, opacity or strength, not %q", l.What)
		}
		for _, v := range append(l.From[:], l.To[:]...) {
			if !finite(v) || v < 0 || l.What == "opacity" && v > 1 {
				return fmt.Errorf("a look's values are not below 0, and an opacity not above 1")
			}
		}
		return nil
	case m.Kind == KindSkim && m.Skim != nil:
		return axis(m.Skim.Normal, "a plane's normal")
	}
	return fmt.Errorf("a move of kind %q has no data of that kind", m.Kind)
}

func first(errs ...error) error {
	for _, e := range errs {
		if e != nil {
			return e
		}
	}
	return nil
}
