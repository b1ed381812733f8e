// Package stage puts a model that has been brought in on its turntable: on the floor, on its axis,
// on a plinth of its size, lit, with a camera that sees it whole.
package stage

import (
	"fmt"
	"math"
	"slices"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Options say what is put round a model.
type Options struct {
	File       string // name of the file that was brought in
	Asset      string // content hash of the stored model
	Name       string // of the part that holds it all
	Unit       string // what one unit of the file is
	Up         string // the file's upright axis
	Plinth     bool
	Margin     float64 // percent, for the camera
	Turntable  move.Turntable
	NewID      func() string
	Turning    bool // whether the turntable gets its move
	FloorShade bool // whether a floor receives the shadow
}

// Defaults are what an import gets without being asked.
func Defaults() Options {
	return Options{
		Plinth: true, Margin: 8, Turning: true, FloorShade: true,
		Turntable: move.Turntable{Moves: "object", Direction: shot.Clockwise, Turns: 1, Plinth: true},
	}
}

// Put stages a model in an empty shot: it is arranged, stood on its turntable and seen by a fitted
// camera.
func Put(s *shot.Shot, m *model.Model, o Options, g framing.Geometry) error {
	if err := Arrange(s, m, o); err != nil {
		return err
	}
	if err := s.Validate(); err != nil {
		return err
	}
	if err := Stand(s, s.Sources[len(s.Sources)-1].Root, g); err != nil {
		return err
	}
	if err := FitCamera(s, g, nil); err != nil {
		return err
	}
	return s.Validate()
}

// Arrange adds a model to an empty shot with its turntable, plinth, floor, lights and camera. The
// camera is placed by FitCamera.
func Arrange(s *shot.Shot, m *model.Model, o Options) error {
	table := shot.Part{ID: o.NewID(), Name: "Turntable", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}
	if o.Turning {
		t := o.Turntable
		table.Moves = append(table.Moves, shot.Move{ID: o.NewID(), Kind: move.TurntableKind, Data: &t})
	}
	whole := onlyGroup(m)
	if whole >= 0 {
		o.Name = m.Nodes[whole].Name
	}
	root := shot.Part{ID: o.NewID(), Name: o.Name, Parent: table.ID, Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}
	factor := shot.Units[o.Unit]
	if factor == 0 {
		return fmt.Errorf("the unit %q is none of m, cm, mm, in and ft", o.Unit)
	}
	root.Rest.Size = geom.Vec3{factor, factor, factor}
	turn, ok := shot.Uprights[o.Up]
	if !ok {
		return fmt.Errorf("the upright axis is y or z, not %q", o.Up)
	}
	root.Rest.Rotation = turn
	s.Parts = append(s.Parts, table, root)
	materials := addMaterials(s, m, o)
	addNodes(s, m, root.ID, whole, materials, o)
	s.Sources = append(s.Sources, shot.Source{Asset: o.Asset, File: o.File, Root: root.ID, Unit: o.Unit, Up: o.Up})

	if o.Plinth {
		white := o.NewID()
		s.Materials = append(s.Materials, plinthMaterial(white))
		s.Parts = append(s.Parts, shot.Part{
			ID: o.NewID(), Name: "Plinth", Parent: table.ID, Kind: shot.Plinth, Rest: shot.AtRest, Moves: []shot.Move{},
			Plinth: &shot.Disc{Radius: 1, Height: 0.1}, Materials: []string{white},
		})
	}
	if o.FloorShade {
		s.Parts = append(s.Parts, shot.Part{ID: o.NewID(), Name: "Floor, shadow only", Kind: shot.Floor, Rest: shot.AtRest, Moves: []shot.Move{}})
	}
	for _, name := range []string{"Key softbox", "Rim softbox"} {
		s.Parts = append(s.Parts, shot.Part{
			ID: o.NewID(), Name: name, Kind: shot.Light, Rest: shot.AtRest, Moves: []shot.Move{},
			Light: &shot.LightSpec{Width: 1, Height: 1, Color: [3]float64{1, 1, 1}, Strength: 1},
		})
	}
	look := geom.AxisAngle(geom.Vec3{0, 1, 0}, 28*math.Pi/180).Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, -14*math.Pi/180))
	camera := shot.Part{
		ID: o.NewID(), Name: "Three-quarter", Kind: shot.Camera, Moves: []shot.Move{},
		Rest:   shot.Rest{Rotation: look, Size: geom.Vec3{1, 1, 1}},
		Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger, Margin: o.Margin, Fitted: true},
	}
	s.Parts = append(s.Parts, camera)
	s.Camera = camera.ID
	return nil
}

