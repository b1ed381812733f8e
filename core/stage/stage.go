// Package stage puts a model that has been brought in on its turntable: on the floor, on its axis,
// on a plinth of its size, lit, with a camera that sees it whole.
package stage

import (
	"fmt"
	"math"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/model"
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
	Turntable  shot.Turntable
	NewID      func() string
	Turning    bool // whether the turntable gets its move
	FloorShade bool // whether a floor receives the shadow
}

// Defaults are what an import gets without being asked.
func Defaults() Options {
	return Options{
		Plinth: true, Margin: 8, Turning: true, FloorShade: true,
		Turntable: shot.Turntable{Moves: shot.ObjectMoves, Direction: shot.Clockwise, Turns: 1, Plinth: true},
	}
}

// Put stages a model in an empty shot: it is arranged, stood on its turntable and seen by a fitted
// camera. The cache may be nil.
func Put(s *shot.Shot, m *model.Model, o Options, g framing.Geometry, cache *framing.Cache) error {
	if err := Arrange(s, m, o); err != nil {
		return err
	}
	if err := s.Validate(); err != nil {
		return err
	}
	if err := Stand(s, s.Sources[len(s.Sources)-1].Root, g); err != nil {
		return err
	}
	if err := Settle(s, g, cache); err != nil {
		return err
	}
	return s.Validate()
}

// Arrange adds a model to an empty shot with its turntable, plinth, floor, lights and camera. The
// camera is placed by Settle.
func Arrange(s *shot.Shot, m *model.Model, o Options) error {
	table := shot.Part{ID: o.NewID(), Name: "Turntable", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}
	if o.Turning {
		t := o.Turntable
		table.Moves = append(table.Moves, shot.Move{ID: o.NewID(), Kind: shot.KindTurntable, Turntable: &t})
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
		if at >= 0 || n.Mesh >= 0 || n.Local() != geom.Identity {
			return -1
		}
		at = i
	}
	return at
}

func addNodes(s *shot.Shot, m *model.Model, root string, whole int, materials []string, o Options) {
	ids := make([]string, len(m.Nodes))
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
			for _, prim := range m.Meshes[n.Mesh].Primitives {
				id := ""
				if prim.Material >= 0 {
					id = materials[prim.Material]
				}
				p.Materials = append(p.Materials, id)
			}
		}
		s.Parts = append(s.Parts, p)
	}
}

func addMaterials(s *shot.Shot, m *model.Model, o Options) []string {
	ids := make([]string, len(m.Materials))
	for i, mat := range m.Materials {
		mat.ID = o.NewID()
		ids[i] = mat.ID
		for k, slot := range mat.TextureSlots() {
			if *slot != nil && k > 0 && (*slot).Image < len(m.Images) && m.Images[(*slot).Image].Missing() {
				*slot = nil // the checker that stands for a missing picture is for base colours alone
			}
			if *slot != nil {
				t := **slot
				t.Asset = o.Asset
				*slot = &t
			}
		}
		s.Materials = append(s.Materials, mat)
	}
	return ids
}

// Stand puts the part that holds a model on the floor, or on the plinth beside it, and centres it
// on its turntable's axis by the smallest enclosing circle of its floor projection; it sizes the
// plinth and the lights to it. Nothing happens to a shot without that part.
func Stand(s *shot.Shot, rootID string, g framing.Geometry) error {
	root := s.Part(rootID)
	if root == nil {
		return nil
	}
	points, err := pointsUnder(s, s.Index(rootID), g)
	if err != nil {
		return err
	}
	if len(points) == 0 {
		return nil
	}
	floor := make([]geom.Vec2, len(points))
	low, high := math.Inf(1), math.Inf(-1)
	for i, p := range points {
		floor[i] = geom.Vec2{p[0], p[2]}
		low, high = math.Min(low, p[1]), math.Max(high, p[1])
	}
	circle := geom.EnclosingCircle(floor)
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
	placeLights(s, size, geom.Vec3{0, top + (high-low)/2, 0})
	return nil
}

// pointsUnder returns the points of everything below part i, in the frame of its parent and as if
// its own position were the origin.
func pointsUnder(s *shot.Shot, i int, g framing.Geometry) ([]geom.Vec3, error) {
	local := make([]geom.Mat4, len(s.Parts))
	below := make([]bool, len(s.Parts))
	var points []geom.Vec3
	for k := i; k < len(s.Parts); k++ {
		p := &s.Parts[k]
		rest := p.Rest
		switch up := s.Index(p.Parent); {
		case k == i:
			rest.Position = geom.Vec3{}
			local[k], below[k] = pose.Local(p, rest), true
		case up >= 0 && below[up]:
			local[k], below[k] = local[up].Mul(pose.Local(p, rest)), true
		default:
			continue
		}
		own, err := g.Points(p)
		if err != nil {
			return nil, err
		}
		for _, v := range own {
			points = append(points, local[k].Point(v))
		}
	}
	return points, nil
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

// Settle brings what follows from the rest of the document up to date after an edit: a camera that
// is kept fitted is placed by the exact fit.
func Settle(s *shot.Shot, g framing.Geometry, cache *framing.Cache) error {
	cam := s.Part(s.Camera)
	if cam == nil || !cam.Camera.Fitted {
		return nil
	}
	e := pose.New(s)
	bodies, err := framing.Bodies(e, g, cache)
	if err != nil {
		return err
	}
	if len(bodies) == 0 {
		return nil // nothing to see; the camera stays where it is
	}
	at, err := framing.Fit(e, bodies)
	if err != nil {
		return err
	}
	if cam.Parent != "" {
		inv, ok := e.At(0)[s.Index(cam.Parent)].Inverse()
		if !ok {
			return fmt.Errorf("the camera %q cannot be fitted: what it is in has no size", cam.Name)
		}
		at = inv.Point(at)
	}
	cam.Rest.Position = at
	return nil
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
	points, err := pointsUnder(s, i, g)
	if err != nil || len(points) == 0 {
		return out, err
	}
	at := s.Parts[i].Rest.Position
	floor := make([]geom.Vec2, len(points))
	box := geom.EmptyBox()
	for k, p := range points {
		floor[k] = geom.Vec2{p[0] + at[0], p[2] + at[2]}
		box = box.With(p)
	}
	out.Size = box.Size()
	if table := s.Part(s.Parts[i].Parent); table != nil {
		for _, m := range table.Moves {
			if m.Kind == shot.KindTurntable && !m.Muted {
				off := geom.EnclosingCircle(floor).Centre.Len()
				out.Wobble = &off
			}
		}
	}
	return out, nil
}
