package move

import (
	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/shot"
)

// Bent is a deformation as it is at a time: a bend or twist and the angle that it has reached, in radians over its whole length, or a
// cage.
type Bent struct {
	mesh.Bend
	Angle float64
	Cage  *mesh.Cage // nil for a bend or twist
}

// Point returns where a point of the part's own frame goes.
func (b *Bent) Point(p geom.Vec3) geom.Vec3 {
	if b.Cage != nil {
		return b.Cage.Point(p)
	}
	return b.Bend.Point(b.Angle, p)
}

// Poses reports whether a move changes the pose of its own part.
func Poses(m *shot.Move) bool { return kinds[m.Kind].apply != nil && !m.Muted }

// Bends reports whether a move deforms meshes.
func Bends(m *shot.Move) bool { return kinds[m.Kind].bend != nil && !m.Muted }

// Carries reports whether a move carries the render camera.
func Carries(m *shot.Move) bool {
	k := kinds[m.Kind]
	if m.Muted || k.carry == nil {
		return false
	}
	_, ok := k.carry(m.Data, &Context{Move: m})
	return ok
}

// Drives reports whether a move turns its part about an axis, so that others can be driven by it.
func Drives(m *shot.Move) bool { return kinds[m.Kind].angle != nil }

// Table reports whether a move makes its group the turntable of the set.
func Table(m *shot.Move) bool { return kinds[m.Kind].Table }

// Places reports whether a move says where a camera stands, whatever its fit.
func Places(m *shot.Move) bool { return kinds[m.Kind].places && !m.Muted }

// LeavesPlinth reports whether a plinth in the move's group stands still under what it moves.
func LeavesPlinth(m *shot.Move) bool {
	k := kinds[m.Kind]
	return k.leavesPlinth != nil && k.leavesPlinth(m.Data)
}

// Looks reports whether a move changes how something looks.
func Looks(m *shot.Move) bool {
	k := kinds[m.Kind]
	return !m.Muted && (k.look != nil || k.members != nil && k.members.fades != nil && k.members.fades(m.Data))
}

// ActsOnMembers reports whether a move acts on the parts of its group rather than on the group.
func ActsOnMembers(m *shot.Move) bool { return kinds[m.Kind].members != nil && !m.Muted }

// Deep reports whether a move of a group acts on panels on its parts, too, and which part it leaves out with all in it.
func Deep(m *shot.Move) (deep bool, base string) {
	e := kinds[m.Kind].members
	if e.base != nil {
		base = e.base(m.Data)
	}
	return e.deep, base
}

// Only are the parts that a move of a group acts on, by their ids; nil for all.
func Only(m *shot.Move, on *shot.Part) map[string]bool {
	e := kinds[m.Kind].members
	if e == nil || e.only == nil {
		return nil
	}
	list := e.only(m.Data, on)
	if list == nil {
		return nil
	}
	out := map[string]bool{}
	for _, id := range list {
		out[id] = true
	}
	return out
}

// Guides reports whether a move has guide lines from where the parts of its group sit, and whether they are seen in the picture.
func Guides(m *shot.Move) (has, seen bool) {
	g := kinds[m.Kind].guided
	if g == nil || m.Muted {
		return false, false
	}
	return true, g.drawn(m.Data)
}

// Legs returns how far a part of a group with guide lines has gone, one way after another, in its parent's frame.
func Legs(c Context) []geom.Vec3 {
	k := kinds[c.Move.Kind]
	if c.Move.Muted || k.guided == nil {
		return nil
	}
	return k.guided.legs(c.seen(k), &c)
}

// Labels returns what the parts that a move of a group parts are labelled with.
func Labels(m *shot.Move, known func(part string) (name string, size float64)) []Labelled {
	g := kinds[m.Kind].guided
	if g == nil || m.Muted {
		return nil
	}
	return g.labels(m.Data, known)
}

// Each reports whether a move of a group acts on copies one by one, and on a copies part that has it.
func Each(m *shot.Move) bool { return kinds[m.Kind].members != nil && kinds[m.Kind].members.each }

// Order returns for each part of a group how many come before it, by where their pivots are at rest, metres.
func Order(m *shot.Move, at []geom.Vec3) []int {
	if o := kinds[m.Kind].members.order; o != nil {
		return o(m.Data, at)
	}
	out := make([]int, len(at))
	for i := range out {
		out[i] = i
	}
	return out
}

// Prepare works out once what the move looks up again and again; nil for nothing.
func Prepare(m *shot.Move, on *shot.Part) any {
	if p := kinds[m.Kind].prepare; p != nil {
		return p(m.Data, on)
	}
	return nil
}

// Times calls at for every point in time that a move holds, pins too, and long for every length of time.
func Times(m *shot.Move, at, long func(*float64)) {
	if m.Span != nil {
		at(&m.Span.From)
		at(&m.Span.To)
	}
	for i := range m.Pins {
		m.Pins[i].Times(at, long)
		for _, n := range kinds[m.Kind].numbers {
			if n.unit != Frames || n.name != string(m.Pins[i].Value) {
				continue
			}
			for k := range m.Pins[i].Pins {
				long(&m.Pins[i].Pins[k].Value)
			}
		}
	}
	if t := kinds[m.Kind].times; t != nil {
		t(m.Data, at, long)
	}
}

// Shift tells a move that it comes so many frames later, where that is not said by times: a swing's phase.
func Shift(m *shot.Move, frames float64) {
	if s := kinds[m.Kind].shift; s != nil {
		s(m.Data, frames)
	}
}

// Reverse turns a move round in time.
func Reverse(m *shot.Move) {
	if r := kinds[m.Kind].reverse; r != nil {
		r(m.Data)
		return
	}
	m.Backwards = !m.Backwards
}

// Period returns the time in frames after which a clock of the move's own comes round; 0 for one that has none.
func Period(s *shot.Shot, m *shot.Move) float64 {
	if p := kinds[m.Kind].period; p != nil {
		return p(m.Data, Setting{s, m})
	}
	return 0
}

// Laps returns how often a move goes round over the shot, where that can be said.
func Laps(s *shot.Shot, m *shot.Move) float64 {
	if p := Period(s, m); p > 0 {
		return float64(s.Frames) / p
	}
	if l := kinds[m.Kind].laps; l != nil {
		return l(m.Data)
	}
	return 1
}

// CountsLaps reports whether a number of laps or turns says how often a move goes round.
func CountsLaps(m *shot.Move) bool { return kinds[m.Kind].laps != nil }

// Valid reports whether a move makes a motion on a part.
func Valid(m *shot.Move, on *shot.Part) bool { return m.Check(on) == nil }

// Rests reports whether a move is meant to slow down on its way.
func Rests(m *shot.Move) bool { return kinds[m.Kind].rests != nil && kinds[m.Kind].rests(m.Data) }
