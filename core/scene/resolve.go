package scene

import (
	"math"
	"slices"
	"strings"
	"unicode"

	"fmt"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Options say what a picture shows beyond the light.
type Options struct {
	Mattes   bool     // which part is which
	Motion   bool     // where things go
	Guides   bool     // lines to where parts sit, of which others show those that are drawn in the picture alone
	Labels   bool     // of parts that are taken apart, likewise
	Symmetry Symmetry // tells of what looks the same turned; nil for nothing
}

// keys of the shutter's time are evaluated, and bends of it are made.
const (
	keys  = 9
	bends = 8
)

// Resolve returns what a picture of the shot at time t, in frames, depends on, in the one form that all moments have that
// look the same: see Canonical. Surfaces give what copies are scattered on.
func Resolve(e *pose.Evaluator, t float64, g pose.Surfaces, o Options) (*Scene, error) {
	r := newResolver(e, motion.At(e.Shot, t))
	r.options = o
	r.open()
	out, err := r.resolve(g)
	if err != nil {
		return nil, err
	}
	out.Canonical(o.Symmetry)
	return out, nil
}

// Moment returns an instant of the shot as it stands, with nothing brought into another form: the last one before the seam
// too, where frame N would be. Owners tell what of the document its bodies, lights and cutters are.
func Moment(e *pose.Evaluator, t motion.Time, g pose.Surfaces) (*Scene, *Owners, error) {
	r := newResolver(e, t)
	out, err := r.resolve(g)
	return out, &r.owners, err
}

// Owners are the parts, by index, that the bodies, lights and cutters of a scene come from, in their order.
type Owners struct {
	Bodies  []Owner
	Lights  []int
	Cutters []int
}

// Owner is where a body comes from.
type Owner struct {
	Part    int // whose mesh it is
	Carrier int // itself, or the copies part that shows it again
}

func newResolver(e *pose.Evaluator, t motion.Time) *resolver {
	return &resolver{e: e, s: e.Shot.Dressed(), at: t, hidden: e.Index.Hidden(), world: e.World(t), looks: e.LooksAt(t)}
}

func (r *resolver) resolve(g pose.Surfaces) (*Scene, error) {
	o, e, t := r.options, r.e, r.at.T
	s := r.s
	out := &Scene{View: s.View, Sky: Sky{
		s.Environment.Zenith, s.Environment.Horizon, s.Environment.Ground, s.Environment.Strength, s.Environment.Picture, r.skyTurn(), s.Environment.Seen,
	}}
	if out.Sky.Picture == "" {
		up := geom.Vec3{0, 1, 0}
		out.Sky.Rotation = geom.Between(up, out.Sky.Rotation.Rotate(up)) // three colours look the same turned about it
	} else {
		out.Sky.Zenith, out.Sky.Horizon, out.Sky.Ground = [3]float64{}, [3]float64{}, [3]float64{}
	}
	if o.Mattes {
		r.nameMattes(out)
	}
	if o.Motion {
		r.ends[0], r.ends[1] = t-0.5, t+0.5
		if s.Ending == shot.Once {
			r.ends[0], r.ends[1] = math.Max(0, r.ends[0]), math.Min(float64(s.Frames-1), r.ends[1])
		}
		r.near = [2][]geom.Mat4{e.At(r.ends[0]), e.At(r.ends[1])}
		out.Interval = math.Max(1e-6, r.ends[1]-r.ends[0])
	}
	for i := range s.Parts {
		p := &s.Parts[i]
		if r.hidden[i] {
			continue
		}
		switch {
		case p.Kind == shot.Floor && p.Shaped() == nil:
			y := r.world[i][13]
			out.Floor, out.Fade = &y, p.Fades()
		case p.Mesh != nil || p.Shaped() != nil:
			out.Bodies = append(out.Bodies, r.body(i, i, geom.Identity))
			r.owners.Bodies = append(r.owners.Bodies, Owner{i, i})
		}
	}
	spreads, err := e.SpreadsAt(r.at, r.world, g)
	if err != nil {
		return nil, err
	}
	for _, c := range spreads {
		if r.hidden[c.Spread] {
			continue
		}
		for _, m := range c.Places {
			out.Bodies = append(out.Bodies, r.body(c.Part, c.Spread, m))
			r.owners.Bodies = append(r.owners.Bodies, Owner{c.Part, c.Spread})
		}
	}
	r.lights(out)
	r.cutters(out)
	r.camera(out)
	return out, r.guides(out, g)
}

// guides are the lines from where parts sit, and their labels.
func (r *resolver) guides(out *Scene, g pose.Surfaces) error {
	list, err := r.e.Guided(g)
	for k := range list {
		if !r.options.Guides && !list[k].Drawn {
			continue
		}
		if line := list[k].Line(r.e, r.at, r.world); len(line) > 1 {
			out.Guides = append(out.Guides, Guide{line, list[k].Drawn})
		}
	}
	if err != nil {
		return err
	}
	labels, err := framing.Labels(r.e, r.at, r.world, g)
	for _, l := range labels {
		if l.Strength > 0 && (r.options.Labels || l.Drawn) {
			out.Labels = append(out.Labels, l)
		}
	}
	return err
}

// skyTurn is how the surroundings are turned: with what they are bound to, about the upright, and raised.
func (r *resolver) skyTurn() geom.Quat {
	e := &r.s.Environment
	q := geom.AxisAngle(geom.Vec3{0, 1, 0}, e.Turn).Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, e.Raised))
	if i := r.e.Index.Part(e.Bound); e.Bound != "" && i >= 0 {
		if _, turn, _, _ := r.world[i].Decompose(); turn.Unit() != (geom.Quat{}) {
			q = turn.Unit().Mul(q)
		}
	}
	if q = q.Unit(); q[3] < 0 { // q and -q are one rotation
		q = geom.Quat{-q[0], -q[1], -q[2], -q[3]}
	}
	return q
}

