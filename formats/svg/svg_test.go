package svg

import (
	"bytes"
	"fmt"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/tdewolff/canvas"
)

func doc(body string) []byte {
	return []byte(`<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="40mm" viewBox="0 0 100 100">` + body + `</svg>`)
}

var drawings = map[string]string{
	"hole":     `<path d="M10 10H90V90H10z M30 30V70H70V30z" fill="#204060"/>`,
	"even-odd": `<path d="M50 5L79 95L2 39H98L21 95z" fill-rule="evenodd"/>`,
	"non-zero": `<path d="M50 5L79 95L2 39H98L21 95z"/>`,
	"curves":   `<path d="M10 50C10 10 90 10 90 50S10 90 10 50z M40 50a10 10 0 1 0 20 0a10 10 0 1 0-20 0z" fill-rule="evenodd"/><path d="M5 5q10 20 20 0t20 0v8z"/>`,
	"strokes":  `<g fill="none" stroke="black"><circle cx="50" cy="50" r="30" stroke-width="8"/><path d="M10 10L50 40L90 10" stroke-width="6" stroke-linejoin="round" stroke-linecap="round"/><polyline points="10,90 50,70 90,90" stroke-width="5" stroke-linejoin="miter" stroke-linecap="square"/></g>`,
	"shapes":   `<style>.a{fill:#123} rect{stroke:none}</style><g transform="translate(50 50) rotate(30) scale(1.2 .8)"><rect class="a" x="-30" y="-20" width="60" height="40" rx="10"/><ellipse cx="20" cy="30" rx="12" ry="6"/></g><use href="#d" x="5" y="-40"/><polygon id="d" points="10,60 30,60 20,90"/>`,
	"matrices": `<g transform="matrix(.8 .2 -.3 .9 20 5)"><path transform="skewX(20)" d="M10 10h40v30h-40z"/><line x1="0" y1="60" x2="60" y2="80" stroke="red" stroke-width="4"/></g>`,
}

// Fills against an independent rasteriser: librsvg draws the same file, and what the areas cover is
// compared point by point.
func TestAgainstAnotherRasteriser(t *testing.T) {
	const tool, n = "rsvg-convert", 400
	if _, err := exec.LookPath(tool); err != nil {
		t.Fatal("this test needs the Debian package librsvg2-bin; make test installs it")
	}
	for name, body := range drawings {
		file := filepath.Join(t.TempDir(), "a.svg")
		if err := os.WriteFile(file, bytes.Replace(doc(body), []byte(`width="40mm" height="40mm"`), []byte(fmt.Sprintf(`width="%d" height="%d"`, n, n)), 1), 0o644); err != nil {
			t.Fatal(err)
		}
		raw, err := exec.Command(tool, file).Output()
		if err != nil {
			t.Fatal(name, err)
		}
		img, err := png.Decode(bytes.NewReader(raw))
		if err != nil {
			t.Fatal(name, err)
		}
		d, err := Read(doc(body))
		if err != nil {
			t.Fatal(name, err)
		}
		type flat struct {
			p    *canvas.Path
			rule canvas.FillRule
		}
		var areas []flat
		for _, a := range d.Areas {
			rule := canvas.NonZero
			if a.EvenOdd {
				rule = canvas.EvenOdd
			}
			areas = append(areas, flat{a.Path.Flatten(0.01), rule})
		}
		both, either := 0, 0
		for y := 0; y < n; y += 4 {
			for x := 0; x < n; x += 4 {
				_, _, _, alpha := img.At(x, y).RGBA()
				theirs, ours := alpha > 0x7fff, false
				for _, a := range areas {
					ours = ours || a.p.Contains((float64(x)+0.5)/n*40, 40-(float64(y)+0.5)/n*40, a.rule)
				}
				if theirs && ours {
					both++
				}
				if theirs || ours {
					either++
				}
			}
		}
		if overlap := float64(both) / float64(either); either < 500 || overlap < 0.975 {
			t.Errorf("%s: the two agree on %.4f of %d points", name, overlap, either)
		}
	}
}

func TestUnitsColoursAndNames(t *testing.T) {
	d, err := Read(doc(`<g id="logo" fill="rgb(100%, 0, 50%)"><path id="wick" d="M0 0h50v50z"/><path style="fill:#0f08" d="M0 0h10v10z"/></g><text>no</text><rect width="5" height="5" fill="none"/><rect width="5" height="5" fill="red" display="none"/>`))
	if err != nil {
		t.Fatal(err)
	}
	if len(d.Areas) != 2 || d.Areas[0].Name != "wick" || d.Areas[1].Name != "logo" || len(d.LeftOut) != 1 {
		t.Fatalf("%+v, left out %v", d.Areas, d.LeftOut)
	}
	if c := d.Areas[0].Color; c.R != 255 || c.G != 0 || c.B != 128 || d.Areas[1].Color.A != 136 {
		t.Errorf("colours %v and %v", c, d.Areas[1].Color)
	}
	if b := d.Areas[0].Path.Bounds(); math.Abs(b.X1-20) > 1e-9 || math.Abs(b.Y1-40) > 1e-9 || d.Size != [2]float64{40, 40} {
		t.Errorf("50 of 100 units of 40 mm reach to %v in %v", b, d.Size)
	}
}

func TestBadInput(t *testing.T) {
	for text, says := range map[string]string{
		"hello":                         "no SVG",
		"<html></html>":                 "no SVG",
		string(doc("")):                 "paints nothing",
		string(doc(`<use href="#x"/>`)): "not in it",
		string(doc(`<g id="a"><use href="#a"/></g>`)):                    "too deep",
		string(doc(`<path d="M0 0 L10"/>`)):                              "path",
		string(doc(`<g transform="spin(3)"><path/></g>`)):                "spin",
		`<svg viewBox="0 0 10 10" width="0"><path d="M0 0h5v5z"/></svg>`: "is nothing",
		strings.Repeat("<svg>", 300):                                     "deep",
	} {
		if d, err := Read([]byte(text)); err == nil || d != nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%.60q: %v, want something with %q", text, err, says)
		}
	}
}

func FuzzRead(f *testing.F) {
	for _, b := range drawings {
		f.Add(doc(b))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		d, err := Read(data)
		if err == nil && len(d.Areas) == 0 {
			t.Fatal("no areas and no error")
		}
	})
}
