package check

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"runtime"
	"slices"
	"sync"
	"sync/atomic"

	"github.com/sourcegraph/conc"

	"perigyre/core/assembly"
	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

// shallow is how much deeper than at rest parts may lie in each other, as a share of the size of the smaller one: meshes of round
// things have corners.
const shallow = 2e-3

// Bounds on the work: so many things that are seen are looked at, in so many pairs that come near each other, and so many findings
// are told.
const (
	maxPieces = 6000
	maxPairs  = 30_000
	maxFaces  = 2_000_000 // triangles of one of them
	maxMet    = 8
	maxMended = 2 // of them, the deepest: a mend is tried on the whole shot
)

// often is how many times a frame the course of what moves is looked up; between those times it goes evenly.
const often = 1

// Clearance: parts that move against each other pass through each other, deeper than they lie in each other at rest, at any time
// and not on frames alone.
func init() {
	register(32, func(f *Facts) (out []Finding) {
		met, whole := f.met(f.Pose)
		var known [][2]int
		for k := range met {
			known = append(known, met[k].key())
		}
		for k, m := range met[:min(maxMet, len(met))] {
			if f.ctx.Err() != nil {
				return out
			}
			out = append(out, f.passes(m, known, k < maxMended))
		}
		if !whole {
			out = append(out, Finding{Kind: "clearance", Weight: Look, Title: "Not everything was tried against everything", Unit: "pairs", Value: maxPairs,
				Why: fmt.Sprintf("More than %d things, or %d pairs of them, come near each other, or one has more than %d triangles: the rest was not looked at for passing through each other.", maxPieces, maxPairs, maxFaces)})
		}
		return out
	})
}

// details are what is found out of a meeting once it is told. It is remembered for other versions of a shot.
type details struct {
	mu     sync.Mutex
	known  bool
	m      met
	frames [2]float64
	tried  bool
	mends  []Mend
}

// met is a pair of things that pass through each other, the worst of those that move alike.
type met struct {
	a, b    piece
	depth   float64           // metres
	at, to  geom.Vec3         // of the room: the deepest point, and the nearest one of the other's surface
	time    float64           // frames, when it is deepest
	grows   bool              // one of them changes its size
	more    int               // further pairs that move alike
	span    func() [2]float64 // from when to when
	details *details
	closer  func(m *met) // looks more closely at how deep, and when
}

// passes is the finding of a meeting, among those that are known.
func (f *Facts) passes(m met, known [][2]int, mends bool) Finding {
	s := f.Pose.Shot
	a, b := s.Parts[m.a.carrier].ID, s.Parts[m.b.carrier].ID
	d := m.details
	d.mu.Lock()
	defer d.mu.Unlock()
	if !d.known {
		if d.m = m; m.closer != nil {
			m.closer(&d.m)
		}
		d.known, d.frames = true, m.span()
	}
	m, frames := d.m, d.frames
	one := Finding{Kind: "clearance", Weight: Blocks, Parts: []string{a, b}, Frames: &frames, Value: m.depth * 1000, Unit: "mm",
		Title: fmt.Sprintf("%s passes through %s", f.name(a), f.name(b)),
		Worst: &m.time, Lines: []Line{f.line(m.time, m.at, m.to)},
		Why: fmt.Sprintf("On frame %.1f one is %.3g mm deeper in the other than at rest.", m.time, m.depth*1000)}
	if a == b {
		one.Parts, one.Title = one.Parts[:1], fmt.Sprintf("Copies of %s pass through each other", f.name(a))
	}
	if m.more > 0 {
		one.Why += fmt.Sprintf(" So do %d more pairs of what moves with them.", m.more)
	}
	if seen, why := f.shows(&m); !seen {
		one.Weight, one.Why = Look, one.Why+" "+why
	} else if f.worn(m.a.part, m.b.part) {
		one.Weight, one.Why = Look, one.Why+" Both hang on bones of one figure, as what it wears does."
	} else if m.grows {
		one.Weight, one.Why = Look, one.Why+" It comes there by its size, and not on its way."
	}
	if mends && !d.tried {
		if tried := f.apart(m, known); f.ctx.Err() == nil {
			d.tried, d.mends = true, tried
		}
	}
	for _, mend := range d.mends {
		if now := f.try(mend.Edits); now != nil && (now.Seam.Closes || !f.Seam.Closes) {
			one.Mends = append(one.Mends, mend)
		}
	}
	return one
}

// worn reports whether two parts hang on bones of one figure: what a figure is made of and what it wears lie in each other as it bends.
func (f *Facts) worn(a, b int) bool {
	s := f.Pose.Shot
	return s.Parts[a].Skin != nil && s.Parts[b].Skin != nil && f.figure(a) == f.figure(b)
}