// resolver is a scene under way.
type resolver struct {
	e       *pose.Evaluator
	s       *shot.Shot // as it is dressed
	at      motion.Time
	hidden  []bool
	world   []geom.Mat4
	looks   []motion.Look
	options Options
	owners  Owners

	shutter [][]geom.Mat4 // at times even over the time that the shutter is open
	bending []motion.Time // in the middle of equal parts of it
	fleshly [][]geom.Mat4 // where parts are then, once asked
	ends    [2]float64
	near    [2][]geom.Mat4
	mattes  map[int]int // of parts
}

// open evaluates the shot at times even over the shutter's: open about the frame for its angle's share of the time of a
// frame (a shutter of 180 degrees for half of it). A camera without one sees an instant.
func (r *resolver) open() {
	cam := r.e.Index.Part(r.s.Camera)
	if cam < 0 || !(r.s.Parts[cam].Camera.Shutter > 0) {
		return
	}
	long := r.s.Parts[cam].Camera.Shutter / 360
	at := func(share float64) float64 {
		t := r.at.T + long*(share-0.5)
		if r.s.Ending == shot.Once {
			t = math.Min(math.Max(t, 0), float64(r.s.Frames-1))
		}
		return t
	}
	for k := range keys {
		r.shutter = append(r.shutter, r.e.At(at(float64(k)/(keys-1))))
	}
	for k := range bends {
		r.bending = append(r.bending, motion.At(r.e.Shot, at((float64(k)+0.5)/bends)))
	}
}

// keysOf returns where a part is while the shutter is open, none where it stands still.
func (r *resolver) keysOf(i int) []geom.Mat4 {
	still := true
	for _, w := range r.shutter {
		still = still && w[i] == r.shutter[0][i]
	}
	if still {
		return nil
	}
	var out []geom.Mat4
	for _, w := range r.shutter {
		out = append(out, w[i])
	}
	return out
}

// body is a part at a place that another one, or itself, carries.
func (r *resolver) body(i, carrier int, in geom.Mat4) Body {
	p := &r.s.Parts[i]
	own := i == carrier
	at := func(world []geom.Mat4) geom.Mat4 {
		if own {
			return world[carrier]
		}
		return world[carrier].Mul(in)
	}
	b := Body{At: at(r.world), Matte: -1}
	if p.Mesh != nil {
		b.Mesh = Mesh{Asset: p.Mesh.Asset, Index: p.Mesh.Mesh}
	} else {
		b.Mesh = Mesh{Shape: p.Shaped()}
	}
	for _, k := range r.keysOf(carrier) {
		if !own {
			k = k.Mul(in)
		}
		b.Keys = append(b.Keys, k)
	}
	for _, id := range p.Materials {
		b.Surfaces = append(b.Surfaces, r.surface(id, i))
	}
	if len(b.Surfaces) == 0 {
		b.Surfaces = []Surface{r.surface("", i)}
	}
	b.Flesh = r.flesh(i)
	for k := range r.e.Bends(i) {
		b.Bends = append(b.Bends, r.bend(&r.e.Bends(i)[k]))
	}
	if r.options.Motion {
		b.Before, b.After = at(r.near[0]), at(r.near[1])
	}
	if n, ok := r.mattes[i]; ok {
		b.Matte = n
	}
	return b
}

