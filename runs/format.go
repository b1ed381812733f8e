package runs

import (
	"fmt"
	"slices"

	"perigyre/core/render"
	"perigyre/formats/exr"
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
