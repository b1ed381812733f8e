package check

import (
	"perigyre/core/edit"
	"perigyre/core/framing"
	"perigyre/core/loop"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// between compares what the camera sees at two times in frames; where that cannot be told, nothing moves. What looks the same
// turned counts as turned: it is the motion that is asked for.
func (f *Facts) between(a, b float64) loop.Seam {
	plain := *f.Sight
	plain.Symmetry = nil
	s, err := plain.Between(motion.At(f.Pose.Shot, a), motion.At(f.Pose.Shot, b))
	if err != nil {
		return loop.Seam{Closes: true}
	}
	return s
}

// pixels returns how far parts move in a comparison.
func pixels(s loop.Seam) map[string]float64 {
	out := map[string]float64{}
	for _, g := range s.Gaps {
		out[g.Part] = g.Pixels
	}
	return out
}

// try carries edits out on a copy, and returns the facts of what comes of them, or nil where they cannot be carried out.
func (f *Facts) try(edits []edit.Edit) *Facts {
	done, err := edit.Apply(f.Pose.Shot, edits, edit.Env{Assets: f.Geometry})
	if err != nil {
		return nil
	}
	return f.of(done.Shot)
}

// of measures another document in the same way.
func (f *Facts) of(s *shot.Shot) *Facts {
	u, err := framing.NewSubject(s, f.Geometry, nil)
	if err != nil {
		return nil
	}
	out, err := Measure(u, f.Geometry, f.Sight.Symmetry)
	if err != nil {
		return nil
	}
	return out
}

// opens reports whether a part jumps at the seam, and further than it did before.
func (f *Facts) opens(before *Facts, part string) bool {
	now, was := pixels(f.Seam)[part], pixels(before.Seam)[part]
	return now > loop.Proved && now > was
}
