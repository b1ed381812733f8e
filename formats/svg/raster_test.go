package svg

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"sort"
	"strings"
	"testing"

	"perigyre/core/outline"
)

// drawings of every kind of line and area that is hard to get right.
var drawings = map[string]string{
	"hole":                   `<path d="M10 10H90V90H10z M30 30V70H70V30z" fill="#204060"/>`,
	"even-odd":               `<path d="M50 5L79 95L2 39H98L21 95z" fill-rule="evenodd"/>`,
	"non-zero":               `<path d="M50 5L79 95L2 39H98L21 95z"/>`,
	"curves":                 `<path d="M10 50C10 10 90 10 90 50S10 90 10 50z M40 50a10 10 0 1 0 20 0a10 10 0 1 0-20 0z" fill-rule="evenodd"/><path d="M5 5q10 20 20 0t20 0v8z"/>`,
	"shapes":                 `<style>.a{fill:#123} rect{stroke:none}</style><g transform="translate(50 50) rotate(30) scale(1.2 .8)"><rect class="a" x="-30" y="-20" width="60" height="40" rx="10"/><ellipse cx="20" cy="30" rx="12" ry="6"/></g><use href="#d" x="5" y="-40"/><polygon id="d" points="10,60 30,60 20,90"/>`,
	"matrices":               `<g transform="matrix(.8 .2 -.3 .9 20 5)"><path transform="skewX(20)" d="M10 10h40v30h-40z"/><line x1="0" y1="60" x2="60" y2="80" stroke="red" stroke-width="4"/></g>`,
	"round strokes":          `<g fill="none" stroke="black"><circle cx="50" cy="50" r="30" stroke-width="8"/><path d="M10 10L50 40L90 10" stroke-width="6" stroke-linejoin="round" stroke-linecap="round"/><polyline points="10,90 50,70 90,90" stroke-width="5" stroke-linecap="square"/></g>`,
	"crossing stroke":        `<path d="M20 20C120 120 -20 120 80 20S-20 60 50 90" fill="none" stroke="#000" stroke-width="9"/>`,
	"closed crossing":        `<path d="M20 20L80 80H20L80 20z" fill="none" stroke="#000" stroke-width="8" stroke-linejoin="bevel"/>`,
	"miters":                 `<g fill="none" stroke="#000" stroke-width="6"><path d="M10 30L30 10L50 30"/><path d="M60 40L70 5L80 40"/><path d="M10 90L18 50L26 90" stroke-miterlimit="2"/><path d="M40 90L48 50L56 90" stroke-miterlimit="20"/><path d="M66 90L90 60L66 60z"/></g>`,
	"bow-tie":                `<path d="M10 10L90 90V10L10 90z"/>`,
	"bow-tie even-odd":       `<path d="M10 10L90 90V10L10 90z M30 30H70V70H30z" fill-rule="evenodd"/>`,
	"arcs":                   `<path d="M10 50A40 25 30 0 1 90 50A40 25 30 0 1 10 50M50 50m-10 0a10 20 45 1 0 20 0a10 20 45 1 0-20 0"/>`,
	"tiny radii":             `<path d="M10 50A1 1 0 0 1 90 50A1 2 40 0 0 10 50z"/>`,
	"compact":                `<path d="M10 10h30-5.5v.5.5l30-5.5-.5 30.5a10 10 0 01-5.5.5q-30-5-30 5.5z"/><polygon points="50,50 80-5 60,90"/><polygon points="50 60 90-0 80 90"/>`,
	"nested holes":           `<path fill-rule="evenodd" d="M5 5H95V95H5zM15 15H85V85H15zM25 25H75V75H25zM35 35H65V65H35z"/>`,
	"same way holes":         `<path d="M5 5H95V95H5zM15 15H85V85H15zM25 85V25H75V85z"/>`,
	"slit":                   `<path d="M10 10H90V90H10V10L30 30V70H70V30H30z"/>`,
	"doubled":                `<path d="M10 10H90V60H10zM10 10H90V60H10zM10 60H90V90H10z" fill-rule="evenodd"/>`,
	"touching corners":       `<path d="M10 10H50V50H10zM50 50H90V90H50zM90 10L50 50L50 10z"/>`,
	"dashes":                 `<g fill="none" stroke="#000"><path d="M10 10H90" stroke-width="6" stroke-dasharray="12 6"/><circle cx="50" cy="55" r="30" stroke-width="8" stroke-dasharray="20 7 3" stroke-dashoffset="9"/><path d="M40 40H60V70H40z" stroke-width="4" stroke-dasharray="9 5.3" stroke-linecap="round"/></g>`,
	"dots":                   `<path d="M15 50H85" fill="none" stroke="#000" stroke-width="9" stroke-linecap="round" stroke-dasharray="0 14"/><path d="M50 20h0" stroke="#000" stroke-width="16" stroke-linecap="round"/><path d="M80 20h0" stroke="#000" stroke-width="16" stroke-linecap="square"/>`,
	"tight bend":             `<path d="M20 80C20 10 24 10 24 80" fill="none" stroke="#000" stroke-width="16"/><path d="M60 80Q60 20 61 80" fill="none" stroke="#000" stroke-width="12" stroke-linejoin="round"/>`,
	"wide pen":               `<path d="M30 30h1v40h-1z" stroke="#000" stroke-width="40" stroke-linejoin="round"/>`,
	"stretched pen":          `<g transform="scale(3 .8)"><circle cx="16" cy="62" r="10" fill="none" stroke="#000" stroke-width="5"/></g>`,
	"clip":                   `<clipPath id="c"><circle cx="50" cy="50" r="30"/><rect x="5" y="45" width="90" height="10"/></clipPath><g clip-path="url(#c)"><rect width="60" height="100"/><path d="M60 0H100V100z"/></g>`,
	"clip in a box":          `<clipPath id="c" clipPathUnits="objectBoundingBox"><path d="M.5 0L1 1H0z"/></clipPath><rect x="10" y="20" width="80" height="60" clip-path="url(#c)"/>`,
	"clip rule":              `<clipPath id="c"><path clip-rule="evenodd" d="M10 10H90V90H10zM30 30H70V70H30z"/></clipPath><rect width="100" height="100" clip-path="url(#c)" transform="rotate(10 50 50)"/>`,
	"mask":                   `<mask id="m"><rect width="100" height="100" fill="#fff"/><circle cx="50" cy="50" r="25" fill="#000"/></mask><rect x="10" y="10" width="80" height="80" mask="url(#m)"/>`,
	"markers":                `<marker id="a" markerWidth="6" markerHeight="6" refX="3" refY="3" orient="auto"><path d="M0 0L6 3L0 6z"/></marker><marker id="d" markerWidth="4" markerHeight="4" refX="2" refY="2" viewBox="0 0 4 4"><circle cx="2" cy="2" r="2"/></marker><path d="M15 80L40 20L60 70L85 15" fill="none" stroke="#000" stroke-width="2.5" marker-start="url(#d)" marker-mid="url(#d)" marker-end="url(#a)"/>`,
	"markers on curves":      `<marker id="a" markerWidth="10" markerHeight="10" refX="0" refY="5" markerUnits="userSpaceOnUse" orient="auto"><path d="M0 0L10 5L0 10z"/></marker><path d="M15 80C15 20 60 20 60 60A15 15 0 0 0 85 70" fill="none" stroke="#000" stroke-width="3" style="marker:url(#a)"/>`,
	"symbol":                 `<symbol id="s" viewBox="0 0 10 10"><circle cx="5" cy="5" r="5"/></symbol><use href="#s" x="10" y="10" width="30" height="30"/><use xlink:href="#s" x="50" y="40" width="40" height="20"/>`,
	"nested":                 `<svg x="10" y="10" width="50" height="30" viewBox="0 0 20 20" preserveAspectRatio="xMaxYMin slice"><circle cx="10" cy="10" r="9"/></svg><svg x="30%" y="50%" width="60" height="40" viewBox="-5 -5 10 20" preserveAspectRatio="none"><path d="M-5 -5H5L0 15z"/></svg>`,
	"use of use":             `<defs><g id="a"><rect width="10" height="10"/><circle cx="20" cy="5" r="5"/></g><g id="b"><use href="#a"/><use href="#a" y="20" transform="scale(1.5)"/></g></defs><use href="#b" x="5" y="5"/><use href="#b" transform="translate(50 10) rotate(40)"/>`,
	"opacity":                `<g opacity=".4"><rect x="5" y="5" width="50" height="50"/><rect x="30" y="30" width="60" height="50"/></g><rect x="60" y="5" width="30" height="60" opacity=".4"/><circle cx="80" cy="80" r="15" fill-opacity=".3" stroke="#000" stroke-opacity=".3" stroke-width="10"/>`,
	"paint order":            `<path d="M20 20H80V80H20z" fill="#fff" stroke="#000" stroke-width="20" paint-order="stroke"/>`,
	"percent":                `<rect x="10%" y="20%" width="50%" height="40%"/><circle cx="75%" cy="75%" r="15%"/><line x1="5%" y1="95%" x2="60%" y2="80%" stroke="#000" stroke-width="4%"/>`,
	"switch":                 `<switch><g requiredExtensions="http://example.org/x"><rect width="100" height="100"/></g><circle cx="50" cy="50" r="30"/></switch>`,
	"inherited":              `<style>.o .i{fill:none;stroke:#000;stroke-width:6}</style><g class="o"><g><path class="i" d="M20 20H80V80"/></g></g><g fill="none" stroke="currentColor" color="#000" stroke-width="8"><path d="M20 50L60 90"/></g>`,
	"broken path":            `<path d="M10 10H60V60H10z M70 70 H90 V90 H70 z M 5 x 7"/>`,
	"spiral":                 `<path fill="none" stroke="#000" stroke-width="5" d="` + spiral() + `"/>`,
	"near-parallel":          `<path d="M10 10L90 10.001L90 50L10 50.001zM10 50.0005L90 50L90 90L10 90z"/>`,
	"rounded rects":          `<rect x="5" y="5" width="40" height="30" rx="100"/><rect x="55" y="5" width="40" height="30" ry="8"/><rect x="5" y="50" width="90" height="40" rx="12" ry="20" fill="none" stroke="#000" stroke-width="5"/>`,
	"many crossings":         `<path fill-rule="evenodd" d="` + starOf(31, 12) + `"/>`,
	"many crossings stroked": `<path fill="none" stroke="#000" stroke-width="1.5" d="` + starOf(13, 5) + `"/>`,
}

