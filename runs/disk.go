package runs

import (
	"fmt"

	"perigyre/core/render"
)

// packed is about what lossless packing leaves of pictures of objects on nothing.
const packed = 0.3

// Bytes returns about how much room the frames take, uncompressed pixels times what packing leaves.
func (o Settings) Bytes() int64 {
	each := 4 * o.Bits / 8
	for _, p := range o.Passes {
		each += render.Channels(p) * o.Bits / 8
	}
	left := packed
	if o.format() == EXR && o.Compression == "none" {
		left = 1
	}
	return int64(float64(o.Width) * float64(o.Height) * float64(each) * float64(o.Frames()) * left)
}

// room returns an error in a sentence where a folder has clearly too little room for the frames.
func (o Settings) room(folder string) error {
	have, need := free(folder), o.Bytes()
	if have < 0 || have > need {
		return nil
	}
	return fmt.Errorf("the frames take about %.1f GB, and %.1f GB are free where they go; make room, or render fewer or smaller frames", float64(need)/1e9, float64(have)/1e9)
}
