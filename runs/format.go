package runs

import (
	"bytes"
	"fmt"
	"image"
	"image/jpeg"
	"slices"
	"strings"

	"perigyre/core/render"
	"perigyre/formats/exr"
	"perigyre/formats/png"
	"perigyre/formats/tga"
	"perigyre/formats/tiff"
)

// FileFormat names the kind of file of a sequence.
type FileFormat string

const (
	PNG  FileFormat = "png"
	EXR  FileFormat = "exr"
	TGA  FileFormat = "tga"
	TIFF FileFormat = "tiff"
	JPEG FileFormat = "jpeg"
)

// FormatWords say what a format of files keeps.
type FormatWords struct {
	Format FileFormat `json:"format"`
	Name   string     `json:"name"`
	Note   string     `json:"note"`
	Bits   []int      `json:"bits"` // depths that it has, the usual one first
	Alpha  bool       `json:"alpha"`
	Passes bool       `json:"passes"` // it has room for them
	Float  bool       `json:"float"`  // its depths are of floating numbers

	extension string
}

// FileFormats are all there are.
var FileFormats = []FormatWords{
	{PNG, "PNG", "straight alpha", []int{8, 16}, true, false, false, ".png"},
	{EXR, "EXR", "scene-linear, associated alpha, passes", []int{16, 32}, true, true, true, ".exr"},
	{TGA, "TGA", "straight alpha", []int{8}, true, false, false, ".tga"},
	{TIFF, "TIFF", "straight alpha", []int{8, 16}, true, false, false, ".tif"},
	{JPEG, "JPEG", "no alpha: needs a backdrop", []int{8}, false, false, false, ".jpg"},
}

// words returns what a format keeps; nothing for one that there is not.
func (f FileFormat) words() FormatWords {
	i := slices.IndexFunc(FileFormats, func(w FormatWords) bool { return w.Format == f })
	if i < 0 {
		return FormatWords{}
	}
	return FileFormats[i]
}

// format returns the format of the settings: PNG where none is named.
func (o Settings) format() FileFormat {
	if o.Format == "" {
		return PNG
	}
	return o.Format
}

// checkFormat returns an error in a sentence for what a format has not got. Full says that a sky is seen behind everything.
func (o Settings) checkFormat(full bool) error {
	f := o.format().words()
	if f.Format == "" {
		return fmt.Errorf("there is no format %q; there are png, exr, tga, tiff and jpeg", o.Format)
	}
	if !slices.Contains(f.Bits, o.Bits) {
		return fmt.Errorf("%s files have %s bits, not %d", f.Name, words(f.Bits), o.Bits)
	}
	if !f.Alpha && o.Backdrop == nil && !full {
		return fmt.Errorf("JPEG has no alpha, and the backdrop is transparent: choose a backdrop, or PNG, EXR, TGA or TIFF, which keep the alpha")
	}
	if len(o.Passes) > 0 && !f.Passes {
		return fmt.Errorf("passes are kept in EXR files alone; %s has no room for them", f.Name)
	}
	if err := render.CheckPasses(o.Passes); err != nil {
		return err
	}
	switch o.Compression {
	case "", exr.None, exr.ZIPS, exr.ZIP, exr.PIZ:
	default:
		return fmt.Errorf("EXR files are packed with none, ZIPS, ZIP or PIZ, not with %q", o.Compression)
	}
	return nil
}

func words(list []int) string {
	if len(list) == 1 {
		return fmt.Sprint(list[0])
	}
	return fmt.Sprintf("%d or %d", list[0], list[1])
}

// texts returns what files say of themselves.
func (p *Plan) texts() (title, comment string) {
	d := p.Document
	return fmt.Sprintf("%s, %s", p.Names.Project, p.Names.Shot),
		fmt.Sprintf("of a shot of %d frames at %d/%d per second, view transform %s, camera %s", d.Frames, d.Rate.Num, d.Rate.Den, d.View, p.Names.Camera)
}

// encode returns a frame as files, the picture first, and a picture of it that a browser can show where that is none.
func (p *Plan) encode(film *render.Film) (files [][]byte, preview []byte, err error) {
	o := p.Settings
	title, comment := p.texts()
	var b bytes.Buffer
	shown := func(bits int) image.Image { return film.Image(p.Document.View, o.behind(), bits) }
	asPNG := func(to *bytes.Buffer, bits int) error {
		return png.Encode(to, shown(bits), png.Options{Alpha: o.Backdrop == nil, Text: map[string]string{"Software": "Perigyre", "Title": title, "Comment": comment}})
	}
	switch o.format() {
	case EXR:
		about := map[string]string{"software": "Perigyre", "comments": title + ": " + strings.Replace(comment, "view transform", "scene-linear light; shown with the view transform", 1)}
		layers := film.Layers
		if o.PassFiles {
			layers = nil
		}
		err = exr.Write(&b, p.layered(film, layers, true, about))
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
	if err != nil || o.format() == PNG || o.format() == JPEG {
		return files, nil, err
	}
	if o.PassFiles {
		for _, l := range film.Layers {
			var one bytes.Buffer
			if err := exr.Write(&one, p.layered(film, []render.Layer{l}, false, map[string]string{"software": "Perigyre", "comments": title + ", " + string(l.Pass)})); err != nil {
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
func (p *Plan) layered(film *render.Film, layers []render.Layer, colours bool, text map[string]string) *exr.Picture {
	o := p.Settings
	out := &exr.Picture{
		Display: image.Rect(0, 0, film.Width, film.Height), Data: image.Rect(0, 0, film.Width, film.Height),
		Compression: o.Compression, Rate: [2]int{p.Document.Rate.Num, p.Document.Rate.Den}, Text: text,
	}
	if out.Compression == "" {
		out.Compression = exr.ZIP
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