func spiral() string {
	var b strings.Builder
	for i := range 300 {
		sin, cos := math.Sincos(float64(i) / 16)
		r := float64(i) / 7.5
		fmt.Fprintf(&b, "%c%.3f %.3f", "LM"[one(i == 0)], 50+r*cos, 50+r*sin)
	}
	return b.String()
}

func starOf(n, step int) string {
	var b strings.Builder
	for i := range n {
		sin, cos := math.Sincos(float64(i*step) / float64(n) * 2 * math.Pi)
		fmt.Fprintf(&b, "%c%.4f %.4f", "LM"[one(i == 0)], 50+45*cos, 50+45*sin)
	}
	return b.String() + "z"
}

// coverage returns how much of each pixel a drawing covers, by its areas: 4 x 4 places of each, their alphas laid over each
// other.
func coverage(t *testing.T, d *Drawing, size [2]float64, w, h int) []float64 {
	t.Helper()
	areas, hides := make([]outline.Area, len(d.Areas)), make([]int, len(d.Areas))
	for i, a := range d.Areas {
		areas[i], hides[i] = a.Shape, a.Hides
	}
	regions, err := outline.Visible(context.Background(), areas, hides)
	if err != nil {
		t.Fatal(err)
	}
	const n = 8 // rows of samples a pixel; across, coverage is exact
	out := make([]float64, w*h)
	k := float64(w) / size[0] // pixels a millimetre, across and down
	rows := make([][][]float64, h*n)
	for i, r := range regions {
		for _, l := range r.Area().Lines {
			for j, a := range l {
				b := l[(j+1)%len(l)]
				u, v := (size[1]-a[1])*k*n-0.5, (size[1]-b[1])*k*n-0.5
				if u > v {
					a, b, u, v = b, a, v, u
				}
				for row := max(0, int(math.Ceil(u))); row < h*n && float64(row) < v; row++ {
					if rows[row] == nil {
						rows[row] = make([][]float64, len(regions))
					}
					rows[row][i] = append(rows[row][i], (a[0]+(b[0]-a[0])*(float64(row)-u)/(v-u))*k)
				}
			}
		}
	}
	through := make([]float64, w)
	for row, areas := range rows {
		for x := range through {
			through[x] = 1
		}
		for i, cuts := range areas {
			sort.Float64s(cuts)
			for c := 0; c+1 < len(cuts); c += 2 {
				from, to := math.Max(0, cuts[c]), math.Min(float64(w), cuts[c+1])
				for x := int(from); x < w && float64(x) < to; x++ {
					alpha := float64(d.Areas[i].Paint.Color.A) / 255
					if g := d.Areas[i].Paint.Gradient; g != nil {
						alpha = float64(g.At([2]float64{(float64(x) + 0.5) / k, size[1] - (float64(row)+0.5)/k/n}).A) / 255
					}
					covered := math.Min(to, float64(x+1)) - math.Max(from, float64(x))
					if alpha == 1 { // nothing lies below what is opaque: pixels at edges between two are full
						through[x] = math.Max(0, through[x]-covered)
					} else {
						through[x] *= 1 - alpha*covered
					}
				}
			}
		}
		for x, v := range through {
			out[row/n*w+x] += (1 - v) / n
		}
	}
	return out
}

