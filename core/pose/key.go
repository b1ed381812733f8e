package pose

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"encoding/json"
	"math"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Asked says what a picture shows beyond a moment.
type Asked struct {
	Near  []float64 // other times that it depends on, in frames from the moment
	Apart bool      // which part is which
}

// Symmetric tells of parts that look the same turned: by equal turns about an axis of their own frame (0 for x, 1 for y,
// 2 for z) through a point, which is known to about a millionth of the size in that frame. Turns is 1 for others.
type Symmetric interface {
	Turns(s *shot.Shot, p *shot.Part) (turns, axis int, through geom.Vec3, size float64)
}

// Key returns a hash of everything about a moment that a picture of it depends on: where parts and copies are,
// how they look and bend. Two moments of the same document with the same key have the same picture: parts that are
// the same but for their names may stand in each other's places, and parts that look the same turned may be turned so
// (a jar of 48 sides on a turntable of 96 frames shows two pictures). Numbers are taken to 1e-10, which is above what
// rounding leaves of turning by the same angle another way round, and far below what can be seen.
func (e *Evaluator) Key(t float64, g Surfaces, o Asked) (string, error) {
	near := slices.Clone(o.Near)
	if cam := e.Shot.Part(e.Shot.Camera); cam != nil && cam.Camera.Shutter > 0 { // what moves while it is open
		for _, off := range []float64{-1, -0.5, 0.5, 1} {
			near = append(near, off*cam.Camera.Shutter/720)
		}
	}
	k := key{e: e, world: e.At(t), looks: e.Looks(t)}
	for _, off := range near {
		k.near = append(k.near, e.At(t+off))
	}
	spreads, err := e.Spreads(t, k.world, g)
	if err != nil {
		return "", err
	}
	s := e.Shot
	if cam := s.Part(s.Camera); cam != nil && cam.Camera.FocusOn != "" {
		if i := s.Index(cam.Camera.FocusOn); i >= 0 {
			at := k.world[i].Point(s.Parts[i].Pivot)
			k.head = numbers(k.head, at[:]...)
		}
	}
	for i := range s.Parts {
		if p := &s.Parts[i]; len(e.flexes[i]) > 0 || p.Cut != nil { // bends and cuts are of one part and no other
			o.Apart, k.whole = true, true
		}
	}
	if sym, ok := g.(Symmetric); ok && !k.whole {
		k.turns, k.dressed = sym, s.Dressed()
	}
	for i := range s.Parts {
		if k.whole || !drawn(&s.Parts[i]) {
			k.fixed(i)
		} else if !e.hidden(i) {
			k.add(i, i, geom.TRS(geom.Vec3{}, geom.NoTurn, geom.Vec3{1, 1, 1}), o.Apart)
		}
	}
	for _, c := range spreads {
		for _, m := range c.Places {
			k.add(c.Part, c.Spread, m, o.Apart)
		}
	}
	if k.whole {
		at := motion.At(s, t)
		for i := range s.Parts {
			for _, f := range e.flexes[i] {
				k.head = numbers(k.head, motion.FlexAngle(f.Move, at))
			}
		}
	}
	slices.SortFunc(k.parts, slices.Compare[[]byte])
	h := sha256.New()
	h.Write(k.head)
	for _, p := range k.parts {
		h.Write(p)
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}

// key gathers what a picture depends on.
type key struct {
	e       *Evaluator
	world   []geom.Mat4
	near    [][]geom.Mat4
	looks   []motion.Look
	whole   bool // where every part is counts, seen or not
	turns   Symmetric
	dressed *shot.Shot
	head    []byte
	parts   [][]byte // in any order
}

// drawn reports whether a part is seen itself and nothing but seen.
func drawn(p *shot.Part) bool { return p.Mesh != nil || p.Shaped() != nil }

func (e *Evaluator) hidden(i int) bool {
	for ; i >= 0; i = e.Shot.Index(e.Shot.Parts[i].Parent) {
		if e.Shot.Parts[i].Hidden {
			return true
		}
	}
	return false
}

// numbers appends numbers to 1e-10.
func numbers(to []byte, list ...float64) []byte {
	for _, v := range list {
		to = binary.BigEndian.AppendUint64(to, math.Float64bits(math.Round(v*1e10)+0)) // -0 is 0
	}
	return to
}

func look(to []byte, list []motion.Look, i int) []byte {
	if list == nil {
		return to
	}
	l := list[i]
	return numbers(to, l.Color[0], l.Color[1], l.Color[2], l.ColorMix, l.Glow[0], l.Glow[1], l.Glow[2], l.GlowMix, l.Opacity, l.Strength)
}

// fixed adds a part that is not drawn, as far as a picture depends on it: lights, the camera that is used, and floors;
// with whole anything.
func (k *key) fixed(i int) {
	s := k.e.Shot
	p := &s.Parts[i]
	if !k.whole && (p.Kind == shot.Group || p.Copies != nil || p.Kind == shot.Camera && p.ID != s.Camera) {
		return
	}
	k.head = look(numbers(k.head, k.world[i][:]...), k.looks, i)
	for _, w := range k.near {
		k.head = numbers(k.head, w[i][:]...)
	}
}

// add adds what is seen of a part, at a place within another one or itself.
func (k *key) add(i, carrier int, in geom.Mat4, apart bool) {
	s := k.e.Shot
	p := s.Parts[i]
	if !apart {
		p.ID, p.Name = "", ""
	}
	p.Parent, p.Rest, p.Pivot, p.Moves, p.Tracks, p.Tag, p.Away, p.Locked = "", shot.Rest{}, geom.Vec3{}, nil, nil, "", false, false
	out, _ := json.Marshal(p) // a validated document always encodes
	out = look(out, k.looks, i)
	m := k.world[carrier].Mul(in)
	out = append(out, k.place(i, m)...)
	back, ok := k.world[carrier].Inverse()
	for _, w := range k.near { // how it moves, in the room
		to := w[carrier]
		if ok {
			to = to.Mul(back)
		}
		out = numbers(out, to[:]...)
	}
	k.parts = append(k.parts, out)
}

// place tells where a part is: one that looks the same turned by where its axis is and by one of the ways in which it
// lies there, the same of all that look the same.
func (k *key) place(i int, m geom.Mat4) []byte {
	if k.turns == nil {
		return numbers(nil, m[:]...)
	}
	turns, axis, through, size := k.turns.Turns(k.dressed, &k.e.Shot.Parts[i])
	if turns < 2 {
		return numbers(nil, m[:]...)
	}
	about := geom.Vec3{}
	about[axis] = 1
	var least []byte
	for n := range turns {
		turned := m.Mul(geom.TRS(geom.Vec3{}, geom.AxisAngle(about, 2*math.Pi*float64(n)/float64(turns)), geom.Vec3{1, 1, 1}))
		var b []byte
		for c := range 3 {
			v := turned.Column(c)
			b = numbers(b, v[:]...)
		}
		if least == nil || slices.Compare(b, least) < 0 {
			least = b
		}
	}
	at := m.Point(through).Mul(1e-5 / math.Max(1e-12, size*math.Cbrt(math.Abs(m.Det())))) // a hundred thousandth of its size is 1e-10
	return numbers(least, at[:]...)
}
