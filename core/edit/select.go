package edit

import (
	"fmt"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/shot"
)

// outermost returns the indices of the named parts that are not inside others of them, in the order
// of the document.
func (w *Work) outermost(ids []string) ([]int, error) {
	named := map[int]bool{}
	for _, id := range ids {
		i := w.Index().Part(id)
		if i < 0 {
			return nil, ErrGone
		}
		named[i] = true
	}
	var out []int
	for i := range w.Shot.Parts {
		inside := false
		for up := w.Index().Parent(i); up >= 0 && !inside; up = w.Index().Parent(up) {
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
func (w *Work) free(ids []string) ([]int, error) {
	list, err := w.outermost(ids)
	if err != nil {
		return nil, err
	}
	for _, i := range list {
		p := &w.Shot.Parts[i]
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
func (w *Work) names(list []int) string {
	if len(list) == 1 {
		return w.Shot.Parts[list[0]].Name
	}
	return fmt.Sprintf("%d parts", len(list))
}

// setWorld changes the rest pose of a part so that its place in the room is m.
func (w *Work) setWorld(i int, m geom.Mat4) error {
	p := &w.Shot.Parts[i]
	if up := w.Index().Part(p.Parent); up >= 0 {
		inv, ok := w.World()[up].Inverse()
		if !ok {
			return fmt.Errorf("%s cannot be placed: what it is in has no size", p.Name)
		}
		m = inv.Mul(m)
	}
	return w.setLocal(p, m)
}

// setLocal changes the rest pose of a part so that its matrix in its parent is m:
// T(position) T(pivot) R S T(-pivot).
func (w *Work) setLocal(p *shot.Part, m geom.Mat4) error {
	_, r, s, exact := m.Decompose()
	if !exact {
		return fmt.Errorf("%s would be sheared: what it is in is stretched along one axis and it is turned; resize evenly instead", p.Name)
	}
	p.Rest.Rotation, p.Rest.Size = r, s
	p.Rest.Position = m.Point(p.Pivot).Sub(p.Pivot)
	return nil
}

// each applies a change in the room to every part.
func (w *Work) each(ids []string, what string, change func(i int) (geom.Mat4, error)) (string, error) {
	list, err := w.free(ids)
	if err != nil {
		return "", err
	}
	for _, i := range list {
		m, err := change(i)
		if err != nil {
			return "", err
		}
		if err := w.setWorld(i, m.Mul(w.World()[i])); err != nil {
			return "", err
		}
	}
	return what + " " + w.names(list), nil
}

// reach gathers the surfaces of a part and of what is in it, in the room.
func (w *Work) reach(root int) (*mesh.Assembly, error) {
	var items []mesh.Placed
	for i := root; i < len(w.Shot.Parts); i++ { // all in it stand behind it
		p := &w.Shot.Parts[i]
		if !w.Index().Within(i, root) {
			continue
		}
		reach, err := w.Assets.Support(p)
		if err != nil {
			return nil, err
		}
		items = append(items, mesh.Placed{Of: reach, At: w.World()[i]})
	}
	out := mesh.NewAssembly(items)
	if out.Empty() { // a camera, a light, an empty group: its own place
		out = mesh.NewAssembly([]mesh.Placed{{Of: mesh.NewSupport([]geom.Vec3{{}}), At: w.World()[root]}})
	}
	return out, nil
}

// bounds returns the exact box round a part and what is in it, in the room.
func (w *Work) bounds(root int) (geom.Box, error) {
	r, err := w.reach(root)
	if err != nil {
		return geom.Box{}, err
	}
	return r.Bounds(), nil
}

// footprint returns the centre of the smallest circle round a part's projection on the floor.
func (w *Work) footprint(root int) (geom.Vec2, error) {
	r, err := w.reach(root)
	if err != nil {
		return geom.Vec2{}, err
	}
	return r.Footprint().Centre, nil
}

// ground returns the height that a part stands at: the top of a plinth beside it or beside what it is
// in, or the floor.
func (w *Work) ground(i int) float64 {
	for at := i; at >= 0; at = w.Index().Part(w.Shot.Parts[at].Parent) {
		for k := range w.Shot.Parts {
			p := &w.Shot.Parts[k]
			if p.Plinth != nil && p.Parent == w.Shot.Parts[at].Parent && k != at && !p.Hidden {
				return w.World()[k].Point(geom.Vec3{0, p.Plinth.Height, 0})[1]
			}
		}
	}
	for k := range w.Shot.Parts {
		if w.Shot.Parts[k].Kind == shot.Floor {
			return w.World()[k].Column(3)[1]
		}
	}
	return 0
}
