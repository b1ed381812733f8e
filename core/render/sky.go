package render

import (
	"fmt"
	"math"
	"sort"

	"perigyre/core/render/bvh"
)

// Skies gives pictures of surroundings by their content hash: r, g, b row by row from the top, twice as wide as
// high.
type Skies interface {
	Sky(hash string) (width, height int, pix []float32, err error)
}

// panorama is a picture all round, sampled in proportion to its light.
type panorama struct {
	width, height int
	pix           []bvh.Vec
	weights       []float32 // what each cell is drawn by
	rows          []float64 // sums of light up to each row
	cells         []float64 // sums within each row
	total         float64   // integral of the weights over the sphere
}

// sky returns the panorama of a hash, which is read once.
func (p *Props) sky(hash string) (*panorama, error) {
	from, ok := p.assets.(Skies)
	if !ok {
		return nil, fmt.Errorf("pictures of surroundings are not to be had here")
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	if s := p.skies[hash]; s != nil {
		return s, nil
	}
	w, h, pix, err := from.Sky(hash)
	if err != nil {
		return nil, err
	}
	if p.skies == nil || len(p.skies) >= maxAssets {
		p.skies = map[string]*panorama{}
	}
	p.skies[hash] = newPanorama(w, h, pix)
	return p.skies[hash], nil
}

func newPanorama(w, h int, pix []float32) *panorama {
	p := &panorama{width: w, height: h, pix: make([]bvh.Vec, w*h), weights: make([]float32, w*h), rows: make([]float64, h+1), cells: make([]float64, h*(w+1))}
	for i := range p.pix {
		p.pix[i] = bvh.Vec{X: pix[3*i], Y: pix[3*i+1], Z: pix[3*i+2]}
	}
	for y := range h {
		area := 2 * math.Pi / float64(w) * (math.Cos(math.Pi*float64(y)/float64(h)) - math.Cos(math.Pi*float64(y+1)/float64(h)))
		row := p.cells[y*(w+1) : (y+1)*(w+1)]
		for x := range w {
			p.weights[y*w+x] = float32(p.weight(x, y))
			row[x+1] = row[x] + float64(p.weights[y*w+x])*area
		}
		p.rows[y+1] = p.rows[y] + row[w]
	}
	p.total = p.rows[h]
	return p
}

// weight is what a cell is drawn by: the mean luminance of it and its neighbours, which the light in it, mixed
// from them, is never far above.
func (p *panorama) weight(x, y int) float64 {
	sum := 0.0
	for dy := -1; dy <= 1; dy++ {
		for dx := -1; dx <= 1; dx++ {
			v := min(p.height-1, max(0, y+dy))
			sum += float64(luminance(p.pix[v*p.width+(x+dx+p.width)%p.width]))
		}
	}
	return sum / 9
}

// cell returns where a direction lies, in cells from the left and from the top. Its middle column looks along x,
// as the picture in the browser has it.
func (p *panorama) cell(d bvh.Vec) (x, y float32) {
	u := float32(math.Atan2(float64(d.Z), float64(d.X))/(2*math.Pi)) + 0.5
	v := float32(math.Acos(float64(min(1, max(-1, d.Y)))) / math.Pi)
	return u * float32(p.width), v * float32(p.height)
}

// look returns what comes from a direction, mixed from the four nearest cells, and the density by solid angle of sample.
func (p *panorama) look(d bvh.Vec) (radiance bvh.Vec, density float32) {
	x, y := p.cell(d)
	if p.total > 0 {
		density = p.weights[min(p.height-1, int(y))*p.width+min(p.width-1, int(x))] / float32(p.total)
	}
	x, y = x-0.5, y-0.5
	fx, fy := x-floor(x), y-floor(y)
	at := func(i, j int) bvh.Vec {
		return p.pix[min(p.height-1, max(0, j))*p.width+((i%p.width)+p.width)%p.width]
	}
	i, j := int(floor(x)), int(floor(y))
	top := at(i, j).Mul(1 - fx).Add(at(i+1, j).Mul(fx))
	low := at(i, j+1).Mul(1 - fx).Add(at(i+1, j+1).Mul(fx))
	return top.Mul(1 - fy).Add(low.Mul(fy)), density
}

// sample draws a direction in proportion to the cells' weights, even in height within a cell.
func (p *panorama) sample(u, v float32) bvh.Vec {
	want := float64(u) * p.total
	y := max(0, min(p.height-1, sort.SearchFloat64s(p.rows, want)-1))
	row := p.cells[y*(p.width+1) : (y+1)*(p.width+1)]
	inRow := (want - p.rows[y]) / max(1e-300, p.rows[y+1]-p.rows[y])
	wantX := min(0.999999, max(0, float64(v))) * row[p.width]
	x := max(0, min(p.width-1, sort.SearchFloat64s(row, wantX)-1))
	inCell := (wantX - row[x]) / max(1e-300, row[x+1]-row[x])
	lo, hi := math.Cos(math.Pi*float64(y)/float64(p.height)), math.Cos(math.Pi*float64(y+1)/float64(p.height))
	h := lo + (hi-lo)*min(1, max(0, inRow))
	angle := ((float64(x)+inCell)/float64(p.width) - 0.5) * 2 * math.Pi
	r := math.Sqrt(max(0, 1-h*h))
	sin, cos := math.Sincos(angle)
	return bvh.Vec{X: float32(r * cos), Y: float32(h), Z: float32(r * sin)}
}

func floor(v float32) float32 { return float32(math.Floor(float64(v))) }
