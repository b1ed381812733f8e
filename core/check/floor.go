package check

import (
	"fmt"
	"math"
	"slices"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/loop"
	"perigyre/core/shot"
)

// sunk is how far below the floor something may be, as a share of its size: feet are rarely flat to the last digit.
const sunk = 2e-3

// sinking is what sinks: a part, or the outermost one that several of them are in.
type sinking struct {
	part    int
	span    [2]float64
	deepest float64 // metres
	when    float64
}

// The floor: something sinks into it on its way, deeper than it stands at rest.
func init() {
	register(35, func(f *Facts) (out []Finding) {
		s, e := f.Pose.Shot, f.Pose
		hidden := e.Index.Hidden()
		level := math.Inf(-1)
		for i := range s.Parts {
			if s.Parts[i].Kind == shot.Floor && !hidden[i] {
				level = e.AtRest(i)[13]
			}
		}
		if math.IsInf(level, -1) {
			return nil
		}
		bodies, err := framing.Bodies(e, f.Geometry)
		if err != nil {
			return nil
		}
		rest := make([]geom.Mat4, len(s.Parts))
		for i := range rest {
			rest[i] = e.AtRest(i)
		}
		depth := func(b *framing.Body, at []geom.Mat4) float64 { // of its lowest point below the floor
			m, down := at[b.Carrier], geom.Vec3{0, -1, 0}
			return level + b.Reach.Max(m.Transposed(down)) + down.Dot(m.Column(3))
		}
		bodies = slices.DeleteFunc(bodies, func(b framing.Body) bool { return b.Carrier < 0 || b.Bends() })
		allowed := make([]float64, len(bodies))
		for k := range bodies {
			b := &bodies[k]
			allowed[k] = math.Max(depth(b, rest), 0) + sunk*b.Reach.Bounds().Size().Len()*rest[b.Carrier].Column(1).Len()
		}
		sinks := map[int]*sinking{} // by the outermost part that they are in
		var order []int
		for t := 0; t < s.Frames; t += max(1, s.Frames/200) {
			at := e.At(float64(t))
			for k := range bodies {
				d := depth(&bodies[k], at)
				if d <= allowed[k] {
					continue
				}
				root := bodies[k].Part
				for e.Index.Parent(root) >= 0 {
					root = e.Index.Parent(root)
				}
				one := sinks[root]
				if one == nil {
					one = &sinking{part: bodies[k].Part, span: *frame(float64(t))}
					sinks[root], order = one, append(order, root)
				}
				if one.span[1] = float64(t); one.part != bodies[k].Part {
					one.part = root
				}
				if d > one.deepest {
					one.deepest, one.when = d, float64(t)
				}
			}
		}
		for _, root := range order {
			x := sinks[root]
			id := s.Parts[x.part].ID
			out = append(out, Finding{
				Kind: "floor", Weight: Look, Title: f.name(id) + " sinks into the floor", Parts: []string{id}, Frames: &x.span, Worst: &x.when, Value: x.deepest * 1000, Unit: "mm",
				Why: fmt.Sprintf("On frame %.0f its lowest point is %s below the floor, which hides nothing: in the picture it hangs through its own shadow.", x.when, loop.Distance(x.deepest)),
			})
		}
		return out
	})
}