// figure is the innermost group with clips that a part is in, or the outermost group.
func (f *Facts) figure(i int) int {
	for up := f.Pose.Index.Parent(i); up >= 0; up = f.Pose.Index.Parent(i) {
		if i = up; len(f.Pose.Shot.Parts[i].Clips) > 0 {
			break
		}
	}
	return i
}

// meetings finds what passes through what in a document, the deepest first, of pairs of which one is among some parts; nil for all.
// whole is false where not everything was looked at.
func (f *Facts) meetings(e *pose.Evaluator, among func(part int) bool) (out []met, whole bool) {
	p, err := f.piecesOf(e, often)
	if err != nil {
		return nil, true
	}
	if whole = len(p.list) <= maxPieces; !whole {
		p.list = p.list[:maxPieces]
	}
	pairs, all, err := p.near()
	if err != nil {
		return nil, true
	}
	whole = whole && all
	if among != nil {
		pairs = slices.DeleteFunc(pairs, func(q [2]int) bool { return among(p.list[q[0]].carrier) == among(p.list[q[1]].carrier) })
	}
	alike := map[[2]int]int{} // by what carries both: its place in out
	list := p.meet(pairs)
	whole = whole && !p.left
	for _, m := range list {
		key := m.key()
		if at, ok := alike[key]; ok {
			w := &out[at]
			if m.more = w.more + 1; m.depth < w.depth {
				w.more = m.more
			} else {
				*w = m
			}
			continue
		}
		alike[key] = len(out)
		out = append(out, m)
	}
	slices.SortStableFunc(out, func(a, b met) int { return cmp.Compare(b.depth, a.depth) })
	for k := range out {
		out[k].details = &details{}
	}
	return out, whole
}

// group is what all that moves alike with a piece has in common.
func (q piece) group() int {
	if q.copy >= 0 || q.rides < 0 {
		return q.carrier
	}
	return q.rides
}

// near returns the pairs of pieces, by number, whose boxes meet somewhere on their way, and that do not move as one: swept and
// pruned along x, a span of times after another.
func (p *pieces) near() (pairs [][2]int, all bool, err error) {
	n, s := len(p.list), p.e.Shot
	sets := p.e.Index.Sets()
	boxes := make([]geom.Box, n)
	use := make([]bool, n)
	for i, q := range p.list {
		if boxes[i], err = p.box(i); err != nil {
			return nil, false, err
		}
		use[i] = !boxes[i].Empty() && (!sets[q.carrier] || s.Parts[q.carrier].Kind == shot.Plinth)
	}
	known := map[[2]int]bool{}
	const span = 8
	now := make([]geom.Box, n)
	last := make([]geom.Box, n) // at the end of the span before: something may go from there
	for i := range last {
		last[i] = geom.EmptyBox()
	}
	order := make([]int, 0, n)
	for from := 0; from < len(p.times); from += span {
		copy(now, last)
		for k := from; k < min(from+span, len(p.times)); k++ {
			at, err := p.at(p.time(k), nil)
			if err != nil {
				return nil, false, err
			}
			for i := range now {
				if use[i] && (p.list[i].rides != -1 || from == 0 && k == 0) {
					was := last[i]
					last[i] = boxes[i].Transformed(at[i])
					now[i] = now[i].Union(last[i])
					if !was.Empty() { // between two times it may go along an arc, as far aside as an eighth of its way
						now[i] = now[i].Union(last[i].Grown(was.Centre().Sub(last[i].Centre()).Len() / 8))
					}
				}
			}
		}
		order = order[:0]
		for i := range now {
			if use[i] && !now[i].Empty() {
				order = append(order, i)
			}
		}
		slices.SortFunc(order, func(a, b int) int { return cmp.Compare(now[a].Min[0], now[b].Min[0]) })
		for x, i := range order {
			for _, k := range order[x+1:] {
				if now[k].Min[0] > now[i].Max[0] {
					break
				}
				a, b := p.list[i], p.list[k]
				if a.rides == b.rides && a.rides != -2 && !a.bends && !b.bends || now[i].Intersection(now[k]).Empty() {
					continue
				}
				key := [2]int{min(i, k), max(i, k)}
				if known[key] {
					continue
				}
				if len(pairs) == maxPairs {
					return pairs, false, nil
				}
				known[key], pairs = true, append(pairs, key)
			}
		}
	}
	slices.SortFunc(pairs, func(a, b [2]int) int { return cmp.Or(cmp.Compare(a[0], b[0]), cmp.Compare(a[1], b[1])) })
	return pairs, true, nil
}

