package check

import (
	"fmt"
	"image"
	"math"
	"slices"

	"perigyre/core/edit"
	"perigyre/core/shot"
)

// Rehearsed is a frame of a shot as it was rendered very small, with straight alpha.
type Rehearsed struct {
	Frame   int
	Picture *image.NRGBA
}

// What counts in pictures, of 0 to 1: how bright the brightest of a black frame is; the share of what is shown that is burnt out, and
// from how bright on; from how opaque on something at the edge is seen, and from where on it is no shadow but something of the set; how much more a frame differs from both its neighbours than they from each
// other, and how much the seam from what goes before it, with what small pictures of few samples differ by in any case.
const (
	blackest = 0.02
	burnt    = 0.4
	clipped  = 0.996
	faint    = 0.04
	opaque   = 0.9
	flickers = 2.5
	grainy   = 0.02
)

// Pictures finds what rules do not foresee: in frames of the whole shot, in their order, as they look.
func Pictures(f *Facts, list []Rehearsed) (out []Finding) {
	s := f.Pose.Shot
	over := func(kind string, weight Weight, title, why, unit string, value float64, frames []int) {
		out = append(out, Finding{Kind: kind, Weight: weight, Title: title, Why: why, Unit: unit, Value: value, Parts: []string{}, Mends: []Mend{}, Frames: &[2]float64{float64(frames[0]), float64(frames[len(frames)-1])}})
	}
	var black, burning, edges []int
	most := 0.0
	for _, r := range list {
		top, share, edge := looks(r.Picture)
		if top < blackest {
			black = append(black, r.Frame)
		}
		if share > burnt {
			burning = append(burning, r.Frame)
		}
		if edge > faint && edge < opaque {
			edges, most = append(edges, r.Frame), math.Max(most, edge)
		}
	}
	if len(black) > 0 {
		over("black", Blocks, "Black frames", fmt.Sprintf("%d of the %d frames that were rehearsed show nothing but black.", len(black), len(list)), "frames", float64(len(black)), black)
	}
	if len(burning) > 0 {
		over("burnt", Look, "Burnt out", fmt.Sprintf("On %d frames more than %.0f %% of what is shown is white: nothing is left to grade. Lower the light, or choose another view transform.", len(burning), burnt*100), "frames", float64(len(burning)), burning)
	}
	if s.Backdrop == nil && len(edges) > 0 && f.Margins != nil && f.Margins.Tightest >= 0 {
		over("shadow", Look, "A shadow is cut by the edge of the picture", fmt.Sprintf("Everything is inside, and yet the alpha at the edge is up to %.0f %%: in a comp the shadow ends in a line there.", most*100), "% of alpha", most*100, edges)
		one := &out[len(out)-1]
		for i := range s.Parts {
			if p := &s.Parts[i]; p.Kind == shot.Floor && p.Ground == 0 && p.Fades() < shot.UsualFade {
				one.Mends = append(one.Mends, Mend{"Fade the shadow before the edge", []edit.Edit{{Change: &edit.SetPart{Part: p.ID, Patch: edit.Patch(fmt.Sprintf(`{"fade":%g}`, shot.UsualFade))}}}})
				one.Parts = append(one.Parts, p.ID)
			}
		}
	}
	out = append(out, f.flicker(list)...)
	for i := range out {
		accepted(s, &out[i])
	}
	return out
}

// looks are the brightest value of a picture, the share of what is shown that is burnt out, and the most opaque pixel of its edge.
func looks(p *image.NRGBA) (top, share, edge float64) {
	b := p.Bounds()
	shown, white := 0, 0
	for y := b.Min.Y; y < b.Max.Y; y++ {
		for x := b.Min.X; x < b.Max.X; x++ {
			c := p.NRGBAAt(x, y)
			alpha := float64(c.A) / 255
			if x == b.Min.X || y == b.Min.Y || x == b.Max.X-1 || y == b.Max.Y-1 {
				edge = math.Max(edge, alpha)
			}
			bright := float64(max(c.R, c.G, c.B)) / 255
			top = math.Max(top, bright*alpha)
			if alpha > 0.5 {
				shown++
				if float64(min(c.R, c.G, c.B))/255 >= clipped {
					white++
				}
			}
		}
	}
	if shown > 0 {
		share = float64(white) / float64(shown)
	}
	return top, share, edge
}

// differ is how much two pictures differ: the root of the mean square over all pixels, of what is seen over black.
func differ(a, b *image.NRGBA) float64 {
	if len(a.Pix) != len(b.Pix) {
		return 1
	}
	sum := 0.0
	for k := 0; k < len(a.Pix); k += 4 {
		for c := range 3 {
			d := (float64(a.Pix[k+c])*float64(a.Pix[k+3]) - float64(b.Pix[k+c])*float64(b.Pix[k+3])) / (255 * 255)
			sum += d * d
		}
	}
	return math.Sqrt(sum / (3 * float64(len(a.Pix)/4)))
}

// flicker finds single frames that differ from their neighbours while those are alike, and a seam at which more changes than
// anywhere else.
func (f *Facts) flicker(list []Rehearsed) (out []Finding) {
	n := len(list)
	if n < 4 {
		return nil
	}
	loops := f.Pose.Shot.Ending == shot.Loop
	steps := make([]float64, n) // from each to the next, from the last to the first
	for k := range list {
		steps[k] = differ(list[k].Picture, list[(k+1)%n].Picture)
	}
	for k := range list {
		if !loops && (k == 0 || k == n-1) {
			continue
		}
		before, after := steps[(k+n-1)%n], steps[k]
		over := differ(list[(k+n-1)%n].Picture, list[(k+1)%n].Picture)
		if least := math.Min(before, after); least > flickers*over+grainy {
			out = append(out, Finding{Kind: "flicker", Weight: Look, Parts: []string{}, Mends: []Mend{}, Frames: frame(float64(list[k].Frame)), Value: least * 100, Unit: "% of white",
				Title: fmt.Sprintf("Frame %d flickers", list[k].Frame), Why: "It differs from the frames before and after it, which are alike."})
		}
	}
	sorted := slices.Sorted(slices.Values(steps[:n-1]))
	if largest := sorted[n-2]; loops && steps[n-1] > 1.5*largest+grainy {
		out = append(out, Finding{Kind: "hitch", Weight: Blocks, Parts: []string{}, Mends: []Mend{}, Frames: f.seam(), Value: steps[n-1] * 100, Unit: "% of white",
			Title: "The seam shows", Why: fmt.Sprintf("From the last frame to the first the picture changes by %.2g %% of white, and by no more than %.2g %% from one to the next anywhere else.", steps[n-1]*100, largest*100)})
	}
	return out
}