// overlap compares a drawing with what librsvg's rsvg-convert makes of it: how much is covered in both, of what is in
// either.
func overlap(t *testing.T, file string) (share, either float64, d *Drawing, err error) {
	t.Helper()
	// Both tell an edge only as finely as their pixels do: thin lines are looked at more closely.
	for _, width := range []string{"400", "1600", "4800"} {
		if share, either, d, err = overlapAt(t, file, width); err != nil || share >= 0.995 {
			break
		}
	}
	return share, either, d, err
}

func overlapAt(t *testing.T, file, width string) (share, either float64, d *Drawing, err error) {
	t.Helper()
	raw, err := exec.Command("rsvg-convert", "--width", width, "--keep-aspect-ratio", file).Output()
	if err != nil {
		return 0, 0, nil, fmt.Errorf("rsvg-convert: %w", err)
	}
	img, err := png.Decode(bytes.NewReader(raw))
	if err != nil {
		return 0, 0, nil, fmt.Errorf("rsvg-convert: %w", err)
	}
	data, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	docu, err := Open(data)
	if err != nil {
		return 0, 0, nil, err
	}
	if d, err = docu.Draw(context.Background(), math.Max(docu.Size[0], docu.Size[1])/40_000); err != nil {
		return 0, 0, nil, err
	}
	w, h := img.Bounds().Dx(), img.Bounds().Dy()
	both := 0.0
	for i, ours := range coverage(t, d, docu.Size, w, h) {
		theirs := alphaAt(img, i%w, i/w)
		if math.Abs(ours-theirs) < 1.5/255 { // they have no more steps
			ours = theirs
		}
		both += math.Min(ours, theirs)
		either += math.Max(ours, theirs)
	}
	return both / either, either, d, nil
}

