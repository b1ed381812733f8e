package render

import (
	"context"
	"math"

	"perigyre/core/render/bvh"
)

// The denoiser is a weighted regression (Bitterli et al., "Nonlinearly Weighted First-order Regression for Denoising
// Monte Carlo Renderings", 2016): around every few pixels the light is fitted by a plane over place, normal, base
// colour and depth, and each pixel gets the mean of the fits that it lies in. Pixels count in a fit by how alike the
// patches about them are, given their noise (Rousselle et al., "Adaptive Rendering with Non-Local Means Filtering",
// 2012), and the light of one half of the samples is weighted by the other half, so that noise does not choose itself.
const (
	reach    = 5 // of the window of a fit, pixels
	window   = 2*reach + 1
	patch    = 2          // of what is compared, pixels
	stride   = 3          // one fit for each square of so many pixels
	strict   = 0.7        // standard deviations that patches may differ by
	alike    = 0.01       // share of the light that is no difference
	flat     = 1e-3       // variance below which a feature explains nothing
	least    = 1.0 / 256  // weights below it are left out
	wildest  = 40         // difference of two pixels that counts in full
	apart    = 1e9        // difference of pixels of which surfaces cover only one, or none
	bandRows = 8 * stride // rows that a thread takes at a time
)

// denoiseLight smooths the light of surfaces where it is noisy, and only there. The base colour is taken out first and put
// back, and what glows is left alone. Alpha and passes are not touched. The result does not depend on threads. It
// returns how far the square root of each pixel's luminance may still be off, or nothing when the context ends.
func (f *Film) denoiseLight(ctx context.Context, threads int) []float32 {
	d := f.newDenoiser(ctx, threads)
	bands := (f.Height + bandRows - 1) / bandRows
	strips := make([]strip, bands)
	shareOut(ctx, threads, bands, func() func(int) {
		w := d.newBench()
		return func(k int) { strips[k] = d.band(ctx, w, k*bandRows, min(f.Height, (k+1)*bandRows)) }
	})
	if ctx.Err() != nil {
		return nil
	}
	var smooth [2][]bvh.Vec
	for h := range smooth {
		smooth[h] = make([]bvh.Vec, f.Width*f.Height)
	}
	eachRow(ctx, threads, f.Height, func(y int) { d.gather(strips, &smooth, y) })
	g := f.guides
	off := make([]float32, f.Width*f.Height)
	eachRow(ctx, threads, f.Height, func(y int) {
		for x := range f.Width {
			i := y*f.Width + x
			if g.cover[i] <= 0 {
				continue
			}
			l, variance := d.trusted(&smooth, x, y)
			tint := g.tint(i).Mul(g.cover[i])
			l = mul(l, tint).Add(g.emission[i])
			f.Pix[4*i], f.Pix[4*i+1], f.Pix[4*i+2] = l.X, l.Y, l.Z
			most := max(tint.X, tint.Y, tint.Z)
			off[i] = sqrt(variance) * most / (2*sqrt(max(0, luminance(l))) + sqrt(sqrt(variance)*most) + 1e-6)
		}
	})
	if ctx.Err() != nil {
		return nil
	}
	return off
}

// denoise is denoiseLight, and the shadow on the floor is smoothed, which is all that is done to alpha.
func (f *Film) denoise(ctx context.Context, threads int) {
	f.denoiseLight(ctx, threads)
	f.smoothShadow(ctx, threads)
}

// gather takes the means of the fits of both halves, of a row.
func (d *denoiser) gather(strips []strip, to *[2][]bvh.Vec, y int) {
	g := d.f.guides
	for i := y * d.width; i < (y+1)*d.width; i++ {
		if g.cover[i] <= 0 {
			continue
		}
		for half := range to {
			const own = 1e-4 // what a pixel counts itself, for those that no fit holds
			sum, weight := g.half[half][i].Mul(own), float32(own)
			for k := max(0, y/bandRows-1); k <= min(len(strips)-1, y/bandRows+1); k++ {
				if s := &strips[k]; y >= s.top && y < s.bottom {
					j := i - s.top*d.width
					sum, weight = sum.Add(s.light[half][j]), weight+s.weight[half][j]
				}
			}
			to[half][i] = sum.Mul(1 / weight)
		}
	}
}

