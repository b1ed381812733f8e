// Package arrange places parts: the tree they hang in, where they stand, what they turn about.
package arrange

import (
	"fmt"
	"math"
	"sort"
	"strings"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/pose"
	"perigyre/core/shot"
	"perigyre/core/stage"
)

// Apply returns a changed copy of s and words for the history, for any edit: those of the document
// alone and those that need poses and surfaces. The document it returns is valid; s stays as it was.
func Apply(e shot.Edit, s *shot.Shot, g framing.Geometry) (*shot.Shot, string, error) {
	if e.Arrange == nil {
		return e.Apply(s)
	}
	w := &work{s: s.Clone(), g: g}
	w.world = pose.New(w.s).At(0)
	words, err := w.change(e.Arrange)
	if err != nil {
		return nil, "", err
	}
	if err := w.s.Validate(); err != nil {
		return nil, "", err
	}
	return w.s, words, nil
}

// work is a change under way. World holds the matrices of frame 0 as they were before it.
type work struct {
	s     *shot.Shot
	g     framing.Geometry
	world []geom.Mat4
}

func (w *work) change(a *shot.Arrange) (string, error) {
	switch {
	case a.Add != nil:
		p := a.Add.Part
		if p.Moves == nil {
			p.Moves = []shot.Move{}
		}
		w.s.Parts = append(w.s.Parts, p)
		w.sort()
		return "Add " + p.Name, nil
	case a.Group != nil:
		return w.group(a.Group)
	case a.Ungroup != nil:
		return w.ungroup(a.Ungroup.Part)
	case a.PutIn != nil:
		return w.putIn(a.PutIn)
	case a.Duplicate != nil:
		return w.duplicate(a.Duplicate)
	case a.Rename != nil:
		return w.rename(a.Rename)
	case a.Flag != nil:
		return w.flag(a.Flag)
	case a.Stand != nil:
		return w.each(a.Stand.Parts, "Stand", func(i int) (geom.Mat4, error) {
			box, err := w.bounds(i)
			return geom.Translation(geom.Vec3{0, w.ground(i) - a.Stand.Sink - box.Min[1], 0}), err
		})
	case a.Centre != nil:
		return w.each(a.Centre.Parts, "Centre", func(i int) (geom.Mat4, error) {
			c, err := w.footprint(i)
			at := geom.Vec3{}
			if up := w.s.Index(w.s.Parts[i].Parent); up >= 0 {
				at = w.world[up].Column(3)
			}
			return geom.Translation(geom.Vec3{at[0] - c[0], 0, at[2] - c[1]}), err
		})
	case a.Align != nil:
		return w.align(a.Align)
	case a.Distribute != nil:
		return w.distribute(a.Distribute)
	case a.Pivot != nil:
		return w.pivot(a.Pivot)
	case a.Resize != nil:
		return w.resize(a.Resize)
	case a.Transform != nil:
		t := a.Transform
		if !(t.Size > 0) || math.IsInf(t.Size, 0) {
			return "", fmt.Errorf("a size of %g times is not possible", t.Size)
		}
		turn := t.Turn.Unit()
		m := geom.Translation(t.About.Add(t.Move)).Mul(geom.TRS(geom.Vec3{}, turn, geom.Vec3{t.Size, t.Size, t.Size})).Mul(geom.Translation(t.About.Mul(-1)))
		if t.At != nil {
			return w.record(t.Parts, *t.At, m)
		}
		return w.each(t.Parts, "Place", func(int) (geom.Mat4, error) { return m, nil })
	case a.FaceTo != nil:
		f := a.FaceTo
		turn := geom.Between(f.Normal, f.Facing.Mul(-1))
		m := geom.Translation(f.To).Mul(geom.TRS(geom.Vec3{}, turn, geom.Vec3{1, 1, 1})).Mul(geom.Translation(f.From.Mul(-1)))
		return w.each([]string{f.Part}, "Face", func(int) (geom.Mat4, error) { return m, nil })
	case a.FaceCamera != nil:
		return w.faceCamera(a.FaceCamera.Parts)
	case a.Reset != nil:
		return w.reset(a.Reset.Parts)
	case a.RestHere != nil:
		return w.restHere(a.RestHere)
	case a.Stage != nil:
		list, err := w.free([]string{a.Stage.Part})
		if err != nil {
			return "", err
		}
		return "Stage " + w.names(list) + " anew", stage.Stand(w.s, a.Stage.Part, w.g)
	case a.Remove != nil:
		return w.remove(a.Remove.Parts)
	}
	return "", fmt.Errorf("the edit says nothing to arrange")
}

