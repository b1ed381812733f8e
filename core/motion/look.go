package motion

import (
	"math"

	"perigyre/core/shot"
)

// Look is what moves make of the materials of a part and of a light: a base colour or glow of its own is mixed
// with another, both scene-linear, by a share; opacity and strength are factors.
type Look struct {
	Color    [3]float64
	ColorMix float64
	Glow     [3]float64
	GlowMix  float64
	Opacity  float64
	Strength float64
}

// AsItIs is the look of a part that no move changes.
var AsItIs = Look{Opacity: 1, Strength: 1}

// Apply changes a look by a move at time t.
func (l *Look) Apply(m *shot.Move, t Time) {
	if m.Muted || m.Look == nil {
		return
	}
	t = t.of(m)
	m = Pinned(m, t)
	k, c := Progress(t, m), m.Look
	mix := func(to *[3]float64, share *float64) {
		if !c.Own {
			*to, *share = c.From, 1
		}
		*to, *share = over(*to, *share, c.To, k)
	}
	one := func(v *float64, most float64) {
		from := *v
		if !c.Own {
			from *= c.From[0]
		}
		*v = math.Min(most, math.Max(0, from+(*v*c.To[0]-from)*k))
	}
	switch c.What {
	case "colour":
		mix(&l.Color, &l.ColorMix)
	case "glow":
		mix(&l.Glow, &l.GlowMix)
	case "opacity":
		one(&l.Opacity, 1)
	case "strength":
		one(&l.Strength, math.Inf(1))
	}
}

// over mixes a share k of another colour over one that is a share itself.
func over(c [3]float64, share float64, to [3]float64, k float64) ([3]float64, float64) {
	both := 1 - (1-share)*(1-k)
	for i := range c {
		if v := (1-k)*share*c[i] + k*to[i]; both != 0 {
			c[i] = math.Max(0, v/both)
		}
	}
	return c, both
}

// Within returns the look of a part in another: colours are its own where it has some, opacity and strength
// multiply.
func (l Look) Within(outer Look) Look {
	mix := func(c [3]float64, share float64, under [3]float64, by float64) ([3]float64, float64) {
		both := 1 - (1-by)*(1-share)
		if both == 0 {
			return c, 0
		}
		for i := range c {
			c[i] = math.Max(0, ((1-share)*by*under[i]+share*c[i])/both)
		}
		return c, both
	}
	l.Color, l.ColorMix = mix(l.Color, l.ColorMix, outer.Color, outer.ColorMix)
	l.Glow, l.GlowMix = mix(l.Glow, l.GlowMix, outer.Glow, outer.GlowMix)
	l.Opacity *= outer.Opacity
	l.Strength *= outer.Strength
	return l
}

// Mixed returns a colour of its own with a share of another.
func Mixed(own, to [3]float64, share float64) [3]float64 {
	for k := range own {
		own[k] = math.Max(0, own[k]+(to[k]-own[k])*share)
	}
	return own
}