// surface is a material of a part as its looks have it.
func (r *resolver) surface(id string, part int) Surface {
	m := material.Default()
	for i := range r.s.Materials {
		if r.s.Materials[i].ID == id && id != "" {
			m = r.s.Materials[i]
		}
	}
	out := Surface{m, 1}
	out.ID, out.Name = "", ""
	for _, slot := range out.TextureSlots() {
		if *slot != nil && (*slot).Missing != "" {
			t := **slot
			t.Missing = "missing" // by whichever name
			*slot = &t
		}
	}
	if r.looks == nil || r.looks[part] == motion.AsItIs {
		return out
	}
	l := r.looks[part]
	rgb := motion.Mixed([3]float64(out.BaseColor[:3]), l.Color, l.ColorMix)
	copy(out.BaseColor[:3], rgb[:])
	out.Emissive = motion.Mixed(out.Emissive, l.Glow, l.GlowMix)
	for k := range out.Emissive {
		out.Emissive[k] *= l.Strength
	}
	out.Opacity = l.Opacity
	return out
}

// flesh is how a part's mesh hangs on its bones now, over the shutter's time and over the interval.
func (r *resolver) flesh(i int) *Flesh {
	now := r.e.Flesh(i, r.at, r.world)
	if now == nil {
		return nil
	}
	out := &Flesh{Now: *now}
	if r.fleshly == nil && len(r.bending) > 0 {
		for _, t := range r.bending {
			r.fleshly = append(r.fleshly, r.e.World(t))
		}
	}
	still := true
	for k, t := range r.bending {
		f := r.e.Flesh(i, t, r.fleshly[k])
		out.Keys = append(out.Keys, *f)
		still = still && Apart(*f, out.Keys[0]) == 0
	}
	if still {
		out.Keys = nil
	}
	if r.options.Motion {
		out.Before = r.e.Flesh(i, motion.At(r.e.Shot, r.ends[0]), r.near[0])
		out.After = r.e.Flesh(i, motion.At(r.e.Shot, r.ends[1]), r.near[1])
	}
	return out
}

func (r *resolver) bend(f *pose.Bending) Bend {
	at := func(t motion.Time) Bent {
		b := f.At(t)
		return Bent{b.Angle, b.Cage}
	}
	d := Bend{Bend: f.At(r.at).Bend, In: f.In, Out: f.Out, Now: at(r.at)}
	still := true
	for _, t := range r.bending {
		d.Keys = append(d.Keys, at(t))
		still = still && Apart(d.Keys[0], d.Keys[len(d.Keys)-1]) == 0
	}
	if still {
		d.Keys = nil
	}
	if r.options.Motion {
		d.Before, d.After = at(motion.At(r.e.Shot, r.ends[0])), at(motion.At(r.e.Shot, r.ends[1]))
	}
	return d
}

func (r *resolver) lights(out *Scene) {
	moves := false
	for i := range r.s.Parts {
		p := &r.s.Parts[i]
		if p.Kind != shot.Light || r.hidden[i] {
			continue
		}
		l := Light{
			Kind: p.Light.Kind, Width: p.Light.Width, Height: p.Light.Height, Radius: p.Light.Radius, Inner: p.Light.Inner, Outer: p.Light.Outer,
			Angle: p.Light.Angle, Color: p.Light.Color, Strength: p.Light.Strength, At: r.world[i],
		}
		l.only()
		l.At = l.place(l.At)
		if r.looks != nil {
			l.Color = motion.Mixed(l.Color, r.looks[i].Color, r.looks[i].ColorMix)
			l.Strength *= r.looks[i].Strength
		}
		moves = moves || r.keysOf(i) != nil
		out.Lights = append(out.Lights, l)
		r.owners.Lights = append(r.owners.Lights, i)
	}
	if !moves {
		return
	}
	for k, i := range r.owners.Lights {
		for _, w := range r.shutter {
			out.Lights[k].Keys = append(out.Lights[k].Keys, out.Lights[k].place(w[i]))
		}
	}
}

// place takes away what of a matrix a light of the kind has no use for: all but its direction of a sun, the size along the
// way that a flat one looks.
func (l *Light) place(m geom.Mat4) geom.Mat4 {
	switch l.Kind {
	case Sun:
		m = directions(m, 0, 1, 2)
		m[12], m[13], m[14] = 0, 0, 0
	case Softbox, Round:
		m = directions(m, 2)
	}
	return m
}

// directions makes columns of a matrix 1 long, unless they are.
func directions(m geom.Mat4, columns ...int) geom.Mat4 {
	for _, c := range columns {
		if long := m.Column(c).Len(); long > 0 && math.Abs(long-1) > 1e-12 {
			m[4*c], m[4*c+1], m[4*c+2] = m[4*c]/long, m[4*c+1]/long, m[4*c+2]/long
		}
	}
	return m
}

