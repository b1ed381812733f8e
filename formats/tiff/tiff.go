// Package tiff writes TIFF files (TIFF, revision 6.0) that say what their colours are. Pixels are coded by
// golang.org/x/image/tiff; this package adds the profile that it leaves out.
package tiff

import (
	"bytes"
	"encoding/binary"
	"image"
	"io"

	"golang.org/x/image/tiff"
)

const tagProfile = 34675 // ICC.1:2010, B.4

// Encode writes an image whose pixels are sRGB, packed without loss.
func Encode(w io.Writer, img image.Image) error {
	var b bytes.Buffer
	if err := tiff.Encode(&b, img, &tiff.Options{Compression: tiff.Deflate, Predictor: true}); err != nil {
		return err
	}
	_, err := w.Write(withProfile(b.Bytes()))
	return err
}

// withProfile adds a directory with one entry more at the end of a little-endian file: offsets of what was there stay.
func withProfile(data []byte) []byte {
	order := binary.LittleEndian
	at := order.Uint32(data[4:])
	n := int(order.Uint16(data[at:]))
	entries := data[at+2 : int(at)+2+12*n]
	out := append([]byte(nil), data...)
	pad := func() {
		if len(out)%2 != 0 {
			out = append(out, 0)
		}
	}
	pad()
	profile := uint32(len(out))
	out = append(out, SRGB...)
	pad()
	order.PutUint32(out[4:], uint32(len(out)))
	out = order.AppendUint16(out, uint16(n+1))
	put := false
	for k := range n + 1 { // in the order of their numbers
		if !put && (k == n || order.Uint16(entries[12*k:]) > tagProfile) {
			out = order.AppendUint16(out, tagProfile)
			out = order.AppendUint16(out, 7) // bytes as they are
			out = order.AppendUint32(out, uint32(len(SRGB)))
			out = order.AppendUint32(out, profile)
			put = true
		}
		if k < n {
			out = append(out, entries[12*k:12*k+12]...)
		}
	}
	return order.AppendUint32(out, 0)
}