// meet looks at pairs along their whole way.
func (p *pieces) meet(pairs [][2]int) (out []met) {
	place := map[int]int{} // of pieces that are in some pair
	var of []int
	for _, pair := range pairs {
		for _, i := range pair {
			if _, ok := place[i]; !ok {
				place[i], of = len(of), append(of, i)
			}
		}
	}
	if len(of) == 0 {
		return nil
	}
	ways := make([]course, len(of))
	for k := range p.times {
		at, err := p.at(p.time(k), of)
		if err != nil {
			return nil
		}
		for i := range of {
			ways[i].add(at[i])
		}
	}
	// Surfaces first, since they are shared; then the pairs, as many at a time as there are processors.
	found := make([]*met, len(pairs))
	pending := make([]func() (met, bool), len(pairs))
	for k, pair := range pairs {
		pending[k] = p.along(pair, &ways[place[pair[0]]], &ways[place[pair[1]]])
	}
	var next atomic.Int64
	var all conc.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		all.Go(func() {
			for k := int(next.Add(1)) - 1; k < len(pairs) && p.f.ctx.Err() == nil; k = int(next.Add(1)) - 1 {
				if k&7 == 0 {
					p.f.said(float64(k) / float64(len(pairs)))
				}
				if pending[k] == nil {
					continue
				}
				if m, ok := pending[k](); ok {
					found[k] = &m
				}
			}
		})
	}
	all.Wait()
	for _, m := range found {
		if m != nil {
			out = append(out, *m)
		}
	}
	return out
}

// course is where a piece is at each time.
type course struct {
	at    []geom.Mat4
	rigid []geom.Mat4 // without its size
	size  geom.Vec3
	soft  bool // it is sheared, changes its size, or has none
}

func (c *course) add(m geom.Mat4) {
	x, size, ok := rigid(m)
	if len(c.at) == 0 {
		c.size = size
	}
	c.at, c.rigid = append(c.at, m), append(c.rigid, x)
	c.soft = c.soft || !ok || !same(size, c.size)
}

// along returns what looks at one pair along its way; nil where nothing can be found.
func (p *pieces) along(pair [2]int, a, b *course) func() (met, bool) {
	i, k := pair[0], pair[1]
	if p.list[i].bends || p.list[k].bends || a.soft || b.soft {
		return p.softly(pair, a, b)
	}
	way := make(assembly.Course, len(a.at))
	sizeA, sizeB := a.size, b.size
	moves := false
	for t := range way {
		back, _ := a.rigid[t].Inverse()
		way[t] = back.Mul(b.rigid[t])
		moves = moves || scene.Apart(way[t], way[0]) > 1e-9
	}
	if !moves {
		return nil
	}
	sa, errA := p.solid(i, sizeA)
	sb, errB := p.solid(k, sizeB)
	if errA != nil || errB != nil || sa.Empty() || sb.Empty() {
		return nil
	}
	if sb.Size() > sa.Size() { // the way of the smaller one is the shorter
		i, k, a, b, sa, sb, sizeA, sizeB = k, i, b, a, sb, sa, sizeB, sizeA
		for t := range way {
			way[t], _ = way[t].Inverse()
		}
	}
	rest := way[0]
	if p.list[i].copy < 0 && p.list[k].copy < 0 {
		x, _, okA := rigid(p.e.AtRest(p.list[i].part))
		y, _, okB := rigid(p.e.AtRest(p.list[k].part))
		if back, ok := x.Inverse(); ok && okA && okB {
			rest = back.Mul(y)
		}
	}
	first, second := assembly.Body{Solid: sa, Turns: p.turns(i, sizeA)}, assembly.Body{Solid: sb, Turns: p.turns(k, sizeB)}
	corners := p.corners(i, sizeA) + p.corners(k, sizeB)
	return func() (met, bool) {
		fine := shallow * sb.Size()
		allowed := fine + corners
		if d, deep := assembly.Overlap(sa, sb, rest, 0); deep {
			allowed += d.Depth
		}
		m, found := assembly.Meet(first, second, way, allowed, fine)
		if !found {
			return met{}, false
		}
		x := a.rigid[int(m.Step)]
		one := met{a: p.list[k], b: p.list[i], depth: m.Depth.Depth - (allowed - fine - corners), at: x.Point(m.At), to: x.Point(m.To), time: p.frame(m.Step)}
		if p.list[k].rides == -1 { // the one that moves passes through the one that stands
			one.a, one.b = one.b, one.a
		}
		one.closer = func(one *met) {
			m = assembly.Deepest(sa, sb, way, m)
			x := a.rigid[int(m.Step)]
			one.depth, one.at, one.to, one.time = m.Depth.Depth-(allowed-fine-corners), x.Point(m.At), x.Point(m.To), p.frame(m.Step)
		}
		one.span = func() [2]float64 {
			return p.span(m.Step, func(t int) bool {
				_, deep := assembly.Overlap(sa, sb, way[t], allowed)
				return deep
			})
		}
		return one, true
	}
}

