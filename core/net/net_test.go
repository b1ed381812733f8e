package net

import (
	"math"
	"testing"

	"perigyre/core/geom"
)

// prism is what stands on a polygon of the floor, closed by a lid.
func prism(floor [][2]float64, high float64) (points []geom.Vec3, triangles []uint32) {
	n := len(floor)
	for _, y := range []float64{0, high} {
		for _, p := range floor {
			points = append(points, geom.Vec3{p[0], y, p[1]})
		}
	}
	quad := func(a, b, c, d int) {
		triangles = append(triangles, uint32(a), uint32(b), uint32(c), uint32(a), uint32(c), uint32(d))
	}
	for i := range n {
		k := (i + 1) % n
		quad(i, k, n+k, n+i)
	}
	for i := 1; i+1 < n; i++ {
		triangles = append(triangles, 0, uint32(i), uint32(i+1), uint32(n), uint32(n+i+1), uint32(n+i))
	}
	return points, triangles
}

func regular(n int, r float64) (out [][2]float64) {
	for i := range n {
		s, c := math.Sincos(2 * math.Pi * float64(i) / float64(n))
		out = append(out, [2]float64{r * c, r * s})
	}
	return out
}

// The nets of a box, of a hexagonal carton and of a wedge: all panels come to lie in the plane of the base, as large as they were, and none
// on another.
func TestNets(t *testing.T) {
	box, _ := prism([][2]float64{{0, 0}, {0.3, 0}, {0.3, 0.2}, {0, 0.2}}, 0.1)
	_, boxes := prism([][2]float64{{0, 0}, {0.3, 0}, {0.3, 0.2}, {0, 0.2}}, 0.1)
	hex, hexes := prism(regular(6, 0.1), 0.25)
	wedge := []geom.Vec3{{0, 0, 0}, {0.3, 0, 0}, {0.3, 0, 0.2}, {0, 0, 0.2}, {0, 0.1, 0}, {0.3, 0.1, 0}}
	wedges := []uint32{0, 1, 2, 0, 2, 3, 0, 4, 5, 0, 5, 1, 3, 2, 5, 3, 5, 4, 0, 3, 4, 1, 5, 2}
	for _, c := range []struct {
		name      string
		points    []geom.Vec3
		triangles []uint32
		panels    int
	}{{"box", box, boxes, 6}, {"hexagonal carton", hex, hexes, 8}, {"wedge", wedge, wedges, 5}} {
		regions := Split(c.points, c.triangles)
		if len(regions) != c.panels {
			t.Errorf("a %s has %d panels, not %d", c.name, len(regions), c.panels)
			continue
		}
		var panels []Panel
		for _, r := range regions {
			p := Panel{Points: c.points}
			for _, k := range r {
				p.Triangles = append(p.Triangles, c.triangles[3*k:3*k+3]...)
			}
			panels = append(panels, p.own())
		}
		n, err := Find(panels, geom.Vec3{0, -1, 0})
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		at := make([]geom.Mat4, len(panels)) // where each goes: turned about its hinge, which goes with what it hangs on
		for _, i := range n.Order {
			h := n.Hinges[i]
			if at[i] = geom.Identity; h.On >= 0 {
				q := geom.AxisAngle(h.Axis, h.Angle)
				turn := geom.Translation(h.At).Mul(geom.TRS(geom.Vec3{}, q, geom.Vec3{1, 1, 1})).Mul(geom.Translation(h.At.Mul(-1)))
				at[i] = at[h.On].Mul(turn)
			}
		}
		whole := 0.0
		for i, p := range panels {
			whole += measure(&panels[i]).area
			for _, q := range p.Points {
				if y := at[i].Point(q)[1]; math.Abs(y) > 1e-9 {
					t.Fatalf("%s: panel %d ends %g above the base", c.name, i, y)
				}
			}
		}
		// Sampled finely, the area that is covered is the sum of the panels': none lies on another.
		const step = 0.004
		covered := 0
		for x := -1.0; x < 1; x += step {
			for z := -1.0; z < 1; z += step {
				for i := range panels {
					if covers(&panels[i], at[i], x+1e-5, z+2e-5) {
						covered++
						break
					}
				}
			}
		}
		if got := float64(covered) * step * step; math.Abs(got-whole) > 0.02*whole {
			t.Errorf("%s: its net covers %.4f of %.4f", c.name, got, whole)
		}
	}
}

// own leaves out the points that no triangle uses.
func (p Panel) own() Panel {
	to := map[uint32]uint32{}
	out := Panel{}
	for _, k := range p.Triangles {
		if _, ok := to[k]; !ok {
			to[k] = uint32(len(out.Points))
			out.Points = append(out.Points, p.Points[k])
		}
		out.Triangles = append(out.Triangles, to[k])
	}
	return out
}

func covers(p *Panel, at geom.Mat4, x, z float64) bool {
	for t := 0; t+2 < len(p.Triangles); t += 3 {
		var v [3]geom.Vec3
		for k := range v {
			v[k] = at.Point(p.Points[p.Triangles[t+k]])
		}
		var s [3]float64
		for k := range s {
			a, b := v[k], v[(k+1)%3]
			s[k] = (b[0]-a[0])*(z-a[2]) - (b[2]-a[2])*(x-a[0])
		}
		if s[0] >= 0 && s[1] >= 0 && s[2] >= 0 || s[0] <= 0 && s[1] <= 0 && s[2] <= 0 {
			return true
		}
	}
	return false
}

// Panels as thick boxes, as cartons are modelled, find the edges that they open about.
func TestThickPanels(t *testing.T) {
	block := func(lo, hi geom.Vec3) Panel {
		points, triangles := prism([][2]float64{{lo[0], lo[2]}, {hi[0], lo[2]}, {hi[0], hi[2]}, {lo[0], hi[2]}}, hi[1]-lo[1])
		for i := range points {
			points[i][1] += lo[1]
		}
		return Panel{points, triangles}
	}
	n, err := Find([]Panel{
		block(geom.Vec3{0.005, 0.1, 0.005}, geom.Vec3{0.195, 0.105, 0.195}), // a lid between the walls
		block(geom.Vec3{0, 0, 0}, geom.Vec3{0.2, 0.005, 0.2}),
		block(geom.Vec3{0, 0.005, 0}, geom.Vec3{0.005, 0.105, 0.2}),
		block(geom.Vec3{0.195, 0.005, 0}, geom.Vec3{0.2, 0.105, 0.2}),
	}, geom.Vec3{0, -1, 0})
	if err != nil {
		t.Fatal(err)
	}
	if n.Hinges[1].On != -1 || n.Hinges[2].On != 1 || n.Hinges[3].On != 1 || n.Hinges[0].On < 2 {
		t.Fatalf("%+v", n.Hinges)
	}
	for _, i := range []int{2, 3} {
		h := n.Hinges[i]
		out := geom.AxisAngle(h.Axis, h.Angle).Rotate(geom.Vec3{0, 1, 0})
		if math.Abs(math.Abs(h.Angle)-math.Pi/2) > 1e-6 || math.Abs(h.Axis[2]) < 0.999 || out[0]*(h.At[0]-0.1) <= 0 {
			t.Errorf("wall %d opens by %v about %v at %v, to %v", i, h.Angle, h.Axis, h.At, out)
		}
	}
	if _, err := Find([]Panel{block(geom.Vec3{}, geom.Vec3{1, 0.1, 1}), block(geom.Vec3{5, 0, 0}, geom.Vec3{6, 0.1, 1})}, geom.Vec3{0, -1, 0}); err == nil {
		t.Error("panels far apart hang on each other")
	}
}
