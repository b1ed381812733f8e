package motion

import "math"

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

// Over mixes a share k of another colour over one that is a share itself.
func Over(c [3]float64, share float64, to [3]float64, k float64) ([3]float64, float64) {
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

// Apart returns the largest difference between two looks, in any of what they say. What is not mixed in makes none.
func (l Look) Apart(o Look) (most float64) {
	for k := range 3 {
		most = max(most, math.Abs(l.Color[k]*l.ColorMix-o.Color[k]*o.ColorMix), math.Abs(l.Glow[k]*l.GlowMix-o.Glow[k]*o.GlowMix))
	}
	return max(most, math.Abs(l.ColorMix-o.ColorMix), math.Abs(l.GlowMix-o.GlowMix), math.Abs(l.Opacity-o.Opacity), math.Abs(l.Strength-o.Strength))
}
