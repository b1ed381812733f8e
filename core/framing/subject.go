package framing

import (
	"cmp"
	"math"
	"runtime"
	"slices"
	"sync"

	"github.com/sourcegraph/conc"

	"perigyre/core/geom"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Subject is all that the camera of a shot has to keep in the picture, over the whole shot. It may be measured as often as
// wanted, by one goroutine at a time.
type Subject struct {
	Pose   *pose.Evaluator // of a copy of the document, so that a fit may be written into the original
	Bodies []Body

	frame cameraFrame
	boxes []geom.Box // round each body over the whole shot, in the camera's frame; empty where that is not known yet
	fit   *extremes  // what the last fit found
	edges *extremes  // and the last measurement

	memory *Memory
	before *Subject // an earlier one of which some is the same, or nil
	was    []int    // for each body the same one of the earlier subject, or -1
}

// Memory keeps the last subjects that were looked at, so that what an edit does not touch is not looked at again. nil keeps
// nothing. It may be used from several goroutines.
type Memory struct {
	mu   sync.Mutex
	last []*Subject // the newest is the last; they do not change any more
}

// maxRemembered subjects are kept: a shot before and after an edit, of a few shots at a time; fewer where they have more than
// maxRememberedParts together.
const (
	maxRemembered      = 6
	maxRememberedParts = 200_000
)

// NewSubject gathers what is visible in a shot.
func NewSubject(s *shot.Shot, g Geometry, memory *Memory) (*Subject, error) {
	d := *s
	d.Parts = slices.Clone(s.Parts)
	e := pose.New(&d)
	bodies, err := Bodies(e, g)
	if err != nil {
		return nil, err
	}
	u := &Subject{Pose: e, Bodies: bodies, memory: memory, boxes: make([]geom.Box, len(bodies)), was: make([]int, len(bodies))}
	u.frame = cameraFrameOf(e)
	for i := range bodies {
		u.boxes[i], u.was[i] = geom.EmptyBox(), -1
	}
	memory.recall(u)
	return u, nil
}

// recall takes over what is known from the newest subject of which some is the same.
func (m *Memory) recall(u *Subject) {
	if m == nil || u.frame.cam < 0 || len(u.Bodies) == 0 {
		return
	}
	m.mu.Lock()
	list := slices.Clone(m.last)
	m.mu.Unlock()
	for _, o := range slices.Backward(list) {
		if o.Pose.Index.Part(u.Pose.Shot.Parts[0].ID) < 0 {
			continue // another shot
		}
		same := u.Pose.Same(o.Pose)
		if !u.Pose.SameCameraFrame(o.Pose, same) {
			continue
		}
		if u.pair(o, same) {
			return
		}
	}
}

// pair finds the bodies that an earlier subject has too, and reports whether there are any.
func (u *Subject) pair(o *Subject, same []int) bool {
	of := map[int]int{} // bodies of the earlier subject by the first part that they are made of
	for k := range o.Bodies {
		if m := o.Bodies[k].members; len(m) > 0 {
			of[m[0]] = k
		}
	}
	found := false
	for i := range u.Bodies {
		list := u.Bodies[i].members
		if len(list) == 0 || same[list[0]] < 0 {
			continue
		}
		k, ok := of[same[list[0]]]
		if !ok || !slices.EqualFunc(list, o.Bodies[k].members, func(a, b int) bool { return same[a] == b }) {
			continue
		}
		u.was[i], u.boxes[i], found = k, o.boxes[k], true
		u.Bodies[i].Reach = o.Bodies[k].Reach // with what has been worked out of it
	}
	if found {
		u.before = o
	}
	return found
}

// remember keeps the subject, and what has been found of it so far, for the next one.
func (u *Subject) remember() {
	m := u.memory
	if m == nil {
		return
	}
	o := *u // what is kept does not change any more, and holds on to nothing older
	o.boxes, o.before, o.was = slices.Clone(u.boxes), nil, nil
	if b := u.before; b != nil && len(b.Bodies) == len(u.Bodies) && !slices.Contains(u.was, -1) {
		// Nothing but the camera is another: what was found of the earlier one stands.
		if o.fit == nil {
			o.fit = b.fit.in(u.was)
		}
		if o.edges == nil {
			o.edges = b.edges.in(u.was)
		}
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	m.last = slices.DeleteFunc(m.last, func(e *Subject) bool { return e.Pose == u.Pose })
	m.last = append(m.last, &o)
	parts := 0
	for k := len(m.last) - 1; k >= 0; k-- {
		parts += len(m.last[k].Pose.Shot.Parts)
		if held := len(m.last) - k; held > maxRemembered || parts > maxRememberedParts && held > 2 {
			m.last = slices.Delete(m.last, 0, k+1)
			break
		}
	}
}

// extremes is how far the bodies of a subject reach towards some sides, as seen in a certain way.
type extremes struct {
	seen any // in what way, to be compared
	side []extreme
}

// extreme is the furthest that anything reaches towards one side.
type extreme struct {
	far  float64
	when float64 // the moment, frames
	body int     // the body that does, -1 for none
}

// in returns the extremes with the bodies as a later subject numbers them, -1 for those that are not the same any more.
func (x *extremes) in(was []int) *extremes {
	if x == nil {
		return nil
	}
	out := &extremes{x.seen, slices.Clone(x.side)}
	for k := range out.side {
		out.side[k].body = slices.Index(was, x.side[k].body)
	}
	return out
}

// cameraFrame is the axes (right, up, back) that things are seen in: those of the camera at every moment, about the camera itself
// if it moves, else about the room's origin.
type cameraFrame struct {
	cam   int // the camera, -1 for none
	own   bool
	start geom.Quat // how the camera is turned on frame 0
}

func cameraFrameOf(e *pose.Evaluator) cameraFrame {
	cam := e.Index.Part(e.Shot.Camera)
	if cam < 0 || e.Shot.Parts[cam].Camera == nil {
		return cameraFrame{cam: -1}
	}
	return cameraFrame{cam, e.Moves(cam), orientation(e.Some(0).Of(cam))}
}

// frame returns the matrix that takes the room to the camera's frame.
func (s cameraFrame) frame(camera geom.Mat4) geom.Mat4 {
	if s.own {
		return geom.TRS(geom.Vec3{}, orientation(camera).Inverse(), geom.Vec3{1, 1, 1}).Mul(geom.Translation(camera.Column(3).Mul(-1)))
	}
	return turningFrame(camera, s.start)
}

// orientation returns the rotation of a camera's world matrix, without any resizing above it.
func orientation(m geom.Mat4) geom.Quat {
	_, r, _, _ := m.Decompose()
	return r
}

// turningFrame returns the matrix that takes room points to axes (right, up, back) that turn with
// the camera about the room's origin, from the orientation it has on frame 0.
func turningFrame(camera geom.Mat4, start geom.Quat) geom.Mat4 {
	turned := orientation(camera).Mul(start.Inverse())
	return geom.TRS(geom.Vec3{}, start.Inverse().Mul(turned.Inverse()), geom.Vec3{1, 1, 1})
}

// moments returns the times that cover the whole shot: every frame, and enough moments between frames that a turn is looked
// at at least every degree, so that what lies between frames, where a shutter would be open, is inside too.
func (u *Subject) moments() []float64 {
	s := u.Pose.Shot
	last := s.Frames
	if s.Ending == shot.Once {
		last--
	}
	between := 1
	for _, m := range u.Pose.Carrier() {
		if m >= 0 {
			between = max(1, (360+s.Frames-1)/s.Frames)
		}
	}
	if last == 0 {
		return []float64{0}
	}
	var out []float64
	for k := range last * between {
		out = append(out, float64(k)/float64(between))
	}
	if s.Ending == shot.Once {
		out = append(out, float64(last))
	}
	return out
}

// sweep calls look for some of the bodies at every moment of the shot, on all processors: each worker has moments that
// follow one another. at are the matrices by which the bodies are seen in the camera's frame. Boxes that are given are
// those of all bodies; they are widened to those that are looked at. It returns how many workers there were.
func (u *Subject) sweep(of []int, boxes []geom.Box, look func(worker int, t float64, camera geom.Mat4, at []geom.Mat4)) (int, error) {
	times := u.moments()
	if slices.ContainsFunc(of, func(i int) bool { return u.Bodies[i].Bends() }) {
		return 1, u.sweepInOrder(times, of, boxes, look)
	}
	workers := min(runtime.GOMAXPROCS(0), len(times))
	found := make([][]geom.Box, workers)
	var all conc.WaitGroup // a fault in one is the caller's
	for w := range workers {
		all.Go(func() {
			m, matrices := u.Pose.Some(0), make([]geom.Mat4, len(of))
			if boxes != nil {
				found[w] = slices.Repeat([]geom.Box{geom.EmptyBox()}, len(of))
			}
			for _, t := range times[len(times)*w/workers : len(times)*(w+1)/workers] {
				m.Go(t)
				camera := m.Of(u.frame.cam)
				frame := u.frame.frame(camera)
				for k, i := range of {
					b := &u.Bodies[i]
					if matrices[k] = frame; b.Carrier >= 0 {
						matrices[k] = frame.Mul(m.Of(b.Carrier))
					}
					if boxes != nil {
						found[w][k] = found[w][k].Union(b.box.Transformed(matrices[k]))
					}
				}
				look(w, t, camera, matrices)
			}
		})
	}
	all.Wait()
	for _, list := range found {
		for k, box := range list {
			boxes[of[k]] = boxes[of[k]].Union(box)
		}
	}
	return workers, nil
}

// sweepInOrder does so where something bends, which is put in its place for one moment at a time. No boxes are known of what
// bends.
func (u *Subject) sweepInOrder(times []float64, of []int, boxes []geom.Box, look func(worker int, t float64, camera geom.Mat4, at []geom.Mat4)) error {
	matrices := make([]geom.Mat4, len(of))
	for _, t := range times {
		world := u.Pose.At(t)
		if err := gather(u.Pose, u.Bodies, t, world); err != nil {
			return err
		}
		camera := world[u.frame.cam]
		frame := u.frame.frame(camera)
		for k, i := range of {
			b := &u.Bodies[i]
			matrices[k] = b.seen(world, frame)
			if boxes != nil && !b.Bends() {
				boxes[i] = boxes[i].Union(b.box.Transformed(matrices[k]))
			}
		}
		look(0, t, camera, matrices)
	}
	return nil
}

// chunk is how many bodies are looked at together for a side before it is asked again which can still matter.
const chunk = 16

// search returns how far the bodies reach towards some sides over the whole shot, in the way that seen says. It looks at
// bodies until no other can reach further: bound tells the most that a body can by its box, and look looks at some of them,
// on the way widens boxes to them where these are given, and raises what each worker has found. least is where it begins.
//
// What an earlier subject has found in the same way stands on a side if the body that reached furthest is still the same:
// then of those that are the same as they were none reaches further.
func (u *Subject) search(seen any, sides int, least float64, before *extremes, bound func(box geom.Box, side int) float64, look func(of []int, boxes []geom.Box, found [][]extreme) (int, error)) (*extremes, error) {
	out := &extremes{seen, make([]extreme, sides)}
	settled := make([]bool, sides)
	for k := range out.side {
		out.side[k] = extreme{far: least, body: -1}
	}
	if before = before.in(u.was); before != nil && before.seen == seen {
		for k, x := range before.side {
			if x.body >= 0 {
				out.side[k], settled[k] = x, true
			}
		}
	}
	done := make([]bool, len(u.Bodies))
	pass := func(of []int, boxes []geom.Box) error {
		found := make([][]extreme, runtime.GOMAXPROCS(0))
		for w := range found {
			found[w] = slices.Clone(out.side)
		}
		workers, err := look(of, boxes, found)
		for _, list := range found[:workers] {
			for k, x := range list {
				if o := &out.side[k]; x.far > o.far || x.far == o.far && x.body >= 0 && x.when < o.when {
					*o = x
				}
			}
		}
		for _, i := range of {
			done[i] = true
		}
		return err
	}
	var unknown []int
	for i := range u.boxes {
		if u.boxes[i].Empty() {
			unknown = append(unknown, i)
		}
	}
	if len(unknown) > 0 {
		if err := pass(unknown, u.boxes); err != nil {
			return nil, err
		}
	}
	for {
		var next []int
		for k := range sides {
			var list []int
			reach := map[int]float64{}
			for i := range u.Bodies {
				if done[i] || settled[k] && u.was[i] >= 0 {
					continue
				}
				if r := bound(u.boxes[i], k); r > out.side[k].far {
					list, reach[i] = append(list, i), r
				}
			}
			slices.SortStableFunc(list, func(a, b int) int { return cmp.Compare(reach[b], reach[a]) })
			next = append(next, list[:min(len(list), chunk)]...)
		}
		if len(next) == 0 {
			return out, nil
		}
		slices.Sort(next)
		if err := pass(slices.Compact(next), nil); err != nil {
			return nil, err
		}
	}
}

// reach returns how far a box reaches in a direction, at least: rounding makes it no less.
func reach(b geom.Box, d geom.Vec3) float64 {
	far := 0.0
	for k, v := range d {
		far += max(v*b.Min[k], v*b.Max[k])
	}
	return far + 1e-9*(1+math.Abs(far))
}
