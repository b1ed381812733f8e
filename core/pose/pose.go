// Package pose says what a shot looks like at a time. It is the one way to know: the picture in the browser, the checks and
// the renderer all use what it returns.
package pose

import (
	"math"
	"slices"
	"sync"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// Evaluator works out poses of one document, which must not change while it is in use. It may be used from several
// goroutines. Making one takes time in proportion to the document; a pose takes time in proportion to what it asks for.
type Evaluator struct {
	Shot  *shot.Shot
	Index *shot.Index

	parts  []prepared
	camera int   // index of the render camera, -1 for none
	rounds []int // parts with a move that carries the camera
	bends  [][]Bending
	looks  bool // some move changes how something looks
	asked  int  // how many parts moves look at

	memories sync.Pool // of *memory
	once     sync.Map  // what is worked out once, by key
}

// prepared is what is known of a part before any moment. What every moment asks for stands together, copied from the part, which is
// too large for the processor's cache.
type prepared struct {
	stands  int  // of a plinth that does not turn along: its turntable, else -1
	asked   int  // its number among the parts that moves look at, of which what they ask is kept; -1 for others
	moving  bool // by itself, not through its parent
	aside   bool // it is a camera that is shifted
	courses []motion.Course
	moves   []act
	members []membership // moves of its group that act on it
	metre   float64      // how many units of its parent's frame a metre of the room is
	pose    shot.Rest    // at rest, in its parent's frame
	pivot   geom.Vec3

	rest  geom.Mat4  // of the pose
	room  geom.Mat4  // in the room, as everything is at rest
	frame *geom.Mat4 // of its parent, in the room, as everything is at rest; nil for the room
	own   float64    // how many units of its own frame a metre of the room is
	each  []swarming // of copies, the moves of their group that act on each of them
	needs []needed
}

// act is a move that acts on the pose of its part.
type act struct {
	*shot.Move
	ready any
}

// membership is a part's place in a move of its group.
type membership struct {
	*shot.Move
	place move.Place
	ready any
}

// swarming is the place of each copy of a part in a move of its group, or of its own.
type swarming struct {
	membership
	ranks []int
}

// needed is a part that moves of another one look at. matrix and turn take what is in the frame of its parent into that of
// the asker's parent, as both are at rest.
type needed struct {
	id     string
	part   int
	matrix geom.Mat4
	turn   geom.Quat
}

// New prepares a valid document.
func New(s *shot.Shot) *Evaluator {
	n := len(s.Parts)
	e := &Evaluator{Shot: s, Index: shot.NewIndex(s), parts: make([]prepared, n), camera: -1}
	asks := make([]int, n)
	for i := range s.Parts {
		p, q := &s.Parts[i], &e.parts[i]
		up := e.Index.Parent(i)
		q.stands, q.metre, q.pose, q.pivot = -1, 1, p.Rest, p.Pivot
		q.aside = p.Camera != nil && p.Camera.Offset != (geom.Vec3{})
		q.rest = Local(p, p.Rest)
		if q.room = q.rest; up >= 0 {
			q.room = e.parts[up].room.Mul(q.rest)
			q.metre, q.frame = e.parts[up].own, &e.parts[up].room
		}
		q.own = PerMetre(q.room)
		q.moving = len(p.Tracks) > 0
		q.courses = motion.NewCourses(p.Tracks)
		solo := false
		for j := range p.Moves {
			solo = solo || p.Moves[j].Solo && !p.Moves[j].Muted
		}
		carries := false
		for j := range p.Moves {
			m := &p.Moves[j]
			if solo && !m.Solo {
				continue
			}
			e.looks = e.looks || move.Looks(m)
			if move.Poses(m) {
				q.moving = true
				q.moves = append(q.moves, act{m, move.Prepare(m, p)})
				for _, id := range m.Needs() {
					asks[e.Index.Part(id)]++
				}
			}
			carries = carries || move.Carries(m)
		}
		if carries {
			e.rounds = append(e.rounds, i)
		}
		if p.Kind == shot.Plinth && up >= 0 {
			for j := range s.Parts[up].Moves {
				if move.LeavesPlinth(&s.Parts[up].Moves[j]) {
					q.stands = up
				}
			}
		}
	}
	for i := range s.Parts {
		if e.parts[i].asked = -1; asks[i] > 0 {
			e.parts[i].asked = e.asked
			e.asked++
		}
		for j := range s.Parts[i].Moves {
			if m := &s.Parts[i].Moves[j]; move.ActsOnMembers(m) {
				e.enrol(i, m)
			}
		}
	}
	e.relate()
	if i := e.Index.Part(s.Camera); s.Camera != "" && i >= 0 {
		e.camera = i
	}
	e.gatherBends()
	return e
}

// PerMetre returns how many units of a frame a metre of the room is; of a frame that is stretched, on the mean.
func PerMetre(room geom.Mat4) float64 {
	k := math.Cbrt(math.Abs(room.Det()))
	if !(k > 1e-300) {
		return 1
	}
	return 1 / k
}

// enrol gives each part of a group its place in a move of the group: the parts of the group itself, and of some moves all
// that is in them too, and each of copies. Of a move of copies themselves the copies are the parts.
func (e *Evaluator) enrol(group int, m *shot.Move) {
	deep, base := move.Deep(m)
	only := move.Only(m, &e.Shot.Parts[group])
	type member struct{ part, level, copy int } // copy is -1 for a part
	var list []member
	var at []geom.Vec3
	add := func(k, level int) {
		p := &e.Shot.Parts[k]
		own := p.Rest.Position.Add(p.Pivot)
		if p.Copies == nil || !move.Each(m) {
			list, at = append(list, member{k, level, -1}), append(at, own)
			return
		}
		for n, place := range motion.Places(p.Copies, 1, nil) {
			list, at = append(list, member{k, level, n}), append(at, own.Add(place.Column(3)))
		}
		if p.Copies.Kind == shot.Surface { // where they are, the surface tells
			for n := range p.Copies.Count[0] {
				list, at = append(list, member{k, level, n}), append(at, own)
			}
		}
	}
	var walk func(i, level int)
	walk = func(i, level int) {
		for _, k := range e.Index.Children(i) {
			id := e.Shot.Parts[k].ID
			if id == base || move.Each(m) && e.copied(i, k) {
				continue
			}
			if only == nil || only[id] {
				add(k, level)
			}
			if deep {
				walk(k, level+1)
			}
		}
	}
	if e.Shot.Parts[group].Copies != nil {
		add(group, 1)
	} else {
		walk(group, 1)
	}
	ranks, ready := move.Order(m, at), move.Prepare(m, &e.Shot.Parts[group])
	for k, one := range list {
		q := &e.parts[one.part]
		of := membership{m, move.Place{Rank: ranks[k], Count: len(list), Deep: one.level}, ready}
		switch {
		case one.copy < 0:
			q.members, q.moving = append(q.members, of), true
		case one.copy == 0:
			q.each = append(q.each, swarming{of, []int{ranks[k]}})
		default:
			last := &q.each[len(q.each)-1]
			last.ranks = append(last.ranks, ranks[k])
		}
	}
}

// copied reports whether a part of a group is what copies in the group are copies of: they would show what a move of the group does
// with it, and what it does with each of them.
func (e *Evaluator) copied(group, part int) bool {
	return slices.ContainsFunc(e.Index.Children(group), func(k int) bool {
		c := e.Shot.Parts[k].Copies
		return c != nil && c.Of == e.Shot.Parts[part].ID
	})
}

// relate works out once how what parts ask of others is brought into their frames.
func (e *Evaluator) relate() {
	for i := range e.parts {
		q := &e.parts[i]
		for _, m := range q.moves {
			for _, id := range m.Needs() {
				if !slices.ContainsFunc(q.needs, func(n needed) bool { return n.id == id }) {
					q.needs = append(q.needs, e.relation(i, id))
				}
			}
		}
	}
}

// relation returns a part as one that part i looks at.
func (e *Evaluator) relation(i int, id string) needed {
	n := needed{id: id, part: e.Index.Part(id), matrix: geom.Identity}
	if up := e.Index.Parent(n.part); up >= 0 {
		n.matrix = e.parts[up].room
	}
	if up := e.Index.Parent(i); up >= 0 {
		if inv, ok := e.parts[up].room.Inverse(); ok {
			n.matrix = inv.Mul(n.matrix)
		}
	}
	_, n.turn, _, _ = n.matrix.Decompose()
	return n
}

// Local returns a part's matrix in its parent's frame: T(position) T(pivot) R S T(-pivot).
func Local(p *shot.Part, r shot.Rest) (m geom.Mat4) {
	setLocal(&m, &p.Pivot, &r)
	return m
}

func setLocal(m *geom.Mat4, v *geom.Vec3, r *shot.Rest) {
	m.SetTRS(r.Position.Add(*v), r.Rotation, r.Size)
	if *v != (geom.Vec3{}) {
		for k := range 3 {
			m[12+k] += -m[k]*v[0] - m[4+k]*v[1] - m[8+k]*v[2]
		}
	}
}

// At returns the world matrix of every part at time t in frames. In a loop any t is brought round.
func (e *Evaluator) At(t float64) []geom.Mat4 { return e.all(motion.At(e.Shot, t)) }

// World returns the world matrix of every part at a time.
func (e *Evaluator) World(t motion.Time) []geom.Mat4 { return e.all(t) }

// BeforeSeam returns the world matrices at the last moment of the shot: for a loop, where frame N would be if it existed.
func (e *Evaluator) BeforeSeam() []geom.Mat4 { return e.all(motion.BeforeSeam(e.Shot)) }

// Some returns a view of one moment that works out the parts that are asked for, and no others.
func (e *Evaluator) Some(t float64) *Moment {
	return &Moment{e.moment(motion.At(e.Shot, t), &memory{})}
}

// Moment is one time of a shot. It is not for several goroutines.
type Moment struct{ m *moment }

// Of returns the world matrix of part i.
func (m *Moment) Of(i int) geom.Mat4 { return m.m.carried(i) }

// Go makes it another time of the shot, in the same memory.
func (m *Moment) Go(t float64) {
	o := m.m
	clear(o.done)
	clear(o.kept)
	o.t = motion.At(o.e.Shot, t)
}

func (e *Evaluator) all(t motion.Time) []geom.Mat4 {
	k := e.remembering()
	m := e.moment(t, k)
	for i := range e.parts {
		m.placed(i)
	}
	if e.camera >= 0 && len(e.rounds) > 0 {
		m.world[e.camera] = m.carried(e.camera)
	}
	k.now = nil
	e.memories.Put(k)
	return m.world
}

// carried returns the world matrix of a part; the render camera is carried by moves that say so.
func (m *moment) carried(i int) geom.Mat4 {
	w := m.place(i)
	if i != m.e.camera {
		return w
	}
	for _, k := range m.e.rounds {
		p := &m.e.Shot.Parts[k]
		at := m.place(k)
		for j := range p.Moves {
			// Round the axis of the turntable, carrying the camera rigidly.
			angle, ok := move.Carry(move.Context{Move: &p.Moves[j], Time: m.t, Part: p})
			if !ok {
				continue
			}
			q := geom.AxisAngle(at.Column(1), angle)
			axis := at.Column(3)
			round := geom.Translation(axis).Mul(geom.TRS(geom.Vec3{}, q, geom.Vec3{1, 1, 1})).Mul(geom.Translation(axis.Mul(-1)))
			w = round.Mul(w)
		}
	}
	return w
}

// Metre returns how many units of the frame of part i's parent a metre of the room is, at rest.
func (e *Evaluator) Metre(i int) float64 { return e.parts[i].metre }

// OwnMetre returns how many units of part i's own frame a metre of the room is, at rest.
func (e *Evaluator) OwnMetre(i int) float64 { return e.parts[i].own }

// AtRest returns the matrix of part i in the room before any move.
func (e *Evaluator) AtRest(i int) geom.Mat4 { return e.parts[i].room }

// Carrier returns, for every part, the part that it moves rigidly with: itself if it has moves, or a plinth that stands
// while its turntable turns, else its parent's carrier; -1 is the room.
func (e *Evaluator) Carrier() []int {
	c := make([]int, len(e.parts))
	for i := range c {
		c[i] = -1
		if up := e.Index.Parent(i); up >= 0 {
			c[i] = c[up]
		}
		if e.parts[i].moving || e.parts[i].stands >= 0 || i == e.camera {
			c[i] = i
		}
	}
	return c
}

// Moves reports whether a part moves by itself or with what it is in; a turntable that carries the render camera is not
// counted.
func (e *Evaluator) Moves(i int) bool {
	for ; i >= 0; i = e.Index.Parent(i) {
		if e.parts[i].moving {
			return true
		}
	}
	return false
}

// InCarrier returns the matrix of every part in the frame of its carrier, which is the same at all times.
func (e *Evaluator) InCarrier() []geom.Mat4 {
	carrier, m := e.Carrier(), make([]geom.Mat4, len(e.parts))
	for i := range m {
		if m[i] = geom.Identity; carrier[i] != i {
			if m[i] = e.parts[i].rest; e.Index.Parent(i) >= 0 {
				m[i] = m[e.Index.Parent(i)].Mul(e.parts[i].rest)
			}
		}
	}
	return m
}

// Local returns the matrix of part i in its parent's frame at a time, with its moves.
func (e *Evaluator) Local(i int, t float64) geom.Mat4 {
	m := e.moment(motion.At(e.Shot, t), &memory{})
	var r shot.Rest
	m.posed(i, nil, &r)
	return Local(&e.Shot.Parts[i], r)
}

// Alone returns what one move by itself makes of its part at rest at a time. Of a move that acts on the parts of its
// group, what it makes of one of them. Neither the move nor the length of the shot need be the document's; another move
// may take the place of the one with its id in what is asked of others.
func (e *Evaluator) Alone(i int, mv *shot.Move, t motion.Time, swap *shot.Move) shot.Rest {
	p := &e.Shot.Parts[i]
	c := move.Context{Move: mv, Time: t, Part: p, Metre: e.parts[i].metre, Own: e.parts[i].own, Room: &asker{e.moment(t, &memory{swap: swap}), i}, Ready: move.Prepare(mv, p)}
	if move.ActsOnMembers(mv) {
		c.Metre, c.Place = e.parts[i].own, move.Place{Count: 1, Deep: 1}
		r := shot.AtRest
		move.ApplyMember(c, &r)
		return r
	}
	r := p.Rest
	move.Apply(c, &r)
	return r
}

// Member is what a move of a group makes of one of its parts: of its pose, and of the weights of its morph targets.
type Member struct {
	shot.Rest
	Weights []float64
}

// AloneOn returns what a move of group i by itself makes of part k at rest at a time.
func (e *Evaluator) AloneOn(i, k int, mv *shot.Move, t motion.Time) Member {
	p := &e.Shot.Parts[k]
	c := move.Context{Move: mv, Time: t, Part: p, Metre: e.parts[k].metre, Own: e.parts[k].own, Room: &asker{e.moment(t, &memory{}), k}, Ready: move.Prepare(mv, &e.Shot.Parts[i]), Place: move.Place{Count: 1, Deep: 1}}
	out := Member{p.Rest, make([]float64, len(p.Morphs))}
	move.ApplyMember(c, &out.Rest)
	move.Mix(c, out.Weights)
	return out
}

// BendAlone returns how a move deforms the meshes of its part at a time.
func (e *Evaluator) BendAlone(i int, mv *shot.Move, t motion.Time) move.Bent {
	return move.Bend(move.Context{Move: mv, Time: t, Part: &e.Shot.Parts[i], Own: e.parts[i].own})
}

// Pinned returns what its pins alone make of a part at rest at a time.
func (e *Evaluator) Pinned(i int, t motion.Time) shot.Rest {
	q := &e.parts[i]
	r := q.pose
	q.pin(t, &r)
	return r
}
