package pose

import (
	"unsafe"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// moment is one time while it is being worked out. Parts are placed as they are asked for, since one may look at another
// that stands behind it, and each is worked out at most once.
type moment struct {
	e     *Evaluator
	t     motion.Time
	world []geom.Mat4 // made when something is placed
	done  []bool
	kept  []answer // what has been asked of parts that moves look at, by their numbers among those
	*memory
}

// memory holds what is worked out for the purpose of other moments, since that is likely to be asked for again: a follower
// looks at the same times as on the frame before, and so do those that follow it. It is for one goroutine.
type memory struct {
	now    *moment // that everything is worked out for
	others map[float64]*moment
	size   int        // bytes that they take, about
	swap   *shot.Move // takes the place of the move with its id in what is asked
	free   []*asker
}

// maxKept is how many bytes a memory may take, about, before it is emptied.
const maxKept = 16 << 20

// remembering returns a memory that no one uses, with what is in it of earlier times.
func (e *Evaluator) remembering() *memory {
	k, _ := e.memories.Get().(*memory)
	if k == nil {
		k = &memory{}
	}
	return k
}

// answer is what has been worked out for those who ask.
type answer struct {
	posed, turned bool
	pose          shot.Rest
	angle         float64
}

// moment returns a moment that takes up no room until something is placed in it.
func (e *Evaluator) moment(t motion.Time, k *memory) *moment {
	m := &moment{e: e, t: t, memory: k}
	k.now = m
	return m
}

// at returns the moment of a time: this one, or another that is worked out for the purpose.
func (m *moment) at(t motion.Time) *moment {
	if t.T == m.t.T {
		return m
	}
	k := m.memory
	if t.T == k.now.t.T {
		return k.now
	}
	if o := k.others[t.T]; o != nil {
		return o
	}
	if k.size > maxKept {
		k.others, k.size = nil, 0
	}
	o := &moment{e: m.e, t: t, memory: k}
	if k.others == nil {
		k.others = map[float64]*moment{}
	}
	k.others[t.T] = o
	return o
}

// place works out the world matrix of a part, after that of what it is in.
func (m *moment) place(i int) geom.Mat4 { return *m.placed(i) }

// placed is place without a copy, which must not be changed.
func (m *moment) placed(i int) *geom.Mat4 {
	if m.world == nil {
		m.world, m.done = make([]geom.Mat4, len(m.e.parts)), make([]bool, len(m.e.parts))
		m.size += len(m.world) * int(unsafe.Sizeof(geom.Mat4{}))
	}
	if m.done[i] {
		return &m.world[i]
	}
	e := m.e
	q := &e.parts[i]
	w := &m.world[i]
	if q.moving {
		var r shot.Rest
		m.posed(i, nil, &r)
		setLocal(w, &q.pivot, &r)
	} else {
		*w = q.rest
	}
	up := e.Index.Parent(i)
	if up < 0 && !q.aside && q.stands < 0 { // as most are that move
		m.done[i] = true
		return w
	}
	local := *w
	if q.aside {
		local = local.Mul(geom.Translation(e.Shot.Parts[i].Camera.Offset))
	}
	*w = local
	if up >= 0 {
		*w = m.placed(up).Mul(local)
	}
	if s := q.stands; s >= 0 && e.parts[s].moving {
		var r shot.Rest
		m.posed(s, move.LeavesPlinth, &r)
		still := Local(&e.Shot.Parts[s], r)
		if above := e.Index.Parent(s); above >= 0 {
			still = m.place(above).Mul(still)
		}
		*w = still.Mul(local)
	}
	m.done[i] = true
	return w
}

// posed works out the pose of part i in its parent's frame: its rest, its pins, its moves but for those that skip picks out,
// and what its group's moves do with it.
func (m *moment) posed(i int, skip func(*shot.Move) bool, r *shot.Rest) {
	q := &m.e.parts[i]
	var kept *answer
	if q.asked >= 0 && skip == nil {
		if kept = m.answer(i); kept.posed {
			*r = kept.pose
			return
		}
	}
	*r = q.pose
	q.pin(m.t, r)
	if len(q.moves)+len(q.members) > 0 {
		*r = m.moved(i, *r, skip)
	}
	if kept != nil {
		kept.posed, kept.pose = true, *r
	}
}

// pin changes the rest of a part by what its pins say at a time.
func (q *prepared) pin(t motion.Time, r *shot.Rest) {
	for k := range q.courses {
		q.courses[k].Apply(t, q.metre, r)
	}
}

// moved returns a pose of part i with what its moves and those of its group do with it. The moves are given a copy, since what they are
// given stays beyond the call.
func (m *moment) moved(i int, r shot.Rest, skip func(*shot.Move) bool) shot.Rest {
	q, p := &m.e.parts[i], &m.e.Shot.Parts[i]
	room := m.ask(i)
	defer m.asked(room)
	for _, a := range q.moves {
		if skip == nil || !skip(a.Move) {
			move.Apply(move.Context{Move: a.Move, Time: m.t, Part: p, Metre: q.metre, Own: q.own, Frame: q.frame, Room: room, Ready: a.ready}, &r)
		}
	}
	for _, s := range q.members {
		move.ApplyMember(move.Context{Move: s.Move, Time: m.t, Part: p, Metre: q.metre, Own: q.own, Frame: q.frame, Room: room, Place: s.place, Ready: s.ready}, &r)
	}
	return r
}

func (m *moment) answer(i int) *answer {
	if m.kept == nil {
		m.kept = make([]answer, m.e.asked)
		m.size += len(m.kept) * int(unsafe.Sizeof(answer{}))
	}
	return &m.kept[m.e.parts[i].asked]
}

// asker answers what the moves of one part ask about others.
type asker struct {
	m    *moment
	part int
}

// ask returns an asker for part i, to be given back when it is not needed any more.
func (m *moment) ask(i int) *asker {
	if n := len(m.free); n > 0 {
		a := m.free[n-1]
		m.free = m.free[:n-1]
		a.m, a.part = m, i
		return a
	}
	return &asker{m, i}
}

func (m *moment) asked(a *asker) { m.free = append(m.free, a) }

// other returns a part that the moves of the asker's look at, and how what is in its frame is brought into the asker's.
func (a *asker) other(id string) *needed {
	list := a.m.e.parts[a.part].needs
	for k := range list {
		if list[k].id == id {
			return &list[k]
		}
	}
	n := a.m.e.relation(a.part, id) // of a move that is not the document's
	return &n
}

// Turned implements move.Room.
func (a *asker) Turned(part string, t motion.Time) float64 {
	return a.m.at(t).turned(a.other(part).part)
}

func (m *moment) turned(i int) float64 {
	q, p := &m.e.parts[i], &m.e.Shot.Parts[i]
	var kept *answer
	if q.asked >= 0 {
		if kept = m.answer(i); kept.turned {
			return kept.angle
		}
	}
	sum := 0.0
	room := m.ask(i)
	defer m.asked(room)
	for _, o := range q.moves {
		if w := m.swap; w != nil && w.ID == o.ID {
			o = act{w, move.Prepare(w, p)}
		}
		sum += move.TurnedBy(move.Context{Move: o.Move, Time: m.t, Part: p, Metre: q.metre, Own: q.own, Room: room, Ready: o.ready})
	}
	if kept != nil {
		kept.turned, kept.angle = true, sum
	}
	return sum
}

// Moved implements move.Room.
func (a *asker) Moved(part string, t motion.Time) shot.Rest {
	change := a.other(part)
	p := &a.m.e.Shot.Parts[change.part]
	var now shot.Rest
	a.m.at(t).posed(change.part, nil, &now)
	d := shot.Rest{
		Position: change.matrix.Vector(now.Position.Sub(p.Rest.Position)),
		Rotation: change.turn.Mul(now.Rotation.Mul(p.Rest.Rotation.Inverse())).Mul(change.turn.Inverse()),
	}
	for k := range d.Size {
		d.Size[k] = now.Size[k] / p.Rest.Size[k]
	}
	return d
}

// Seat implements move.Room.
func (a *asker) Seat(part string) geom.Vec3 {
	of := a.other(part)
	p := &a.m.e.Shot.Parts[of.part]
	return of.matrix.Point(p.Rest.Position.Add(p.Pivot))
}

// Place implements move.Room.
func (a *asker) Place(part string, t motion.Time) (geom.Mat4, geom.Vec3) {
	m := a.m.at(t)
	i := a.other(part).part
	w := m.place(i)
	if up := m.e.Index.Parent(a.part); up >= 0 {
		if inv, ok := m.place(up).Inverse(); ok {
			w = inv.Mul(w)
		}
	}
	return w, w.Point(m.e.Shot.Parts[i].Pivot)
}

// Inverse implements move.Room.
func (a *asker) Inverse(p geom.Vec3, t motion.Time) geom.Vec3 {
	m := a.m.at(t)
	if up := m.e.Index.Parent(a.part); up >= 0 {
		if inv, ok := m.place(up).Inverse(); ok {
			return inv.Point(p)
		}
	}
	return p
}
