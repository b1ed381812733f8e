package check

import (
	"perigyre/core/edit"
	"perigyre/core/loop"
	"perigyre/core/motion"
	"perigyre/core/pose"
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

// try carries edits out on a copy, and returns what the seam is then; nil where they cannot be carried out. Nothing else is
// measured of it.
func (f *Facts) try(edits []edit.Edit) *Facts {
	done, err := edit.Apply(f.Pose.Shot, edits, edit.Env{Assets: f.Geometry})
	if err != nil {
		return nil
	}
	sight := f.Sight.Of(pose.New(done.Shot))
	seam, err := sight.Prove()
	if err != nil {
		return nil
	}
	return &Facts{Pose: sight.Pose, Geometry: f.Geometry, Sight: sight, Seam: seam}
}

// opens reports whether a part jumps at the seam, and further than it did before.
func (f *Facts) opens(before *Facts, part string) bool {
	now, was := pixels(f.Seam)[part], pixels(before.Seam)[part]
	return now > loop.Proved && now > was
}
