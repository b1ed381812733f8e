package lighting

import (
	"fmt"
	"math"
	"slices"

	"perigyre/core/geom"
)

// Studio is a picture of surroundings that is worked out: a sky of three colours with patches of light in it.
type Studio struct {
	Name    string  `json:"name"`
	Note    string  `json:"note"`
	sky     [3]rgb  // straight up, level, straight down
	patches []patch // later ones lie over earlier ones
}

type rgb [3]float64

// patch is a rectangle of light as seen from the middle: degrees to the left of the front, above the level, wide and high, and
// soft over the outer share of it.
type patch struct {
	left, high, wide, tall, soft float64
	light                        rgb
}

func grey(v float64) rgb { return rgb{v, v, v} }

// Studios are all that can be had. Their names say what they look like.
var Studios = []Studio{
	{"soft box room", "one large box overhead, two at the sides, a dark floor",
		[3]rgb{grey(0.5), grey(0.3), grey(0.08)},
		[]patch{{0, 82, 90, 70, 0.25, grey(9)}, {95, 15, 50, 70, 0.3, grey(4)}, {-95, 15, 50, 70, 0.3, grey(3)}}},
	{"two windows", "tall daylight windows on the left, a warm room",
		[3]rgb{{0.32, 0.3, 0.28}, {0.24, 0.22, 0.2}, {0.12, 0.1, 0.085}},
		[]patch{{62, 14, 26, 62, 0.06, rgb{9, 10, 11.5}}, {98, 14, 26, 62, 0.06, rgb{8, 9, 10.5}}, {62, 14, 1.6, 62, 0.1, grey(0.15)}, {98, 14, 1.6, 62, 0.1, grey(0.15)}, {-80, 5, 60, 40, 0.9, rgb{0.7, 0.6, 0.5}}}},
	{"strip lights", "narrow bright strips in a dark room",
		[3]rgb{grey(0.06), grey(0.05), grey(0.02)},
		[]patch{{48, 12, 9, 110, 0.2, grey(16)}, {-48, 12, 9, 110, 0.2, grey(16)}, {0, 84, 20, 60, 0.3, grey(8)}, {180, 20, 120, 8, 0.4, grey(4)}}},
	{"overcast", "a bright, even sky over a grey ground",
		[3]rgb{{1.5, 1.56, 1.62}, {0.85, 0.87, 0.9}, {0.22, 0.21, 0.2}},
		[]patch{{20, 64, 120, 60, 1, rgb{2.3, 2.35, 2.4}}}},
	{"clear dusk", "a warm band low in front, a deep sky behind",
		[3]rgb{{0.12, 0.2, 0.42}, {0.5, 0.44, 0.46}, {0.07, 0.06, 0.06}},
		[]patch{{70, 6, 160, 22, 1, rgb{2.6, 1.25, 0.55}}, {70, 5, 14, 10, 0.7, rgb{26, 15, 7}}}},
	{"white tent", "light from nearly everywhere, a dark slit in front to draw edges",
		[3]rgb{grey(1.6), grey(1.5), grey(1.1)},
		[]patch{{0, 4, 10, 90, 0.3, grey(0.02)}, {150, 4, 8, 90, 0.3, grey(0.05)}, {-150, 4, 8, 90, 0.3, grey(0.05)}}},
}

// Paint works a studio's picture out: r, g, b row by row from the top, twice as wide as high, the front (z) in the middle of its
// right half as pictures of surroundings have it here. Each pixel is the mean of a grid of directions in it.
func Paint(name string, width int) (pix []float32, err error) {
	k := slices.IndexFunc(Studios, func(s Studio) bool { return s.Name == name })
	if k < 0 {
		return nil, fmt.Errorf("there are no surroundings called %q", name)
	}
	s := &Studios[k]
	height := width / 2
	pix = make([]float32, 3*width*height)
	const grid = 3
	for y := range height {
		for x := range width {
			var sum rgb
			for i := range grid * grid {
				u := (float64(x) + (float64(i%grid)+0.5)/grid) / float64(width)
				v := (float64(y) + (float64(i/grid)+0.5)/grid) / float64(height)
				c := s.radiance(direction(u, v))
				for n := range sum {
					sum[n] += c[n] / (grid * grid)
				}
			}
			for n, c := range sum {
				pix[3*(y*width+x)+n] = float32(c)
			}
		}
	}
	return pix, nil
}

// direction is where a place of a picture lies: longitude from x towards z, from the middle; latitude from the top.
func direction(u, v float64) geom.Vec3 {
	sin, cos := math.Sincos((u - 0.5) * 2 * math.Pi)
	up, level := math.Sincos((0.5 - v) * math.Pi)
	return geom.Vec3{level * cos, up, level * sin}
}

func (s *Studio) radiance(d geom.Vec3) rgb {
	far, k := s.sky[0], d[1]
	if k < 0 {
		far, k = s.sky[2], -k
	}
	var c rgb
	for n := range c {
		c[n] = s.sky[1][n]*(1-k) + far[n]*k
	}
	for _, p := range s.patches {
		share := p.share(d)
		for n := range c {
			c[n] += (p.light[n] - c[n]) * share
		}
	}
	return c
}

// share is how much of a patch is seen in a direction: it is a rectangle on a plane across its own direction.
func (p *patch) share(d geom.Vec3) float64 {
	m := Bearing{Left: p.left * math.Pi / 180, High: p.high * math.Pi / 180, Distance: 1}.Direction()
	ahead := d.Dot(m)
	if ahead <= 0.01 {
		return 0
	}
	turn := geom.LookAlong(m)
	x := d.Dot(turn.Rotate(geom.Vec3{1, 0, 0})) / ahead
	y := d.Dot(turn.Rotate(geom.Vec3{0, 1, 0})) / ahead
	return edge(x, p.wide, p.soft) * edge(y, p.tall, p.soft)
}

// edge is 1 well within a width of so many degrees, 0 outside, and smooth over its soft outer share.
func edge(x, degrees, soft float64) float64 {
	half := math.Tan(math.Min(degrees, 170) * math.Pi / 360)
	k := (1 - math.Abs(x)/half) / math.Max(1e-6, soft)
	k = math.Min(1, math.Max(0, k))
	return k * k * (3 - 2*k)
}