// trusted mixes what the fits say of a pixel with what was sampled, by how far each is off, and returns how far off
// the mixture is, as the mean variance of the three colours. How far the fits are is seen by the other half of the
// samples, whose noise is not in them.
func (d *denoiser) trusted(smooth *[2][]bvh.Vec, x, y int) (bvh.Vec, float32) {
	const near = 2 // pixels about it that are judged together
	g := d.f.guides
	i := y*d.width + x
	// Sums, and not the mean of shares: a pixel that chance has given none of a rare bright light seems to have no noise.
	var off, spread, n float32
	for v := max(0, y-near); v <= min(d.height-1, y+near); v++ {
		for u := max(0, x-near); u <= min(d.width-1, x+near); u++ {
			j := v*d.width + u
			if g.cover[j] <= 0 {
				continue
			}
			p, q := smooth[0][j].Sub(g.half[1][j]), smooth[1][j].Sub(g.half[0][j])
			off += (p.Dot(p)+q.Dot(q))/2 - d.spread[j]
			spread += d.spread[j]
			n++
		}
	}
	const noise = 0.5                    // of both halves together, in shares of that of a half
	off = max(0.05, off/(1e-8*n+spread)) // what so few pixels show is not surer than that
	share := off / (off + noise)
	l := smooth[0][i].Add(smooth[1][i]).Mul((1 - share) / 2).Add(d.sampled(x, y).Mul(share))
	return bvh.Vec{X: max(0, l.X), Y: max(0, l.Y), Z: max(0, l.Z)}, share * noise * max(d.spread[i], spread/n) / 3
}

// sampled returns the light of a pixel as it was sampled, but no more or less than its neighbours have: what stands out
// alone is chance.
func (d *denoiser) sampled(x, y int) bvh.Vec {
	g := d.f.guides
	at := func(i int) bvh.Vec { return g.half[0][i].Add(g.half[1][i]).Mul(0.5) }
	var low, high bvh.Vec
	n := 0
	for v := max(0, y-1); v <= min(d.height-1, y+1); v++ {
		for u := max(0, x-1); u <= min(d.width-1, x+1); u++ {
			j := v*d.width + u
			if u == x && v == y || g.cover[j] <= 0 {
				continue
			}
			l := at(j)
			if n++; n == 1 {
				low, high = l, l
			}
			low, high = least3(low, l), most3(high, l)
		}
	}
	l := at(y*d.width + x)
	if n < 3 {
		return l
	}
	return most3(low, least3(high, l))
}

func least3(a, b bvh.Vec) bvh.Vec {
	return bvh.Vec{X: min(a.X, b.X), Y: min(a.Y, b.Y), Z: min(a.Z, b.Z)}
}

func most3(a, b bvh.Vec) bvh.Vec {
	return bvh.Vec{X: max(a.X, b.X), Y: max(a.Y, b.Y), Z: max(a.Z, b.Z)}
}

// tint is the base colour that is taken out of the light.
func (g *guides) tint(i int) bvh.Vec {
	const dark = 0.05
	a := g.albedo[i]
	return bvh.Vec{X: max(dark, a.X), Y: max(dark, a.Y), Z: max(dark, a.Z)}
}

// strip is what the fits of a band of rows say of it and of what their windows reach into.
type strip struct {
	top, bottom int
	light       [2][]bvh.Vec // of each half
	weight      [2][]float32
}

// features of a pixel: place in the picture, normal, base colour, and depth by its logarithm, of which a difference is
// one of depth over what a window is wide there.
const features = 9

