// Package exploded finds how the parts of a document come apart: it brings them to core/assembly, and the plan back as a move.
package exploded

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"github.com/sourcegraph/conc/iter"

	"perigyre/core/assembly"
	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Wish is how a group is to be taken apart.
type Wish struct {
	Part  string  `json:"part"`            // the group
	Gap   float64 `json:"gap,omitempty"`   // that is left between parts, metres; 0 for a twelfth of the size
	Seen  float64 `json:"seen,omitempty"`  // instead: the gap as the camera sees it, pixels of the shot's format; 0 for none
	Stays string  `json:"stays,omitempty"` // the part that the others leave; found where it is empty
	Deep  bool    `json:"deep,omitempty"`  // groups in it are opened, too, once they have left
	// Steps are a plan that is kept: their order and ways are a designer's, and the distances alone are found.
	Steps []move.ApartStep `json:"steps,omitempty"`
}

// Left is a part that cannot leave along a straight line, and what is in its way where least is.
type Left struct {
	Part string   `json:"part"`
	By   []string `json:"by"`
}

// Plan is the move that takes a group apart, and what it leaves together.
type Plan struct {
	Move  shot.Move `json:"move"` // without an id
	Stays string    `json:"stays"`
	Left  []Left    `json:"left"`
}

// maxPieces are taken apart, and so many triangles.
const (
	maxPieces    = 2000
	maxTriangles = 5_000_000
)

// Find plans how a group comes apart, from how everything is at rest. share is told how far it is. It ends with the context.
func Find(ctx context.Context, e *pose.Evaluator, g framing.Geometry, w Wish, share func(float64)) (Plan, error) {
	out := Plan{Left: []Left{}}
	if !(w.Gap >= 0 && w.Gap <= 1e6) {
		return out, fmt.Errorf("a gap between parts is 0 to a thousand kilometres, not %g m", w.Gap)
	}
	if !(w.Seen >= 0 && w.Seen <= 1e4) {
		return out, fmt.Errorf("a gap that is seen between parts is 0 to 10,000 pixels, not %g", w.Seen)
	}
	root := e.Index.Part(w.Part)
	if root < 0 || e.Shot.Parts[root].Kind != shot.Group {
		return out, fmt.Errorf("a group is taken apart; select one that holds the parts")
	}
	f := finder{ctx: ctx, e: e, g: g, hidden: e.Index.Hidden(), left: maxTriangles}
	if err := f.spread(); err != nil {
		return out, err
	}
	list, err := f.units(root)
	if err != nil {
		return out, err
	}
	for len(list) == 1 { // a group in a group
		more, err := f.units(list[0].part)
		if err != nil {
			return out, err
		}
		if len(more) == 0 {
			break
		}
		list = more
	}
	if len(list) < 2 {
		return out, fmt.Errorf("there are not two parts in %s that could leave each other", e.Shot.Parts[root].Name)
	}
	box := geom.EmptyBox()
	for _, u := range list {
		box = box.Union(u.Bounds())
	}
	if w.Gap <= 1e-6*box.Size().Len() {
		w.Gap = box.Size().Len() / 12
	}
	v := viewOf(e, root, box.Centre())
	f.hides = v.hides
	if f.gap = assembly.Even(w.Gap); w.Seen > 0 {
		if v == nil {
			return out, fmt.Errorf("the shot has no camera that sees the parts, so that a gap has no size in pixels; give it in millimetres")
		}
		f.gap = v.gap(w.Seen)
	}
	if len(w.Steps) > 0 {
		out.Move, err = f.distances(list, w.Steps)
		return out, err
	}
	steps, _, err := f.plan(list, w, &out, share)
	if err != nil {
		return out, err
	}
	if len(steps) == 0 {
		return out, fmt.Errorf("no part of %s can leave the others along a straight line: %s", e.Shot.Parts[root].Name, f.words(out.Left))
	}
	out.Move = move.TakenApart(steps)
	return out, nil
}

// unit is a part that leaves as one, with all in it.
type unit struct {
	assembly.Piece
	part int
}

type finder struct {
	ctx    context.Context
	e      *pose.Evaluator
	g      framing.Geometry
	hidden []bool
	left   int                   // triangles that may still come
	copies map[int][]pose.Copied // of each copies part, as everything is at rest
	gap    func(way geom.Vec3) float64
	hides  func(way geom.Vec3) float64
}

// spread finds where copies stand.
func (f *finder) spread() error {
	rest := make([]geom.Mat4, len(f.e.Shot.Parts))
	for i := range rest {
		rest[i] = f.e.AtRest(i)
	}
	list, err := f.e.Spreads(0, rest, f.g)
	f.copies = map[int][]pose.Copied{}
	for _, c := range list {
		f.copies[c.Spread] = append(f.copies[c.Spread], c)
	}
	return err
}

