package farm

import (
	"fmt"
	"slices"

	"perigyre/runs"
)

// pace is how long a worker took for the last whole frames of one kind. Frames that lie near each other are much alike, so that the
// paces of two workers that draw at a run tell which is faster, and by how much: better than a reference picture does, which is too small to
// keep many processors busy.
type pace struct {
	kind   string
	millis []int64 // of the last frames, oldest first
}

const (
	paced   = 8    // frames that a pace is taken of
	enough  = 3    // of them that tell
	fastest = 1000 // that a worker is taken to be: what it says of its times is foreign
)

// kindOf is the same for frames that take about as long.
func kindOf(o *runs.Order) string {
	return fmt.Sprint(o.Width, o.Height, o.Quality, o.Noise, o.Denoise, len(o.Beside), o.Passes, o.Title)
}

func (p *pace) add(o *runs.Order, millis int64) {
	if kind := kindOf(o); kind != p.kind {
		p.kind, p.millis = kind, nil
	}
	p.millis = append(p.millis, millis)
	p.millis = p.millis[max(0, len(p.millis)-paced):]
}

// over returns how fast one is as a multiple of another; 0 where they cannot be compared.
func (p *pace) over(other *pace) float64 {
	if p.kind != other.kind || len(p.millis) < enough || len(other.millis) < enough {
		return 0
	}
	return min(fastest, max(1.0/fastest, float64(other.middle())/float64(max(1, p.middle()))))
}

// middle is the median.
func (p *pace) middle() int64 {
	list := slices.Sorted(slices.Values(p.millis))
	return list[len(list)/2]
}
