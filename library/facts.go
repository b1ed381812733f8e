package library

import (
	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/shot"
)

// Facts are what triage wants to know of a mesh, in its own unit. They are worked out once.
type Facts struct {
	Triangles int      `json:"triangles"`
	Open      int      `json:"open"`   // edges without a face on each side
	Volume    float64  `json:"volume"` // of closed meshes; negative for one whose inside is out
	Area      float64  `json:"area"`
	Pieces    int      `json:"pieces"` // that hang together
	Bounds    geom.Box `json:"bounds"`
}

// Facts returns what is known of a mesh of an asset.
func (a *Assets) Facts(ref shot.MeshRef) (Facts, error) {
	a.mu.Lock()
	f, ok := a.facts[ref]
	a.mu.Unlock()
	if ok {
		return f, nil
	}
	prims, err := a.Mesh(ref)
	if err != nil {
		return f, err
	}
	f.Bounds = geom.EmptyBox()
	whole := &mesh.Mesh{}
	for _, p := range prims {
		bare := &mesh.Mesh{Positions: p.Positions, Indices: p.Indices}
		whole.Append(bare)
		f.Bounds = f.Bounds.Union(p.Bounds())
	}
	f.Triangles, f.Open, f.Volume, f.Area, f.Pieces = whole.Triangles(), whole.OpenEdges(), whole.Volume(), whole.Area(), len(whole.Pieces())
	a.mu.Lock()
	if a.facts == nil || len(a.facts) > 100_000 {
		a.facts = map[shot.MeshRef]Facts{}
	}
	a.facts[ref] = f
	a.mu.Unlock()
	return f, nil
}
