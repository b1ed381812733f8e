package library

import (
	"fmt"
	"image"
	"image/color"
	"math"
	"path"
	"strings"
	"unicode"

	"perigyre/core/material"
)

// Guess is what a picture is taken for, by its file name and by its pixels.
type Guess struct {
	Slot      material.Slot
	Why       string
	FlipGreen bool // a normal map whose green points down
	LeftOut   bool // a kind that no slot takes
	Doubt     bool // name and pixels do not agree
}

// words of file names, in pieces between signs and capitals, and the slots they stand for. Common practice,
// no source.
var roleWords = map[string]material.Slot{
	"basecolor": material.BaseColor, "basecolour": material.BaseColor, "albedo": material.BaseColor, "diffuse": material.BaseColor, "diff": material.BaseColor,
	"color": material.BaseColor, "colour": material.BaseColor, "col": material.BaseColor, "base": material.BaseColor,
	"normal": material.Normal, "normals": material.Normal, "nrm": material.Normal, "nor": material.Normal, "norm": material.Normal, "normalmap": material.Normal,
	"roughness": material.Roughness, "rough": material.Roughness, "rgh": material.Roughness,
	"metallic": material.Metal, "metalness": material.Metal, "metal": material.Metal, "mtl": material.Metal,
	"metallicroughness": material.MetalRough, "roughnessmetallic": material.MetalRough, "orm": material.MetalRough, "arm": material.MetalRough,
	"occlusion": material.Occlusion, "ao": material.Occlusion, "occ": material.Occlusion,
	"emissive": material.Emission, "emission": material.Emission, "emit": material.Emission, "glow": material.Emission,
}

var unusedWords = map[string]string{
	"height": "a height map", "displacement": "a height map", "disp": "a height map", "bump": "a bump map",
	"gloss": "a gloss map; a roughness map is its reverse", "glossiness": "a gloss map; a roughness map is its reverse",
	"opacity": "an opacity map; put it into the alpha of the base colour", "thumb": "a preview", "preview": "a preview",
}

// pieces takes a file name apart: brass_RoughnessMap-2k.png is brass, roughness, map, 2k.
func pieces(name string) []string {
	name = strings.TrimSuffix(path.Base(name), path.Ext(name))
	var out []string
	var word []rune
	end := func() {
		if len(word) > 0 {
			out = append(out, strings.ToLower(string(word)))
		}
		word = nil
	}
	last := ' '
	for _, r := range name {
		switch {
		case !unicode.IsLetter(r) && !unicode.IsDigit(r):
			end()
		case unicode.IsUpper(r) && unicode.IsLower(last):
			end()
			word = append(word, r)
		default:
			word = append(word, r)
		}
		last = r
	}
	end()
	return out
}

// byName returns the slot that a name stands for, or "", and what is left of it: what it is a picture of.
func byName(name string) (slot material.Slot, unused string, rest []string, flip bool) {
	words := pieces(name)
	for i := 0; i < len(words); i++ {
		w := words[i]
		if i+1 < len(words) {
			if s, ok := roleWords[w+words[i+1]]; ok { // base_color, metallic_roughness
				slot = s
				i++
				continue
			}
		}
		switch {
		case roleWords[w] != "":
			if slot == "" || w != "base" && w != "metal" { // "metal_roughness" may be the roughness of metal
				slot = roleWords[w]
			}
		case unusedWords[w] != "":
			unused = unusedWords[w]
		case w == "dx" || w == "directx":
			flip = true
		case w == "map" || w == "tex" || w == "texture" || w == "gl" || w == "opengl" || w == "1k" || w == "2k" || w == "4k" || w == "8k":
		default:
			rest = append(rest, w)
		}
	}
	return slot, unused, rest, flip
}

// pixelStats is what the pixels of a picture say.
type pixelStats struct {
	normal bool // mostly blue-violet and of unit length
	grey   bool
}

// measurePixels samples a picture at up to 64 x 64 places.
func measurePixels(img image.Image) pixelStats {
	b := img.Bounds()
	step := max(1, max(b.Dx(), b.Dy())/64)
	n, unit, grey, facing := 0.0, 0.0, 0.0, 0.0
	for y := b.Min.Y + step/2; y < b.Max.Y; y += step {
		for x := b.Min.X + step/2; x < b.Max.X; x += step {
			c := color.NRGBA64Model.Convert(img.At(x, y)).(color.NRGBA64)
			r, g, bl := float64(c.R)/65535, float64(c.G)/65535, float64(c.B)/65535
			n++
			l := math.Sqrt((2*r-1)*(2*r-1) + (2*g-1)*(2*g-1) + (2*bl-1)*(2*bl-1))
			if math.Abs(l-1) < 0.08 && bl >= 0.5 {
				unit++
			}
			facing += bl
			if math.Max(r, math.Max(g, bl))-math.Min(r, math.Min(g, bl)) < 0.025 {
				grey++
			}
		}
	}
	if n == 0 {
		return pixelStats{}
	}
	return pixelStats{normal: unit > 0.9*n && facing > 0.7*n && grey < 0.5*n, grey: grey > 0.98*n}
}

// GuessRole tells what slot a picture is for. Where name and pixels do not agree the pixels decide on
// normal maps, which nothing else looks like, and the name on the rest.
func GuessRole(name string, img image.Image) Guess {
	slot, unused, _, flip := byName(name)
	l := measurePixels(img)
	if slot == "" && unused != "" {
		return Guess{LeftOut: true, Why: "by its name it is " + unused}
	}
	switch {
	case l.normal && slot == material.Normal:
		return Guess{Slot: slot, Why: "by its name and its pixels", FlipGreen: flip}
	case l.normal && slot == "":
		return Guess{Slot: material.Normal, Why: "by its pixels: unit vectors", FlipGreen: flip}
	case l.normal:
		return Guess{Slot: material.Normal, Why: fmt.Sprintf("by its pixels, unit vectors, though its name says %s", slot), Doubt: true, FlipGreen: flip}
	case slot == material.Normal && l.grey:
		return Guess{LeftOut: true, Why: "its name says normal, but it is grey: a bump map", Doubt: true}
	case slot == material.Normal:
		return Guess{Slot: material.BaseColor, Why: "by its pixels, though its name says normal: they are no unit vectors", Doubt: true}
	case slot == material.BaseColor && l.grey:
		return Guess{Slot: slot, Why: "by its name; it is grey"}
	case (slot == material.Roughness || slot == material.Metal || slot == material.Occlusion) && !l.grey:
		return Guess{Slot: slot, Why: "by its name, though it is coloured", Doubt: true}
	case slot != "":
		return Guess{Slot: slot, Why: "by its name"}
	case l.grey:
		return Guess{Slot: material.Roughness, Why: "by its pixels: it is grey"}
	}
	return Guess{Slot: material.BaseColor, Why: "by its pixels: it is coloured"}
}
