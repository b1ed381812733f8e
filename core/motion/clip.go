package motion

import (
	"math"
	"sort"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Clip is a clip of a document made ready to be asked at many times. It may be used from several goroutines.
type Clip struct {
	Seconds float64
	tracks  map[string][]clipTrack // by part
}

type clipTrack struct {
	value  shot.ClipValue
	next   shot.Between
	width  int
	times  []float64
	values []float64
}

// NewClip takes time in proportion to the clip's keys.
func NewClip(c *shot.Clip) *Clip {
	out := &Clip{c.Seconds, map[string][]clipTrack{}}
	for i := range c.Tracks {
		t := &c.Tracks[i]
		out.tracks[t.Part] = append(out.tracks[t.Part], clipTrack{t.Value, t.Next, t.Width, c.Numbers(t.Times, t.Keys), c.Numbers(t.Values, t.Keys*t.Per())})
	}
	return out
}

// Apply changes a part's pose by what the clip says of it at a time, in seconds from its beginning, by a share of it.
func (c *Clip) Apply(part string, seconds, share float64, p *shot.Rest) {
	var v [4]float64
	for i := range c.tracks[part] {
		t := &c.tracks[part][i]
		switch t.value {
		case shot.ClipPosition:
			t.sample(seconds, v[:3])
			p.Position = p.Position.Add(geom.Vec3(v[:3]).Mul(share))
		case shot.ClipTurn:
			t.sample(seconds, v[:])
			q := geom.Quat(v).Unit()
			if share != 1 {
				q = geom.NoTurn.Slerp(q, share)
			}
			p.Rotation = q.Mul(p.Rotation)
		case shot.ClipSize:
			t.sample(seconds, v[:3])
			for k := range p.Size {
				if v[k] > 0 { // so that two that share it make the whole
					p.Size[k] *= math.Pow(v[k], share)
				} else {
					p.Size[k] *= 1 + (v[k]-1)*share
				}
			}
		}
	}
}

// Mix adds what the clip says of the weights of a part's morph targets.
func (c *Clip) Mix(part string, seconds, share float64, w []float64) {
	for i := range c.tracks[part] {
		t := &c.tracks[part][i]
		if t.value != shot.ClipWeights {
			continue
		}
		v := make([]float64, t.width)
		t.sample(seconds, v)
		for k := range min(len(v), len(w)) {
			w[k] += v[k] * share
		}
	}
}

// sample writes the value at a time: before the first key that of the first, after the last that of the last (glTF 2.0, Appendix C).
func (t *clipTrack) sample(at float64, out []float64) {
	w := t.width
	key := func(k int) []float64 {
		if t.next == shot.Curves {
			k = 3*k + 1
		}
		return t.values[k*w : k*w+w]
	}
	i := sort.SearchFloat64s(t.times, at) // the first not before
	last := len(t.times) - 1
	if i <= last && t.times[i] == at || i == 0 {
		copy(out, key(i))
		return
	}
	if i > last {
		copy(out, key(last))
		return
	}
	i--
	long := t.times[i+1] - t.times[i]
	u := (at - t.times[i]) / long
	a, b := key(i), key(i+1)
	switch t.next {
	case shot.Holds:
		copy(out, a)
	case shot.Curves: // C.5, cubic Hermite; a turn is brought to unit length by who asks
		leaving, coming := t.values[(3*i+2)*w:(3*i+3)*w], t.values[(3*i+3)*w:(3*i+4)*w]
		u2, u3 := u*u, u*u*u
		for k := range out {
			out[k] = (2*u3-3*u2+1)*a[k] + long*(u3-2*u2+u)*leaving[k] + (3*u2-2*u3)*b[k] + long*(u3-u2)*coming[k]
		}
	default:
		if t.value == shot.ClipTurn { // C.4
			q := geom.Quat(a).Slerp(geom.Quat(b), u)
			copy(out, q[:])
			return
		}
		for k := range out { // C.3
			out[k] = a[k] + (b[k]-a[k])*u
		}
	}
}