func alphaAt(img image.Image, x, y int) float64 {
	_, _, _, a := img.At(x, y).RGBA()
	return float64(a) / 0xffff
}

// Areas and strokes against an independent rasteriser, librsvg's.
func TestAgainstAnotherRasteriser(t *testing.T) {
	for name, body := range drawings {
		file := filepath.Join(t.TempDir(), "a.svg")
		if err := os.WriteFile(file, doc(body), 0o644); err != nil {
			t.Fatal(err)
		}
		if share, either, _, err := overlap(t, file); err != nil || either < 500 || share < 0.995 {
			t.Errorf("%s: the two agree on %.4f of %.0f pixels, %v", name, share, either, err)
		}
	}
}

// reference drawings of Debian's librsvg2-tests that are held to other things here.
var unlike = map[string]string{
	"svg2/gradient-01-b.svg": "a focus outside its circle is brought to the edge (SVG 1.1, 13.2.3); by version 2 a cone is empty",
}

var named = regexp.MustCompile(`<(text|tspan|image|filter|foreignObject|pattern|font|animate)|filter\s*[:=]`)

// The reference drawings of librsvg that have neither text nor filters, nor pictures and patterns, which are named when
// they are left out.
func TestReferenceDrawings(t *testing.T) {
	root := "/usr/libexec/installed-tests/RSVG/fixtures/reftests"
	tried := 0
	for _, dir := range []string{root, root + "/svg1.1", root + "/svg2", root + "/bugs", root + "/adwaita", root + "/svg2-reftests"} {
		files, _ := filepath.Glob(dir + "/*.svg")
		for _, file := range files {
			name := strings.TrimPrefix(file, root+"/")
			data, err := os.ReadFile(file)
			if err != nil {
				t.Fatal(err)
			}
			if named.Match(data) || unlike[name] != "" {
				continue
			}
			share, either, d, err := overlap(t, file)
			if err != nil {
				// Some are to be refused, some paint nothing, some what lies in other files.
				if s := err.Error(); !strings.Contains(s, "rsvg-convert") && !strings.Contains(s, "paints nothing") {
					t.Errorf("%s: %v", name, err)
				}
				continue
			}
			tried++
			if share < 0.995 {
				t.Errorf("%s: the two agree on %.4f of %.0f pixels; left out %v", name, share, either, d.LeftOut)
			}
		}
	}
	if tried < 100 {
		t.Errorf("only %d drawings were compared; make test installs librsvg2-tests", tried)
	}
	t.Logf("%d drawings compared", tried)
}
