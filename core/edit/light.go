package edit

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/lighting"
	"perigyre/core/mesh"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Lit is what lights stand round: the middle of something in the room on frame 0, and its size, half of its largest measure.
type Lit struct {
	Middle geom.Vec3 `json:"middle"`
	Size   float64   `json:"size"`
}

// lit returns what a light that stands about a part stands round: that part, or all that is shown where there is none.
func (w *Work) lit(aim string) Lit {
	if l, ok := w.lits[aim]; ok {
		return l
	}
	l := w.measureLit(aim)
	if w.lits != nil {
		w.lits[aim] = l
	}
	return l
}

func (w *Work) measureLit(aim string) Lit {
	box := geom.EmptyBox()
	if i := w.Index().Part(aim); aim != "" && i >= 0 {
		box, _ = w.bounds(i)
		if box.Empty() {
			return Lit{w.World()[i].Point(w.Shot.Parts[i].Pivot), w.usualSize()}
		}
	} else {
		box = w.shownBox()
	}
	if box.Empty() {
		return Lit{geom.Vec3{}, 0.1}
	}
	size := box.Size()
	return Lit{box.Centre(), math.Max(1e-6, math.Max(size[0], math.Max(size[1], size[2]))/2)}
}

// shownBox is round all that the camera is to show, without hidden parts, plinths and the set where there is something else.
func (w *Work) shownBox() geom.Box {
	hidden, sets := w.Index().Hidden(), w.Index().Sets()
	box, all := geom.EmptyBox(), geom.EmptyBox()
	for k := range w.Shot.Parts {
		p := &w.Shot.Parts[k]
		if hidden[k] || p.Kind == shot.Floor {
			continue
		}
		reach, err := w.Assets.Support(p)
		if err != nil {
			continue
		}
		if b := mesh.NewAssembly([]mesh.Placed{{Of: reach, At: w.World()[k]}}); !b.Empty() {
			all = all.Union(b.Bounds())
			if !sets[k] && p.Kind != shot.Plinth {
				box = box.Union(b.Bounds())
			}
		}
	}
	if box.Empty() {
		return all
	}
	return box
}

// LightPlace is where a light stands on frame 0, from the middle of what it stands about.
type LightPlace struct {
	Part string `json:"part"`
	lighting.Bearing
	Lit
	Rigged bool `json:"rigged"` // it belongs to the arrangement of lights, rather than to what it is built into
}

// Bearings returns where the lights of a document stand, and what stands in the middle of them and of its cameras.
func Bearings(s *shot.Shot, e *pose.Evaluator, env Env) ([]LightPlace, Lit) {
	w := &Work{Env: env, Shot: s, before: s, index: e.Index, pose: e, lits: map[string]Lit{}}
	out := []LightPlace{}
	for i := range s.Parts {
		if s.Parts[i].Light != nil {
			b, lit := w.bearing(i)
			out = append(out, LightPlace{s.Parts[i].ID, b, lit, w.rigged(&s.Parts[i])})
		}
	}
	return out, w.lit("")
}

func (w *Work) bearing(i int) (lighting.Bearing, Lit) {
	l := w.Shot.Parts[i].Light
	lit := w.lit(l.Aim)
	if l.Kind == shot.Sun {
		b := lighting.BearingOf(geom.Vec3{}, w.World()[i].Column(2))
		b.Distance = w.World()[i].Column(3).Sub(lit.Middle).Len()
		return b, lit
	}
	return lighting.BearingOf(lit.Middle, w.World()[i].Column(3)), lit
}

// light returns a light that can be placed.
func (w *Work) light(id string) (int, error) {
	list, err := w.outermost([]string{id})
	if err != nil {
		return 0, err
	}
	p := &w.Shot.Parts[list[0]]
	switch {
	case p.Light == nil:
		return 0, fmt.Errorf("%s is no light", p.Name)
	case p.Locked:
		return 0, fmt.Errorf("%s is locked; unlock it to place it", p.Name)
	case len(p.Moves) > 0 || len(p.Tracks) > 0:
		return 0, fmt.Errorf("%s is placed by its moves or pins; take them out, or change those", p.Name)
	}
	return list[0], nil
}

