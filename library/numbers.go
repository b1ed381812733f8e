package library

import (
	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Numbers are the measures of parts in the room, at rest on frame 0.
type Numbers struct {
	Parts     int       `json:"parts"` // with a surface
	Triangles int       `json:"triangles"`
	Vertices  int       `json:"vertices"`
	Open      int       `json:"open"` // edges without a face on each side
	Bounds    geom.Box  `json:"bounds"`
	Area      float64   `json:"area"`   // square metres
	Volume    float64   `json:"volume"` // cubic metres, of what is closed
	Mass      geom.Vec3 `json:"mass"`   // the centre of mass of what is closed, of one density throughout
}

// Measure adds up parts and all in them. Copies count once.
func Measure(d *shot.Shot, ids []string, a *Assets) (*Numbers, error) {
	out := &Numbers{Bounds: geom.EmptyBox()}
	world := pose.New(d).At(0)
	chosen := map[int]bool{}
	for _, id := range ids {
		chosen[d.Index(id)] = true
	}
	moment := geom.Vec3{}
	for i := range d.Parts {
		p := &d.Parts[i]
		if up := d.Index(p.Parent); up >= 0 && chosen[up] {
			chosen[i] = true
		}
		if !chosen[i] {
			continue
		}
		points, indices, err := a.Surface(p)
		if err != nil {
			return nil, err
		}
		if len(indices) == 0 {
			continue
		}
		m := &mesh.Mesh{Indices: indices}
		for _, v := range points {
			v = world[i].Point(v)
			out.Bounds = out.Bounds.With(v)
			m.Positions = append(m.Positions, v.F32())
		}
		out.Parts++
		out.Triangles += m.Triangles()
		out.Vertices += len(points)
		out.Area += m.Area()
		open := m.OpenEdges()
		out.Open += open
		if open > 0 {
			continue
		}
		volume, centre := m.Mass()
		if volume < 0 {
			volume = -volume
		}
		out.Volume += volume
		moment = moment.Add(centre.Mul(volume))
	}
	if out.Volume > 0 {
		out.Mass = moment.Mul(1 / out.Volume)
	}
	if out.Bounds.Empty() {
		out.Bounds = geom.Box{}
	}
	return out, nil
}