// outermost returns the indices of the named parts that are not inside others of them, in the order
// of the document.
func (w *work) outermost(ids []string) ([]int, error) {
	named := map[int]bool{}
	for _, id := range ids {
		i := w.s.Index(id)
		if i < 0 {
			return nil, fmt.Errorf("a part that was chosen is not in this shot any more")
		}
		named[i] = true
	}
	var out []int
	for i := range w.s.Parts {
		inside := false
		for up := w.s.Index(w.s.Parts[i].Parent); up >= 0 && !inside; up = w.s.Index(w.s.Parts[up].Parent) {
			inside = named[up]
		}
		if named[i] && !inside {
			out = append(out, i)
		}
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("nothing is chosen")
	}
	return out, nil
}

// free is outermost, refusing parts that are locked or whose place is not their own.
func (w *work) free(ids []string) ([]int, error) {
	list, err := w.outermost(ids)
	if err != nil {
		return nil, err
	}
	for _, i := range list {
		p := &w.s.Parts[i]
		if p.Locked {
			return nil, fmt.Errorf("%s is locked; unlock it to move it", p.Name)
		}
		if p.Camera != nil && p.Camera.Fitted {
			return nil, fmt.Errorf("%s is kept fitted; let it go in Frame to place it by hand", p.Name)
		}
	}
	return list, nil
}

// names puts the names of parts into words.
func (w *work) names(list []int) string {
	if len(list) == 1 {
		return w.s.Parts[list[0]].Name
	}
	return fmt.Sprintf("%d parts", len(list))
}

// setWorld changes the rest pose of a part so that its place in the room is m.
func (w *work) setWorld(i int, m geom.Mat4) error {
	p := &w.s.Parts[i]
	if up := w.s.Index(p.Parent); up >= 0 {
		inv, ok := w.world[up].Inverse()
		if !ok {
			return fmt.Errorf("%s cannot be placed: what it is in has no size", p.Name)
		}
		m = inv.Mul(m)
	}
	return w.setLocal(p, m)
}

// setLocal changes the rest pose of a part so that its matrix in its parent is m:
// T(position) T(pivot) R S T(-pivot).
func (w *work) setLocal(p *shot.Part, m geom.Mat4) error {
	_, r, s, exact := m.Decompose()
	if !exact {
		return fmt.Errorf("%s would be sheared: what it is in is stretched along one axis and it is turned; resize evenly instead", p.Name)
	}
	p.Rest.Rotation, p.Rest.Size = r, s
	p.Rest.Position = m.Point(p.Pivot).Sub(p.Pivot)
	return nil
}

// each applies a change in the room to every part.
func (w *work) each(ids []string, what string, change func(i int) (geom.Mat4, error)) (string, error) {
	list, err := w.free(ids)
	if err != nil {
		return "", err
	}
	for _, i := range list {
		m, err := change(i)
		if err != nil {
			return "", err
		}
		if err := w.setWorld(i, m.Mul(w.world[i])); err != nil {
			return "", err
		}
	}
	return what + " " + w.names(list), nil
}

// reach gathers the surfaces of a part and of what is in it, in the room.
func (w *work) reach(root int) (*mesh.Assembly, error) {
	in := map[string]bool{w.s.Parts[root].ID: true}
	var items []mesh.Placed
	for i := root; i < len(w.s.Parts); i++ { // all in it stand behind it
		p := &w.s.Parts[i]
		if !in[p.ID] && !in[p.Parent] {
			continue
		}
		in[p.ID] = true
		reach, err := w.g.Support(p)
		if err != nil {
			return nil, err
		}
		items = append(items, mesh.Placed{Of: reach, At: w.world[i]})
	}
	out := mesh.NewAssembly(items)
	if out.Empty() { // a camera, a light, an empty group: its own place
		out = mesh.NewAssembly([]mesh.Placed{{Of: mesh.NewSupport([]geom.Vec3{{}}), At: w.world[root]}})
	}
	return out, nil
}

// bounds returns the exact box round a part and what is in it, in the room.
func (w *work) bounds(root int) (geom.Box, error) {
	r, err := w.reach(root)
	if err != nil {
		return geom.Box{}, err
	}
	return r.Bounds(), nil
}

// footprint returns the centre of the smallest circle round a part's projection on the floor.
func (w *work) footprint(root int) (geom.Vec2, error) {
	r, err := w.reach(root)
	if err != nil {
		return geom.Vec2{}, err
	}
	return r.Footprint().Centre, nil
}

