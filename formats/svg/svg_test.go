package svg

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"perigyre/core/geom"
)

func doc(body string) []byte {
	return []byte(`<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="40mm" height="40mm" viewBox="0 0 100 100">` + body + `</svg>`)
}

func read(data []byte) (*Drawing, error) {
	d, err := Open(data)
	if err != nil {
		return nil, err
	}
	return d.Draw(context.Background(), math.Max(d.Size[0], d.Size[1])/4000)
}

func TestUnitsColoursAndNames(t *testing.T) {
	d, err := read(doc(`<g id="logo" fill="rgb(100%, 0, 50%)"><path id="wick" d="M0 0h50v50z"/><path style="fill:#0f08" d="M0 0h10v10z"/></g><text>no</text><rect width="5" height="5" fill="none"/><rect width="5" height="5" fill="red" display="none"/>`))
	if err != nil {
		t.Fatal(err)
	}
	if len(d.Areas) != 2 || d.Areas[0].Name != "wick" || d.Areas[1].Name != "logo" || len(d.LeftOut) != 1 {
		t.Fatalf("%+v, left out %v", d.Areas, d.LeftOut)
	}
	if c := d.Areas[0].Paint.Color; c.R != 255 || c.G != 0 || c.B != 128 || d.Areas[1].Paint.Color.A != 136 {
		t.Errorf("colours %v and %v", c, d.Areas[1].Paint.Color)
	}
	if _, hi, _ := boxOfLines(d.Areas[0].Shape.Lines); math.Abs(hi[0]-20) > 1e-9 || math.Abs(hi[1]-40) > 1e-9 {
		t.Errorf("50 of 100 units of 40 mm reach to %v", hi)
	}
}

// Colours by CSS Color 3, its examples of section 4.2.4 among them.
func TestColours(t *testing.T) {
	for text, want := range map[string][4]float64{
		"hsl(120, 100%, 50%)": {0, 1, 0, 1}, "hsl(120, 100%, 25%)": {0, 0.5, 0, 1}, "hsl(120, 75%, 75%)": {0.5625, 0.9375, 0.5625, 1},
		"hsla(240deg 100% 50% / .5)": {0, 0, 1, 0.5}, "rgb(255 0 0)": {1, 0, 0, 1}, "rgba(0,0,255,50%)": {0, 0, 1, 0.5}, "#f00c": {1, 0, 0, 0.8},
		"CornflowerBlue": {100.0 / 255, 149.0 / 255, 237.0 / 255, 1}, "#123456 icc-color(x, 1)": {0x12 / 255.0, 0x34 / 255.0, 0x56 / 255.0, 1},
	} {
		got, ok := colour(text, [4]float64{})
		for k := range got {
			if !ok || math.Abs(got[k]-want[k]) > 1e-9 {
				t.Errorf("%s is %v, want %v", text, got, want)
				break
			}
		}
	}
	for _, text := range []string{"rgb(1,2)", "#12", "hsl(x,1,1)", "blurple"} {
		if c, ok := colour(text, [4]float64{}); ok {
			t.Errorf("%s is %v", text, c)
		}
	}
}

// What a drawing has and is not taken is named, with how often; the rest is drawn.
func TestLeftOut(t *testing.T) {
	d, err := read(doc(`<style>@import url(x); rect:hover{fill:red} .a{filter:url(#f)}</style>
		<text>a</text><text>b</text><image href="x.png"/><use href="#nowhere"/><wobble/><rect class="a" width="10" height="10"/>
		<path d="M0 0h10v10zM5 L"/><g transform="spin(3)"><rect width="5" height="5"/></g><rect width="9" height="9" fill="url(#p)"/><pattern id="p"/>
		<g id="me"><use href="#me"/></g><path d="M0 0H1e9V4z"/><animate/><sodipodi:guide xmlns:sodipodi="http://example.org/dtd"/>`))
	if err != nil {
		t.Fatal(err)
	}
	all := strings.Join(d.LeftOut, "\n")
	for _, want := range []string{"text (turn text into outlines before it is exported) (2 times)", "image", "use of an element that is not in the file", "the element wobble",
		"@import", "rect:hover", "the property filter", "a path from where its data cannot be read", "the transform \"spin(3)\"", "patterns", "uses itself", "too far", "animate"} {
		if !strings.Contains(all, want) {
			t.Errorf("%q is not named in\n%s", want, all)
		}
	}
	if strings.Contains(all, "guide") || len(d.Areas) != 3 {
		t.Errorf("%d areas; left out:\n%s", len(d.Areas), all)
	}
}

