package move

import (
	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

var up = geom.Vec3{0, 1, 0}

// Context is what a move knows of the moment it acts in.
type Context struct {
	Move  *shot.Move
	Time  motion.Time
	Part  *shot.Part
	Metre float64    // how many units of the parent's frame a metre of the room is
	Own   float64    // and of the part's own frame
	Frame *geom.Mat4 // from the parent's frame to the room, as everything is at rest; nil where it is the room
	Room  Room
	Ready any   // what Prepare made
	Place Place // of a part of a group, for moves of groups
}

// Place is which of a group's parts a move of the group acts on.
type Place struct {
	Rank  int // how many come before it
	Count int // how many there are
	Deep  int // 1 for a part of the group itself, 2 for one in that, and so on
}

// Along returns how many units of the parent's frame a metre of the room is along a unit vector of that frame: of a frame that is
// stretched it is another one for each.
func (c *Context) Along(way geom.Vec3) float64 {
	if c.Frame == nil {
		return c.Metre
	}
	if long := c.Frame.Vector(way).Len(); long > 1e-300 {
		return 1 / long
	}
	return c.Metre
}

// Progress is how much of the move is done.
func (c *Context) Progress() float64 { return motion.Progress(c.Time, c.Move) }

// Room is what moves that look at other parts ask for. All of it is at a time of the asker's.
type Room interface {
	// Turned returns the angle that a part's own moves have turned it by about their axes, in radians and beyond whole
	// turns.
	Turned(part string, t motion.Time) float64
	// Moved returns what a part's own moves and pins have done to it since its rest pose: how far, turned how, and
	// resized by what, all in the frame of the asker's parent.
	Moved(part string, t motion.Time) shot.Rest
	// Seat returns where a part's pivot is at rest, in the frame of the asker's parent.
	Seat(part string) geom.Vec3
	// Place returns the matrix of a part, and where its pivot is, in the frame of the asker's parent.
	Place(part string, t motion.Time) (geom.Mat4, geom.Vec3)
	// Inverse brings a point of the room into the frame of the asker's parent.
	Inverse(p geom.Vec3, t motion.Time) geom.Vec3
}

// seen brings the context to what the move sees: time from the other end for one that runs backwards, and its numbers as
// their pins say. The parameters it returns are a copy where there are pins.
func (c *Context) seen(k *Kind) any {
	m := c.Move
	if m.Backwards {
		c.Time = c.Time.Backwards()
	}
	if len(m.Pins) == 0 {
		return m.Data
	}
	moved := m.Clone()
	for i := range moved.Pins {
		if n, ok := k.number(moved.Data, string(moved.Pins[i].Value)); ok {
			*n.of(moved.Data) = motion.Sample(&moved.Pins[i], c.Time.T)
		}
	}
	return moved.Data
}

// Apply changes the pose of a part by the move of the context. Moves of groups that act on their parts, and those that
// change looks or bend, leave the part itself alone.
func Apply(c Context, p *shot.Rest) {
	k := kinds[c.Move.Kind]
	if c.Move.Muted || k.apply == nil {
		return
	}
	k.apply(c.seen(k), &c, p)
}

// ApplyMember changes the pose of a part of a group by the group's move.
func ApplyMember(c Context, p *shot.Rest) {
	k := kinds[c.Move.Kind]
	if !c.Move.Muted {
		k.members.apply(c.seen(k), &c, p)
	}
}

// Fade returns the share of its opacity that a part of a group keeps.
func Fade(c Context) float64 {
	k := kinds[c.Move.Kind]
	if c.Move.Muted || k.members == nil || k.members.fades == nil {
		return 1
	}
	m := c.seen(k)
	if !k.members.fades(m) {
		return 1
	}
	return k.members.fade(m, &c)
}

// Mix adds to the weights of the morph targets of a part of a group by the group's move.
func Mix(c Context, w []float64) {
	if k := kinds[c.Move.Kind]; !c.Move.Muted && k.members != nil && k.members.mix != nil {
		k.members.mix(c.seen(k), &c, w)
	}
}

// TurnedBy returns how far the move has turned its part about its axis, radians and beyond whole turns; 0 for one that
// does not turn.
func TurnedBy(c Context) float64 {
	k := kinds[c.Move.Kind]
	if c.Move.Muted || k.angle == nil {
		return 0
	}
	return k.angle(c.seen(k), &c)
}

// Carry returns how far the move has carried the render camera round the upright axis of its part.
func Carry(c Context) (angle float64, ok bool) {
	k := kinds[c.Move.Kind]
	if c.Move.Muted || k.carry == nil {
		return 0, false
	}
	return k.carry(c.seen(k), &c)
}

// Bend returns how the move deforms meshes, in the part's own frame.
func Bend(c Context) Bent {
	k := kinds[c.Move.Kind]
	b := k.bend(c.seen(k), &c)
	if c.Move.Muted {
		b.Angle = 0
	}
	return b
}

// ApplyLook changes a look by the move.
func ApplyLook(c Context, l *motion.Look) {
	k := kinds[c.Move.Kind]
	if !c.Move.Muted && k.look != nil {
		k.look(c.seen(k), &c, l)
	}
}