// ground returns the height that a part stands at: the top of a plinth beside it or beside what it is
// in, or the floor.
func (w *work) ground(i int) float64 {
	for at := i; at >= 0; at = w.s.Index(w.s.Parts[at].Parent) {
		for k := range w.s.Parts {
			p := &w.s.Parts[k]
			if p.Plinth != nil && p.Parent == w.s.Parts[at].Parent && k != at && !p.Hidden {
				return w.world[k].Point(geom.Vec3{0, p.Plinth.Height, 0})[1]
			}
		}
	}
	for k := range w.s.Parts {
		if w.s.Parts[k].Kind == shot.Floor {
			return w.world[k].Column(3)[1]
		}
	}
	return 0
}

func (w *work) align(a *shot.Align) (string, error) {
	list, err := w.free(a.Parts)
	if err != nil {
		return "", err
	}
	if a.Axis < 0 || a.Axis > 2 {
		return "", fmt.Errorf("an axis is x, y or z")
	}
	all := geom.EmptyBox()
	boxes := make([]geom.Box, len(list))
	for k, i := range list {
		if boxes[k], err = w.bounds(i); err != nil {
			return "", err
		}
		all = all.Union(boxes[k])
	}
	side := func(b geom.Box) (float64, error) {
		switch a.To {
		case "low":
			return b.Min[a.Axis], nil
		case "middle":
			return b.Centre()[a.Axis], nil
		case "high":
			return b.Max[a.Axis], nil
		}
		return 0, fmt.Errorf("parts are aligned to low, middle or high, not %q", a.To)
	}
	to, err := side(all)
	if err != nil {
		return "", err
	}
	for k, i := range list {
		from, _ := side(boxes[k])
		var d geom.Vec3
		d[a.Axis] = to - from
		if err := w.setWorld(i, geom.Translation(d).Mul(w.world[i])); err != nil {
			return "", err
		}
	}
	return "Align " + w.names(list), nil
}

func (w *work) distribute(a *shot.Distribute) (string, error) {
	list, err := w.free(a.Parts)
	if err != nil {
		return "", err
	}
	if len(list) < 3 || a.Axis < 0 || a.Axis > 2 {
		return "", fmt.Errorf("spacing out takes three parts or more")
	}
	middle := map[int]float64{}
	for _, i := range list {
		box, err := w.bounds(i)
		if err != nil {
			return "", err
		}
		middle[i] = box.Centre()[a.Axis]
	}
	sort.SliceStable(list, func(x, y int) bool { return middle[list[x]] < middle[list[y]] })
	first, last := middle[list[0]], middle[list[len(list)-1]]
	for k, i := range list {
		var d geom.Vec3
		d[a.Axis] = first + (last-first)*float64(k)/float64(len(list)-1) - middle[i]
		if err := w.setWorld(i, geom.Translation(d).Mul(w.world[i])); err != nil {
			return "", err
		}
	}
	return "Space out " + w.names(list), nil
}

func (w *work) pivot(a *shot.SetPivot) (string, error) {
	list, err := w.outermost([]string{a.Part})
	if err != nil {
		return "", err
	}
	i := list[0]
	p := &w.s.Parts[i]
	if p.Locked {
		return "", fmt.Errorf("%s is locked; unlock it to move its pivot", p.Name)
	}
	inv, ok := w.world[i].Inverse()
	if !ok {
		return "", fmt.Errorf("%s has no size, so that its pivot cannot be placed", p.Name)
	}
	box, err := w.bounds(i)
	if err != nil {
		return "", err
	}
	at := geom.Vec3{} // in the room
	switch a.To {
	case "base":
		c, err := w.footprint(i)
		if err != nil {
			return "", err
		}
		at = geom.Vec3{c[0], box.Min[1], c[1]}
	case "middle":
		at = box.Centre()
	case "origin":
		at = w.world[i].Column(3)
	case "parent":
		if up := w.s.Index(p.Parent); up >= 0 {
			at = w.world[up].Point(w.s.Parts[up].Pivot)
		}
	case "point":
		at = a.Point
	default:
		return "", fmt.Errorf("a pivot is put at the base, the middle, the origin, the parent's or a point, not %q", a.To)
	}
	if !at.Finite() {
		return "", fmt.Errorf("the place of the pivot is not a number")
	}
	q := inv.Point(at)
	// Position and pivot are both added outside the turn, so that what the pivot gains there is taken
	// back: p + v + RS(x - v) stays the same for every x.
	rs := geom.TRS(geom.Vec3{}, p.Rest.Rotation, p.Rest.Size)
	p.Rest.Position = p.Rest.Position.Add(p.Pivot).Sub(q).Add(rs.Vector(q.Sub(p.Pivot)))
	p.Pivot = q
	return "Move the pivot of " + p.Name, nil
}