// units are the parts of a group that are seen, each with all in it.
func (f *finder) units(group int) (out []unit, err error) {
	var surfaces []surface
	for _, i := range f.e.Index.Children(group) {
		u, s, err := f.unit(i)
		if err != nil {
			return nil, err
		}
		if len(s.faces) == 0 {
			continue
		}
		if out, surfaces = append(out, u), append(surfaces, s); len(out) > maxPieces {
			return nil, fmt.Errorf("more than %d parts are not taken apart at once; put them into groups", maxPieces)
		}
	}
	solids := iter.Map(surfaces, func(s *surface) *assembly.Solid {
		return assembly.NewSolid(s.points, s.faces, geom.Vec3{1, 1, 1})
	})
	for k := range out {
		out[k].Solid = solids[k]
	}
	return out, nil
}

// surface is what a unit looks like in the room.
type surface struct {
	points []geom.Vec3
	faces  []uint32
}

// unit is a part with all in it, without its tree, and its surface.
func (f *finder) unit(i int) (unit, surface, error) {
	e := f.e
	var out surface
	add := func(part int, at geom.Mat4) error {
		list, of, err := f.g.Surface(&e.Shot.Parts[part])
		if err != nil {
			return err
		}
		if f.left -= len(of) / 3; f.left < 0 {
			return fmt.Errorf("more than %d triangles are not taken apart at once", maxTriangles)
		}
		out.add(list, of, at)
		return nil
	}
	for k := range e.Shot.Parts {
		p := &e.Shot.Parts[k]
		if !e.Index.Within(k, i) || f.hidden[k] || p.Kind == shot.Floor || p.Kind == shot.Cutter {
			continue
		}
		for _, c := range f.copies[k] {
			for _, place := range c.Places {
				if err := add(c.Part, e.AtRest(k).Mul(place)); err != nil {
					return unit{}, out, err
				}
			}
		}
		if p.Mesh == nil && p.Shaped() == nil {
			continue
		}
		if err := add(k, e.AtRest(k)); err != nil {
			return unit{}, out, err
		}
	}
	_, turn, _, _ := e.AtRest(i).Decompose()
	return unit{assembly.Piece{Turn: turn, Alike: out.measures(turn)}, i}, out, nil
}

// add puts triangles at a place; where that mirrors them, their faces are turned back.
func (s *surface) add(points []geom.Vec3, faces []uint32, at geom.Mat4) {
	n, flip := uint32(len(s.points)), at.Det() < 0
	for _, q := range points {
		s.points = append(s.points, at.Point(q))
	}
	for t := 0; t+2 < len(faces); t += 3 {
		a, b, c := n+faces[t], n+faces[t+1], n+faces[t+2]
		if flip {
			b, c = c, b
		}
		s.faces = append(s.faces, a, b, c)
	}
}

// measures are words that equal surfaces share wherever they stand, and whichever meshes they are of: how many triangles, how large
// along their own axes, their area and their volume.
func (s *surface) measures(turn geom.Quat) string {
	points, faces := s.points, s.faces
	if len(faces) == 0 {
		return ""
	}
	box, area, volume := geom.EmptyBox(), 0.0, 0.0
	back := turn.Inverse()
	for _, p := range points {
		box = box.With(back.Rotate(p))
	}
	for t := 0; t+2 < len(faces); t += 3 {
		a, b, c := points[faces[t]].Sub(points[0]), points[faces[t+1]].Sub(points[0]), points[faces[t+2]].Sub(points[0])
		area += b.Sub(a).Cross(c.Sub(a)).Len()
		volume += a.Dot(b.Cross(c))
	}
	size := box.Size()
	return fmt.Sprintf("%d %.3g %.3g %.3g %.3g %.3g", len(faces), size[0], size[1], size[2], area, volume)
}