// only takes away measures that a light of the kind has no use for.
func (l *Light) only() {
	switch l.Kind {
	case Softbox:
		l.Radius, l.Inner, l.Outer, l.Angle = 0, 0, 0, 0
	case Round, Bulb:
		l.Width, l.Height, l.Inner, l.Outer, l.Angle = 0, 0, 0, 0, 0
	case Spot:
		l.Width, l.Height, l.Angle = 0, 0, 0
	case Sun:
		l.Width, l.Height, l.Radius, l.Inner, l.Outer = 0, 0, 0, 0, 0
	}
}

func (r *resolver) cutters(out *Scene) {
	for i := range r.s.Parts {
		p := &r.s.Parts[i]
		if p.Cut == nil || r.hidden[i] || r.world[i].Det() == 0 {
			continue
		}
		c := Cutter{Shape: p.Cut.Shape, Size: p.Cut.Size, Radius: p.Cut.Radius, Color: p.Cut.Color, At: r.world[i], Bodies: make([]bool, len(r.owners.Bodies))}
		c.only()
		for b, of := range r.owners.Bodies {
			c.Bodies[b] = len(p.Cut.Parts) == 0
			for _, id := range p.Cut.Parts {
				if root := r.e.Index.Part(id); root >= 0 && r.e.Index.Within(of.Part, root) {
					c.Bodies[b] = true
				}
			}
		}
		if of := r.e.Index.Part(p.Cut.Of); c.Shape == "part" && of >= 0 {
			switch q := &r.s.Parts[of]; {
			case q.Mesh != nil:
				c.Of = []Placed{{Mesh{Asset: q.Mesh.Asset, Index: q.Mesh.Mesh}, r.world[of]}}
			case q.Shaped() != nil:
				c.Of = []Placed{{Mesh{Shape: q.Shaped()}, r.world[of]}}
			}
		}
		out.Cutters = append(out.Cutters, c)
		r.owners.Cutters = append(r.owners.Cutters, i)
	}
}

// only takes away measures that a cutter of the shape has no use for.
func (c *Cutter) only() {
	switch c.Shape {
	case "slab":
		c.Size, c.Radius = geom.Vec3{0, c.Size[1], 0}, 0
	case "sphere":
		c.Size = geom.Vec3{}
	case "cylinder":
		c.Size = geom.Vec3{0, c.Size[1], 0}
	case "part":
		c.Size, c.Radius, c.At = geom.Vec3{}, 0, geom.Identity // its meshes have places of their own
	}
}

func (r *resolver) camera(out *Scene) {
	i := r.e.Index.Part(r.s.Camera)
	if i < 0 || r.s.Parts[i].Camera == nil {
		return
	}
	l := r.s.Parts[i].Camera
	v := framing.Optics(l, r.s.Format)
	c := &Camera{At: directions(r.world[i], 0, 1, 2), Width: v.Width, Height: v.Height, X: v.X, Y: v.Y, Flat: v.Flat, Gain: math.Exp2(l.Exposure)}
	for _, w := range r.keysOf(i) {
		c.Keys = append(c.Keys, directions(w, 0, 1, 2))
	}
	if l.FNumber > 0 && !v.Flat { // a thin lens: radius f / 2N
		c.Aperture, c.Blades, c.Focus = l.Focal/1000/l.FNumber/2, l.Blades, l.Focus
		if k := r.e.Index.Part(l.FocusOn); l.FocusOn != "" && k >= 0 {
			at := r.world[k].Point(r.s.Parts[k].Pivot)
			c.FocusOn = &at
		}
	}
	if r.options.Motion {
		c.Before, c.After = directions(r.near[0][i], 0, 1, 2), directions(r.near[1][i], 0, 1, 2)
	}
	out.Camera = c
}

// nameMattes gives every part that can cover something a matte: a number, and a name in letters that every program takes,
// its own with a number where there are several.
func (r *resolver) nameMattes(out *Scene) {
	r.mattes = map[int]int{}
	seen := map[string]int{}
	for i := range r.s.Parts {
		p := &r.s.Parts[i]
		if p.Mesh == nil && p.Shaped() == nil {
			continue
		}
		name := strings.Map(func(c rune) rune {
			if c < 128 && (unicode.IsLetter(c) || unicode.IsDigit(c)) {
				return c
			}
			return '_'
		}, p.Name)
		name = name[:min(len(name), 100)]
		if seen[name]++; seen[name] > 1 {
			name = fmt.Sprint(name, "_", seen[name])
		}
		r.mattes[i] = len(out.Mattes)
		out.Mattes = append(out.Mattes, Matte{i + 1, name})
	}
	out.Mattes = slices.Clip(out.Mattes)
}
