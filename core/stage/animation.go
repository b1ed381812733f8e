package stage

import (
	"encoding/binary"
	"math"

	"perigyre/core/geom"
	"perigyre/core/model"
	"perigyre/core/shot"
)

// Clips turns the animations of a model into clips of parts, whose ids are those of its nodes. What a clip says is from how a node is
// at rest, so that it is seen from the part's own place: positions less it, turns after undoing it, sizes over it, weights less
// theirs. All are linear in what the file says, which keeps every interpolation exact. What stays at rest is left out.
func Clips(m *model.Model, ids []string) (out []shot.Clip) {
	for i := range m.Animations {
		if c := clipOf(m, &m.Animations[i], ids); c != nil {
			out = append(out, *c)
		}
	}
	return out
}

func clipOf(m *model.Model, a *model.Animation, ids []string) *shot.Clip {
	from, to := math.Inf(1), math.Inf(-1)
	for _, c := range a.Channels {
		from, to = math.Min(from, float64(c.Times[0])), math.Max(to, float64(c.Times[len(c.Times)-1]))
	}
	if !(to > from) { // a pose, or nothing
		to = from + 1
	}
	out := &shot.Clip{Name: a.Name, Seconds: to - from}
	w := clipWriter{clip: out, times: map[*float32]int{}}
	for k := range a.Channels {
		c := &a.Channels[k]
		n := &m.Nodes[c.Node]
		t := shot.ClipTrack{Part: ids[c.Node], Width: c.Width(m), Keys: len(c.Times)}
		switch c.Interpolation {
		case "STEP":
			t.Next = shot.Holds
		case "CUBICSPLINE":
			t.Next = shot.Curves
		}
		var to func(v []float64, tangent bool)
		switch c.Path {
		case "translation":
			t.Value, to = shot.ClipPosition, less(n.Position[:])
		case "weights":
			t.Value, to = shot.ClipWeights, less(n.Weights)
		case "scale":
			t.Value, to = shot.ClipSize, func(v []float64, _ bool) {
				for k := range v {
					v[k] /= n.Size[k]
				}
			}
		case "rotation":
			undo := n.Rotation.Inverse()
			t.Value, to = shot.ClipTurn, func(v []float64, tangent bool) {
				q := geom.Quat(v).Mul(undo)
				if !tangent {
					q = q.Unit()
				}
				copy(v, q[:])
			}
		}
		w.track(t, c, from, to)
	}
	if len(out.Tracks) == 0 {
		return nil
	}
	return out
}

// less takes what is at rest from a value; how it changes stays.
func less(rest []float64) func(v []float64, tangent bool) {
	return func(v []float64, tangent bool) {
		for k := range v {
			if !tangent && k < len(rest) {
				v[k] -= rest[k]
			}
		}
	}
}

// clipWriter fills a clip's data. Tracks with the same times share them.
type clipWriter struct {
	clip  *shot.Clip
	times map[*float32]int
}

func (w *clipWriter) put(v float64) {
	w.clip.Data = binary.LittleEndian.AppendUint32(w.clip.Data, math.Float32bits(float32(v)))
}

func (w *clipWriter) track(t shot.ClipTrack, c *model.Channel, from float64, to func(v []float64, tangent bool)) {
	per := t.Per()
	values := make([]float64, t.Keys*per)
	for i := range values {
		values[i] = float64(c.Values[i])
	}
	still := true
	for i := 0; i < len(values); i += t.Width {
		v, tangent := values[i:i+t.Width], t.Next == shot.Curves && i/t.Width%3 != 1
		to(v, tangent)
		for k := range v {
			still = still && math.Abs(v[k]-resting(t.Value, k, tangent)) < 1e-7
		}
	}
	if still {
		return
	}
	at, ok := w.times[&c.Times[0]]
	if !ok {
		at = len(w.clip.Data) / 4
		w.times[&c.Times[0]] = at
		for _, v := range c.Times {
			w.put(float64(v) - from)
		}
	}
	t.Times, t.Values = at, len(w.clip.Data)/4
	for _, v := range values {
		w.put(v)
	}
	w.clip.Tracks = append(w.clip.Tracks, t)
}

// resting is what a value is where a clip changes nothing.
func resting(value shot.ClipValue, k int, tangent bool) float64 {
	if !tangent && (value == shot.ClipSize || value == shot.ClipTurn && k == 3) {
		return 1
	}
	return 0
}

// Enliven gives the parts of a model's nodes the bones that their meshes hang on, and the shapes that they can be mixed with.
func Enliven(s *shot.Shot, m *model.Model, ids []string) {
	for i := range m.Nodes {
		n := &m.Nodes[i]
		p := s.Part(ids[i])
		if n.Mesh < 0 || p == nil {
			continue
		}
		p.Skin, p.Morphs = nil, nil
		for k, name := range m.Meshes[n.Mesh].Targets {
			one := shot.Morph{Name: name}
			if k < len(n.Weights) {
				one.Weight = math.Max(-shot.MaxWeight, math.Min(shot.MaxWeight, n.Weights[k]))
			}
			p.Morphs = append(p.Morphs, one)
		}
		if n.Skin == 0 {
			continue
		}
		skin := &m.Skins[n.Skin-1]
		p.Skin = &shot.Skin{Inverse: skin.Inverse, Seat: n.Local()}
		for _, j := range skin.Joints {
			p.Skin.Joints = append(p.Skin.Joints, ids[j])
		}
	}
}