// place stands a light somewhere in the room on a frame, whatever it is bound to.
func (w *Work) place(i int, at geom.Mat4, frame float64) error {
	p := &w.Shot.Parts[i]
	if up := w.Index().Part(p.Parent); up >= 0 {
		inv, ok := w.Pose().Some(frame).Of(up).Inverse()
		if !ok {
			return fmt.Errorf("%s cannot be placed: what it is bound to has no size", p.Name)
		}
		at = inv.Mul(at)
		_, r, _, _ := at.Decompose() // its own size stays: what it is bound to may be stretched
		p.Rest.Rotation, p.Rest.Position = r, at.Point(p.Pivot).Sub(p.Pivot)
		return nil
	}
	return w.setLocal(p, at)
}

// AddLight adds a light of a kind, from the upper left, of a size that suits what is there.
type AddLight struct {
	Kind shot.LightKind `json:"kind"` // softbox where it is empty
	ID   string         `json:"id,omitempty"`
}

func init() { Register[AddLight]("addLight") }

// Do implements Change.
func (e *AddLight) Do(w *Work) (string, error) {
	lit := w.lit("")
	// Each gives about the light of the usual key: a radiance of 7 over a square of 2.4 sizes from 4.5 sizes away, which is
	// an irradiance of 2 (radiance times area over distance squared; a sphere's area is that of its disc).
	name, spec := "Softbox", shot.LightSpec{Kind: e.Kind, Color: [3]float64{1, 1, 1}}
	switch e.Kind {
	case shot.Softbox:
		spec.Width, spec.Height, spec.Strength = 2.4, 2.4, 7
	case shot.Round:
		name, spec.Radius, spec.Strength = "Disc", 1.35, 7
	case shot.Bulb:
		name, spec.Radius, spec.Strength = "Bulb", 0.3, 140
	case shot.Spot:
		name, spec.Radius, spec.Inner, spec.Outer, spec.Strength = "Spot", 0.3, 0.25, 0.45, 140
	case shot.Sun:
		name, spec.Angle, spec.Strength = "Sun", shot.SunAcross, 29_000
	default:
		return "", fmt.Errorf("a light is a softbox, disc, bulb, spot or sun, not %q", e.Kind)
	}
	at, spec := lighting.Place(&shot.RigLight{Left: 45, High: 40, Distance: 4.5, Light: spec}, lit.Middle, lit.Size)
	_, turn, _, _ := at.Decompose()
	return w.added(shot.Part{ID: e.ID, Name: name, Kind: shot.Light, Light: &spec, Rest: shot.Rest{Position: at.Column(3), Rotation: turn, Size: geom.Vec3{1, 1, 1}}})
}

// PlaceLight stands a light at a bearing and distance, as far as they are given, from what it stands about, and aims it there.
type PlaceLight struct {
	Part     string   `json:"part"`
	Left     *float64 `json:"left,omitempty"` // radians
	High     *float64 `json:"high,omitempty"`
	Distance *float64 `json:"distance,omitempty"` // metres
	Aim      *string  `json:"aim,omitempty"`      // the part that it stands about from now on
}

func init() { Register[PlaceLight]("placeLight") }