func same(a, b geom.Vec3) bool { return a.Sub(b).Len() < 1e-6*b.Len() }

// frame is a step of the times in frames.
func (p *pieces) frame(step float64) float64 {
	i := min(int(step), len(p.times)-2)
	return p.times[i] + (step-float64(i))*(p.times[i+1]-p.times[i])
}

// span returns from when to when something is so round a step at which it is.
func (p *pieces) span(step float64, deep func(t int) bool) [2]float64 {
	at := p.frame(step)
	out := [2]float64{at, at}
	for t := int(math.Floor(step)); t >= 0 && (deep(t) || float64(t) == step); t-- {
		out[0] = math.Min(out[0], p.times[t])
	}
	for t := int(math.Ceil(step)); t < len(p.times) && (deep(t) || float64(t) == step); t++ {
		out[1] = math.Max(out[1], p.times[t])
	}
	return out
}

// softly looks at a pair of which one bends or changes its size, at its times alone: what is there between them is not known to
// it. It is there at rest as it is when the shot begins.
func (p *pieces) softly(pair [2]int, a, b *course) func() (met, bool) {
	i, k := pair[0], pair[1]
	out := met{a: p.list[i], b: p.list[k], grows: !p.list[i].bends && !p.list[k].bends}
	if out.a.rides == -1 {
		out.a, out.b = out.b, out.a
	}
	boxA, errA := p.box(i)
	boxB, errB := p.box(k)
	first, errC := p.soft(i, a)
	second, errD := p.soft(k, b)
	if errors.Join(errA, errB, errC, errD) != nil {
		return nil
	}
	depth := func(t int, limit float64) (assembly.Depth, bool) {
		none := a.at[t].Det() == 0 || b.at[t].Det() == 0
		bent := p.list[i].bends || p.list[k].bends
		if none || !bent && boxA.Transformed(a.at[t]).Intersection(boxB.Transformed(b.at[t])).Empty() {
			return assembly.Depth{}, false
		}
		one, two := first(t), second(t)
		back, ok := one.in.Inverse()
		if !ok || one.box.Intersection(two.box).Empty() {
			return assembly.Depth{}, false
		}
		x, y := one.solid(), two.solid()
		d, deep := assembly.Overlap(x, y, back.Mul(two.in), math.Max(limit, shallow*math.Min(x.Size(), y.Size())))
		d.At, d.To = one.in.Point(d.At), one.in.Point(d.To)
		return d, deep
	}
	return func() (met, bool) {
		begin, found := 0.0, false
		if d, ok := depth(0, 0); ok {
			begin = d.Depth * (1 + 2*shallow)
		}
		limit, step := begin, 0
		for t := range p.times {
			if d, ok := depth(t, limit); ok {
				limit, found, step = d.Depth, true, t
				out.depth, out.at, out.to, out.time = d.Depth-begin, d.At, d.To, p.times[t]
			}
		}
		out.span = func() [2]float64 {
			return p.span(float64(step), func(t int) bool {
				_, deep := depth(t, begin)
				return deep
			})
		}
		return out, found
	}
}

// shows reports whether a meeting is seen by the render camera when it is deepest, and why not.
func (f *Facts) shows(m *met) (bool, string) {
	s, owners, err := scene.Moment(f.Pose, motion.At(f.Pose.Shot, m.time), f.Geometry)
	if err != nil || s.Camera == nil {
		return true, ""
	}
	is := func(b int, q piece) bool {
		return owners.Bodies[b] == scene.Owner{Part: q.part, Carrier: q.carrier}
	}
	faded := map[bool]int{}
	for b := range s.Bodies {
		for _, q := range []piece{m.a, m.b} {
			if is(b, q) && !slices.ContainsFunc(s.Bodies[b].Surfaces, func(x scene.Surface) bool { return x.Opacity > 0 }) {
				faded[true]++
			}
			if is(b, q) && slices.ContainsFunc(s.Cutters, func(c scene.Cutter) bool { return c.Bodies[b] }) {
				return false, "A cutter opens one of them, and it may be there that it passes."
			}
		}
	}
	if faded[true] > 0 {
		return false, "One of them has faded away then."
	}
	toEye, ok := s.Camera.At.Inverse()
	if !ok {
		return true, ""
	}
	if _, in := s.Camera.Sees(toEye.Point(m.at)); !in {
		return false, "It is outside of the picture then."
	}
	return true, ""
}
