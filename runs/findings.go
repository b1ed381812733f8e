package runs

import (
	"fmt"
	"strings"

	"perigyre/core/check"
	"perigyre/core/render"
	"perigyre/core/shot"
)

// Findings are what is wrong with the settings of a run of a shot, into a folder: what it would be refused for, which blocks, and what
// of the settings the files do not have, or what one may not mean. They can be told before a file is made.
func (o Settings) Findings(names Names, s *shot.Shot, folder string) []check.Finding {
	out := []check.Finding{}
	add := func(weight check.Weight, title, why string, value float64, unit string) {
		out = append(out, check.Finding{Kind: "output", Weight: weight, Title: title, Why: strings.ToUpper(why[:1]) + why[1:] + ".", Value: value, Unit: unit, Parts: []string{}, Mends: []check.Mend{}})
	}
	if err := o.carriedOut(names, s); err != nil {
		add(check.Blocks, "It cannot be rendered with these settings", err.Error(), 0, "")
	} else if err := o.room(folder); err != nil {
		add(check.Blocks, "There is no room on the disk", err.Error(), float64(o.Bytes())/1e9, "GB")
	}
	if whole := o.From == 0 && o.To == s.Frames-1 && len(o.Only) == 0; s.Ending == shot.Loop && !whole && o.To > o.From {
		add(check.Look, "A part of the loop is rendered", fmt.Sprintf("the loop closes only as a whole, frames 0 to %d", s.Frames-1), float64(s.Frames-o.Frames()), "frames")
	}
	if o.Width%2 != 0 || o.Height%2 != 0 {
		add(check.Look, "The size is odd", fmt.Sprintf("an MP4 of %d x %d is a line larger, since it is coded in pairs of pixels", o.Width, o.Height), 1, "px")
	}
	if o.Neighbours && o.Denoise && o.Frames() > 1 && !o.along() {
		add(check.Look, "Frames are denoised one by one", fmt.Sprintf("of more than %d million pixels too much would have to be kept of the frames beside", render.MostAlong/1_000_000), float64(o.Width*o.Height)/1e6, "Mpx")
	}
	if o.format() == EXR && o.Backdrop != nil {
		add(check.Look, "The backdrop is not in the files", "EXR files keep the light and the alpha; the backdrop is in what is shown of them here alone", 0, "")
	}
	return out
}

// carriedOut returns an error in a sentence where a run cannot be: by its names, or by its settings.
func (o Settings) carriedOut(names Names, s *shot.Shot) error {
	for _, frame := range [2]int{o.From, o.To} {
		if _, err := o.File(names, frame); err != nil {
			return err
		}
	}
	return o.Check(s)
}