// onlyGroup returns the node that holds all others and does nothing else, for which the part that
// holds the model stands in, or -1.
func onlyGroup(m *model.Model) int {
	at := -1
	for i, n := range m.Nodes {
		if n.Parent >= 0 {
			continue
		}
		if at >= 0 || n.Mesh >= 0 || n.Light != nil || n.Local() != geom.Identity {
			return -1
		}
		at = i
	}
	for _, a := range m.Animations {
		for _, c := range a.Channels {
			if c.Node == at {
				return -1
			}
		}
	}
	return at
}

func addNodes(s *shot.Shot, m *model.Model, root string, whole int, materials []string, o Options) {
	ids := make([]string, len(m.Nodes))
	var finishes []shot.Finish
	for _, name := range m.Variants {
		finishes = append(finishes, shot.Finish{ID: o.NewID(), Name: name, Swaps: []shot.Swap{}})
	}
	for i, n := range m.Nodes {
		if i == whole {
			ids[i] = root
			continue
		}
		ids[i] = o.NewID()
		p := shot.Part{
			ID: ids[i], Name: n.Name, Parent: root, Kind: shot.Group, Moves: []shot.Move{},
			Rest: shot.Rest{Position: n.Position, Rotation: n.Rotation, Size: n.Size},
		}
		if n.Parent >= 0 {
			p.Parent = ids[n.Parent]
		}
		if n.Mesh >= 0 {
			p.Kind, p.Mesh = shot.Solid, &shot.MeshRef{Asset: o.Asset, Mesh: n.Mesh}
			for k, prim := range m.Meshes[n.Mesh].Primitives {
				for v, mat := range prim.Dressed {
					if mat >= 0 {
						finishes[v].Swaps = append(finishes[v].Swaps, shot.Swap{Part: ids[i], Primitive: k, Material: materials[mat]})
					}
				}
				id := ""
				if prim.Material >= 0 {
					id = materials[prim.Material]
				}
				p.Materials = append(p.Materials, id)
			}
		}
		if n.Light != nil {
			lamp := shot.Part{ID: ids[i], Name: n.Name, Parent: p.Parent, Kind: shot.Light, Rest: p.Rest, Moves: []shot.Move{}, Hidden: true, Light: lit(n.Light)}
			if p.Kind == shot.Group && !hasChildren(m, i) {
				s.Parts = append(s.Parts, lamp)
				continue
			}
			lamp.ID, lamp.Name, lamp.Parent, lamp.Rest = o.NewID(), n.Name+", light", p.ID, shot.AtRest
			s.Parts = append(s.Parts, p, lamp)
			continue
		}
		s.Parts = append(s.Parts, p)
	}
	Enliven(s, m, ids)
	if list := Clips(m, ids); len(list) > 0 {
		p := s.Part(root)
		p.Clips = list
		play := move.Of(move.PlayKind).New(&move.Subject{Shot: s, At: s.Index(root)})
		play.ID = o.NewID()
		p.Moves = append(p.Moves, play)
	}
	s.Finishes = append(s.Finishes, finishes...)
}

func hasChildren(m *model.Model, at int) bool {
	for _, n := range m.Nodes {
		if n.Parent == at {
			return true
		}
	}
	return false
}

// lit returns a light of the size that suits one that has none in its file. Intensities are taken as they
// are, as irradiance at 1 m: the radiance of a sphere of radius r that has the intensity I is I / (pi r^2),
// that of a sun of half angle a with the irradiance E is E / (pi sin^2 a).
func lit(l *model.Light) *shot.LightSpec {
	out := &shot.LightSpec{Color: l.Color}
	switch l.Kind {
	case "directional":
		out.Kind, out.Angle = shot.Sun, shot.SunAcross
		sin := math.Sin(out.Angle / 2)
		out.Strength = l.Intensity / (math.Pi * sin * sin)
	default:
		out.Kind, out.Radius = shot.Bulb, 0.01
		if l.Kind == "spot" {
			out.Kind, out.Outer = shot.Spot, math.Min(math.Pi/2, math.Max(1e-3, l.Outer))
			out.Inner = math.Min(l.Inner, out.Outer)
		}
		out.Strength = l.Intensity / (math.Pi * out.Radius * out.Radius)
	}
	return out
}

func addMaterials(s *shot.Shot, m *model.Model, o Options) []string {
	ids := make([]string, len(m.Materials))
	for i := range m.Materials {
		ids[i] = o.NewID()
		s.Materials = append(s.Materials, Material(m, i, o.Asset, ids[i]))
	}
	return ids
}

// Material returns a material of a model as one of a shot, with an id, and with textures in the asset that
// the model is stored as.
func Material(m *model.Model, i int, asset, id string) material.Material {
	mat := m.Materials[i]
	mat.ID = id
	mat.Limit()
	for _, slot := range mat.TextureSlots() {
		if *slot != nil {
			t := **slot
			t.Asset = asset
			if t.Image < len(m.Images) && m.Images[t.Image].Missing() {
				t.Missing = m.Images[t.Image].Name
			}
			*slot = &t
		}
	}
	return mat
}

