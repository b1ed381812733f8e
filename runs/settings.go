// Package runs turns a frozen shot into numbered files: naming, rendering one frame after another,
// going on after an interruption, and the record that is handed over with the frames.
package runs

import (
	"cmp"
	"fmt"

	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/formats/exr"
)

// Settings say what a run produces.
type Settings struct {
	Width    int            `json:"width"`
	Height   int            `json:"height"`
	From     int            `json:"from"` // first and last frame of the shot, both included
	To       int            `json:"to"`
	First    int            `json:"first"`    // number in the name of the shot's frame 0
	Padding  int            `json:"padding"`  // least number of digits
	Name     string         `json:"name"`     // pattern with {project}, {shot}, {model}, {camera}, {finish}, {format} and {frame}
	Quality  render.Quality `json:"quality"`  // draft, proof, final or exact
	Bits     int            `json:"bits"`     // 8 or 16; of EXR 16 for half or 32 for float
	Backdrop *[3]float64    `json:"backdrop"` // sRGB colour, or null for straight alpha

	BackdropLow *[3]float64 `json:"backdropLow,omitempty"` // that it runs to at the lower edge, or null

	Vignette float64 `json:"vignette,omitempty"` // of the backdrop: how much darker it is in the corners, 0 to 1

	Format      FileFormat      `json:"format,omitempty"`      // png, exr, tga, tiff or jpeg; PNG where it is empty
	Compression exr.Compression `json:"compression,omitempty"` // of EXR: none, ZIPS, ZIP or PIZ
	Tight       bool            `json:"tight,omitempty"`       // of EXR: the data window holds no more than it must
	Passes      []render.Pass   `json:"passes,omitempty"`      // of EXR
	PassFiles   bool            `json:"passFiles,omitempty"`   // each pass in a file of its own, in a folder of its name, rather than all in one
	Among       []string        `json:"among,omitempty"`       // of one of several runs that were asked for together: the words that tell it from the others, in its folder's name
	Only        []int           `json:"only,omitempty"`        // the frames of the range that are wanted; all where it is empty
	Denoise     bool            `json:"denoise,omitempty"`
	Neighbours  bool            `json:"neighbours,omitempty"` // frames are denoised with those before and after
	Deliver     bool            `json:"deliver,omitempty"`    // to the drive that the server has for it
	Noise       float64         `json:"noise,omitempty"`      // of final quality: the error that is let pass; 0 for the usual
}

// Defaults returns the settings that a shot starts with.
func Defaults(s *shot.Shot) Settings {
	o := Settings{
		Width: s.Format.Width, Height: s.Format.Height, From: 0, To: s.Frames - 1, First: 1, Padding: 4,
		Name: "{model}.{frame}", Bits: 8, Backdrop: s.Backdrop, BackdropLow: s.BackdropLow, Vignette: s.Vignette,
	}
	o.Of(render.Proof)
	return o
}

// Of sets a quality, and what is usual with it.
func (o *Settings) Of(q render.Quality) {
	w := q.Words()
	o.Quality, o.Denoise, o.Neighbours = q, w.Denoised, w.Neighbours
}

// along reports whether frames are denoised with their neighbours: those of a sequence that is not too large for it.
func (o Settings) along() bool {
	return o.Neighbours && o.Denoise && o.Frames() > 1 && o.Width*o.Height <= render.MostAlong
}

// maxPixels of one frame keeps a typing slip from asking for more memory than there is.
const maxPixels = 1 << 28

// Check returns an error in a sentence for settings that cannot be carried out.
func (o Settings) Check(s *shot.Shot) error {
	switch {
	case s.Camera == "":
		return fmt.Errorf("the shot has no camera to render through; add one in Frame")
	case o.Width < 1 || o.Height < 1 || o.Width > shot.MaxSide || o.Height > shot.MaxSide || o.Width*o.Height > maxPixels:
		return fmt.Errorf("a size of %d x %d pixels is not possible: each side is 1 to %d, and both together at most %d million pixels", o.Width, o.Height, shot.MaxSide, maxPixels/1_000_000)
	case o.Width*s.Format.Height != o.Height*s.Format.Width:
		a, b := float64(o.Width)/float64(o.Height), float64(s.Format.Width)/float64(s.Format.Height)
		if a/b > 1.005 || b/a > 1.005 { // what rounding to whole pixels needs is allowed
			return fmt.Errorf("%d x %d has another shape than the shot's format of %d x %d, so that the picture would be distorted; change the format in Frame", o.Width, o.Height, s.Format.Width, s.Format.Height)
		}
	}
	switch {
	case o.From < 0 || o.To < o.From:
		return fmt.Errorf("the range from %d to %d holds no frames", o.From, o.To)
	case o.To >= s.Frames && s.Ending == shot.Loop:
		return fmt.Errorf("the loop's last frame is %d: frame %d would be frame 0 again, and the loop would stutter", s.Frames-1, s.Frames)
	case o.To >= s.Frames:
		return fmt.Errorf("the shot's last frame is %d", s.Frames-1)
	case o.First < 0 || o.First > 1_000_000_000:
		return fmt.Errorf("the first number is 0 to 1,000,000,000, not %d", o.First)
	case o.Padding < 1 || o.Padding > 12:
		return fmt.Errorf("numbers have 1 to 12 digits, not %d", o.Padding)
	case !(o.Noise >= 0 && o.Noise <= 1):
		return fmt.Errorf("the error that is let pass is more than 0 and at most 1, not %g", o.Noise)
	}
	for _, f := range o.Only {
		if f < o.From || f > o.To {
			return fmt.Errorf("frame %d lies outside the range from %d to %d", f, o.From, o.To)
		}
	}
	if err := o.checkFormat(s.Environment.Seen); err != nil {
		return err
	}
	for _, c := range []*[3]float64{o.Backdrop, o.BackdropLow} {
		for _, v := range *cmp.Or(c, &[3]float64{}) {
			if !(v >= 0 && v <= 1) {
				return fmt.Errorf("the components of a backdrop colour are 0 to 1")
			}
		}
	}
	if !(o.Vignette >= 0 && o.Vignette <= 1) {
		return fmt.Errorf("a vignette darkens by 0 to 100 %%")
	}
	return o.Quality.Check()
}

// Frames returns the number of frames.
func (o Settings) Frames() int {
	if len(o.Only) > 0 {
		return len(o.Only)
	}
	return o.To - o.From + 1
}
