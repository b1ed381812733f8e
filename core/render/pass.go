package render

import (
	"fmt"
	"slices"

	"perigyre/core/render/bvh"
)

// Pass names one image layer beside the picture. What each holds is in docs/formats.md.
type Pass string

const (
	Depth            Pass = "depth"            // metres along the view axis
	Position         Pass = "position"         // in the room, metres
	Normal           Pass = "normal"           // in the room, unit length
	CameraNormal     Pass = "camera normal"    // right, up and back
	Albedo           Pass = "albedo"           // base colour
	Emission         Pass = "emission"         // light that surfaces give by themselves
	DirectDiffuse    Pass = "direct diffuse"   // light of the sky and the lights, by the lobe that scatters it
	DirectSpecular   Pass = "direct specular"  //
	IndirectDiffuse  Pass = "indirect diffuse" // light that has bounced
	IndirectSpecular Pass = "indirect specular"
	Shadow           Pass = "shadow"      // how much light the floor that receives shadow is kept from
	Occlusion        Pass = "occlusion"   // how open surfaces are, 0 to 1
	Motion           Pass = "motion"      // pixels a frame, to the right and up
	Matte            Pass = "matte"       // the number of the part that covers most of the pixel, and how much
	PartMattes       Pass = "part mattes" // how much of the pixel each part covers, a channel for each
	GuideLines       Pass = "guide lines" // lines from where parts that are taken apart sit to where they are, associated with their alpha
	Labels           Pass = "labels"      // of parts that are taken apart, with their leader lines, likewise
)

// Passes are all there are, in the order of files.
var Passes = []Pass{Depth, Position, Normal, CameraNormal, Albedo, Emission, DirectDiffuse, DirectSpecular, IndirectDiffuse, IndirectSpecular, Shadow, Occlusion, Motion, Matte, PartMattes, GuideLines, Labels}

// channels of each pass, by the customary names; those of part mattes are the parts.
func (p Pass) channels() []string {
	switch p {
	case Depth:
		return []string{"Z"}
	case Position, Normal, CameraNormal:
		return []string{"X", "Y", "Z"}
	case Shadow, Occlusion:
		return []string{"Y"}
	case Motion:
		return []string{"X", "Y"}
	case PartMattes:
		return []string{"Y"}
	case Matte:
		return []string{"id", "coverage"}
	case GuideLines, Labels:
		return []string{"R", "G", "B", "A"}
	}
	return []string{"R", "G", "B"}
}

// ChannelsOf returns what the channels of a pass are called; those of part mattes are called by the parts.
func ChannelsOf(p Pass) []string {
	if p == PartMattes {
		return nil
	}
	return p.channels()
}

// Channels returns how many numbers a pass has for each pixel; the mattes of all parts pack to about one.
func Channels(p Pass) int { return len(p.channels()) }

// maxMattes parts have a matte each.
const maxMattes = 200

// CheckPasses returns an error for a pass that does not exist.
func CheckPasses(list []Pass) error {
	for _, p := range list {
		if !slices.Contains(Passes, p) {
			return fmt.Errorf("there is no pass %q; there are %q", p, Passes)
		}
	}
	return nil
}

// Layer is a pass of a rendered picture.
type Layer struct {
	Pass     Pass
	Channels []string
	Pix      []float32 // row by row from the top, all channels of a pixel together
}

// guides are what the denoiser goes by, each the mean over what surfaces cover of a pixel.
type guides struct {
	cover, depth   []float32
	half           [2][]bvh.Vec // light without what glows, of each half of the samples, with the base colour taken out
	variance       []float32    // of the mean of both halves, of all three colours together
	normal, albedo []bvh.Vec
	emission       []bvh.Vec // of the whole pixel
	doubt          []doubt
	thing          []int32 // what surface it is, where most of it is one; else -1
	footprint      float32 // width of a pixel at distance 1
}

// doubt is how far the guides of a pixel may be off, where its samples met different surfaces: glass and what is
// behind it, or an edge.
type doubt struct {
	depth, albedo float32 // standard deviations of the means
}

// prepare makes room for what is asked for, and reports whether light has to be kept apart.
func (f *Film) prepare(o Options, s *Scene) (apart bool, err error) {
	n := f.Width * f.Height
	f.mattes = s.mattes
	for _, p := range o.Passes {
		c := p.channels()
		if p == PartMattes {
			if len(s.mattes) > maxMattes {
				return false, fmt.Errorf("the shot has %d parts; %d can have a matte each. The pass matte has their numbers", len(s.mattes), maxMattes)
			}
			c = nil
			for _, m := range s.mattes {
				c = append(c, m.Name)
			}
		}
		f.Layers = append(f.Layers, Layer{p, c, make([]float32, n*len(c))})
		switch p {
		case Emission, DirectDiffuse, DirectSpecular, IndirectDiffuse, IndirectSpecular:
			apart = true
		}
	}
	if o.Denoise {
		apart = true
		f.guides = &guides{
			cover: make([]float32, n), variance: make([]float32, n), depth: make([]float32, n), normal: make([]bvh.Vec, n),
			half: [2][]bvh.Vec{make([]bvh.Vec, n), make([]bvh.Vec, n)}, albedo: make([]bvh.Vec, n), emission: make([]bvh.Vec, n), doubt: make([]doubt, n), thing: make([]int32, n),
			footprint: s.camera.pixel(f.Width),
		}
		if s.floor != nil && !f.full {
			f.shades = newShades(n)
		}
	}
	return apart, nil
}

