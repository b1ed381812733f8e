package library

import (
	"fmt"
	"math"
	"sort"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Triage is what looks out of order in the imports of a shot.
type Triage struct {
	Strays []Stray  `json:"strays"` // parts that are likely not wanted
	Inside []string `json:"inside"` // parts whose inside is out
	Loose  []Loose  `json:"loose"`  // parts in several pieces
	Equal  int      `json:"equal"`  // parts that could share a mesh with another and do not

	Doubts []PlacedPicture `json:"doubts"` // textures that do not look like what their slot is for
}

// Stray is a part that is likely not wanted, and why.
type Stray struct {
	Part string `json:"part"`
	Name string `json:"name"`
	Kind string `json:"kind"` // tiny, far, flat, twice or empty
	Why  string `json:"why"`
}

// Loose is a part in several pieces.
type Loose struct {
	Part   string `json:"part"`
	Name   string `json:"name"`
	Pieces int    `json:"pieces"`
}

// What counts as a stray: common practice, no source.
const (
	tinyShare  = 1.0 / 400 // of the whole's size
	farShare   = 4.0       // sizes of the rest from its middle
	flatShare  = 1e-4      // thickness to size
	flatSimple = 600       // triangles of a helper disc or plane
	samePlace  = 1e-5      // of a part's size
)

type solid struct {
	part  int
	facts Facts
	world geom.Mat4
	box   geom.Box
	size  float64
}

// Examine looks at all parts that came from files.
func Examine(d *shot.Shot, a *Assets) (*Triage, error) {
	out := &Triage{Strays: []Stray{}, Inside: []string{}, Loose: []Loose{}, Doubts: Doubts(d, a)}
	world := pose.New(d).At(0)
	// Parts stand after what they are in: those of a source are known by the part above.
	from, x := make([]bool, len(d.Parts)), shot.NewIndex(d)
	for _, s := range d.Sources {
		if root := x.Part(s.Root); root >= 0 {
			from[root] = true
		}
	}
	for i := range d.Parts {
		if up := x.Part(d.Parts[i].Parent); up >= 0 {
			from[i] = from[i] || from[up]
		}
	}
	full := map[string]bool{}
	var solids []solid
	for i := len(d.Parts) - 1; i >= 0; i-- {
		p := &d.Parts[i]
		if p.Kind != shot.Group || full[p.ID] {
			full[p.Parent] = true
		}
		if p.Mesh == nil || !from[i] {
			continue
		}
		f, err := a.Facts(*p.Mesh)
		if err != nil {
			return nil, err
		}
		if f.Bounds.Empty() {
			continue
		}
		box := f.Bounds.Transformed(world[i])
		solids = append(solids, solid{i, f, world[i], box, box.Size().Len()})
	}
	sort.Slice(solids, func(x, y int) bool { return solids[x].part < solids[y].part })
	for i := range d.Parts {
		if p := &d.Parts[i]; p.Kind == shot.Group && from[i] && !full[p.ID] {
			out.Strays = append(out.Strays, Stray{p.ID, p.Name, "empty", "a group with nothing in it"})
		}
	}
	strays(d, solids, out)
	type key struct{ positions, indices int }
	groups := map[key][]shot.MeshRef{}
	seen := map[shot.MeshRef]bool{}
	for _, s := range solids {
		p := &d.Parts[s.part]
		if s.facts.Open == 0 && s.facts.Volume*s.world.Det() < 0 {
			out.Inside = append(out.Inside, p.ID)
		}
		if s.facts.Pieces > 1 {
			out.Loose = append(out.Loose, Loose{p.ID, p.Name, s.facts.Pieces})
		}
		if seen[*p.Mesh] {
			continue
		}
		seen[*p.Mesh] = true
		prims, err := a.Mesh(*p.Mesh)
		if err != nil {
			return nil, err
		}
		if len(prims) == 1 {
			k := key{len(prims[0].Positions), len(prims[0].Indices)}
			groups[k] = append(groups[k], *p.Mesh)
		}
	}
	for _, refs := range groups {
		for i := 1; i < len(refs) && i < 500; i++ {
			one, err := a.Mesh(refs[i])
			if err != nil {
				return nil, err
			}
			first, err := a.Mesh(refs[0])
			if err != nil {
				return nil, err
			}
			if _, ok := mesh.Same(first[0].Mesh, one[0].Mesh); ok {
				out.Equal++
			}
		}
	}
	return out, nil
}

// strays finds parts by their size, their distance and their place.
func strays(d *shot.Shot, solids []solid, out *Triage) {
	if len(solids) < 2 {
		return
	}
	// The middle and the reach of the model by weighted medians, each part counting by its size, so that
	// small strays do not change them.
	middle := geom.Vec3{}
	for a := range middle {
		middle[a] = quantile(solids, 0.5, func(s solid) float64 { return s.box.Centre()[a] })
	}
	away := func(s solid) float64 { return s.box.Centre().Sub(middle).Len() + s.size/2 }
	reach := make([]float64, len(solids))
	for i, s := range solids {
		reach[i] = away(s)
	}
	typical := quantile(solids, 0.67, away)
	same := newTwins(d, solids)
	for i, s := range solids {
		p := &d.Parts[s.part]
		size := s.box.Size()
		thin := math.Min(size[0], math.Min(size[1], size[2]))
		local := s.facts.Bounds.Size()
		thin = math.Min(thin, math.Min(local[0], math.Min(local[1], local[2]))*s.world.Column(0).Len())
		add := func(kind, why string) { out.Strays = append(out.Strays, Stray{p.ID, p.Name, kind, why}) }
		switch {
		case same.seen(s):
			add("twice", "exactly on top of an equal part")
		case reach[i]-s.size/2 > farShare*typical:
			add("far", fmt.Sprintf("%.3g times the model's size away from it", (reach[i]-s.size/2)/typical))
		case s.size < 2*typical*tinyShare:
			add("tiny", fmt.Sprintf("%.3g mm large", s.size*1000))
		case thin < flatShare*s.size && s.facts.Triangles <= flatSimple && s.facts.Open > 0:
			add("flat", fmt.Sprintf("a flat sheet of %d triangles", s.facts.Triangles))
		}
	}
}

// twins finds parts on top of others by the cells that the lower corners of their boxes lie in. Cells are as large as the
// largest distance at which two parts are in one place.
type twins struct {
	d     *shot.Shot
	cell  float64
	cells map[[3]int64][]solid
}

func newTwins(d *shot.Shot, solids []solid) *twins {
	t := &twins{d: d, cell: 1e-300, cells: map[[3]int64][]solid{}}
	for _, s := range solids {
		t.cell = math.Max(t.cell, samePlace*s.size)
	}
	return t
}

// seen reports whether an equal part came before at the same place, and remembers this one.
func (t *twins) seen(s solid) bool {
	var at [3]int64
	for k := range at {
		at[k] = int64(math.Floor(math.Max(-1e15, math.Min(1e15, s.box.Min[k]/t.cell))))
	}
	for n := range 27 {
		near := [3]int64{at[0] + int64(n%3) - 1, at[1] + int64(n/3%3) - 1, at[2] + int64(n/9) - 1}
		for _, o := range t.cells[near] {
			if onTop(t.d, s, o) {
				return true // others there are found by the one that is kept
			}
		}
	}
	t.cells[at] = append(t.cells[at], s)
	return false
}

// quantile returns the value below which a share of the parts lies, each counting by its size.
func quantile(solids []solid, share float64, value func(solid) float64) float64 {
	list := append([]solid(nil), solids...)
	sort.SliceStable(list, func(i, j int) bool { return value(list[i]) < value(list[j]) })
	total := 0.0
	for _, s := range list {
		total += s.size
	}
	sum := 0.0
	for _, s := range list {
		if sum += s.size; sum >= share*total {
			return value(s)
		}
	}
	return value(list[len(list)-1])
}

// onTop reports whether two parts show the same mesh at the same place.
func onTop(d *shot.Shot, a, b solid) bool {
	if *d.Parts[a.part].Mesh != *d.Parts[b.part].Mesh {
		f, g := a.facts, b.facts
		if f.Triangles != g.Triangles || math.Abs(f.Area-g.Area) > 1e-6*f.Area {
			return false
		}
	}
	near := samePlace * a.size
	return a.box.Min.Sub(b.box.Min).Len() < near && a.box.Max.Sub(b.box.Max).Len() < near
}
