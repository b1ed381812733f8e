package library

import (
	"bytes"
	"image"

	"perigyre/core/lighting"
	"perigyre/formats/exr"
)

// studioWidth is that of surroundings that are worked out, in pixels.
const studioWidth = 512

// Studio works surroundings out and stores them: the same each time, under the same hash.
func (a *Assets) Studio(name string) (hash string, err error) {
	pix, err := lighting.Paint(name, studioWidth)
	if err != nil {
		return "", err
	}
	r := image.Rect(0, 0, studioWidth, studioWidth/2)
	p := &exr.Picture{Display: r, Data: r, Compression: exr.ZIP, Text: map[string]string{"comments": name}}
	for k, channel := range []string{"R", "G", "B"} {
		c := exr.Channel{Name: channel, Half: true, Pix: make([]float32, len(pix)/3)}
		for i := range c.Pix {
			c.Pix[i] = pix[3*i+k]
		}
		p.Channels = append(p.Channels, c)
	}
	var b bytes.Buffer
	if err := exr.Write(&b, p); err != nil {
		return "", err
	}
	return a.Keep(b.Bytes())
}