// Gradients at places that are told by their definition.
func TestGradients(t *testing.T) {
	d, err := read(doc(`<style>.s{stop-color:#00f}</style>
		<linearGradient id="l" x2="100%"><stop stop-color="#f00"/><stop offset="1" class="s"/></linearGradient>
		<radialGradient id="r" gradientUnits="userSpaceOnUse" cx="50" cy="50" r="40" spreadMethod="reflect"><stop stop-color="#fff"/><stop offset="1" stop-color="#000" stop-opacity=".5"/></radialGradient>
		<linearGradient id="m" href="#l" gradientTransform="rotate(90)" gradientUnits="userSpaceOnUse" x1="0" x2="100"/>
		<linearGradient id="none"/>
		<rect width="50" height="20" fill="url(#l)"/><rect width="100" height="100" fill="url(#r)"/><rect width="100" height="100" fill="url(#m)"/><rect width="10" height="10" fill="url(#none)"/>`))
	if err != nil {
		t.Fatal(err)
	}
	if len(d.Areas) != 3 {
		t.Fatalf("%d areas", len(d.Areas))
	}
	at := func(i int, x, y float64) [4]int {
		c := d.Areas[i].Paint.Gradient.At(geom.Vec2{x * 0.4, (100 - y) * 0.4})
		return [4]int{int(c.R), int(c.G), int(c.B), int(c.A)}
	}
	for _, c := range []struct {
		area int
		x, y float64
		want [4]int
	}{
		{0, 0, 5, [4]int{255, 0, 0, 255}}, {0, 25, 5, [4]int{128, 0, 128, 255}}, {0, 50, 19, [4]int{0, 0, 255, 255}},
		{1, 50, 50, [4]int{255, 255, 255, 255}}, {1, 70, 50, [4]int{128, 128, 128, 191}}, {1, 50, 90, [4]int{0, 0, 0, 128}}, {1, 110, 50, [4]int{128, 128, 128, 191}},
		{2, 3, 25, [4]int{191, 0, 64, 255}},
	} {
		got := at(c.area, c.x, c.y)
		for k := range got {
			if d := got[k] - c.want[k]; d < -1 || d > 1 {
				t.Errorf("area %d at %g, %g is %v, want %v", c.area, c.x, c.y, got, c.want)
				break
			}
		}
	}
	if d.Areas[0].Hides != 0 || d.Areas[1].Hides != 1 {
		t.Errorf("an opaque gradient hides from %d on, one that is seen through from %d", d.Areas[0].Hides, d.Areas[1].Hides)
	}
}

// The cascade of CSS 2.1, section 6.4: names, classes, ids, attributes of their own and what is important.
func TestCascade(t *testing.T) {
	d, err := read(doc(`<style><![CDATA[/* rect{fill:#000} */ <!-- rect{fill:#010101} .b{fill:#020202} #c{fill:#030303} g rect.d{fill:#040404} g>rect.e{fill:#050505}
		.b.f{fill:#060606!important} rect[width="2"]{fill:#070707} circle+rect{fill:#080808} -->]]></style>
		<rect width="1" height="1" fill="red"/><rect class="b" width="1" height="1"/><rect id="c" class="b" width="1" height="1"/>
		<g><g/><a><rect class="d e" width="1" height="1"/></a></g><g><rect class="d e" width="1" height="1"/></g>
		<rect class="b f" style="fill:blue" width="1" height="1"/><rect width="2" height="1"/><circle r="1" fill="#090909"/><rect width="1" height="1"/>`))
	if err != nil {
		t.Fatal(err)
	}
	got := ""
	for _, a := range d.Areas {
		got += fmt.Sprint(a.Paint.Color.R)
	}
	if got != "123456798" {
		t.Errorf("rules apply as %s", got)
	}
}

// Bad input fails in a sentence; much of it in seconds, whatever it is.
func TestBadInput(t *testing.T) {
	for text, says := range map[string]string{
		"hello":         "no SVG",
		"<html></html>": "no SVG",
		string(doc("")): "paints nothing",
		"<svg><g x='":   "line 1",
		`<svg viewBox="0 0 10 10" width="0"><path d="M0 0h5v5z"/></svg>`: "is nothing",
		strings.Repeat("<svg>", 300):                                     "deep",
	} {
		if d, err := read([]byte(text)); err == nil || d != nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%.60q: %v, want something with %q", text, err, says)
		}
	}
	ctx, stop := context.WithTimeout(context.Background(), time.Nanosecond)
	defer stop()
	d, err := Open(doc(strings.Repeat(`<circle r="9"/>`, 200)))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := d.Draw(ctx, 0.01); !errors.Is(err, context.DeadlineExceeded) {
		t.Errorf("after its time: %v", err)
	}
}

func FuzzRead(f *testing.F) {
	for _, b := range drawings {
		f.Add(doc(b))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		d, err := read(data)
		if err == nil && len(d.Areas) == 0 {
			t.Fatal("no areas and no error")
		}
	})
}