type feature [features]float32

type denoiser struct {
	f             *Film
	width, height int
	spread        []float32 // variance of a half's light, of all three colours together
	feature       []feature
	doubt         []feature // variances of the features
}

func (f *Film) newDenoiser(ctx context.Context, threads int) *denoiser {
	g := f.guides
	n := f.Width * f.Height
	d := &denoiser{f: f, width: f.Width, height: f.Height, spread: make([]float32, n), feature: make([]feature, n), doubt: make([]feature, n)}
	g.spreads(ctx, f.Width, f.Height, threads, d.spread)
	eachRow(ctx, threads, f.Height, func(y int) {
		for x := range f.Width {
			i := y*f.Width + x
			if g.cover[i] <= 0 {
				continue
			}
			p, q := &d.feature[i], &d.doubt[i]
			nn, a := g.normal[i], g.albedo[i]
			*p = feature{float32(x) / reach, float32(f.top+y) / reach, nn.X, nn.Y, nn.Z, a.X, a.Y, a.Z, float32(math.Log(math.Max(1e-12, float64(g.depth[i])))) / (g.footprint * reach)}
			off := g.doubt[i].albedo * g.doubt[i].albedo / 3
			deep := g.doubt[i].depth / max(1e-12, g.footprint*g.depth[i]*reach)
			*q = feature{0, 0, 0, 0, 0, off, off, off, deep * deep}
		}
	})
	return d
}

// spreads works out the variance of a half's light at each pixel. What samples differ by overstates the noise of well spread
// ones; what the two halves differ by does not, but is noisy itself. The first is scaled by the means of both about the pixel.
func (g *guides) spreads(ctx context.Context, width, height, threads int, to []float32) {
	differ := make([]float32, width*height)
	for i := range differ {
		a := g.half[0][i].Sub(g.half[1][i])
		differ[i] = a.Dot(a) / 2
	}
	eachRow(ctx, threads, height, func(y int) {
		for x := range width {
			i := y*width + x
			if g.cover[i] <= 0 {
				continue
			}
			var halves, samples float32
			for v := max(0, y-5); v <= min(height-1, y+5); v++ {
				for u := max(0, x-5); u <= min(width-1, x+5); u++ {
					if j := v*width + u; g.cover[j] > 0 {
						halves, samples = halves+differ[j], samples+2*g.variance[j]
					}
				}
			}
			to[i] = 2 * g.variance[i]
			if samples > 0 {
				to[i] *= min(1, halves/samples)
			}
		}
	})
}

// bench is the memory of a thread.
type bench struct {
	differ  [2][]float32 // of pixels and those an offset away, for each half
	centres []int        // of fits, pixels
	weights [2][]float32 // a window for each
}

func (d *denoiser) newBench() *bench {
	n := d.width * (bandRows + reach + 2*patch)
	return &bench{differ: [2][]float32{make([]float32, n), make([]float32, n)}}
}

// band makes the fits whose centres lie in rows from top up to bottom, or some of them where the context ends.
func (d *denoiser) band(ctx context.Context, b *bench, top, bottom int) strip {
	d.choose(b, top, bottom)
	s := strip{top: max(0, top-reach), bottom: min(d.height, bottom+reach)}
	for h := range s.light {
		s.light[h], s.weight[h] = make([]bvh.Vec, (s.bottom-s.top)*d.width), make([]float32, (s.bottom-s.top)*d.width)
	}
	if len(b.centres) == 0 {
		return s
	}
	for h := range b.weights {
		b.weights[h] = append(b.weights[h][:0], make([]float32, len(b.centres)*window*window)...)
	}
	for dy := 0; dy <= reach; dy++ {
		for dx := -reach; dx <= reach; dx++ {
			if (dy > 0 || dx >= 0) && ctx.Err() == nil {
				d.compare(b, top, bottom, dx, dy)
			}
		}
	}
	var fit regression
	for k, c := range b.centres {
		if ctx.Err() != nil {
			return s
		}
		for h := range b.weights {
			d.fit(&fit, &s, c, h, b.weights[1-h][k*window*window:(k+1)*window*window])
		}
	}
	return s
}

