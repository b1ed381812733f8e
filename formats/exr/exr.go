// Package exr writes and reads OpenEXR pictures: scan lines of half or float channels, uncompressed or with
// ZIPS, ZIP or PIZ (OpenEXR File Layout; Technical Introduction to OpenEXR).
package exr

import (
	"fmt"
	"image"
	"sort"
)

// Compression names how blocks of lines are packed.
type Compression string

const (
	None Compression = "none"
	ZIPS Compression = "ZIPS" // zlib, line by line
	ZIP  Compression = "ZIP"  // zlib, 16 lines together
	PIZ  Compression = "PIZ"  // wavelets, 32 lines together: for noisy pictures
)

// lines of a block, and the number in the file.
func (c Compression) lines() int {
	switch c {
	case ZIP:
		return 16
	case PIZ:
		return 32
	}
	return 1
}

var codes = map[Compression]byte{None: 0, ZIPS: 2, ZIP: 3, PIZ: 4}

// Channel is one number of every pixel.
type Channel struct {
	Name string    // by layers, such as R or normal.X
	Half bool      // 16 bits rather than 32
	Pix  []float32 // row by row from the top, as many as the data window has pixels
}

// Picture is what a file holds. Channels cover the data window alone; what lies outside it is 0.
type Picture struct {
	Display     image.Rectangle
	Data        image.Rectangle
	Compression Compression
	Rate        [2]int            // frames a second as a fraction, or zeroes for none
	Text        map[string]string // attributes of text
	Channels    []Channel
}

// sorted returns the channels in the order of files, by their names' bytes.
func (p *Picture) sorted() []Channel {
	out := append([]Channel(nil), p.Channels...)
	sort.Slice(out, func(a, b int) bool { return out[a].Name < out[b].Name })
	return out
}

func (p *Picture) check() error {
	if p.Data.Empty() || p.Display.Empty() {
		return fmt.Errorf("a picture without pixels cannot be written as EXR")
	}
	if _, ok := codes[p.Compression]; !ok {
		return fmt.Errorf("EXR files are packed with none, ZIPS, ZIP or PIZ here, not with %q", p.Compression)
	}
	seen := map[string]bool{}
	for _, c := range p.Channels {
		if len(c.Pix) != p.Data.Dx()*p.Data.Dy() || c.Name == "" || len(c.Name) > 255 || seen[c.Name] {
			return fmt.Errorf("the channel %q of an EXR picture has no name of its own, of at most 255 letters, or not as many pixels as the data window", c.Name)
		}
		seen[c.Name] = true
	}
	if len(p.Channels) == 0 {
		return fmt.Errorf("an EXR picture has at least one channel")
	}
	return nil
}

// reorder puts every second byte into the first half and the others into the second, and then keeps the
// differences of neighbours: what zlib packs well (OpenEXR, ImfZip).
func reorder(raw []byte) []byte {
	out := make([]byte, len(raw))
	half := (len(raw) + 1) / 2
	for i, v := range raw {
		out[i/2+i%2*half] = v
	}
	for i := len(out) - 1; i > 0; i-- {
		out[i] = out[i] - out[i-1] + 128
	}
	return out
}

// restore undoes reorder.
func restore(packed []byte) []byte {
	for i := 1; i < len(packed); i++ {
		packed[i] = packed[i] + packed[i-1] - 128
	}
	out := make([]byte, len(packed))
	half := (len(packed) + 1) / 2
	for i := range out {
		out[i] = packed[i/2+i%2*half]
	}
	return out
}
