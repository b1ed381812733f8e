package check

import (
	"fmt"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/scene"
)

// glances are how often over a shot the camera's place and view are looked at.
const glances = 24

// The camera's place: inside of something closed, so that it sees that from within; or looking past everything.
func init() {
	register(22, func(f *Facts) (out []Finding) {
		e := f.Pose
		if e.Index.Part(e.Shot.Camera) < 0 || f.Margins == nil {
			return nil
		}
		step := max(1, e.Shot.Frames/glances)
		within := map[string]*[2]float64{}
		var order []string
		blind := 0
		var away *[2]float64
		for t := 0; t < e.Shot.Frames; t += step {
			s, owners, err := scene.Moment(e, motion.At(e.Shot, float64(t)), f.Geometry)
			if err != nil {
				return nil
			}
			inside, sees := f.looksFrom(s, owners)
			for _, part := range inside {
				if within[part] == nil {
					within[part] = frame(float64(t))
					order = append(order, part)
				}
				within[part][1] = float64(t)
			}
			if !sees {
				if blind++; away == nil {
					away = frame(float64(t))
				}
				away[1] = float64(t)
			}
		}
		for _, part := range order {
			out = append(out, Finding{
				Kind: "inside", Weight: Blocks, Title: "The camera is inside " + f.name(part), Parts: []string{e.Shot.Camera, part}, Frames: within[part],
				Value: within[part][1] - within[part][0] + 1, Unit: "frames", Why: fmt.Sprintf("On frame %.0f it stands in it and sees it from within.", within[part][0]),
			})
		}
		if blind > 0 {
			one := Finding{Kind: "blind", Weight: Look, Title: "The camera looks past everything", Parts: []string{e.Shot.Camera}, Frames: away, Value: float64(blind * step), Unit: "frames",
				Why: fmt.Sprintf("From frame %.0f on nothing is in the picture.", away[0])}
			if blind*step >= e.Shot.Frames {
				one.Weight, one.Why = Blocks, "On no frame anything is in the picture."
			}
			out = append(out, one)
		}
		return out
	})
}

// looksFrom returns the parts that the camera of a scene is inside of, and whether anything is in its picture.
func (f *Facts) looksFrom(s *scene.Scene, owners *scene.Owners) (inside []string, sees bool) {
	eye := s.Camera.At.Column(3)
	toEye, ok := s.Camera.At.Inverse()
	if !ok {
		return nil, true
	}
	sets := f.Pose.Index.Sets()
	for i := range s.Bodies {
		b := &s.Bodies[i]
		if len(b.Bends) > 0 {
			sees = true
			continue
		}
		support, err := f.Geometry.Support(&f.Pose.Shot.Parts[owners.Bodies[i].Part])
		if err != nil {
			continue
		}
		box := support.Bounds()
		if box.Empty() {
			continue
		}
		if !sees {
			sees = inPicture(s.Camera, toEye.Mul(b.At), box)
		}
		back, ok := b.At.Inverse()
		if !ok || sets[owners.Bodies[i].Carrier] {
			continue
		}
		p := back.Point(eye)
		if !box.Holds(p) || f.room(s, i, back, box) {
			continue
		}
		points, triangles, err := f.Geometry.Surface(&f.Pose.Shot.Parts[owners.Bodies[i].Part])
		if err == nil && contains(points, triangles, p) {
			inside = append(inside, f.Pose.Shot.Parts[owners.Bodies[i].Carrier].ID)
		}
	}
	return inside, sees
}

// room reports whether most of what else there is stands in a body too: then it is a room, and the camera belongs into it.
func (f *Facts) room(s *scene.Scene, i int, back geom.Mat4, box geom.Box) bool {
	in := 0
	for k := range s.Bodies {
		if k != i && box.Holds(back.Point(s.Bodies[k].At.Column(3))) {
			in++
		}
	}
	return in > 0 && 2*in >= len(s.Bodies)-1
}

// inPicture reports whether a box may be in the picture: no side of it has all corners outside.
func inPicture(c *scene.Camera, m geom.Mat4, box geom.Box) bool {
	var out [5]int
	for k := range 8 {
		p := box.Min
		for axis := range p {
			if k>>axis&1 == 1 {
				p[axis] = box.Max[axis]
			}
		}
		for side, beyond := range c.Beyond(m.Point(p)) {
			if beyond {
				out[side]++
			}
		}
	}
	for _, n := range out {
		if n == 8 {
			return false
		}
	}
	return true
}

// contains reports whether a point is inside a closed surface: what a ray to its right passes, counted by the way that it
// faces, so that shells in one another and doubled faces do not confuse it.
func contains(points []geom.Vec3, triangles []uint32, p geom.Vec3) bool {
	d := geom.Vec3{1, 1.2345e-3, 2.3456e-3} // along no edge that anybody models
	winding := 0
	for k := 0; k+2 < len(triangles); k += 3 {
		a, b, c := points[triangles[k]], points[triangles[k+1]], points[triangles[k+2]]
		e1, e2 := b.Sub(a), c.Sub(a)
		h := d.Cross(e2)
		det := e1.Dot(h)
		if det == 0 {
			continue
		}
		s := p.Sub(a)
		u := s.Dot(h) / det
		q := s.Cross(e1)
		v := d.Dot(q) / det
		if u < 0 || v < 0 || u+v > 1 || e2.Dot(q)/det <= 0 {
			continue
		}
		if det > 0 {
			winding--
		} else {
			winding++
		}
	}
	return winding != 0
}