func (w *work) resize(a *shot.Resize) (string, error) {
	list, err := w.free([]string{a.Part})
	if err != nil {
		return "", err
	}
	box, err := w.bounds(list[0])
	if err != nil {
		return "", err
	}
	now := box.Size()[1]
	if !(a.Height > 0) || !(now > 0) {
		return "", fmt.Errorf("a height is more than 0, before and after")
	}
	c, err := w.footprint(list[0])
	if err != nil {
		return "", err
	}
	foot, k := geom.Vec3{c[0], box.Min[1], c[1]}, a.Height/now
	m := geom.Translation(foot).Mul(geom.TRS(geom.Vec3{}, geom.NoTurn, geom.Vec3{k, k, k})).Mul(geom.Translation(foot.Mul(-1)))
	return w.each([]string{a.Part}, fmt.Sprintf("Make %.4g mm high:", a.Height*1000), func(int) (geom.Mat4, error) { return m, nil })
}

// faceCamera turns parts about the room's upright, through their pivots, until their own z, seen from above,
// points at the camera that is rendered through.
func (w *work) faceCamera(ids []string) (string, error) {
	cam := w.s.Index(w.s.Camera)
	if cam < 0 {
		return "", fmt.Errorf("the shot has no camera to face")
	}
	eye := w.world[cam].Column(3)
	return w.each(ids, "Face the camera:", func(i int) (geom.Mat4, error) {
		pivot, front := w.world[i].Point(w.s.Parts[i].Pivot), w.world[i].Column(2)
		to := eye.Sub(pivot)
		if math.Hypot(front[0], front[2]) < 1e-9*front.Len() || math.Hypot(to[0], to[2]) < 1e-12 {
			return geom.Mat4{}, fmt.Errorf("%s looks straight up or down, or is under the camera; there is no turn that faces it", w.s.Parts[i].Name)
		}
		angle := math.Atan2(to[0], to[2]) - math.Atan2(front[0], front[2])
		turn := geom.TRS(geom.Vec3{}, geom.AxisAngle(geom.Vec3{0, 1, 0}, angle), geom.Vec3{1, 1, 1})
		return geom.Translation(pivot).Mul(turn).Mul(geom.Translation(pivot.Mul(-1))), nil
	})
}

func (w *work) reset(ids []string) (string, error) {
	list, err := w.free(ids)
	if err != nil {
		return "", err
	}
	for _, i := range list {
		p := &w.s.Parts[i]
		p.Rest, p.Pivot = shot.AtRest, geom.Vec3{}
	}
	return "Reset the place of " + w.names(list), nil
}

func (w *work) restHere(a *shot.RestHere) (string, error) {
	list, err := w.free(a.Parts)
	if err != nil {
		return "", err
	}
	e := pose.New(w.s)
	for _, i := range list {
		if err := w.setLocal(&w.s.Parts[i], e.Local(i, a.Frame)); err != nil {
			return "", err
		}
	}
	return fmt.Sprintf("Make frame %g the rest pose of %s", a.Frame, w.names(list)), nil
}

func (w *work) flag(a *shot.SetFlags) (string, error) {
	words := []string{}
	var list []int
	for _, id := range a.Parts {
		i := w.s.Index(id)
		if i < 0 {
			return "", fmt.Errorf("a part that was chosen is not in this shot any more")
		}
		list = append(list, i)
	}
	flag := func(v *bool, on, off string, set func(*shot.Part, bool)) {
		if v == nil {
			return
		}
		words = append(words, map[bool]string{true: on, false: off}[*v])
		for _, i := range list {
			set(&w.s.Parts[i], *v)
		}
	}
	flag(a.Hidden, "Hide", "Show", func(p *shot.Part, v bool) { p.Hidden = v })
	flag(a.Away, "Put away", "Bring back", func(p *shot.Part, v bool) { p.Away = v })
	flag(a.Locked, "Lock", "Unlock", func(p *shot.Part, v bool) { p.Locked = v })
	if a.Tag != nil {
		words = append(words, "Tag")
		for _, i := range list {
			w.s.Parts[i].Tag = *a.Tag
		}
	}
	if len(words) == 0 || len(list) == 0 {
		return "", fmt.Errorf("nothing is set")
	}
	return strings.Join(words, ", ") + " " + w.names(list), nil
}
