// Package tga writes Truevision TGA files, version 2.0: 24 or 32 bits, packed by runs, with an extension area
// that says that the alpha is straight (Truevision TGA File Format Specification 2.0).
package tga

import (
	"bytes"
	"encoding/binary"
	"image"
	"io"
)

// Encode writes a picture with straight alpha, or without it.
func Encode(w io.Writer, img *image.NRGBA, alpha bool) error {
	b := new(bytes.Buffer)
	width, height := img.Rect.Dx(), img.Rect.Dy()
	depth, bits := 3, byte(24)
	descriptor := byte(0x20) // from the upper left corner
	if alpha {
		depth, bits, descriptor = 4, 32, 0x28 // eight bits of alpha
	}
	head := make([]byte, 18)
	head[2] = 10 // true colour, packed by runs
	binary.LittleEndian.PutUint16(head[12:], uint16(width))
	binary.LittleEndian.PutUint16(head[14:], uint16(height))
	head[16], head[17] = bits, descriptor
	b.Write(head)
	row := make([]byte, depth*width)
	for y := range height {
		for x := range width {
			p := img.Pix[y*img.Stride+4*x:]
			copy(row[depth*x:], []byte{p[2], p[1], p[0], p[3]}[:depth])
		}
		pack(b, row, depth)
	}
	extension := uint32(b.Len())
	area := make([]byte, 495)
	binary.LittleEndian.PutUint16(area, 495)
	copy(area[426:], "Perigyre")
	if alpha {
		area[494] = 3 // useful alpha, not multiplied into the colours
	}
	b.Write(area)
	b.Write(binary.LittleEndian.AppendUint32(nil, extension))
	b.Write(make([]byte, 4)) // no developer area
	b.WriteString("TRUEVISION-XFILE.\x00")
	_, err := w.Write(b.Bytes())
	return err
}

// pack writes a row as runs of equal pixels and of different ones, each of at most 128. Runs end with their row.
func pack(b *bytes.Buffer, row []byte, depth int) {
	n := len(row) / depth
	at := func(i int) []byte { return row[i*depth : (i+1)*depth] }
	for i := 0; i < n; {
		same := 1
		for i+same < n && same < 128 && bytes.Equal(at(i), at(i+same)) {
			same++
		}
		if same > 1 {
			b.WriteByte(0x80 | byte(same-1))
			b.Write(at(i))
			i += same
			continue
		}
		last := i + 1
		for last < n && last-i < 128 && (last+1 >= n || !bytes.Equal(at(last), at(last+1))) {
			last++
		}
		b.WriteByte(byte(last - i - 1))
		b.Write(row[i*depth : last*depth])
		i = last
	}
}
