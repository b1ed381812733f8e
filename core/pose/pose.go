// Package pose says what a shot looks like at a time. It is the one way to know: the picture in the
// browser, the checks and the renderer all use what it returns.
package pose

import (
	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Evaluator works out poses of one document. It keeps no state between calls and may be used from
// several goroutines; the document must not change while it is in use.
type Evaluator struct {
	Shot    *shot.Shot
	index   map[string]int
	parent  []int // index of each part's parent, -1 for the room
	rest    []geom.Mat4
	moving  []bool // by itself, not through its parent
	camera  int    // index of the render camera, -1 for none
	stands  []int  // for a plinth that does not turn along: its turntable, else -1
	solo    []bool // some move of the part is solo
	each    [][]share
	inRoom  []geom.Mat4 // every part's place at rest
	paths   map[string]*motion.Path
	rounds  []int // parts with a turntable that carries the camera
	flexes  [][]Flex
	looking bool // some move changes how something looks
}

// share is a move of a group that acts on a part of it.
type share struct {
	group, move       int
	rank, count, deep int
}

// New prepares a valid document.
func New(s *shot.Shot) *Evaluator {
	n := len(s.Parts)
	e := &Evaluator{
		Shot: s, index: make(map[string]int, n), parent: make([]int, n), rest: make([]geom.Mat4, n), inRoom: make([]geom.Mat4, n),
		moving: make([]bool, n), stands: make([]int, n), solo: make([]bool, n), each: make([][]share, n), camera: -1, paths: map[string]*motion.Path{},
	}
	for i := range s.Parts {
		p := &s.Parts[i]
		e.index[p.ID] = i
		e.parent[i], e.stands[i] = -1, -1
		if p.Parent != "" {
			e.parent[i] = e.index[p.Parent]
		}
		e.rest[i] = Local(p, p.Rest)
		if e.inRoom[i] = e.rest[i]; e.parent[i] >= 0 {
			e.inRoom[i] = e.inRoom[e.parent[i]].Mul(e.rest[i])
		}
		e.moving[i] = len(p.Tracks) > 0
		for j := range p.Moves {
			m := &p.Moves[j]
			e.solo[i] = e.solo[i] || m.Solo && !m.Muted
			e.looking = e.looking || !m.Muted && (m.Look != nil || m.Reveal != nil && m.Reveal.From == "fade")
			e.moving[i] = e.moving[i] || !m.Muted && !motion.Each(m) && m.Look == nil && m.Flex == nil
			switch {
			case m.Travel != nil:
				e.paths[m.ID] = motion.NewPath(m.Travel)
			case m.Skim != nil && len(m.Skim.Contour) > 2:
				e.paths[m.ID] = motion.Polyline(m.Skim.Contour)
			case m.Turntable != nil && m.Turntable.Moves == shot.CameraMoves && !m.Muted:
				e.rounds = append(e.rounds, i)
			}
		}
		if up := e.parent[i]; p.Kind == shot.Plinth && up >= 0 {
			for _, m := range s.Parts[up].Moves {
				if m.Kind == shot.KindTurntable && !m.Turntable.Plinth {
					e.stands[i] = up
				}
			}
		}
	}
	for i := range s.Parts {
		for j := range s.Parts[i].Moves {
			if m := &s.Parts[i].Moves[j]; motion.Each(m) && !m.Muted {
				e.hand(i, j, m)
			}
		}
	}
	if i, ok := e.index[s.Camera]; ok && s.Camera != "" {
		e.camera = i
	}
	e.gatherFlexes()
	return e
}

// hand gives each part of a group its share of a move of the group: the parts of the group itself, and of an
// unfolding all panels on panels too.
func (e *Evaluator) hand(group, move int, m *shot.Move) {
	var list []int
	deep := make(map[int]int)
	for i := range e.Shot.Parts {
		up := e.parent[i]
		if m.Unfold != nil && e.Shot.Parts[i].ID == m.Unfold.Base {
			continue
		}
		switch {
		case up == group:
			deep[i] = 1
		case up >= 0 && deep[up] > 0 && m.Unfold != nil:
			deep[i] = deep[up] + 1
		default:
			continue
		}
		list = append(list, i)
	}
	var ranks []int
	if m.Reveal != nil {
		at := make([]geom.Vec3, len(list))
		for k, i := range list {
			at[k] = e.Shot.Parts[i].Rest.Position.Add(e.Shot.Parts[i].Pivot)
		}
		ranks = motion.Orders(m.Reveal, at)
	}
	for k, i := range list {
		s := share{group, move, k, len(list), deep[i]}
		if ranks != nil {
			s.rank = ranks[k]
		}
		e.each[i] = append(e.each[i], s)
		e.moving[i] = true
	}
}

// Local returns a part's matrix in its parent's frame: T(position) T(pivot) R S T(-pivot).
func Local(p *shot.Part, r shot.Rest) geom.Mat4 {
	m := geom.TRS(r.Position.Add(p.Pivot), r.Rotation, r.Size)
	if p.Pivot != (geom.Vec3{}) {
		m = m.Mul(geom.Translation(p.Pivot.Mul(-1)))
	}
	return m
}

// At returns the world matrix of every part at time t in frames. In a loop any t is brought round.
func (e *Evaluator) At(t float64) []geom.Mat4 { return e.at(motion.At(e.Shot, t)) }

// BeforeSeam returns the world matrices at the last moment of the shot: for a loop, where frame N
// would be if it existed.
func (e *Evaluator) BeforeSeam() []geom.Mat4 { return e.at(motion.BeforeSeam(e.Shot)) }

// moment is one time while it is being worked out. Parts are placed as they are asked for, since one may
// look at another that stands behind it.
type moment struct {
	e     *Evaluator
	t     motion.Time
	world []geom.Mat4
	done  []bool
}

func (e *Evaluator) at(t motion.Time) []geom.Mat4 {
	m := &moment{e, t, make([]geom.Mat4, len(e.Shot.Parts)), make([]bool, len(e.Shot.Parts))}
	for i := range m.world {
		m.place(i)
	}
	if e.camera >= 0 {
		for _, i := range e.rounds {
			for j := range e.Shot.Parts[i].Moves {
				if mv := &e.Shot.Parts[i].Moves[j]; mv.Turntable != nil && !mv.Muted && mv.Turntable.Moves == shot.CameraMoves {
					// Round the axis of the turntable, carrying the camera rigidly.
					q := geom.AxisAngle(m.world[i].Column(1), motion.TurntableAngle(mv.Turntable, t))
					axis := m.world[i].Column(3)
					round := geom.Translation(axis).Mul(geom.TRS(geom.Vec3{}, q, geom.Vec3{1, 1, 1})).Mul(geom.Translation(axis.Mul(-1)))
					m.world[e.camera] = round.Mul(m.world[e.camera])
				}
			}
		}
	}
	return m.world
}

// place works out the world matrix of a part, after that of what it is in.
func (m *moment) place(i int) geom.Mat4 {
	if m.done[i] {
		return m.world[i]
	}
	e := m.e
	up := geom.Identity
	if e.parent[i] >= 0 {
		up = m.place(e.parent[i])
	}
	local := e.rest[i]
	if e.moving[i] {
		local = e.local(i, m.t, nil, m)
	}
	if c := e.Shot.Parts[i].Camera; c != nil && c.Offset != (geom.Vec3{}) {
		local = local.Mul(geom.Translation(c.Offset))
	}
	w := local
	if e.parent[i] >= 0 {
		w = up.Mul(local)
	}
	if s := e.stands[i]; s >= 0 && e.moving[s] {
		still := e.local(s, m.t, func(mv *shot.Move) bool { return mv.Kind == shot.KindTurntable }, m)
		if e.parent[s] >= 0 {
			still = m.place(e.parent[s]).Mul(still)
		}
		w = still.Mul(local)
	}
	m.world[i], m.done[i] = w, true
	return w
}

// local returns the matrix of part i with its moves, but for those that skip picks out.
func (e *Evaluator) local(i int, t motion.Time, skip func(*shot.Move) bool, m *moment) geom.Mat4 {
	return Local(&e.Shot.Parts[i], e.posed(i, t, skip, m))
}

// posed returns the pose of part i in its parent's frame: its rest, its pins, its moves, and its share of
// what its group does with its parts.
func (e *Evaluator) posed(i int, t motion.Time, skip func(*shot.Move) bool, m *moment) shot.Rest {
	p := &e.Shot.Parts[i]
	r := p.Rest
	for j := range p.Tracks {
		motion.ApplyTrack(&p.Tracks[j], t, &r)
	}
	for j := range p.Moves {
		mv := &p.Moves[j]
		if (skip == nil || !skip(mv)) && (!e.solo[i] || mv.Solo) {
			motion.Apply(mv, t, p, &r, asker{m, i})
		}
	}
	for _, s := range e.each[i] {
		motion.ApplyEach(&e.Shot.Parts[s.group].Moves[s.move], t, p, &r, s.rank, s.count, s.deep)
	}
	return r
}

// asker answers what the moves of one part ask about others.
type asker struct {
	m    *moment
	part int
}

// at returns the moment of a time: this one, or another that is worked out for the purpose.
func (a asker) at(t motion.Time) *moment {
	if t == a.m.t {
		return a.m
	}
	n := len(a.m.world)
	return &moment{a.m.e, t, make([]geom.Mat4, n), make([]bool, n)}
}

func (a asker) Turned(part string, t motion.Time) float64 {
	e := a.m.e
	i := e.index[part]
	sum := 0.0
	for j := range e.Shot.Parts[i].Moves {
		mv := &e.Shot.Parts[i].Moves[j]
		if !e.solo[i] || mv.Solo {
			sum += motion.Angle(mv, t, asker{a.at(t), i})
		}
	}
	return sum
}

func (a asker) Moved(part string, t motion.Time) shot.Rest {
	e := a.m.e
	i := e.index[part]
	p := &e.Shot.Parts[i]
	now := e.posed(i, t, nil, a.at(t))
	// From the frame of the other's parent into that of the asker's, as both are at rest.
	change := geom.Identity
	if up := e.parent[i]; up >= 0 {
		change = e.inRoom[up]
	}
	if up := e.parent[a.part]; up >= 0 {
		if inv, ok := e.inRoom[up].Inverse(); ok {
			change = inv.Mul(change)
		}
	}
	_, turn, _, _ := change.Decompose()
	d := shot.Rest{
		Position: change.Vector(now.Position.Sub(p.Rest.Position)),
		Rotation: turn.Mul(now.Rotation.Mul(p.Rest.Rotation.Inverse())).Mul(turn.Inverse()),
	}
	for k := range d.Size {
		d.Size[k] = now.Size[k] / p.Rest.Size[k]
	}
	return d
}

func (a asker) Place(part string, t motion.Time) (geom.Mat4, geom.Vec3) {
	m := a.at(t)
	i := m.e.index[part]
	w := m.place(i)
	if up := m.e.parent[a.part]; up >= 0 {
		if inv, ok := m.place(up).Inverse(); ok {
			w = inv.Mul(w)
		}
	}
	return w, w.Point(m.e.Shot.Parts[i].Pivot)
}

func (a asker) Inverse(p geom.Vec3, t motion.Time) geom.Vec3 {
	m := a.at(t)
	if up := m.e.parent[a.part]; up >= 0 {
		if inv, ok := m.place(up).Inverse(); ok {
			return inv.Point(p)
		}
	}
	return p
}

func (a asker) Path(mv *shot.Move) *motion.Path { return a.m.e.paths[mv.ID] }

// Carrier returns, for every part, the part that it moves rigidly with: itself if it has moves, or
// a plinth that stands while its turntable turns, else its parent's carrier; -1 is the room.
func (e *Evaluator) Carrier() []int {
	c := make([]int, len(e.Shot.Parts))
	for i := range c {
		c[i] = -1
		if e.parent[i] >= 0 {
			c[i] = c[e.parent[i]]
		}
		if e.moving[i] || e.stands[i] >= 0 || i == e.camera {
			c[i] = i
		}
	}
	return c
}

// Moves reports whether a part moves by itself or with what it is in; a turntable that carries the render
// camera is not counted.
func (e *Evaluator) Moves(i int) bool {
	for ; i >= 0; i = e.parent[i] {
		if e.moving[i] {
			return true
		}
	}
	return false
}

// InCarrier returns the matrix of every part in the frame of its carrier, which is the same at all times.
func (e *Evaluator) InCarrier() []geom.Mat4 {
	carrier, m := e.Carrier(), make([]geom.Mat4, len(e.Shot.Parts))
	for i := range m {
		if m[i] = geom.Identity; carrier[i] != i {
			if m[i] = e.rest[i]; e.parent[i] >= 0 {
				m[i] = m[e.parent[i]].Mul(e.rest[i])
			}
		}
	}
	return m
}

// Local returns the matrix of part i in its parent's frame at a time, with its moves.
func (e *Evaluator) Local(i int, t float64) geom.Mat4 {
	m := e.moment(motion.At(e.Shot, t))
	return e.local(i, m.t, nil, m)
}

func (e *Evaluator) moment(t motion.Time) *moment {
	n := len(e.Shot.Parts)
	return &moment{e, t, make([]geom.Mat4, n), make([]bool, n)}
}

// Alone returns what one move by itself makes of its part at rest at a time. Of a move that acts on the parts
// of its group, what it makes of one of them.
func (e *Evaluator) Alone(i, move int, t motion.Time) shot.Rest {
	p := &e.Shot.Parts[i]
	mv := &p.Moves[move]
	if motion.Each(mv) {
		r := shot.AtRest
		motion.ApplyEach(mv, t, p, &r, 0, 1, 1)
		return r
	}
	r := p.Rest
	motion.Apply(mv, t, p, &r, asker{e.moment(t), i})
	return r
}
