package exr

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"image"
	"io"
	"math"
	"sort"
)

const magic = 20000630

// Write writes the picture as a file of one part with lines from the top downwards.
func Write(w io.Writer, p *Picture) error {
	if err := p.check(); err != nil {
		return err
	}
	channels := p.sorted()
	head := header(p, channels)
	lines := p.Compression.lines()
	width, height := p.Data.Dx(), p.Data.Dy()
	count := (height + lines - 1) / lines
	offset := uint64(head.Len() + 8*count)
	var table, body bytes.Buffer
	for top := 0; top < height; top += lines {
		var raw bytes.Buffer
		for y := top; y < min(height, top+lines); y++ {
			for _, c := range channels {
				row := c.Pix[y*width : (y+1)*width]
				if c.Half {
					line := make([]byte, 2*width)
					for x, v := range row {
						binary.LittleEndian.PutUint16(line[2*x:], toHalf(v))
					}
					raw.Write(line)
					continue
				}
				line := make([]byte, 4*width)
				for x, v := range row {
					binary.LittleEndian.PutUint32(line[4*x:], math.Float32bits(v))
				}
				raw.Write(line)
			}
		}
		data := raw.Bytes()
		if p.Compression == PIZ {
			if packed := packPIZ(data, channels, width, min(lines, height-top)); len(packed) < len(data) {
				data = packed
			}
		} else if p.Compression != None {
			var packed bytes.Buffer
			z, _ := zlib.NewWriterLevel(&packed, 4) // the level is one that there is
			if _, err := z.Write(reorder(data)); err != nil {
				return err
			}
			if err := z.Close(); err != nil {
				return err
			}
			if packed.Len() < len(data) { // a block that does not shrink is left as it is
				data = packed.Bytes()
			}
		}
		table.Write(binary.LittleEndian.AppendUint64(nil, offset+uint64(body.Len())))
		body.Write(binary.LittleEndian.AppendUint32(nil, uint32(int32(p.Data.Min.Y+top))))
		body.Write(binary.LittleEndian.AppendUint32(nil, uint32(len(data))))
		body.Write(data)
	}
	for _, part := range []*bytes.Buffer{head, &table, &body} {
		if _, err := w.Write(part.Bytes()); err != nil {
			return err
		}
	}
	return nil
}

// header writes the attributes: those that every file has, the colour space, the rate and texts.
func header(p *Picture, channels []Channel) *bytes.Buffer {
	b := new(bytes.Buffer)
	put := func(v ...any) {
		for _, x := range v {
			_ = binary.Write(b, binary.LittleEndian, x) // a bytes.Buffer does not fail
		}
	}
	version := uint32(2)
	for _, c := range channels {
		if len(c.Name) > 31 {
			version |= 0x400 // names of up to 255 letters
		}
	}
	put(uint32(magic), version)
	attribute := func(name, kind string, value func()) {
		b.WriteString(name + "\x00" + kind + "\x00")
		at := b.Len()
		put(uint32(0))
		value()
		binary.LittleEndian.PutUint32(b.Bytes()[at:], uint32(b.Len()-at-4))
	}
	attribute("channels", "chlist", func() {
		for _, c := range channels {
			kind := uint32(2)
			if c.Half {
				kind = 1
			}
			b.WriteString(c.Name + "\x00")
			put(kind, uint32(0), int32(1), int32(1)) // kind, not perceptually linear, every pixel
		}
		b.WriteByte(0)
	})
	// Rec. ITU-R BT.709 primaries and D65.
	attribute("chromaticities", "chromaticities", func() {
		put([]float32{0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329})
	})
	attribute("compression", "compression", func() { b.WriteByte(codes[p.Compression]) })
	window := func(r image.Rectangle) func() {
		return func() { put(int32(r.Min.X), int32(r.Min.Y), int32(r.Max.X-1), int32(r.Max.Y-1)) }
	}
	attribute("dataWindow", "box2i", window(p.Data))
	attribute("displayWindow", "box2i", window(p.Display))
	if p.Rate[1] > 0 {
		attribute("framesPerSecond", "rational", func() { put(int32(p.Rate[0]), uint32(p.Rate[1])) })
	}
	attribute("lineOrder", "lineOrder", func() { b.WriteByte(0) })
	attribute("pixelAspectRatio", "float", func() { put(float32(1)) })
	attribute("screenWindowCenter", "v2f", func() { put(float32(0), float32(0)) })
	attribute("screenWindowWidth", "float", func() { put(float32(1)) })
	names := make([]string, 0, len(p.Text))
	for k := range p.Text {
		names = append(names, k)
	}
	sort.Strings(names)
	for _, k := range names {
		attribute(k, "string", func() { b.WriteString(p.Text[k]) })
	}
	b.WriteByte(0)
	return b
}