// inside is how much of the floor's shadow is left at a pixel: none at the picture's edges, where it would be cut off, and all
// of it further in than the fade.
func (f *Film) inside(i int) float32 {
	if f.fade <= 0 {
		return 1
	}
	x, y := float32(i%f.Width)+0.5, float32(f.top+i/f.Width)+0.5
	w, h := float32(f.Width), float32(f.of)
	k := min(min(x, w-x), min(y, h-y)) / (min(w, h) * f.fade)
	k = min(1, max(0, k))
	return k * k * (3 - 2*k)
}

// surely is how much of the floor's shadow that was measured is more than noise: a single ray of few that met something far off
// would leave a speck where there is no shadow to speak of. One of n that is shadowed gives a mean as large as its own
// deviation.
func (p *gathered) surely() float32 {
	off := p.shadow.off(p.n)
	if off == 0 {
		return 1
	}
	k := float32(p.shadow.sum)/float32(p.n)/off - 1
	k = min(1, max(0, k))
	return k * k * (3 - 2*k)
}

// put develops a pixel. Shadow on the floor becomes alpha: the share of the light there that something keeps
// away.
func (f *Film) put(i int, p *gathered, c *camera) {
	n := float32(p.n)
	for _, l := range []*bvh.Vec{&p.ground, &p.light, &p.emission, &p.diffuse, &p.specular, &p.indirectDiffuse, &p.indirectSpecular} {
		*l = l.Mul(c.gain)
	}
	alpha, shadow := p.alpha/n, float32(0)
	if p.unshaded > 0 {
		shadow = max(0, 1-p.shaded/p.unshaded) * f.inside(i) * p.surely()
		alpha += p.floors / n * shadow
	}
	if f.full { // the sky lies behind all of it
		behind := p.ground.Mul(1 - shadow)
		p.light, p.emission = p.light.Add(behind), p.emission.Add(behind)
		alpha = 1
	}
	copy(f.Pix[4*i:], []float32{p.light.X / n, p.light.Y / n, p.light.Z / n, min(1, max(0, alpha))})
	hits := max(1, float32(p.hits))
	normal := p.first.normal.Unit()
	for k := range f.Layers {
		l := &f.Layers[k]
		to := l.Pix[i*len(l.Channels):]
		three := func(v bvh.Vec) { to[0], to[1], to[2] = v.X, v.Y, v.Z }
		switch l.Pass {
		case Depth:
			to[0] = p.depth / hits
		case Position:
			three(p.first.position.Mul(1 / hits))
		case Normal:
			three(normal)
		case CameraNormal:
			three(bvh.Vec{X: normal.Dot(c.right.Unit()), Y: normal.Dot(c.up.Unit()), Z: -normal.Dot(c.ahead)})
		case Albedo:
			three(p.first.albedo.Mul(1 / n))
		case Emission:
			three(p.emission.Mul(1 / n))
		case DirectDiffuse:
			three(p.diffuse.Mul(1 / n))
		case DirectSpecular:
			three(p.specular.Mul(1 / n))
		case IndirectDiffuse:
			three(p.indirectDiffuse.Mul(1 / n))
		case IndirectSpecular:
			three(p.indirectSpecular.Mul(1 / n))
		case Shadow:
			to[0] = shadow * p.floors / n
		case Occlusion:
			to[0] = p.first.open / hits
		case Motion:
			to[0], to[1] = p.first.motion[0]/hits*float32(f.Width)/2, p.first.motion[1]/hits*float32(f.of)/2
		case PartMattes:
			for _, c := range p.parts {
				if c.hits > 0 && c.part >= 0 {
					to[c.part] = float32(c.hits) / n
				}
			}
		case Matte:
			best := p.parts[0]
			for _, o := range p.parts[1:] {
				if o.hits > best.hits {
					best = o
				}
			}
			if best.hits > 0 && best.part >= 0 {
				to[0], to[1] = float32(f.mattes[best.part].Number), float32(best.hits)/n
			}
		}
	}
	if f.shades != nil {
		f.shades.put(i, p)
	}
	if g := f.guides; g != nil && p.hits > 0 {
		g.put(i, p, c.gain)
		g.depth[i], g.normal[i] = p.depth/hits, normal
	}
}

// put works out what the denoiser is told of a pixel that surfaces cover.
func (g *guides) put(i int, p *gathered, gain float32) {
	hits := float32(p.hits)
	g.cover[i], g.albedo[i], g.emission[i] = hits/float32(p.n), p.first.albedo.Mul(1/hits), p.emission.Mul(1/float32(p.n))
	off := func(sum, squares float32) float32 {
		mean := sum / hits
		return sqrt(max(0, squares/hits-mean*mean) / hits)
	}
	g.thing[i] = p.mostly()
	g.doubt[i] = doubt{off(p.depth, p.depth2), off(luminance(p.first.albedo), p.albedo2)}
	tint := g.tint(i)
	bare := func(v bvh.Vec, n float32) bvh.Vec {
		return bvh.Vec{X: v.X / tint.X / n, Y: v.Y / tint.Y / n, Z: v.Z / tint.Z / n}
	}
	all := bare(p.light.Sub(p.emission), hits)
	g.half[0][i], g.half[1][i] = all, all
	if p.oddHits > 0 && p.oddHits < p.hits {
		odd := float32(p.oddHits)
		g.half[0][i], g.half[1][i] = bare(p.light.Sub(p.emission).Sub(p.odd.Mul(gain)), hits-odd), bare(p.odd.Mul(gain), odd)
	}
	squares := bare(bare(p.squares.Mul(gain*gain), 1), hits)
	g.variance[i] = max(0, squares.X+squares.Y+squares.Z-all.Dot(all)) / max(1, hits-1)
}
