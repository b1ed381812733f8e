package check

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"perigyre/core/assembly"
	"perigyre/core/geom"
	"perigyre/core/loop"
	"perigyre/core/motion"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

// hides is the share of the shot over which something may stand between the camera and what it shows.
const hides = 0.25

// Leftovers, and what stands in the way: parts that the camera never sees, or that are smaller than a pixel when it is nearest;
// something of the set between the camera and what is shown; another camera that moves, while the one that is rendered does not.
func init() {
	register(23, func(f *Facts) (out []Finding) {
		e := f.Pose
		cam := e.Index.Part(e.Shot.Camera)
		if cam < 0 || f.Margins == nil {
			return nil
		}
		for i := range e.Shot.Parts {
			if p := &e.Shot.Parts[i]; p.Kind == shot.Camera && i != cam && e.Moves(i) && !e.Moves(cam) {
				out = append(out, Finding{Kind: "camera", Weight: Look, Parts: []string{e.Shot.Camera, p.ID}, Value: 1, Unit: "camera",
					Title: fmt.Sprintf("It is rendered through %s, which stands still", f.name(e.Shot.Camera)),
					Why:   fmt.Sprintf("%s moves, and is not the camera that is rendered.", p.Name)})
				break
			}
		}
		sets := e.Index.Sets()
		seen, large := map[int]bool{}, map[int]float64{} // by part
		var order []int
		covered, times := map[int]int{}, 0
		doubt := func() bool { // something was not seen so far, or not as large as a pixel
			return slices.ContainsFunc(order, func(i int) bool { return !sets[i] && (!seen[i] || large[i] < 1) })
		}
		step := max(1, e.Shot.Frames/glances)
		for _, t := range loop.Spread(e.Shot.Frames, step) {
			glance := t%step == 0
			if f.ctx.Err() != nil {
				return out
			}
			if !glance && !doubt() {
				break
			}
			s, owners, err := scene.Moment(e, motion.At(e.Shot, float64(t)), f.Geometry)
			if err != nil {
				return out
			}
			toEye, ok := s.Camera.At.Inverse()
			if !ok {
				return out
			}
			for i := range s.Bodies {
				part := owners.Bodies[i].Carrier
				support, err := f.Geometry.Support(&e.Shot.Parts[owners.Bodies[i].Part])
				if err != nil || support.Bounds().Empty() {
					continue
				}
				if _, known := large[part]; !known {
					large[part], order = 0, append(order, part)
				}
				m := toEye.Mul(s.Bodies[i].At)
				if inPicture(s.Camera, m, support.Bounds()) || s.Bodies[i].Soft() {
					seen[part] = true
				}
				large[part] = math.Max(large[part], f.pixels(s.Camera, m, support.Bounds()))
			}
			if !glance {
				continue
			}
			times++
			if by, share := f.hidden(s, owners); share > 0.5 {
				covered[by]++
			}
		}
		var never, tiny []string
		for _, i := range order {
			switch id := e.Shot.Parts[i].ID; {
			case sets[i]:
			case !seen[i]:
				never = append(never, id)
			case large[i] < 1:
				tiny = append(tiny, id)
			}
		}
		if len(never) > 0 && len(never) < len(order) { // else it looks past everything
			out = append(out, f.many("leftover", never, "is never in the picture", "are never in the picture", "The camera does not see it on any frame. It is rendered all the same: hide it, or look whether it stands where it is meant to."))
		}
		if len(tiny) > 0 {
			out = append(out, f.many("leftover", tiny, "is smaller than a pixel", "are smaller than a pixel", "At its largest it covers less than a pixel: it flickers, or is not seen. A model in another unit than it says is often the reason."))
		}
		for _, i := range order {
			if share := float64(covered[i]) / float64(times); share > hides {
				out = append(out, Finding{Kind: "between", Weight: Look, Parts: []string{e.Shot.Parts[i].ID}, Value: 100 * share, Unit: "% of the shot",
					Title: e.Shot.Parts[i].Name + " stands before what is shown",
					Why:   fmt.Sprintf("Over %.0f %% of the shot it hides more than half of it from the camera.", 100*share)})
			}
		}
		return out
	})
}

// many is one finding of several parts.
func (f *Facts) many(kind string, parts []string, is, are, why string) Finding {
	title := f.name(parts[0]) + " " + is
	if n := len(parts); n > 1 {
		names := make([]string, 0, 3)
		for _, id := range parts[:min(3, n)] {
			names = append(names, f.name(id))
		}
		title = fmt.Sprintf("%d parts %s: %s", n, are, strings.Join(names, ", "))
		if n > 3 {
			title += " …"
		}
	}
	return Finding{Kind: kind, Weight: Look, Title: title, Why: why, Parts: parts, Value: float64(len(parts)), Unit: "parts"}
}

// pixels is about how large a box is in the picture, in pixels of the format.
func (f *Facts) pixels(c *scene.Camera, m geom.Mat4, box geom.Box) float64 {
	middle, size := m.Point(box.Centre()), m.Vector(geom.Vec3{1, 0, 0}).Len()*box.Size().Len()
	depth := 1.0
	if !c.Flat {
		depth = math.Max(-middle[2], 1e-9)
	}
	return size / (2 * c.Width * depth) * float64(f.Pose.Shot.Format.Width)
}

// hidden returns the part of the set that hides most of what is shown from the camera, and the share of the middles of what is
// shown that it hides.
func (f *Facts) hidden(s *scene.Scene, owners *scene.Owners) (by int, share float64) {
	sets := f.Pose.Index.Sets()
	var shown []geom.Vec3
	for i := range s.Bodies {
		of := owners.Bodies[i]
		if support, err := f.Geometry.Support(&f.Pose.Shot.Parts[of.Part]); err == nil && !sets[of.Carrier] && !support.Bounds().Empty() {
			shown = append(shown, s.Bodies[i].At.Point(support.Bounds().Centre()))
		}
	}
	if len(shown) == 0 {
		return -1, 0
	}
	eye := s.Camera.At.Column(3)
	by = -1
	for i := range s.Bodies {
		of := owners.Bodies[i]
		if !sets[of.Carrier] || s.Bodies[i].Soft() {
			continue
		}
		back, ok := s.Bodies[i].At.Inverse()
		solid, err := f.whole(of.Part)
		if !ok || err != nil {
			continue
		}
		n := 0
		for _, p := range shown {
			if solid.Blocks(back.Point(eye), back.Point(p)) {
				n++
			}
		}
		if got := float64(n) / float64(len(shown)); got > share {
			by, share = of.Carrier, got
		}
	}
	return by, share
}

// whole is the surface of a part in its own frame.
func (f *Facts) whole(part int) (*assembly.Solid, error) {
	if got := f.solids[part]; got != nil {
		return got, nil
	}
	points, triangles, err := f.Geometry.Surface(&f.Pose.Shot.Parts[part])
	if err != nil {
		return nil, err
	}
	if f.solids == nil {
		f.solids = map[int]*assembly.Solid{}
	}
	f.solids[part] = assembly.NewSolid(points, triangles, geom.Vec3{1, 1, 1})
	return f.solids[part], nil
}
