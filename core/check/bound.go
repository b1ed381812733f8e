package check

import (
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Light that turns with what it lights: a light, or the surroundings, in something that turns and has what is seen in it. The
// highlights stand still on it then, and the turn is hard to see. It is said, since it may be meant.
func init() {
	register(26, func(f *Facts) (out []Finding) {
		s, e := f.Pose.Shot, f.Pose
		hidden := e.Index.Hidden()
		shows := make([]bool, len(s.Parts)) // it, or something in it, is seen
		for i := len(s.Parts) - 1; i >= 0; i-- {
			shows[i] = shows[i] || !hidden[i] && (s.Parts[i].Mesh != nil || s.Parts[i].Shaped() != nil)
			if up := e.Index.Parent(i); up >= 0 && shows[i] {
				shows[up] = true
			}
		}
		told := func(what, id string, in int) {
			for ; in >= 0; in = e.Index.Parent(in) {
				if !shows[in] || !f.turns(in) {
					continue
				}
				parts := []string{s.Parts[in].ID}
				if id != "" {
					parts = append([]string{id}, parts...)
				}
				out = append(out, Finding{Kind: "bound", Weight: Look, Parts: parts, Value: 1, Unit: "light",
					Title: fmt.Sprintf("%s turns with %s", what, s.Parts[in].Name),
					Why:   "It turns together with what it lights, so that highlights and shadows stand still on it. Light that stays in the room runs over it as it turns."})
				return
			}
		}
		for i := range s.Parts {
			if p := &s.Parts[i]; p.Kind == shot.Light && !hidden[i] {
				told(p.Name, p.ID, e.Index.Parent(i))
			}
		}
		if i := e.Index.Part(s.Environment.Bound); i >= 0 && s.Parts[i].Kind != shot.Camera {
			told("The light of the surroundings", "", i)
		}
		return out
	})
}

// turns reports whether a part turns by itself by more than an eighth of a turn.
func (f *Facts) turns(i int) bool {
	e, n := f.Pose, float64(f.Pose.Shot.Frames)
	was := f.Pose.Local(i, 0)
	_, q, _, _ := was.Decompose()
	for k := 1; k < 8; k++ {
		_, r, _, _ := e.Local(i, motion.At(e.Shot, n*float64(k)/8).T).Decompose()
		d := r.Unit().Mul(q.Unit().Inverse())
		if 2*math.Atan2(geom.Vec3{d[0], d[1], d[2]}.Len(), math.Abs(d[3])) > math.Pi/4 {
			return true
		}
	}
	return false
}
