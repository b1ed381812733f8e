package runs

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	stdpng "image/png"
	"strings"

	stdtiff "golang.org/x/image/tiff"

	"perigyre/core/render"
	"perigyre/formats/exr"
	"perigyre/formats/png"
	"perigyre/formats/tga"
	"perigyre/formats/tiff"
)

// encode returns a frame as files, the picture first, and a picture of it that a browser can show where that is none.
func (o *Order) encode(film *render.Film) (files [][]byte, preview []byte, err error) {
	title, comment := o.Title, o.Comment
	var b bytes.Buffer
	shown := func(bits int) image.Image {
		return film.Image(o.Scene.View, render.Behind(o.Backdrop, o.BackdropLow, o.Vignette), bits)
	}
	asPNG := func(to *bytes.Buffer, bits int) error {
		return png.Encode(to, shown(bits), png.Options{Alpha: o.Backdrop == nil, Text: map[string]string{"Software": "Perigyre", "Title": title, "Comment": comment}})
	}
	switch o.Format {
	case EXR:
		about := map[string]string{"software": "Perigyre", "comments": title + ": " + strings.Replace(comment, "view transform", "scene-linear light; shown with the view transform", 1)}
		layers := film.Layers
		if o.PassFiles {
			layers = nil
		}
		err = exr.Write(&b, o.layered(film, layers, true, about))
	case TGA:
		err = tga.Encode(&b, shown(8).(*image.NRGBA), o.Backdrop == nil)
	case TIFF:
		err = tiff.Encode(&b, shown(o.Bits))
	case JPEG:
		err = jpeg.Encode(&b, shown(8), &jpeg.Options{Quality: 95})
	default:
		err = asPNG(&b, o.Bits)
	}
	files = [][]byte{b.Bytes()}
	if err != nil || o.Format == PNG || o.Format == JPEG {
		return files, nil, err
	}
	if o.PassFiles {
		for _, l := range film.Layers {
			var one bytes.Buffer
			if err := exr.Write(&one, o.layered(film, []render.Layer{l}, false, map[string]string{"software": "Perigyre", "comments": title + ", " + string(l.Pass)})); err != nil {
				return nil, nil, err
			}
			files = append(files, one.Bytes())
		}
	}
	var small bytes.Buffer
	err = asPNG(&small, 8)
	return files, small.Bytes(), err
}

// layerName is what a pass is called in files.
func layerName(p render.Pass) string { return strings.ReplaceAll(string(p), " ", "_") }

// layered returns passes for EXR, with the picture or without it: associated alpha, scene-linear, the customary channel
// names. Data other than colours stay float. With Tight, the data window is as small as what is not 0.
func (o *Order) layered(film *render.Film, layers []render.Layer, colours bool, text map[string]string) *exr.Picture {
	out := &exr.Picture{
		Display: image.Rect(0, 0, film.Width, film.Height), Data: image.Rect(0, 0, film.Width, film.Height),
		Compression: o.Compression, Rate: [2]int{o.Rate.Num, o.Rate.Den}, Text: text,
	}
	if o.Tight {
		out.Data = film.Reach()
	}
	w := out.Data.Dx()
	take := func(name string, half bool, pix []float32, stride, at int) {
		c := exr.Channel{Name: name, Half: half, Pix: make([]float32, w*out.Data.Dy())}
		for y := out.Data.Min.Y; y < out.Data.Max.Y; y++ {
			for x := out.Data.Min.X; x < out.Data.Max.X; x++ {
				c.Pix[(y-out.Data.Min.Y)*w+x-out.Data.Min.X] = pix[(y*film.Width+x)*stride+at]
			}
		}
		out.Channels = append(out.Channels, c)
	}
	for k, name := range []string{"R", "G", "B", "A"} {
		if !colours {
			break
		}
		take(name, o.Bits == 16, film.Pix, 4, k)
	}
	for _, l := range layers {
		exact := l.Pass == render.Depth || l.Pass == render.Position || l.Pass == render.Matte
		for k, name := range l.Channels {
			take(layerName(l.Pass)+"."+name, o.Bits == 16 && !exact, l.Pix, len(l.Channels), k)
		}
	}
	return out
}

// Sound returns an error where files are not of the kind and size that the order has: they may come from another machine.
func (o *Order) Sound(files [][]byte, preview []byte) error {
	n := 1
	if o.PassFiles {
		n += len(o.Passes)
	}
	if len(files) != n {
		return fmt.Errorf("%d files came of a frame that has %d", len(files), n)
	}
	shown := o.Format == PNG || o.Format == JPEG
	if shown != (preview == nil) {
		return errors.New("the picture for browsers is missing, or one too many")
	}
	size := func(data []byte, f FileFormat) (w, h int, err error) {
		var c image.Config
		switch f {
		case PNG:
			c, err = stdpng.DecodeConfig(bytes.NewReader(data))
		case JPEG:
			c, err = jpeg.DecodeConfig(bytes.NewReader(data))
		case TIFF:
			c, err = stdtiff.DecodeConfig(bytes.NewReader(data))
		case TGA:
			if len(data) < 18 || data[2] != 2 && data[2] != 10 {
				return 0, 0, errors.New("it is no TGA picture of colours")
			}
			return int(data[12]) | int(data[13])<<8, int(data[14]) | int(data[15])<<8, nil
		default:
			var p *exr.Picture
			if p, err = exr.Read(data); err == nil {
				return p.Display.Dx(), p.Display.Dy(), nil
			}
		}
		return c.Width, c.Height, err
	}
	check := func(data []byte, f FileFormat) error {
		w, h, err := size(data, f)
		if err == nil && (w != o.Width || h != o.Height) {
			err = fmt.Errorf("it has %d x %d pixels where the frame has %d x %d", w, h, o.Width, o.Height)
		}
		if err != nil {
			return fmt.Errorf("what came is no picture of the frame: %w", err)
		}
		return nil
	}
	for _, f := range files {
		if err := check(f, o.Format); err != nil {
			return err
		}
	}
	if preview != nil {
		return check(preview, PNG)
	}
	return nil
}
