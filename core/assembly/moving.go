package assembly

import (
	"cmp"
	"math"
	"slices"

	"perigyre/core/geom"
)

// Course is where two solids are against each other over a time: rigid motions from the frame of the second to that of the first,
// at even steps so near to each other that between them something goes evenly. A step within which it leaps, while it hardly moves
// before and after, is a cut: it passes through nothing there.
type Course []geom.Mat4

// Turns is how often a solid looks the same in one turn about an axis of its frame, through a point; 1 is a whole turn.
type Turns struct {
	Often   int
	Axis    int // 0 for x
	Through geom.Vec3
}

// Body is a solid, and what it looks like turned.
type Body struct {
	*Solid
	Turns Turns
}

// Meeting is where two solids lie deeper in each other than they may.
type Meeting struct {
	Depth
	Step float64 // when, in steps of the course
}

// looks are how often at most a pair is looked at.
const looks = 150

// Meet returns where two solids lie deepest in each other on their way, if that is deeper than a limit, and found all the same if
// it is between two steps. No point comes deeper by more than it goes, and it goes no further than the furthest corner of a box;
// a span is split until that rules it out, or until the way within it is less than what may be passed over. Where it stands as it
// stood before, or as its turns let it stand, it is not looked at again. What is in doubt after many looks is left at its steps.
func Meet(a, b Body, way Course, limit, fine float64) (Meeting, bool) {
	w := walk{a: a, b: b, way: way, fine: fine, best: Meeting{Depth: Depth{Depth: limit}}, left: looks, gone: map[[2]int]bool{}}
	if len(way) == 0 || a.Empty() || b.Empty() {
		return w.best, false
	}
	w.at = make([][8]geom.Vec3, len(way))
	for k, m := range way {
		w.at[k] = corners(b.Bounds(), m)
	}
	clear := true
	for i := 0; i < len(way) && clear; i++ {
		clear = w.clear(i)
	}
	if clear {
		return w.best, false
	}
	w.inside = a.Holds(way[0].Point(b.triangles[0][0]))
	if back, ok := way[0].Inverse(); ok && !w.inside {
		w.inside = b.Holds(back.Point(a.triangles[0][0]))
	}
	if w.classes(); len(w.stood) < len(way)/3 {
		for i := range len(way) - 1 {
			w.step(i)
		}
	} else { // halves of spans, the widest first
		for spans := [][2]int{{0, len(way) - 1}}; len(spans) > 0; spans = spans[1:] {
			spans = append(spans, w.span(spans[0])...)
		}
	}
	// Between steps: the widest first.
	slices.SortStableFunc(w.doubts, func(x, y doubt) int { return cmp.Compare(y.way, x.way) })
	for len(w.doubts) > 0 && w.left > 0 {
		d := w.doubts[0]
		w.doubts = w.doubts[1:]
		w.within(d)
	}
	return w.best, w.found
}

// Deepest looks more closely at a meeting: when, near the time at which it was found, it is deepest, and how deep.
func Deepest(a, b *Solid, way Course, m Meeting) Meeting {
	at := func(step float64) geom.Mat4 {
		i := max(0, min(int(step), len(way)-2))
		return between(way[i], way[i+1], step-float64(i))
	}
	if len(way) < 2 {
		return m
	}
	look := func(step float64) bool {
		if step < 0 || step > float64(len(way)-1) {
			return false
		}
		d, ok := overlap(a, b, at(step), m.Depth.Depth, closely)
		if ok {
			m.Depth, m.Step = d, step
		}
		return ok
	}
	look(m.Step)
	for h := 4.0; h > 0.02; { // uphill
		if s := m.Step; !look(s+h) && !look(s-h) {
			h /= 2
		}
	}
	return m
}

type walk struct {
	a, b   Body
	way    Course
	fine   float64
	inside bool           // one of them may be inside of the other and not touch it
	at     [][8]geom.Vec3 // corners of b's box at every step
	best   Meeting
	found  bool
	left   int
	stood  [][8]geom.Vec3  // all ways in which it stands, turned to where its turns begin
	stands []int           // of every step the one of these
	told   []int           // of these: 0 where it has not been looked at, 1 where something may be deeper, 2 where not
	gone   map[[2]int]bool // from which of these to which it has gone
	doubts []doubt
}

// doubt is a part of a step that is not ruled out.
type doubt struct {
	step     int
	from, to float64
	way      float64
}

func corners(b geom.Box, m geom.Mat4) (out [8]geom.Vec3) {
	for k := range out {
		p := b.Min
		for axis := range p {
			if k>>axis&1 == 1 {
				p[axis] = b.Max[axis]
			}
		}
		out[k] = m.Point(p)
	}
	return out
}

