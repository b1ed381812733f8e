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
			if blind*step >= e.Shot.Frames && !f.seesAtAll() {
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
		if b.Soft() {
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
		if !box.Holds(p) || f.isRoom(s, i, back, box) {
			continue
		}
		if solid, err := f.whole(owners.Bodies[i].Part); err == nil && solid.Holds(p) {
			inside = append(inside, f.Pose.Shot.Parts[owners.Bodies[i].Carrier].ID)
		}
	}
	return inside, sees
}

// isRoom reports whether most of what else there is stands in a body too: then it is a room, and the camera belongs into it.
func (f *Facts) isRoom(s *scene.Scene, i int, back geom.Mat4, box geom.Box) bool {
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

// seesAtAll reports whether anything is in the picture on some frame.
func (f *Facts) seesAtAll() bool {
	for t := range f.Pose.Shot.Frames {
		s, owners, err := scene.Moment(f.Pose, motion.At(f.Pose.Shot, float64(t)), f.Geometry)
		if err != nil || f.ctx.Err() != nil {
			return true
		}
		if _, sees := f.looksFrom(s, owners); sees {
			return true
		}
	}
	return false
}
