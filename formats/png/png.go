// Package png writes PNG files for compositing: straight alpha, a colour space that is named, and
// the shot's particulars as text (Portable Network Graphics, W3C third edition). Pixels are coded by
// image/png; this package adds the chunks that it leaves out.
package png

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image"
	"image/png"
	"io"
	"slices"
)

// Options say what is written beside the pixels.
type Options struct {
	Alpha bool              // keep the alpha channel even where a picture is opaque all over, so that all files of a sequence are alike
	Text  map[string]string // tEXt chunks: Latin-1 keywords and texts
}

// Encode writes an image whose pixels are sRGB with straight alpha: NRGBA or NRGBA64.
func Encode(w io.Writer, img image.Image, o Options) error {
	if o.Alpha {
		img = translucent{img}
	}
	var b bytes.Buffer
	enc := png.Encoder{CompressionLevel: png.BestSpeed}
	if err := enc.Encode(&b, img); err != nil {
		return err
	}
	data := b.Bytes()
	const head = 8 + 12 + 13 // the signature and IHDR, after which colour chunks stand (5.6)
	if _, err := w.Write(data[:head]); err != nil {
		return err
	}
	if _, err := w.Write(metadata(o.Text)); err != nil {
		return err
	}
	_, err := w.Write(data[head:])
	return err
}

// metadata returns the chunks sRGB, with gAMA and cHRM for readers that do not know it (11.3.2),
// and the texts in the order of their keywords.
func metadata(text map[string]string) []byte {
	var b bytes.Buffer
	chunk(&b, "sRGB", []byte{0}) // perceptual
	chunk(&b, "gAMA", binary.BigEndian.AppendUint32(nil, 45455))
	var primaries []byte
	for _, v := range []uint32{31270, 32900, 64000, 33000, 30000, 60000, 15000, 6000} {
		primaries = binary.BigEndian.AppendUint32(primaries, v)
	}
	chunk(&b, "cHRM", primaries)
	keys := make([]string, 0, len(text))
	for k := range text {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	for _, k := range keys {
		chunk(&b, "tEXt", append(append(latin1(k), 0), latin1(text[k])...))
	}
	return b.Bytes()
}

func chunk(b *bytes.Buffer, kind string, data []byte) {
	body := append([]byte(kind), data...)
	b.Write(binary.BigEndian.AppendUint32(nil, uint32(len(data))))
	b.Write(body)
	b.Write(binary.BigEndian.AppendUint32(nil, crc32.ChecksumIEEE(body)))
}

func latin1(s string) []byte {
	var out []byte
	for _, r := range s {
		if r < ' ' || r > 255 {
			r = '?'
		}
		out = append(out, byte(r))
	}
	return out
}

// translucent hides from image/png that a picture is opaque, for which it would drop the alpha.
type translucent struct{ image.Image }

func (translucent) Opaque() bool { return false }