// Stand puts the part that holds a model on the floor, or on the plinth beside it, and centres it
// on its turntable's axis by the smallest enclosing circle of its floor projection; it sizes the
// plinth and the lights to it. What is still turned about the file's origin, which may lie anywhere, or about
// the middle of its base as it stood before, is turned about the middle of its base from then on, unless
// moves or pins of its own depend on that. Nothing happens to a shot without that part.
func Stand(s *shot.Shot, rootID string, g framing.Geometry) error {
	root := s.Part(rootID)
	if root == nil {
		return nil
	}
	under, err := under(s, s.Index(rootID), g)
	if err != nil || under.Empty() {
		return err
	}
	circle, box := under.Footprint(), under.Bounds()
	low, high := box.Min[1], box.Max[1]
	size := math.Max(circle.Radius, (high-low)/2)
	top := 0.0
	for i := range s.Parts {
		p := &s.Parts[i]
		if p.Kind == shot.Plinth && p.Parent == root.Parent {
			radius := math.Max(circle.Radius, size*0.2) * 1.3
			height := math.Max(radius*0.16, size*0.06)
			if p.Plinth.Form == "column" {
				height = radius * 1.6
			}
			p.Plinth = &shot.Disc{Radius: radius, Height: height, Bevel: math.Min(height, radius) * 0.18, Form: p.Plinth.Form}
			top = height
		}
	}
	root.Rest.Position = geom.Vec3{-circle.Centre[0], top - low, -circle.Centre[1]}
	if ours, err := turnsWhereItCame(s, rootID, g); err != nil {
		return err
	} else if inv, ok := pose.Local(root, root.Rest).Inverse(); ours && ok {
		TurnAbout(root, inv.Point(geom.Vec3{0, top, 0}))
	}
	placeLights(s, size, geom.Vec3{0, top + (high-low)/2, 0})
	return nil
}

// TurnAbout moves a part's pivot, in its own frame, and leaves the part where it is: position and pivot are both added
// outside the turn, so that what the pivot gains there is taken back, and p + v + RS(x - v) stays the same for every x.
func TurnAbout(p *shot.Part, q geom.Vec3) {
	rs := geom.TRS(geom.Vec3{}, p.Rest.Rotation, p.Rest.Size)
	p.Rest.Position = p.Rest.Position.Add(p.Pivot).Sub(q).Add(rs.Vector(q.Sub(p.Pivot)))
	p.Pivot = q
}

// turnsWhereItCame reports whether the pivot of a part that holds a model is still its file's origin or the middle of the
// base that it had, one way up or the other, and nothing of its own moves it.
func turnsWhereItCame(s *shot.Shot, rootID string, g framing.Geometry) (bool, error) {
	i := s.Index(rootID)
	was := s.Parts[i]
	if len(was.Moves) > 0 || len(was.Tracks) > 0 || was.Pivot == (geom.Vec3{}) {
		return len(was.Moves) == 0 && len(was.Tracks) == 0, nil
	}
	defer func() { s.Parts[i] = was }()
	for _, turn := range shot.Uprights {
		p := &s.Parts[i]
		p.Pivot, p.Rest = geom.Vec3{}, shot.Rest{Rotation: turn, Size: geom.Vec3{1, 1, 1}}
		under, err := under(s, i, g)
		if err != nil {
			return false, err
		}
		c, box := under.Footprint(), under.Bounds()
		base := turn.Inverse().Rotate(geom.Vec3{c.Centre[0], box.Min[1], c.Centre[1]})
		if base.Sub(was.Pivot).Len() <= 1e-6*box.Size().Len() {
			return true, nil
		}
	}
	return false, nil
}

// Staged reports whether a model and its set are as Stand puts them.
func Staged(s *shot.Shot, rootID string, g framing.Geometry) bool {
	c := s.Clone()
	if Stand(c, rootID, g) != nil {
		return false
	}
	near := func(a, b geom.Vec3) bool { return a.Sub(b).Len() <= 1e-6*(a.Len()+b.Len()) }
	for i := range s.Parts {
		p, q := &s.Parts[i], &c.Parts[i]
		switch {
		case p.ID == rootID && !near(p.Rest.Position.Add(p.Pivot), q.Rest.Position.Add(q.Pivot)):
			return false
		case p.Plinth != nil && !near(geom.Vec3{p.Plinth.Radius, p.Plinth.Height, p.Plinth.Bevel}, geom.Vec3{q.Plinth.Radius, q.Plinth.Height, q.Plinth.Bevel}):
			return false
		case p.Light != nil && (!near(p.Rest.Position, q.Rest.Position) || !near(geom.Vec3{p.Light.Width, p.Light.Height}, geom.Vec3{q.Light.Width, q.Light.Height})):
			return false
		}
	}
	return true
}