// choose takes the pixel of each square that surfaces cover most.
func (d *denoiser) choose(b *bench, top, bottom int) {
	cover := d.f.guides.cover
	b.centres = b.centres[:0]
	for y := top; y < bottom; y += stride {
		for x := 0; x < d.width; x += stride {
			best, at := float32(0), 0
			for _, o := range [stride * stride][2]int{{1, 1}, {0, 1}, {2, 1}, {1, 0}, {1, 2}, {0, 0}, {2, 0}, {0, 2}, {2, 2}} {
				u, v := x+o[0], y+o[1]
				if u < d.width && v < bottom && cover[v*d.width+u] > best {
					best, at = cover[v*d.width+u], v*d.width+u
				}
			}
			if best > 0 {
				b.centres = append(b.centres, at)
			}
		}
	}
}

// difference of two pixels, of one picture or of two, for each half of the samples: as a multiple of what is no difference,
// without what noise makes of it. P and q are the variances of their halves.
func difference(f, g *guides, i, j int, p, q float32) (float32, float32) {
	l := luminance(f.half[0][i]) + luminance(f.half[1][i]) + luminance(g.half[0][j]) + luminance(g.half[1][j])
	scale := 1 / (alike*alike*l*l + 1e-8 + strict*strict*(p+q))
	both := 2 * min(p, q)
	v, w := f.half[0][i].Sub(g.half[0][j]), f.half[1][i].Sub(g.half[1][j])
	return min(wildest, (v.Dot(v)-both)*scale), min(wildest, (w.Dot(w)-both)*scale)
}

// compare weighs, for each centre, the pixels at an offset and opposite to it.
func (d *denoiser) compare(b *bench, top, bottom, dx, dy int) {
	g := d.f.guides
	first, last := max(0, top-dy-patch), min(d.height, bottom+patch) // of the rows that are compared with those dy below
	last = min(last, d.height-dy)
	for y := first; y < last; y++ {
		row := (y - first) * d.width
		for x := range d.width {
			i := y*d.width + x
			a, c := &b.differ[0][row+x], &b.differ[1][row+x]
			if u := x + dx; u < 0 || u >= d.width || g.cover[i] <= 0 || g.cover[i+dy*d.width+dx] <= 0 {
				*a, *c = apart, apart
				continue
			}
			j := i + dy*d.width + dx
			*a, *c = difference(g, g, i, j, d.spread[i], d.spread[j])
		}
	}
	weigh := func(k, at, to int) { // the patch about a pixel compared with the one at the offset
		x, y := at%d.width, at/d.width
		if x+dx < 0 || x+dx >= d.width || y+dy >= d.height || x < 0 || y < 0 {
			return
		}
		if b.differ[0][(y-first)*d.width+x] == apart {
			return
		}
		var sum [2]float32
		n := float32(0)
		for v := max(first, y-patch); v <= min(last-1, y+patch); v++ {
			row := (v - first) * d.width
			for u := max(0, x-patch); u <= min(d.width-1, x+patch); u++ {
				if one := b.differ[0][row+u]; one != apart {
					sum[0], sum[1], n = sum[0]+one, sum[1]+b.differ[1][row+u], n+1
				}
			}
		}
		for h := range sum {
			b.weights[h][k*window*window+to] = decay(max(0, sum[h]/n))
		}
	}
	for k, at := range b.centres {
		weigh(k, at, (reach+dy)*window+reach+dx)
		if dx != 0 || dy != 0 {
			x, y := at%d.width-dx, at/d.width-dy
			if x >= 0 && x < d.width && y >= 0 {
				weigh(k, y*d.width+x, (reach-dy)*window+reach-dx)
			}
		}
	}
}

