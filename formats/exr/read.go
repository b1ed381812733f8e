package exr

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"fmt"
	"image"
	"io"
	"math"
)

// Limits of what is read.
const (
	maxPixels   = 1 << 27
	maxChannels = 1024
)

// Read reads a picture of scan lines that is uncompressed or packed with ZIPS, ZIP or PIZ. Other kinds are refused
// with what they are.
func Read(data []byte) (p *Picture, err error) {
	r := &reader{data: data}
	defer func() {
		if r.short && err == nil {
			p, err = nil, fmt.Errorf("the EXR file ends early, at byte %d of what it needs", len(data))
		}
	}()
	if r.u32() != magic {
		return nil, fmt.Errorf("this is no EXR file")
	}
	version := r.u32()
	if version&0xff != 2 || version&^0x4ff != 0 {
		return nil, fmt.Errorf("the EXR file has tiles, deep pixels or several parts; save it with scan lines and one part")
	}
	p = &Picture{Text: map[string]string{}}
	for !r.short {
		name := r.name()
		if name == "" {
			break
		}
		kind, size := r.name(), int(r.u32())
		value := reader{data: r.take(size)}
		switch {
		case name == "channels":
			for !value.short && len(p.Channels) <= maxChannels {
				c := value.name()
				if c == "" {
					break
				}
				k := value.u32()
				value.u32()
				if x, y := value.u32(), value.u32(); x != 1 || y != 1 {
					return nil, fmt.Errorf("the channel %s of the EXR file has not every pixel, which cannot be read", c)
				}
				if k != 1 && k != 2 {
					return nil, fmt.Errorf("the channel %s of the EXR file holds whole numbers; only half and float are read", c)
				}
				p.Channels = append(p.Channels, Channel{Name: c, Half: k == 1})
			}
		case name == "compression":
			code := value.u8()
			for c, v := range codes {
				if v == code {
					p.Compression = c
				}
			}
			if p.Compression == "" {
				return nil, fmt.Errorf("the EXR file is packed with method %d; save it uncompressed, with ZIP or PIZ", code)
			}
		case name == "dataWindow" || name == "displayWindow":
			var v [4]int
			for k := range v {
				v[k] = int(int32(value.u32()))
			}
			w := image.Rectangle{Min: image.Point{X: v[0], Y: v[1]}, Max: image.Point{X: v[2] + 1, Y: v[3] + 1}}
			if name == "dataWindow" {
				p.Data = w
			} else {
				p.Display = w
			}
		case kind == "string":
			p.Text[name] = string(value.data)
		case name == "framesPerSecond" && kind == "rational":
			p.Rate = [2]int{int(int32(value.u32())), int(value.u32())}
		}
		if value.short {
			return nil, fmt.Errorf("the attribute %s of the EXR file is cut short", name)
		}
	}
	if r.short {
		return nil, nil
	}
	w, h := p.Data.Dx(), p.Data.Dy()
	if w <= 0 || h <= 0 || w > maxPixels || h > maxPixels/w || len(p.Channels) == 0 || len(p.Channels)*w > maxPixels/h {
		return nil, fmt.Errorf("the EXR file's data window or its channels are empty or too large")
	}
	bytesAPixel := 0
	for _, c := range p.Channels {
		bytesAPixel += 4
		if c.Half {
			bytesAPixel -= 2
		}
	}
	if most := len(data) * 1100; w*h > most/bytesAPixel { // no packing leaves less than a 1032nd
		return nil, fmt.Errorf("the EXR file ends early: %d bytes cannot hold %d x %d pixels", len(data), w, h)
	}
	lines := p.Compression.lines()
	blocks := (h + lines - 1) / lines
	if len(data) < 8*blocks {
		return nil, fmt.Errorf("the EXR file ends early: it has no room for its table of lines")
	}
	for i := range p.Channels {
		p.Channels[i].Pix = make([]float32, w*h)
	}
	table := reader{data: r.take(8 * blocks)}
	for range blocks {
		at := table.u64()
		if at > uint64(len(data)) {
			return nil, fmt.Errorf("a block of the EXR file lies beyond its end")
		}
		b := reader{data: data[at:]}
		top := int(int32(b.u32())) - p.Data.Min.Y
		packed := b.take(int(b.u32()))
		if b.short || top < 0 || top >= h || top%lines != 0 {
			return nil, fmt.Errorf("a block of the EXR file is cut short or lies outside the picture")
		}
		n := min(lines, h-top)
		size := n * w * bytesAPixel
		raw := packed
		if p.Compression == PIZ && len(packed) < size {
			raw = make([]byte, size)
			if err := unpackPIZ(packed, p.Channels, w, n, raw); err != nil {
				return nil, fmt.Errorf("a block of the EXR file cannot be read: %w", err)
			}
		} else if p.Compression != None && len(packed) < size {
			z, err := zlib.NewReader(bytes.NewReader(packed))
			if err != nil {
				return nil, fmt.Errorf("a block of the EXR file is damaged: %w", err)
			}
			raw = make([]byte, size)
			if _, err := io.ReadFull(z, raw); err != nil {
				return nil, fmt.Errorf("a block of the EXR file is damaged: %w", err)
			}
			raw = restore(raw)
		}
		if len(raw) != size {
			return nil, fmt.Errorf("a block of the EXR file has %d bytes, not the %d of its lines", len(raw), size)
		}
		for y := top; y < top+n; y++ {
			for i := range p.Channels {
				row := p.Channels[i].Pix[y*w : (y+1)*w]
				if p.Channels[i].Half {
					for x := range row {
						row[x] = fromHalf(binary.LittleEndian.Uint16(raw[2*x:]))
					}
					raw = raw[2*w:]
					continue
				}
				for x := range row {
					row[x] = math.Float32frombits(binary.LittleEndian.Uint32(raw[4*x:]))
				}
				raw = raw[4*w:]
			}
		}
	}
	return p, nil
}

// reader takes little-endian numbers; it gives zeroes once it is short.
type reader struct {
	data  []byte
	short bool
}

func (r *reader) take(n int) []byte {
	if n < 0 || n > len(r.data) {
		r.short = true
		r.data = nil
		return nil
	}
	out := r.data[:n]
	r.data = r.data[n:]
	return out
}

func (r *reader) u8() byte {
	if b := r.take(1); b != nil {
		return b[0]
	}
	return 0
}

func (r *reader) u32() uint32 {
	if b := r.take(4); b != nil {
		return binary.LittleEndian.Uint32(b)
	}
	return 0
}

func (r *reader) u64() uint64 {
	if b := r.take(8); b != nil {
		return binary.LittleEndian.Uint64(b)
	}
	return math.MaxUint64
}

// name reads text up to a zero byte.
func (r *reader) name() string {
	i := bytes.IndexByte(r.data, 0)
	if i < 0 || i > 255 {
		r.short = true
		return ""
	}
	out := string(r.data[:i])
	r.data = r.data[i+1:]
	return out
}