// wayOf is the most that a point of the box goes from one place to another: how far it goes is convex in where it is.
func wayOf(p, q *[8]geom.Vec3) (most float64) {
	for k := range p {
		d := p[k].Sub(q[k])
		most = max(most, d.Dot(d))
	}
	return math.Sqrt(most)
}

// alike reports whether no corner is further from its own at another place than a distance.
func alike(p, q *[8]geom.Vec3, distance float64) bool {
	for k := range p {
		if d := p[k].Sub(q[k]); d.Dot(d) >= distance*distance {
			return false
		}
	}
	return true
}

// far is how much more than the way between its ends something goes within a step, in which it goes along an arc.
const far = 1.2

// shallow is how deep anything of the second solid can be in the first, or of the first in the second, where its box has some corners:
// whoever goes out of a solid along an axis, either way, is out of it at the end of its box.
func (w *walk) shallow(at *[8]geom.Vec3) (out [6]float64) {
	a := &w.a.nodes[0].box
	for k := range 3 {
		low, high := at[0][k], at[0][k]
		for _, p := range at[1:] {
			low, high = min(low, p[k]), max(high, p[k])
		}
		out[k], out[k+3] = a.Max[k]-low, high-a.Min[k]
	}
	return out
}

// clear reports whether boxes alone say that from a step to the next nothing is deeper than what is known. Where it goes straight, no
// box is deeper along an axis than at one end.
func (w *walk) clear(i int) bool {
	k := min(i+1, len(w.way)-1)
	x, y, aside := w.shallow(&w.at[i]), w.shallow(&w.at[k]), 0.0
	p, q := &w.way[i], &w.way[k]
	for c := range 3 {
		if p.Column(c).Sub(q.Column(c)).Len() > 1e-12 && !w.cut(i) {
			aside = far * wayOf(&w.at[i], &w.at[k]) / 2
		}
	}
	for side := range x {
		if max(x[side], y[side])+aside <= w.best.Depth.Depth {
			return true
		}
	}
	return false
}

// meets looks at one place, and reports whether within a way from there anything can be deeper than what is known.
func (w *walk) meets(m geom.Mat4, step, way float64) bool {
	if w.left--; w.left < 0 {
		return false
	}
	best := w.best.Depth.Depth
	at := corners(w.b.Bounds(), m)
	if out := w.shallow(&at); slices.Min(out[:])+way <= best {
		return false
	}
	reach := way - best // how far apart they may be for that
	if w.inside {
		reach = way
	}
	if reach > 0 && !Nearer(w.a.Solid, w.b.Solid, m, reach) {
		return false
	}
	limit := best
	if way <= best/2 { // else it is too wide to be ruled out by depth
		limit = best - way
	}
	d, deep := Overlap(w.a.Solid, w.b.Solid, m, limit)
	if deep && d.Depth > best {
		if !w.found { // how deep at the most is worth some more looks
			w.left = min(w.left, looks/4)
		}
		w.best, w.found = Meeting{d, step}, true
	}
	return deep || w.inside || way > best/2
}

// turned is a place of the second solid as its turns and those of the first let it stand, with the least turn.
func (w *walk) turned(m geom.Mat4) geom.Mat4 {
	if t := w.a.Turns; t.Often > 1 { // about the first one's axis: by where the middle of the second is
		p := m.Point(w.b.Bounds().Centre()).Sub(t.Through)
		m = about(t, math.Atan2(p[(t.Axis+2)%3], p[(t.Axis+1)%3])).Mul(m)
	}
	if t := w.b.Turns; t.Often > 1 { // about its own: by where its side points
		side, up := geom.Vec3{}, geom.Vec3{}
		side[(t.Axis+1)%3], up[(t.Axis+2)%3] = 1, 1
		x, y := m.Vector(side), m.Vector(up)
		k := 0 // the axis of the first one's frame that is most across
		for i := range 3 {
			if math.Hypot(x[i], y[i]) > math.Hypot(x[k], y[k])+1e-6 {
				k = i
			}
		}
		m = m.Mul(about(t, math.Atan2(y[k], x[k])))
	}
	return m
}

// about turns back by an angle, in whole turns of a share.
func about(t Turns, angle float64) geom.Mat4 {
	share := 2 * math.Pi / float64(t.Often)
	axis := geom.Vec3{}
	axis[t.Axis] = 1
	turn := geom.TRS(geom.Vec3{}, geom.AxisAngle(axis, -share*math.Floor(angle/share+1e-9)), geom.Vec3{1, 1, 1})
	return geom.Translation(t.Through).Mul(turn).Mul(geom.Translation(t.Through.Mul(-1)))
}

// wheel is from how many turns on something counts as a wheel, whose teeth meet again and again at a little other places.
const wheel = 12