// plan takes units apart, and returns the steps with the box of all that they need. Where groups are to be opened, they are once they
// have left; those that only leave as one, or do not leave at all, are opened together, each part of them by itself.
func (f *finder) plan(list []unit, w Wish, out *Plan, share func(float64)) (steps []move.ApartStep, reach geom.Box, err error) {
	pieces := make([]assembly.Piece, len(list))
	stays := -1
	for k := range list {
		pieces[k] = list[k].Piece
		if f.e.Shot.Parts[list[k].part].ID == w.Stays {
			stays = k
		}
	}
	p, err := assembly.TakeApart(f.ctx, pieces, assembly.Want{Gap: f.gap, Stays: stays, Hides: f.hides}, share)
	if err != nil {
		return nil, reach, err
	}
	var inner []move.ApartStep
	if w.Deep {
		freed := map[int]bool{}
		for _, set := range apart(p, len(list)) {
			var more []unit
			for _, k := range set {
				units, err := f.units(list[k].part)
				if err != nil {
					return nil, reach, err
				}
				if len(units) < 2 {
					units = list[k : k+1]
				}
				more = append(more, units...)
			}
			if len(more) == len(set) || len(more) < 2 {
				continue
			}
			inside, below := w, Plan{Left: []Left{}}
			inside.Stays = ""
			got, room, err := f.plan(more, inside, &below, func(float64) {})
			if err != nil {
				return nil, reach, err
			}
			inner = append(inner, got...)
			for _, k := range set {
				pieces[k].Later, freed[k] = room, true
			}
			out.Left = append(out.Left, below.Left...)
		}
		p.Stuck = slices.DeleteFunc(p.Stuck, func(s assembly.Stuck) bool { return freed[s.Piece] })
		assembly.Arrange(pieces, p.Steps, f.gap)
	}
	reach = geom.EmptyBox()
	for k := range pieces {
		reach = reach.Union(pieces[k].Bounds())
		if pieces[k].Later != (geom.Box{}) {
			reach = reach.Union(pieces[k].Later)
		}
	}
	id := func(k int) string { return f.e.Shot.Parts[list[k].part].ID }
	if p.Stays >= 0 {
		out.Stays = id(p.Stays)
	}
	gone := make([]geom.Vec3, len(list))
	for _, s := range p.Steps {
		one := move.ApartStep{By: rounded(s.By)}
		for _, l := range s.Pieces {
			way := l.Way
			if up := f.e.Index.Parent(list[l.Piece].part); up >= 0 {
				if back, ok := f.e.AtRest(up).Inverse(); ok {
					way = back.Vector(way).Unit()
				}
			}
			one.Parts = append(one.Parts, move.ApartPart{Part: id(l.Piece), Way: way})
			b := list[l.Piece].Bounds()
			if later := pieces[l.Piece].Later; later != (geom.Box{}) {
				b = b.Union(later)
			}
			gone[l.Piece] = gone[l.Piece].Add(l.Way.Mul(one.By))
			reach = reach.Union(geom.Box{Min: b.Min.Add(gone[l.Piece]), Max: b.Max.Add(gone[l.Piece])})
		}
		steps = append(steps, one)
	}
	for _, s := range p.Stuck {
		l := Left{Part: id(s.Piece), By: []string{}}
		for _, k := range s.By {
			l.By = append(l.By, id(k))
		}
		out.Left = append(out.Left, l)
	}
	return append(steps, inner...), reach, nil
}

// distances gives the steps of a plan the shortest ones that leave the gap.
func (f *finder) distances(list []unit, steps []move.ApartStep) (shot.Move, error) {
	pieces, at := make([]assembly.Piece, len(list)), map[string]int{}
	for k := range list {
		pieces[k], at[f.e.Shot.Parts[list[k].part].ID] = list[k].Piece, k
	}
	plan, named := make([]assembly.Step, len(steps)), 0
	for i, s := range steps {
		for _, p := range s.Parts {
			k, ok := at[p.Part]
			if named++; named > 4*maxPieces {
				return shot.Move{}, fmt.Errorf("a plan that names parts more than %d times is not measured", 4*maxPieces)
			}
			if long := p.Way.Len(); !ok || !(long > 0.99 && long < 1.01) {
				return shot.Move{}, fmt.Errorf("step %d names a part that is not in the group itself, but deeper in it or gone, or goes no way; let the whole be planned anew", i+1)
			}
			way := p.Way
			if up := f.e.Index.Parent(list[k].part); up >= 0 {
				way = f.e.AtRest(up).Vector(way)
			}
			plan[i].Pieces = append(plan[i].Pieces, assembly.Leaving{Piece: k, Way: way.Unit()})
		}
	}
	assembly.Arrange(pieces, plan, f.gap)
	out := slices.Clone(steps)
	for i := range out {
		out[i].By = rounded(plan[i].By)
	}
	return move.TakenApart(out), nil
}

// apart are the sets of pieces that a plan leaves together, since some of them cannot leave the others; every other piece is one by
// itself. What has left by the same steps stands as it stood.
func apart(p assembly.Plan, n int) (out [][]int) {
	steps := make([]string, n)
	for k, s := range p.Steps {
		for _, l := range s.Pieces {
			steps[l.Piece] += fmt.Sprint(k, " ")
		}
	}
	stuck := map[string]bool{}
	for _, s := range p.Stuck {
		stuck[steps[s.Piece]] = true
	}
	place := map[string]int{}
	for k := range n {
		if at, ok := place[steps[k]]; ok && stuck[steps[k]] {
			out[at] = append(out[at], k)
			continue
		}
		place[steps[k]] = len(out)
		out = append(out, []int{k})
	}
	return out
}

// rounded is a distance of three digits, and not less.
func rounded(v float64) float64 {
	if !(v > 0) {
		return 0 // of a step that names nothing
	}
	unit := math.Pow(10, math.Floor(math.Log10(v))-2)
	return math.Ceil(v/unit-1e-9) * unit
}

// words say what is left together.
func (f *finder) words(list []Left) string {
	var out []string
	name := func(id string) string { return f.e.Shot.Part(id).Name }
	for _, l := range list[:min(4, len(list))] {
		var by []string
		for _, id := range l.By[:min(3, len(l.By))] {
			by = append(by, name(id))
		}
		out = append(out, name(l.Part)+" is blocked by "+strings.Join(by, ", "))
	}
	return strings.Join(out, "; ")
}
