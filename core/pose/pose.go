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
	Shot   *shot.Shot
	parent []int // index of each part's parent, -1 for the room
	rest   []geom.Mat4
	moving []bool // by itself, not through its parent
	camera int    // index of the render camera, -1 for none
	stands []int  // for a plinth that does not turn along: its turntable, else -1
}

// New prepares a valid document.
func New(s *shot.Shot) *Evaluator {
	e := &Evaluator{
		Shot: s, parent: make([]int, len(s.Parts)), rest: make([]geom.Mat4, len(s.Parts)),
		moving: make([]bool, len(s.Parts)), stands: make([]int, len(s.Parts)), camera: -1,
	}
	index := make(map[string]int, len(s.Parts))
	for i := range s.Parts {
		p := &s.Parts[i]
		index[p.ID] = i
		e.parent[i], e.stands[i] = -1, -1
		if p.Parent != "" {
			e.parent[i] = index[p.Parent]
		}
		e.rest[i] = Local(p, p.Rest)
		for j := range p.Moves {
			e.moving[i] = e.moving[i] || !p.Moves[j].Muted
		}
		if up := e.parent[i]; p.Kind == shot.Plinth && up >= 0 {
			for _, m := range s.Parts[up].Moves {
				if m.Kind == shot.KindTurntable && !m.Turntable.Plinth {
					e.stands[i] = up
				}
			}
		}
	}
	if i, ok := index[s.Camera]; ok && s.Camera != "" {
		e.camera = i
	}
	return e
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

func (e *Evaluator) at(t motion.Time) []geom.Mat4 {
	parts := e.Shot.Parts
	world := make([]geom.Mat4, len(parts))
	for i := range parts {
		local := e.rest[i]
		if e.moving[i] {
			local = e.local(i, t, nil)
		}
		world[i] = e.under(e.parent[i], world, local)
		if up := e.stands[i]; up >= 0 && e.moving[up] {
			still := e.under(e.parent[up], world, e.local(up, t, func(m *shot.Move) bool { return m.Kind == shot.KindTurntable }))
			world[i] = still.Mul(local)
		}
	}
	if e.camera >= 0 {
		for i := range parts {
			for j := range parts[i].Moves {
				if m := &parts[i].Moves[j]; m.Kind == shot.KindTurntable && !m.Muted && m.Turntable.Moves == shot.CameraMoves {
					// Round the axis of the turntable, carrying the camera rigidly.
					q := geom.AxisAngle(world[i].Column(1), motion.TurntableAngle(m.Turntable, t))
					axis := world[i].Column(3)
					round := geom.Translation(axis).Mul(geom.TRS(geom.Vec3{}, q, geom.Vec3{1, 1, 1})).Mul(geom.Translation(axis.Mul(-1)))
					world[e.camera] = round.Mul(world[e.camera])
				}
			}
		}
	}
	return world
}

func (e *Evaluator) under(parent int, world []geom.Mat4, local geom.Mat4) geom.Mat4 {
	if parent < 0 {
		return local
	}
	return world[parent].Mul(local)
}

// local returns the matrix of part i with its moves, but for those that skip picks out.
func (e *Evaluator) local(i int, t motion.Time, skip func(*shot.Move) bool) geom.Mat4 {
	p := &e.Shot.Parts[i]
	r := p.Rest
	for j := range p.Moves {
		if skip == nil || !skip(&p.Moves[j]) {
			motion.Apply(&p.Moves[j], t, &r)
		}
	}
	return Local(p, r)
}

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

// Local returns the matrix of part i in its parent's frame at a time, with its moves.
func (e *Evaluator) Local(i int, t float64) geom.Mat4 { return e.local(i, motion.At(e.Shot, t), nil) }
