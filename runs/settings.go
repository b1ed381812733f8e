// Package runs turns a frozen shot into numbered files: naming, rendering one frame after another,
// going on after an interruption, and the record that is handed over with the frames.
package runs

import (
	"fmt"

	"perigyre/core/render"
	"perigyre/core/shot"
)

// Settings say what a run produces.
type Settings struct {
	Width    int            `json:"width"`
	Height   int            `json:"height"`
	From     int            `json:"from"` // first and last frame of the shot, both included
	To       int            `json:"to"`
	First    int            `json:"first"`    // number in the name of the shot's frame 0
	Padding  int            `json:"padding"`  // least number of digits
	Name     string         `json:"name"`     // pattern with {project}, {shot}, {model}, {camera} and {frame}
	Quality  render.Quality `json:"quality"`  // draft, proof or final
	Bits     int            `json:"bits"`     // 8 or 16
	Backdrop *[3]float64    `json:"backdrop"` // sRGB colour, or null for straight alpha
}

// Defaults returns the settings that a shot starts with.
func Defaults(s *shot.Shot) Settings {
	return Settings{
		Width: s.Format.Width, Height: s.Format.Height, From: 0, To: s.Frames - 1, First: 1, Padding: 4,
		Name: "{model}.{frame}", Quality: render.Proof, Bits: 8, Backdrop: s.Backdrop,
	}
}

// mostPixels of one frame keeps a typing slip from asking for more memory than there is.
const mostPixels = 1 << 28

// Check returns an error in a sentence for settings that cannot be carried out.
func (o Settings) Check(s *shot.Shot) error {
	switch {
	case s.Camera == "":
		return fmt.Errorf("the shot has no camera to render through; add one in Frame")
	case o.Width < 1 || o.Height < 1 || o.Width > shot.MaxSide || o.Height > shot.MaxSide || o.Width*o.Height > mostPixels:
		return fmt.Errorf("a size of %d x %d pixels is not possible: each side is 1 to %d, and both together at most %d million pixels", o.Width, o.Height, shot.MaxSide, mostPixels/1_000_000)
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
	case o.Bits != 8 && o.Bits != 16:
		return fmt.Errorf("PNG files have 8 or 16 bits, not %d", o.Bits)
	}
	if o.Backdrop != nil {
		for _, v := range o.Backdrop {
			if !(v >= 0 && v <= 1) {
				return fmt.Errorf("the components of a backdrop colour are 0 to 1")
			}
		}
	}
	return o.Quality.Check()
}

// Frames returns the number of frames.
func (o Settings) Frames() int { return o.To - o.From + 1 }
