package loop

import (
	"cmp"
	"fmt"
	"math"
	"reflect"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

// Proved is the largest jump, in pixels, that counts as none.
const Proved = 0.01

// Gap is how far something jumps between where frame N would be and frame 0.
type Gap struct {
	Part   string  `json:"part"`
	Pixels float64 `json:"pixels"` // of its surface, through the render camera at the size of the format
	Change float64 `json:"change"` // of its colours, glow, opacity or strength, or of the place of a light, as a share
	Open   bool    `json:"open"`   // it jumps
	Words  string  `json:"words"`  // how far, or how much it changes

	From, To Place `json:"-"` // of the point of it that jumps furthest
}

// Place is where a point stands in the room and in the picture, there from -1 at the left and the bottom to 1.
type Place struct {
	Room    geom.Vec3
	Picture geom.Vec2
}

// Jumps reports whether the gap is more than what counts as none.
func (g Gap) Jumps() bool { return g.Pixels > Proved || g.Change > maxShare }

// Seam is what the picture does where the shot begins anew.
type Seam struct {
	Closes bool  `json:"closes"`
	Gaps   []Gap `json:"gaps"` // of all that moves or changes, in the order of the document
}

// Sight compares moments of a shot by what its render camera sees. It remembers the surfaces that it has looked at, and is for one
// goroutine at a time.
type Sight struct {
	Pose     *pose.Evaluator
	Geometry pose.Surfaces
	Symmetry scene.Symmetry // tells of what looks the same turned; nil for nothing
	surfaces map[int]*surface
	decides  bool // it is asked whether something jumps, and not how far
}

// Of returns a sight of another document, with what is known of the surfaces that are the same.
func (w *Sight) Of(e *pose.Evaluator) *Sight {
	out := &Sight{Pose: e, Geometry: w.Geometry, Symmetry: w.Symmetry, surfaces: map[int]*surface{}}
	for i, s := range w.surfaces {
		if was := &w.Pose.Shot.Parts[i]; i < len(e.Shot.Parts) && e.Shot.Parts[i].ID == was.ID && reflect.DeepEqual(e.Shot.Parts[i].Shape, was.Shape) {
			out.surfaces[i] = s
		}
	}
	return out
}

// Prove compares what the render camera sees where frame N would be with what it sees on frame 0: the scenes of both, with
// everything that a picture depends on. A shot that ends has no seam, and one without a camera is seen by nobody: both close.
func (w *Sight) Prove() (Seam, error) {
	if w.Pose.Shot.Ending != shot.Loop {
		return Seam{Closes: true, Gaps: []Gap{}}, nil
	}
	return w.Between(motion.BeforeSeam(w.Pose.Shot), motion.At(w.Pose.Shot, 0))
}

// Between compares what the render camera sees at two times. Bodies count where they lie in the picture at either, by all
// points of their surfaces; what stands where an equal one stood, or as its own symmetry lets it stand, has not moved, and
// neither has what goes along with the camera. Light counts by where it comes from, seen from the camera.
func (w *Sight) Between(before, after motion.Time) (Seam, error) {
	e := w.Pose
	out := Seam{Closes: true, Gaps: []Gap{}}
	s := e.Shot
	cam := e.Index.Part(s.Camera)
	if cam < 0 {
		return out, nil
	}
	if w.surfaces == nil {
		w.surfaces = map[int]*surface{}
	}
	p := pair{Sight: w, e: e, cam: cam, carrier: e.Carrier(), gaps: map[int]*Gap{}}
	for k, t := range [2]motion.Time{before, after} {
		sc, owners, err := scene.Moment(e, t, w.Geometry)
		if err != nil {
			return out, err
		}
		if sc.Camera == nil {
			return out, nil
		}
		eye, ok := sc.Camera.At.Inverse()
		if !ok {
			return out, fmt.Errorf("the camera has no place to look from")
		}
		p.side[k] = side{Scene: sc, owners: owners, eye: eye}
	}
	if err := p.bodies(); err != nil {
		return out, err
	}
	p.lights()
	p.rest()
	for i := range s.Parts {
		if g := p.gaps[i]; g != nil {
			g.Open, g.Words = g.Jumps(), fmt.Sprintf("%.2f px", g.Pixels)
			if g.Change > maxShare && g.Pixels <= Proved {
				g.Words = fmt.Sprintf("%.2g %%", g.Change*100)
			}
			out.Gaps = append(out.Gaps, *g)
			out.Closes = out.Closes && !g.Jumps()
		}
	}
	return out, nil
}

// side is a moment that is compared, and the matrix from the room to what its camera sees.
type side struct {
	*scene.Scene
	owners *scene.Owners
	eye    geom.Mat4
}

// pair is two moments that are compared.
type pair struct {
	*Sight
	e       *pose.Evaluator
	cam     int
	carrier []int
	side    [2]side
	gaps    map[int]*Gap
}

func (p *pair) gap(part int) *Gap {
	if p.gaps[part] == nil {
		p.gaps[part] = &Gap{Part: p.e.Shot.Parts[part].ID}
	}
	return p.gaps[part]
}

// changes notes that a part looks or lights otherwise.
func (p *pair) changes(part int, by float64) {
	if by > 0 {
		g := p.gap(part)
		g.Change = math.Max(g.Change, math.Min(by, 1e9))
	}
}

// way is how a point moves from one moment to the other, as the camera sees it at either, and how many pixels that is.
type way struct {
	pixels   float64
	from, to geom.Vec3
}

// jumps notes that a body moves in the picture: by what carries it, or by the camera where it stands still in the room.
func (p *pair) jumps(of scene.Owner, still bool, by way) {
	part := of.Carrier
	switch {
	case still && p.side[0].eye != p.side[1].eye:
		part = p.cam
	case of.Part == of.Carrier && p.carrier[of.Part] >= 0 && !p.e.Soft(of.Part):
		part = p.carrier[of.Part]
	case still && by.pixels == 0:
		return
	}
	if g := p.gap(part); by.pixels > g.Pixels {
		g.Pixels, g.From, g.To = by.pixels, p.side[0].place(by.from), p.side[1].place(by.to)
	}
}

// place is where a point stands that the camera sees.
func (s *side) place(q geom.Vec3) Place {
	at, _ := s.Camera.Sees(q)
	return Place{s.Camera.At.Point(q), at}
}

// lost is a body that does not stand where it stood.
type lost struct {
	at    int
	jump  way
	still bool
	from  geom.Vec3 // its middle before and after, as the camera sees it
	to    geom.Vec3
}

// bodies matches the bodies of both moments. One that stands as itself or as an equal one stood has not moved.
func (p *pair) bodies() error {
	a, b := p.side[0].Bodies, p.side[1].Bodies
	if !slices.Equal(p.side[0].owners.Bodies, p.side[1].owners.Bodies) {
		p.more()
		return nil
	}
	groups := map[string][]lost{}
	var order []string
	for i := range a {
		of := p.side[0].owners.Bodies[i]
		if unseen(&a[i]) && unseen(&b[i]) {
			continue
		}
		still := scene.Apart(a[i].At, b[i].At) < maxWay && !a[i].Soft()
		p.changes(of.Part, scene.Apart(a[i].Surfaces, b[i].Surfaces))
		jump, err := p.between(&a[i], &b[i], of)
		if err != nil {
			return err
		}
		if jump.pixels <= Proved || a[i].Soft() {
			p.jumps(of, still, jump)
			continue
		}
		sf, err := p.surface(of.Part)
		if err != nil {
			return err
		}
		key := fmt.Sprint(a[i].Mesh.Asset, a[i].Mesh.Index, len(a[i].Surfaces))
		if s := a[i].Mesh.Shape; s != nil {
			key = s.Key()
		}
		if groups[key] == nil {
			order = append(order, key)
		}
		groups[key] = append(groups[key], lost{i, jump, still, p.side[0].eye.Mul(a[i].At).Point(sf.middle), p.side[1].eye.Mul(b[i].At).Point(sf.middle)})
	}
	for _, key := range order {
		if err := p.match(groups[key]); err != nil {
			return err
		}
	}
	return nil
}

// more notes the parts that are seen more often at one moment than at the other.
func (p *pair) more() {
	count := map[scene.Owner]int{}
	for k, by := range [2]int{1, -1} {
		for _, of := range p.side[k].owners.Bodies {
			count[of] += by
		}
	}
	for of, n := range count {
		if n != 0 {
			p.changes(of.Carrier, 1)
		}
	}
}

// unseen reports whether a body cannot be seen, wherever it stands: it has faded away, or has no size.
func unseen(b *scene.Body) bool {
	faded := !slices.ContainsFunc(b.Surfaces, func(s scene.Surface) bool { return s.Opacity > 0 })
	return faded || b.At.Column(0).Len()+b.At.Column(1).Len()+b.At.Column(2).Len() < 1e-12
}

// match finds which of equal bodies stand in each other's places.
func (p *pair) match(list []lost) error {
	a, b := p.side[0].Bodies, p.side[1].Bodies
	free := slices.Clone(list) // places of the second moment, from left to right
	slices.SortFunc(free, func(x, y lost) int { return cmp.Compare(x.to[0], y.to[0]) })
	taken := make([]bool, len(free))
	for _, l := range list {
		of := p.side[0].owners.Bodies[l.at]
		near := 4*Proved*p.pixel(-l.from[2]) + 1e-12
		first, _ := slices.BinarySearchFunc(free, l.from[0]-near, func(x lost, v float64) int { return cmp.Compare(x.to[0], v) })
		found := false
		for k := first; k < len(free) && free[k].to[0] <= l.from[0]+near && !found; k++ {
			f := &free[k]
			if taken[k] || f.at == l.at || f.to.Sub(l.from).Len() > 2*near || !p.side[0].alikeCut(l.at, f.at) || scene.Apart(a[l.at].Surfaces, b[f.at].Surfaces) > maxShare {
				continue
			}
			jump, err := p.between(&a[l.at], &b[f.at], of)
			if err != nil {
				return err
			}
			if jump.pixels <= Proved {
				taken[k], found = true, true
			}
		}
		if seen, err := p.seen(0, &a[l.at], of); err != nil {
			return err
		} else if found || !seen {
			p.jumps(of, l.still, way{})
		} else { // it is gone from where it stood
			p.jumps(of, l.still, l.jump)
		}
	}
	for k, f := range free {
		of := p.side[1].owners.Bodies[f.at]
		if seen, err := p.seen(1, &b[f.at], of); err != nil {
			return err
		} else if seen && !taken[k] { // it stands where nothing stood
			p.jumps(of, f.still, f.jump)
		}
	}
	return nil
}

// pixel is how large a pixel is at a depth, metres.
func (p *pair) pixel(depth float64) float64 {
	c := p.side[0].Camera
	if !c.Flat {
		depth = math.Max(depth, 1e-9)
	} else {
		depth = 1
	}
	return 2 * c.Width * depth / float64(p.e.Shot.Format.Width)
}

// alikeCut reports whether two bodies are opened by the same cutters.
func (s *side) alikeCut(i, k int) bool {
	for c := range s.Cutters {
		if s.Cutters[c].Bodies[i] != s.Cutters[c].Bodies[k] {
			return false
		}
	}
	return true
}

// surface is what a part looks like in its own frame.
type surface struct {
	points    []geom.Vec3 // each once
	triangles [][3]geom.Vec3
	middle    geom.Vec3
	box       geom.Box
}

func (w *Sight) surface(part int) (*surface, error) {
	if got := w.surfaces[part]; got != nil {
		return got, nil
	}
	list, of, err := w.Geometry.Surface(&w.Pose.Shot.Parts[part])
	if err != nil {
		return nil, err
	}
	out := &surface{box: geom.EmptyBox()}
	once := make(map[geom.Vec3]bool, len(list))
	for _, q := range list {
		if !once[q] {
			once[q] = true
			out.points = append(out.points, q)
			out.middle = out.middle.Add(q)
			out.box = out.box.With(q)
		}
	}
	out.middle = out.middle.Mul(1 / math.Max(1, float64(len(out.points))))
	for k := 0; k+2 < len(of); k += 3 {
		out.triangles = append(out.triangles, [3]geom.Vec3{list[of[k]], list[of[k+1]], list[of[k+2]]})
	}
	w.surfaces[part] = out
	return out, nil
}

// between returns how the surface of a body moves furthest from one moment to the other, where it is seen: not at all where none of
// it is.
func (p *pair) between(a, b *scene.Body, of scene.Owner) (way, error) {
	u, v := p.side[0].eye.Mul(a.At), p.side[1].eye.Mul(b.At)
	if !a.Soft() && u == v && p.lensesAlike() {
		return way{}, nil
	}
	sf, err := p.surface(of.Part)
	if err != nil {
		return way{}, err
	}
	if a.Flesh != nil && b.Flesh != nil {
		most := way{}
		m, err := p.Geometry.Flesh(&p.e.Shot.Parts[of.Part])
		if err != nil {
			return most, err
		}
		for k := range m.Positions {
			p.further(&most, u.Point(a.Now(a.Flesh.Now.Point(m, k))), v.Point(b.Now(b.Flesh.Now.Point(m, k))))
		}
		return most, nil
	}
	if len(a.Bends) > 0 {
		most := way{}
		for _, q := range sf.points {
			p.further(&most, u.Point(a.Now(q)), v.Point(b.Now(q)))
		}
		return most, nil
	}
	if bound := p.bound(sf, u, v); bound < Proved/10 {
		return way{pixels: bound}, nil
	}
	enough := math.Inf(1)
	if p.decides {
		enough = Proved
	}
	if p.Symmetry == nil || slices.ContainsFunc(a.Surfaces, func(s scene.Surface) bool { return s.Textured() }) {
		return p.moved(sf, u, v, enough), nil
	}
	turns, axis, through, _ := p.Symmetry.Turns(a.Mesh)
	about := geom.Vec3{}
	about[axis] = 1
	turned := func(n int) geom.Mat4 {
		q := geom.AxisAngle(about, 2*math.Pi*float64(n)/float64(turns))
		return v.Mul(geom.Translation(through)).Mul(geom.TRS(geom.Vec3{}, q, geom.Vec3{1, 1, 1})).Mul(geom.Translation(through.Mul(-1)))
	}
	for n := 1; n < turns; n++ { // boxes first: they tell soon where it stands just as it stood
		if p.bound(sf, u, turned(n)) < Proved/10 {
			return way{}, nil
		}
	}
	most := p.moved(sf, u, v, enough)
	if most.pixels <= Proved {
		return most, nil
	}
	for n := 1; n < turns; n++ {
		if p.moved(sf, u, turned(n), Proved).pixels <= Proved {
			return way{}, nil
		}
	}
	return most, nil
}

// lensesAlike reports whether the lens sees as wide at both moments.
func (p *pair) lensesAlike() bool {
	a, b := p.side[0].Camera, p.side[1].Camera
	return a.Width == b.Width && a.Height == b.Height && a.X == b.X && a.Y == b.Y
}

// bound is more than any point of a surface moves in the picture, in pixels: no point of a box moves further in the room than one
// of its corners, since how far they move is convex in where they are.
func (p *pair) bound(sf *surface, u, v geom.Mat4) float64 {
	if sf.box.Empty() {
		return 0
	}
	if !p.lensesAlike() {
		return math.Inf(1)
	}
	far, near := 0.0, math.Inf(1)
	for k := range 8 {
		q := sf.box.Min
		for axis := range q {
			if k>>axis&1 == 1 {
				q[axis] = sf.box.Max[axis]
			}
		}
		a, b := u.Point(q), v.Point(q)
		far, near = math.Max(far, a.Sub(b).Len()), math.Min(near, math.Min(-a[2], -b[2]))
	}
	c := p.side[0].Camera
	if c.Flat {
		return far / p.pixel(1)
	}
	if near <= 0 {
		return math.Inf(1)
	}
	aside := 1 + math.Hypot(c.Width+math.Abs(c.X), c.Height+math.Abs(c.Y)) // a step away from the camera moves what is aside
	return far * aside / p.pixel(near)
}

// further takes the way of a point where that is longer in the picture; one that is in it at neither moment has none.
func (p *pair) further(most *way, before, after geom.Vec3) {
	f := p.e.Shot.Format
	x, inA := p.side[0].Camera.Sees(before)
	y, inB := p.side[1].Camera.Sees(after)
	if !inA && !inB {
		return
	}
	d := x.Sub(y)
	if px := math.Hypot(d[0]*float64(f.Width)/2, d[1]*float64(f.Height)/2); px > most.pixels {
		*most = way{px, before, after}
	}
}

// moved returns the most that a surface moves in the picture, of what is in it before or after: its points, and where triangles
// reach out of it, the corners of what is inside. Once it is more than enough it is not looked at any further.
func (p *pair) moved(sf *surface, u, v geom.Mat4, enough float64) (most way) {
	for _, q := range sf.points {
		if p.further(&most, u.Point(q), v.Point(q)); most.pixels > enough {
			return most
		}
	}
	for k, m := range [2]geom.Mat4{u, v} {
		c := p.side[k].Camera
		for _, t := range sf.triangles {
			at := [3]geom.Vec3{m.Point(t[0]), m.Point(t[1]), m.Point(t[2])}
			_, a := c.Sees(at[0])
			_, b := c.Sees(at[1])
			_, d := c.Sees(at[2])
			if a && b && d {
				continue
			}
			for _, share := range c.Clip(at) {
				q := t[0].Mul(share[0]).Add(t[1].Mul(share[1])).Add(t[2].Mul(share[2]))
				if p.further(&most, u.Point(q), v.Point(q)); most.pixels > enough {
					return most
				}
			}
		}
	}
	return most
}

// seen reports whether some of a body is in the picture.
func (p *pair) seen(k int, b *scene.Body, of scene.Owner) (bool, error) {
	sf, err := p.surface(of.Part)
	if err != nil {
		return false, err
	}
	m, c := p.side[k].eye.Mul(b.At), p.side[k].Camera
	if slices.ContainsFunc(sf.points, func(q geom.Vec3) bool { _, in := c.Sees(m.Point(q)); return in }) {
		return true, nil
	}
	return slices.ContainsFunc(sf.triangles, func(t [3]geom.Vec3) bool {
		return c.Clip([3]geom.Vec3{m.Point(t[0]), m.Point(t[1]), m.Point(t[2])}) != nil
	}), nil
}

// lights compares what gives light, seen from the camera: how bright it is, and from where it comes, against how far it is.
func (p *pair) lights() {
	a, b := p.side[0].Lights, p.side[1].Lights
	turned := p.side[0].eye != p.side[1].eye
	for k := 0; k < len(a) && k < len(b); k++ {
		of := p.side[0].owners.Lights[k]
		x, y := a[k], b[k]
		m, n := p.side[0].eye.Mul(x.At), p.side[1].eye.Mul(y.At)
		still := scene.Apart(x.At, y.At) < maxWay
		x.At, y.At = geom.Mat4{}, geom.Mat4{}
		p.changes(of, scene.Apart(x, y))
		by := 0.0
		far := math.Max(1e-9, math.Max(m.Column(3).Len(), n.Column(3).Len()))
		if x.Kind != scene.Sun {
			by = m.Column(3).Sub(n.Column(3)).Len() / far
		}
		if x.Kind != scene.Bulb { // which shines to all sides
			for c := range 3 {
				if (x.Kind == scene.Sun || x.Kind == scene.Spot || x.Kind == scene.Round) && c < 2 {
					continue // round about the way that it shines
				}
				by = math.Max(by, m.Column(c).Sub(n.Column(c)).Len())
			}
		}
		switch {
		case by == 0:
		case still && turned:
			p.changes(p.cam, by)
		default:
			p.changes(of, by)
		}
	}
	s, t := p.side[0].Sky, p.side[1].Sky
	up := geom.Vec3{0, 1, 0}
	from, to := s.Rotation, t.Rotation
	s.Rotation, t.Rotation = geom.Quat{}, geom.Quat{}
	by := scene.Apart(s, t)
	if s.Picture != "" || s.Zenith != s.Horizon || s.Horizon != s.Ground {
		axes := []geom.Vec3{{1, 0, 0}, up, {0, 0, 1}}
		if s.Picture == "" {
			axes = axes[1:2]
		}
		for _, d := range axes {
			by = math.Max(by, p.side[0].eye.Vector(from.Rotate(d)).Sub(p.side[1].eye.Vector(to.Rotate(d))).Len())
		}
	}
	part := p.cam
	if i := p.e.Index.Part(p.e.Shot.Environment.Bound); i >= 0 && from != to {
		part = i
	}
	p.changes(part, by)
}

// rest compares the lens, where it is focused, the floor and the cutters.
func (p *pair) rest() {
	a, b := *p.side[0].Camera, *p.side[1].Camera
	sharp := func(k int, c *scene.Camera) float64 { // along the view axis
		if c.FocusOn == nil {
			return c.Focus
		}
		return c.Focus - p.side[k].eye.Point(*c.FocusOn)[2]
	}
	by := 0.0
	if f, g := sharp(0, &a), sharp(1, &b); a.Aperture > 0 && f != g {
		by = math.Abs(f-g) / math.Max(1e-9, math.Abs(f))
	}
	a.At, b.At, a.FocusOn, b.FocusOn, a.Focus, b.Focus = geom.Mat4{}, geom.Mat4{}, nil, nil, 0, 0
	p.changes(p.cam, math.Max(by, scene.Apart(a, b)))
	if x, y := p.side[0].Floor, p.side[1].Floor; x != nil && y != nil { // the plane, as the cameras see it
		up := geom.Vec3{0, 1, 0}
		on := func(k int, h float64) (geom.Vec3, float64) {
			n := p.side[k].eye.Vector(up)
			return n, n.Dot(p.side[k].eye.Point(geom.Vec3{0, h, 0}))
		}
		n, d := on(0, *x)
		m, c := on(1, *y)
		p.changes(p.cam, math.Max(n.Sub(m).Len(), math.Abs(d-c)/math.Max(1, math.Abs(d))))
	}
	p.cutters()
}

// cutters compares what opens bodies, seen from the camera: where it stands against how far that is, and how it lies, as far as
// that can be told from its shape.
func (p *pair) cutters() {
	a, b := p.side[0], p.side[1]
	if !slices.Equal(a.owners.Cutters, b.owners.Cutters) { // one without size at one moment
		for k, s := range [2]side{a, b} {
			for _, of := range s.owners.Cutters {
				if !slices.Contains(p.side[1-k].owners.Cutters, of) {
					p.changes(of, 1)
				}
			}
		}
		return
	}
	for k := range a.Cutters {
		x, y := &a.Cutters[k], &b.Cutters[k]
		pairs := [][2]geom.Mat4{{x.At, y.At}}
		for n := range min(len(x.Of), len(y.Of)) {
			pairs = append(pairs, [2]geom.Mat4{x.Of[n].At, y.Of[n].At})
		}
		for _, m := range pairs {
			part := a.owners.Cutters[k]
			if m[0] == m[1] && a.eye != b.eye {
				part = p.cam
			}
			p.changes(part, otherwise(x.Shape, a.eye.Mul(m[0]), b.eye.Mul(m[1])))
		}
	}
}

// otherwise is how much a cutter of a shape lies otherwise, as a share.
func otherwise(shape string, u, v geom.Mat4) (most float64) {
	away := u.Column(3).Sub(v.Column(3))
	if shape == "slab" { // along itself it goes on for ever
		away = u.Column(1).Unit().Mul(away.Dot(u.Column(1).Unit()))
	}
	most = away.Len() / math.Max(1e-9, u.Column(3).Len())
	for c := range 3 {
		i, j := u.Column(c), v.Column(c)
		long := math.Max(1e-12, i.Len())
		most = math.Max(most, math.Abs(i.Len()-j.Len())/long)
		round := shape == "sphere" || c != 1 && (shape == "slab" || shape == "cylinder") // it looks the same turned
		if !round {
			most = math.Max(most, i.Sub(j).Len()/long)
		}
	}
	return most
}
