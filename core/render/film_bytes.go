package render

import (
	"encoding/binary"
	"errors"
	"math"
)

// A strip goes from one machine to another as little-endian words of 32 bits: its width, its rows, the row it begins at, the
// rows of the picture, how many passes it has and how many channels each has; then the numbers, the picture first.

// MarshalBinary implements encoding.BinaryMarshaler.
func (f *Film) MarshalBinary() ([]byte, error) {
	n := len(f.Pix)
	for _, l := range f.Layers {
		n += len(l.Pix)
	}
	b := make([]byte, 0, 4*(5+len(f.Layers)+n))
	word := func(v int) { b = binary.LittleEndian.AppendUint32(b, uint32(v)) }
	for _, v := range []int{f.Width, f.Height, f.top, f.of, len(f.Layers)} {
		word(v)
	}
	for _, l := range f.Layers {
		word(len(l.Channels))
	}
	put := func(list []float32) {
		for _, v := range list {
			b = binary.LittleEndian.AppendUint32(b, math.Float32bits(v))
		}
	}
	put(f.Pix)
	for _, l := range f.Layers {
		put(l.Pix)
	}
	return b, nil
}

// UnmarshalBinary implements encoding.BinaryUnmarshaler. The passes have no names: a scene that joins strips knows them.
func (f *Film) UnmarshalBinary(b []byte) error {
	broken := errors.New("a strip is damaged")
	at := 0
	word := func() int {
		if at+4 > len(b) {
			return -1
		}
		at += 4
		return int(binary.LittleEndian.Uint32(b[at-4:]))
	}
	width, rows, top, of, layers := word(), word(), word(), word(), word()
	const most = 1 << 16
	if width < 1 || rows < 1 || top < 0 || of < 1 || layers < 0 || width > most || rows > most || top > most || of > most || layers > 64 {
		return broken
	}
	list := []int{4}
	all := 4
	for range layers {
		n := word()
		if n < 0 || n > most {
			return broken
		}
		list, all = append(list, n), all+n
	}
	if len(b)-at != 4*width*rows*all {
		return broken
	}
	*f = Film{Width: width, Height: rows, top: top, of: of}
	for k, n := range list {
		pix := make([]float32, n*width*rows)
		for i := range pix {
			pix[i] = math.Float32frombits(binary.LittleEndian.Uint32(b[at:]))
			at += 4
		}
		if k == 0 {
			f.Pix = pix
		} else {
			f.Layers = append(f.Layers, Layer{Pix: pix})
		}
	}
	return nil
}