// terms of a fit: what is the same everywhere, and what goes with each feature.
const terms = features + 1

// regression is the room that a fit takes.
type regression struct {
	a [terms][terms]float32 // the normal equations
	b [terms][3]float32
	x [window * window]feature // of the pixels that count, from the centre
	w [window * window]float32
	j [window * window]int
}

// fit fits the light of one half about a centre, weighed by the other half, and adds what it says of each pixel.
func (d *denoiser) fit(r *regression, s *strip, centre, half int, weights []float32) {
	g := d.f.guides
	light := g.half[half]
	r.a, r.b = [terms][terms]float32{}, [terms][3]float32{}
	cx, cy := centre%d.width, centre/d.width
	own := &d.feature[centre]
	n := 0
	var doubt feature
	var low, high bvh.Vec
	for dy := max(-reach, -cy); dy <= min(reach, d.height-1-cy); dy++ {
		for dx := max(-reach, -cx); dx <= min(reach, d.width-1-cx); dx++ {
			w := weights[(reach+dy)*window+reach+dx]
			if w < least {
				continue
			}
			j := centre + dy*d.width + dx
			w *= g.cover[j]
			x := &r.x[n]
			r.w[n], r.j[n] = w, j
			n++
			for k, v := range &d.feature[j] {
				x[k] = v - own[k]
				doubt[k] += w * d.doubt[j][k]
			}
			l := light[j]
			if n == 1 {
				low, high = l, l
			}
			low, high = least3(low, l), most3(high, l)
			r.a[0][0] += w
			r.b[0][0], r.b[0][1], r.b[0][2] = r.b[0][0]+w*l.X, r.b[0][1]+w*l.Y, r.b[0][2]+w*l.Z
			for k, v := range x {
				v *= w
				r.a[k+1][0] += v
				to := &r.b[k+1]
				to[0], to[1], to[2] = to[0]+v*l.X, to[1]+v*l.Y, to[2]+v*l.Z
				row := &r.a[k+1]
				for m := 0; m <= k; m++ {
					row[m+1] += v * x[m]
				}
			}
		}
	}
	if n == 0 {
		return
	}
	for k := range doubt { // a feature that is noise itself explains little
		r.a[k+1][k+1] += doubt[k] + flat*r.a[0][0]
	}
	r.solve()
	for i := range n {
		var l [3]float32
		for c := range l {
			l[c] = r.b[0][c]
			for k, v := range &r.x[i] {
				l[c] += v * r.b[k+1][c]
			}
		}
		j := r.j[i] - s.top*d.width
		within := most3(low, least3(high, bvh.Vec{X: l[0], Y: l[1], Z: l[2]}))
		s.light[half][j] = s.light[half][j].Add(within.Mul(r.w[i]))
		s.weight[half][j] += r.w[i]
	}
}

// solve puts the solution of the equations, whose lower half is given, in the place of their right sides (Cholesky).
func (r *regression) solve() {
	for j := range terms {
		for k := range j {
			r.a[j][j] -= r.a[j][k] * r.a[j][k]
		}
		d := sqrt(max(1e-12*r.a[0][0], r.a[j][j]))
		r.a[j][j] = d
		for i := j + 1; i < terms; i++ {
			for k := range j {
				r.a[i][j] -= r.a[i][k] * r.a[j][k]
			}
			r.a[i][j] /= d
		}
	}
	for c := range 3 {
		for i := range terms {
			for k := range i {
				r.b[i][c] -= r.a[i][k] * r.b[k][c]
			}
			r.b[i][c] /= r.a[i][i]
		}
		for i := terms - 1; i >= 0; i-- {
			for k := i + 1; k < terms; k++ {
				r.b[i][c] -= r.a[k][i] * r.b[k][c]
			}
			r.b[i][c] /= r.a[i][i]
		}
	}
}
