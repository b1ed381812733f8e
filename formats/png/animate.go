package png

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"io"
)

// Animate writes an APNG that plays PNG files for ever, at num / den frames a second (Animated PNG; Portable
// Network Graphics, W3C third edition, 11.3.4). All files have the same size, depth and kind of colour.
func Animate(w io.Writer, files [][]byte, num, den int) error {
	if len(files) == 0 {
		return fmt.Errorf("an animation has at least one frame")
	}
	if num > 65535 || den > 65535 {
		num, den = int(float64(num)/float64(den)*1000+0.5), 1000
	}
	var b bytes.Buffer
	b.Write(files[0][:8])
	sequence := uint32(0)
	for i, file := range files {
		parts, err := chunks(file)
		if err != nil {
			return fmt.Errorf("frame %d: %w", i+1, err)
		}
		if i > 0 && !bytes.Equal(file[8:8+25], files[0][8:8+25]) {
			return fmt.Errorf("frame %d has another size, depth or kind of colour than the first", i+1)
		}
		if i == 0 {
			for _, c := range parts {
				if c.kind == "IDAT" {
					break
				}
				chunk(&b, c.kind, c.data)
			}
			chunk(&b, "acTL", binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, uint32(len(files))), 0))
		}
		control := binary.BigEndian.AppendUint32(nil, sequence)
		control = append(control, file[16:24]...) // width and height
		control = append(control, make([]byte, 8)...)
		control = binary.BigEndian.AppendUint16(control, uint16(den))
		control = binary.BigEndian.AppendUint16(control, uint16(num))
		chunk(&b, "fcTL", append(control, 0, 0)) // each frame takes the place of the one before
		sequence++
		for _, c := range parts {
			if c.kind != "IDAT" {
				continue
			}
			if i == 0 {
				chunk(&b, "IDAT", c.data)
				continue
			}
			chunk(&b, "fdAT", append(binary.BigEndian.AppendUint32(nil, sequence), c.data...))
			sequence++
		}
	}
	chunk(&b, "IEND", nil)
	_, err := w.Write(b.Bytes())
	return err
}

type part struct {
	kind string
	data []byte
}

func chunks(file []byte) ([]part, error) {
	var out []part
	for at := 8; ; {
		if at+12 > len(file) {
			return nil, fmt.Errorf("the PNG file is cut short")
		}
		n := int(binary.BigEndian.Uint32(file[at:]))
		if n > len(file)-at-12 {
			return nil, fmt.Errorf("the PNG file is cut short")
		}
		kind := string(file[at+4 : at+8])
		if kind == "IEND" {
			return out, nil
		}
		out = append(out, part{kind, file[at+8 : at+8+n]})
		at += 12 + n
	}
}