// classes finds the steps at which it stands as it does at others.
func (w *walk) classes() {
	near := w.fine / 2
	if max(w.a.Turns.Often, w.b.Turns.Often) >= wheel {
		near = 4 * w.fine
	}
	for _, m := range w.way {
		c := corners(w.b.Bounds(), w.turned(m))
		place := 0
		for place < len(w.stood) && !alike(&w.stood[place], &c, near) {
			place++
		}
		if place == len(w.stood) {
			w.stood = append(w.stood, c)
		}
		w.stands = append(w.stands, place)
	}
	w.told = make([]int, len(w.stood))
}

// span looks at the middle of a span of steps, and returns its halves if they are in doubt.
func (w *walk) span(s [2]int) [][2]int {
	if s[1] <= s[0]+1 {
		w.step(s[0])
		return nil
	}
	middle := (s[0] + s[1]) / 2
	way := 0.0
	for j := s[0]; j <= s[1]; j++ {
		way = math.Max(way, wayOf(&w.at[j], &w.at[middle]))
	}
	if w.meets(w.way[middle], float64(middle), far*way) {
		return [][2]int{{s[0], middle}, {middle, s[1]}}
	}
	return nil
}

// step looks at one step: at its ends, with the way to its middle, unless it stood so before.
func (w *walk) step(i int) {
	if w.clear(i) {
		return
	}
	k := min(i+1, len(w.way)-1)
	half := wayOf(&w.at[i], &w.at[k]) / 2
	if w.cut(i) {
		half = 0
	}
	open := false
	for _, end := range [2]int{i, k} {
		told := &w.told[w.stands[end]]
		if *told == 0 {
			if *told = 2; w.meets(w.way[end], float64(end), far*half) {
				*told = 1
			}
		}
		open = open || *told == 1
	}
	if ends := [2]int{w.stands[i], w.stands[k]}; open && half > w.fine && !w.gone[ends] {
		w.gone[ends] = true
		w.doubts = append(w.doubts, doubt{i, 0, 1, half})
	}
}

// cut reports whether the step from i to the next is a leap.
func (w *walk) cut(i int) bool {
	if i+1 >= len(w.at) {
		return true
	}
	over := wayOf(&w.at[i], &w.at[i+1])
	before, after := 0.0, 0.0
	if i > 0 {
		before = wayOf(&w.at[i-1], &w.at[i])
	}
	if i+2 < len(w.at) {
		after = wayOf(&w.at[i+1], &w.at[i+2])
	}
	return over > w.fine && over > 8*math.Max(before, after)
}

// within looks at a part of a step.
func (w *walk) within(d doubt) {
	i, middle := d.step, (d.from+d.to)/2
	m := between(w.way[i], w.way[i+1], middle)
	c, a, b := corners(w.b.Bounds(), m), corners(w.b.Bounds(), between(w.way[i], w.way[i+1], d.from)), corners(w.b.Bounds(), between(w.way[i], w.way[i+1], d.to))
	way := math.Max(wayOf(&c, &a), wayOf(&c, &b))
	if w.meets(m, float64(i)+middle, far*way) && way > w.fine {
		w.doubts = append(w.doubts, doubt{i, d.from, middle, way / 2}, doubt{i, middle, d.to, way / 2})
	}
}

// between is a rigid motion between two: part of the one screw that leads from one to the other (Chasles 1830), as what turns
// evenly about a fixed axis goes.
func between(a, b geom.Mat4, share float64) geom.Mat4 {
	_, q, _, _ := a.Decompose()
	_, r, _, _ := b.Decompose()
	turn := r.Mul(q.Inverse()).Unit()
	if turn[3] < 0 {
		turn = geom.Quat{-turn[0], -turn[1], -turn[2], -turn[3]}
	}
	one := geom.Vec3{1, 1, 1}
	way := b.Column(3).Sub(turn.Rotate(a.Column(3)))
	v := geom.Vec3{turn[0], turn[1], turn[2]}
	if v.Len() < 1e-9 {
		return geom.TRS(a.Column(3).Add(b.Column(3).Sub(a.Column(3)).Mul(share)), q, one)
	}
	axis, angle := v.Unit(), 2*math.Atan2(v.Len(), turn[3])
	slide := axis.Mul(axis.Dot(way))
	across := way.Sub(slide)
	centre := across.Add(axis.Cross(across).Mul(1 / math.Tan(angle/2))).Mul(0.5)
	part := geom.AxisAngle(axis, angle*share)
	return geom.TRS(centre.Add(part.Rotate(a.Column(3).Sub(centre))).Add(slide.Mul(share)), part.Mul(q).Unit(), one)
}
