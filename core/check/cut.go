package check

import (
	"fmt"
	"math"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/shot"
)

// Cuts: what a cutter opens is not closed, so that it shows thin walls and no cut faces.
func init() {
	register(24, func(f *Facts) (out []Finding) {
		s, e := f.Pose.Shot, f.Pose
		hidden := e.Index.Hidden()
		told := map[int]bool{}
		for c := range s.Parts {
			cut := s.Parts[c].Cut
			if cut == nil || hidden[c] {
				continue
			}
			for _, i := range f.reached(c, hidden) {
				if told[i] || !f.memory.Open(f.Geometry, &s.Parts[i]) {
					continue
				}
				told[i] = true
				out = append(out, Finding{
					Kind: "open mesh", Weight: Look, Parts: []string{s.Parts[i].ID, s.Parts[c].ID}, Value: 1, Unit: "part",
					Title: f.name(s.Parts[i].ID) + " is not closed",
					Why:   fmt.Sprintf("%s cuts it open. Its mesh has edges on which only one triangle lies, so that nobody can say what is inside: the cut shows thin walls, and no cut faces.", f.name(s.Parts[c].ID)),
				})
			}
		}
		return out
	})
}

// reached are the parts that a cutter comes into at some time and that it cuts.
func (f *Facts) reached(c int, hidden []bool) (out []int) {
	s, e := f.Pose.Shot, f.Pose
	cut := s.Parts[c].Cut
	half := cut.Size.Mul(0.5)
	const far = 1e6
	switch cut.Shape {
	case "slab":
		half = geom.Vec3{far, half[1], far}
	case "sphere":
		half = geom.Vec3{cut.Radius, cut.Radius, cut.Radius}
	case "cylinder":
		half = geom.Vec3{cut.Radius, half[1], cut.Radius}
	case "part":
		of := e.Index.Part(cut.Of)
		if of < 0 {
			return nil
		}
		support, err := f.Geometry.Support(&s.Parts[of])
		if err != nil {
			return nil
		}
		b := support.Bounds()
		for k := range half {
			half[k] = math.Max(math.Abs(b.Min[k]), math.Abs(b.Max[k]))
		}
		c = of
	}
	own := geom.Box{Min: half.Mul(-1), Max: half}
	met := map[int]bool{}
	for t := 0; t < s.Frames; t += max(1, s.Frames/24) {
		world := e.At(float64(t))
		at := own.Transformed(world[c])
		for i := range s.Parts {
			p := &s.Parts[i]
			if met[i] || hidden[i] || p.Mesh == nil && p.Shaped() == nil || !f.cuts(cut, i) {
				continue
			}
			support, err := f.Geometry.Support(p)
			if err != nil || support.Bounds().Empty() {
				continue
			}
			if !at.Intersection(support.Bounds().Transformed(world[i])).Empty() {
				met[i] = true
				out = append(out, i)
			}
		}
	}
	return out
}

// cuts reports whether a cutter is meant for a part.
func (f *Facts) cuts(cut *shot.Cut, part int) bool {
	for _, id := range cut.Parts {
		if root := f.Pose.Index.Part(id); root >= 0 && f.Pose.Index.Within(part, root) {
			return true
		}
	}
	return len(cut.Parts) == 0
}

// Open reports whether a part's mesh is not closed. It is remembered; a nil memory remembers nothing.
func (m *Memory) Open(g framing.Geometry, p *shot.Part) bool {
	var key any
	if p.Mesh != nil {
		key = *p.Mesh
	} else {
		key = p.Shaped().Key()
	}
	if m == nil {
		return open(g, p)
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	got, ok := m.open[key]
	if !ok {
		if m.open == nil || len(m.open) > maxPieces {
			m.open = map[any]bool{}
		}
		got = open(g, p)
		m.open[key] = got
	}
	return got
}

func open(g framing.Geometry, p *shot.Part) bool {
	points, triangles, err := g.Surface(p)
	if err != nil || len(triangles) > 3*maxFaces {
		return false
	}
	m := mesh.Mesh{Positions: make([][3]float32, len(points)), Indices: triangles}
	for k, p := range points {
		m.Positions[k] = p.F32()
	}
	return !mesh.Closed(&m)
}