// under returns the surfaces of everything below part i, in the frame of its parent and as if
// its own position were the origin.
func under(s *shot.Shot, i int, g framing.Geometry) (*mesh.Assembly, error) {
	local := make([]geom.Mat4, len(s.Parts))
	at := map[string]int{}
	var items []mesh.Placed
	for k := i; k < len(s.Parts); k++ {
		p := &s.Parts[k]
		rest := p.Rest
		if up, ok := at[p.Parent]; k == i {
			rest.Position = geom.Vec3{}
			local[k] = pose.Local(p, rest)
		} else if ok {
			local[k] = local[up].Mul(pose.Local(p, rest))
		} else {
			continue
		}
		at[p.ID] = k
		reach, err := g.Support(p)
		if err != nil {
			return nil, err
		}
		items = append(items, mesh.Placed{Of: reach, At: local[k]})
	}
	return mesh.NewAssembly(items), nil
}

// placeLights sets the softboxes of a first set-up round a centre, at distances in proportion to
// the object's size: a large key from the front left, a narrow rim from behind on the right.
func placeLights(s *shot.Shot, size float64, centre geom.Vec3) {
	set := []struct {
		name          string
		from          geom.Vec3
		width, height float64
		strength      float64
	}{
		{"Key softbox", geom.Vec3{-2.6, 2.6, 2.6}, 2.4, 2.4, 7},
		{"Rim softbox", geom.Vec3{3, 1.6, -2.2}, 1, 2.8, 9},
	}
	for _, l := range set {
		for i := range s.Parts {
			if p := &s.Parts[i]; p.Kind == shot.Light && p.Name == l.name {
				p.Rest.Position = centre.Add(l.from.Mul(size))
				p.Rest.Rotation = geom.LookAlong(l.from.Mul(-1))
				p.Light.Width, p.Light.Height, p.Light.Strength = l.width*size, l.height*size, l.strength
			}
		}
	}
}

// FitCamera brings what follows from the rest of the document up to date after an edit: a camera that
// is kept fitted is placed by the exact fit. memory may be nil.
func FitCamera(s *shot.Shot, g framing.Geometry, memory *framing.Memory) error {
	cam := s.Part(s.Camera)
	if cam == nil || cam.Locked { // nothing moves one that is locked
		return nil
	}
	lens := *cam.Camera
	cam.Camera, lens.Offset = &lens, geom.Vec3{}
	if !cam.Camera.Fitted || flies(cam) {
		return nil
	}
	u, err := framing.NewSubject(s, g, memory)
	if err != nil {
		return err
	}
	if len(u.Bodies) == 0 {
		return nil // nothing to see; the camera stays where it is
	}
	fit, err := u.Fit()
	if err != nil {
		return err
	}
	fitted := lens // the subject keeps the one that it was seen with
	cam.Camera = &fitted
	if fit.Across > 0 { // orthographic
		fitted.Across = fit.Across
	}
	at := fit.At
	if u.Pose.Moves(s.Index(s.Camera)) {
		fitted.Offset = at
		return nil
	}
	if cam.Parent != "" {
		inv, ok := u.Pose.Some(0).Of(s.Index(cam.Parent)).Inverse()
		if !ok {
			return fmt.Errorf("the camera %q cannot be fitted: what it is in has no size", cam.Name)
		}
		at = inv.Point(at)
	}
	cam.Rest.Position = at
	return nil
}

// flies reports whether a camera goes through saved angles, which are the designer's own.
func flies(cam *shot.Part) bool {
	return slices.ContainsFunc(cam.Moves, func(m shot.Move) bool { return move.Places(&m) })
}

// Standing is how an import stands.
type Standing struct {
	Size   geom.Vec3 `json:"size"`   // width, height and depth as it stands, metres
	Wobble *float64  `json:"wobble"` // metres from its turntable's axis to its middle; null off a turntable
}

// Measure returns how the import with a root part stands. Its middle is the centre of the smallest
// enclosing circle of its floor projection.
func Measure(s *shot.Shot, rootID string, g framing.Geometry) (Standing, error) {
	var out Standing
	i := s.Index(rootID)
	if i < 0 {
		return out, nil
	}
	under, err := under(s, i, g)
	if err != nil || under.Empty() {
		return out, err
	}
	at := s.Parts[i].Rest.Position
	out.Size = under.Bounds().Size()
	if table := s.Part(s.Parts[i].Parent); table != nil {
		for _, m := range table.Moves {
			if move.Table(&m) && !m.Muted {
				off := under.Footprint().Centre.Sub(geom.Vec2{-at[0], -at[2]}).Len()
				out.Wobble = &off
			}
		}
	}
	return out, nil
}
