package pose

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"math"

	"perigyre/core/geom"
	"perigyre/core/motion"
)

// Key returns a hash of everything about a moment that a picture of it depends on: where parts and copies are,
// how they look and bend. Two moments of the same document with the same key have the same picture. Numbers are
// taken to 1e-10, which is above what rounding leaves of turning by the same angle another way round, and far
// below what can be seen.
func (e *Evaluator) Key(t float64, g Surfaces) (string, error) {
	h := sha256.New()
	var word [8]byte
	put := func(list ...float64) {
		for _, v := range list {
			binary.LittleEndian.PutUint64(word[:], uint64(int64(math.Round(v*1e10))))
			h.Write(word[:])
		}
	}
	matrices := func(list []geom.Mat4) {
		for _, m := range list {
			put(m[:]...)
		}
	}
	world := e.At(t)
	matrices(world)
	if cam := e.Shot.Part(e.Shot.Camera); cam != nil && cam.Camera.Shutter > 0 { // what moves while it is open
		for _, off := range []float64{-1, -0.5, 0.5, 1} {
			matrices(e.At(t + off*cam.Camera.Shutter/720))
		}
	}
	for _, l := range e.Looks(t) {
		put(l.Color[0], l.Color[1], l.Color[2], l.ColorMix, l.Glow[0], l.Glow[1], l.Glow[2], l.GlowMix, l.Opacity, l.Strength)
	}
	at := motion.At(e.Shot, t)
	for i := range e.Shot.Parts {
		for _, f := range e.flexes[i] {
			put(motion.FlexAngle(f.Move, at))
		}
	}
	spreads, err := e.Spreads(t, world, g)
	if err != nil {
		return "", err
	}
	for _, s := range spreads {
		matrices(s.Places)
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}