// Do implements Change.
func (e *PlaceLight) Do(w *Work) (string, error) {
	i, err := w.light(e.Part)
	if err != nil {
		return "", err
	}
	p := &w.Shot.Parts[i]
	spec := *p.Light
	p.Light = &spec
	words := "Place " + p.Name
	if e.Aim != nil {
		if *e.Aim != "" && w.Index().Part(*e.Aim) < 0 {
			return "", ErrGone
		}
		spec.Aim, words = *e.Aim, "Aim "+p.Name
	}
	b, lit := w.bearing(i)
	for _, v := range []struct{ to, of *float64 }{{e.Left, &b.Left}, {e.High, &b.High}, {e.Distance, &b.Distance}} {
		if v.to != nil {
			*v.of = *v.to
		}
	}
	if !(math.Abs(b.High) <= math.Pi/2+1e-9) || !(b.Distance > 0 && b.Distance < 1e9) || !(math.Abs(b.Left) < 1e6) {
		return "", fmt.Errorf("a light stands up to 90 degrees above or below, at more than no distance")
	}
	return words, w.place(i, lighting.Facing(b.From(lit.Middle), lit.Middle), 0)
}

// Highlight moves a light so that it is mirrored at a point of a surface, as the camera sees it on a frame.
type Highlight struct {
	Part   string    `json:"part"` // the light
	Point  geom.Vec3 `json:"point"`
	Normal geom.Vec3 `json:"normal"`
	Frame  float64   `json:"frame"`
}

func init() { Register[Highlight]("highlight") }

// Do implements Change.
func (e *Highlight) Do(w *Work) (string, error) {
	i, err := w.light(e.Part)
	if err != nil {
		return "", err
	}
	cam := w.Index().Part(w.Shot.Camera)
	if cam < 0 {
		return "", fmt.Errorf("the shot has no camera that could see a highlight")
	}
	eye := w.Pose().Some(e.Frame).Of(cam)
	from := eye.Column(3)
	if w.Shot.Parts[cam].Camera.Across > 0 { // along parallel lines
		back := eye.Column(2).Unit()
		from = e.Point.Add(back.Mul(1e6 * math.Max(1e-6, w.lit("").Size)))
	}
	now := w.Pose().Some(e.Frame).Of(i).Column(3)
	at, err := lighting.Highlight(from, e.Point, e.Normal, w.away(i, now.Sub(e.Point).Len()))
	if err != nil {
		return "", err
	}
	return "Put the highlight of " + w.Shot.Parts[i].Name, w.place(i, lighting.Facing(at, e.Point), e.Frame)
}

// away is how far a light is to be: as far as it was, but not within what it lights.
func (w *Work) away(i int, now float64) float64 {
	_, lit := w.bearing(i)
	return math.Max(now, 1.2*lit.Size)
}

// ShadowAt moves a light so that the shadow of what it stands about falls on a point.
type ShadowAt struct {
	Part  string    `json:"part"` // the light
	Point geom.Vec3 `json:"point"`
	Frame float64   `json:"frame"`
}

func init() { Register[ShadowAt]("shadowAt") }

// Do implements Change.
func (e *ShadowAt) Do(w *Work) (string, error) {
	i, err := w.light(e.Part)
	if err != nil {
		return "", err
	}
	b, lit := w.bearing(i)
	at, err := lighting.Shadow(lit.Middle, e.Point, w.away(i, b.Distance))
	if err != nil {
		return "", err
	}
	return "Put the shadow of " + w.Shot.Parts[i].Name, w.place(i, lighting.Facing(at, lit.Middle), e.Frame)
}

// rigged reports whether a light belongs to the arrangement of lights, rather than to what it is built into.
func (w *Work) rigged(p *shot.Part) bool {
	if p.Light == nil {
		return false
	}
	up := w.Index().Part(p.Parent)
	return p.Light.Rig != "" || up < 0 || w.Shot.Parts[up].Camera != nil
}

// UseRig puts a rig in the place of the lights that there are, but for those that are built into a part, that are
// locked, or that carry something. It is sized to what is shown and bound as a whole.
type UseRig struct {
	Rig  string `json:"rig"`
	Bind string `json:"bind,omitempty"` // a part or camera, or the room where it is empty
}

func init() { Register[UseRig]("useRig") }

// Do implements Change.
func (e *UseRig) Do(w *Work) (string, error) {
	s := w.Shot
	r, err := lighting.FindRig(s, e.Rig)
	if err != nil {
		return "", err
	}
	if e.Bind != "" && w.Index().Part(e.Bind) < 0 {
		return "", ErrGone
	}
	lit := w.lit("")
	rig := *r
	gone := map[string]bool{}
	for i := range s.Parts {
		if p := &s.Parts[i]; w.rigged(p) && !p.Locked && len(w.Index().Children(i)) == 0 {
			gone[p.ID] = true
		}
	}
	s.Parts = slices.DeleteFunc(s.Parts, func(p shot.Part) bool { return gone[p.ID] })
	w.Changed()
	w.pose, w.world = nil, nil
	was := *s
	w.before = &was
	for k := range rig.Lights {
		l := &rig.Lights[k]
		at, spec := lighting.Place(l, lit.Middle, lit.Size)
		spec.Rig = rig.Name
		p := shot.Part{ID: w.NewID(), Name: freeName(s, l.Name), Parent: e.Bind, Kind: shot.Light, Light: &spec, Rest: shot.AtRest, Moves: []shot.Move{}}
		s.Parts = append(s.Parts, p)
		w.Changed()
		if err := w.place(len(s.Parts)-1, at, 0); err != nil {
			return "", err
		}
	}
	w.Sort()
	picture, name, turn, seen := s.Environment.Picture, s.Environment.Name, s.Environment.Turn, s.Environment.Seen
	if s.Environment = rig.Environment; rig.Environment.Picture == "" && picture != "" { // one that was chosen stays
		s.Environment.Picture, s.Environment.Name, s.Environment.Turn = picture, name, turn
	}
	s.Environment.Seen = seen
	return "Light with " + rig.Name, nil
}

// KeepRig keeps the lights and surroundings as they are as a rig of the shot.
type KeepRig struct {
	Name string `json:"name"`
}

func init() { Register[KeepRig]("keepRig") }

// Do implements Change.
func (e *KeepRig) Do(w *Work) (string, error) {
	s := w.Shot
	name := strings.TrimSpace(e.Name)
	if name == "" {
		return "", fmt.Errorf("a rig needs a name")
	}
	if err := shot.CheckName("a rig", name); err != nil {
		return "", err
	}
	lit := w.lit("")
	rig := shot.Rig{Name: name, Note: "kept from this shot", Environment: s.Environment, Lights: []shot.RigLight{}}
	rig.Environment.Bound = "" // a rig is bound where it is used
	for i := range s.Parts {
		if p := &s.Parts[i]; w.rigged(p) && !p.Hidden {
			rig.Lights = append(rig.Lights, lighting.Taken(p.Name, w.World()[i], *p.Light, lit.Middle, lit.Size))
		}
	}
	s.Rigs = slices.DeleteFunc(slices.Clone(s.Rigs), func(r shot.Rig) bool { return r.Name == name })
	s.Rigs = append(s.Rigs, rig)
	for i := range s.Parts {
		if p := &s.Parts[i]; w.rigged(p) && !p.Hidden {
			spec := *p.Light
			spec.Rig, p.Light = name, &spec
		}
	}
	return "Keep the rig " + name, nil
}

// RemoveRig forgets a rig that was kept.
type RemoveRig struct {
	Name string `json:"name"`
}

func init() { Register[RemoveRig]("removeRig") }

// Do implements Change.
func (e *RemoveRig) Do(w *Work) (string, error) {
	n := len(w.Shot.Rigs)
	w.Shot.Rigs = slices.DeleteFunc(slices.Clone(w.Shot.Rigs), func(r shot.Rig) bool { return r.Name == e.Name })
	if len(w.Shot.Rigs) == n {
		return "", fmt.Errorf("no rig of this shot is called %q", e.Name)
	}
	return "Forget the rig " + e.Name, nil
}
