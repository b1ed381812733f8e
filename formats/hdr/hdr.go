// Package hdr reads Radiance pictures: RGBE pixels, packed by runs in either way or not at all (Ward, "Real
// Pixels", Graphics Gems II, 1991; the Radiance file formats).
package hdr

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"math"
	"strings"
)

// Picture is scene-linear light, row by row from the top: r, g, b.
type Picture struct {
	Width, Height int
	Pix           []float32
}

const maxPixels = 8192 * 4096

// Is reports whether data begin as a Radiance picture does.
func Is(data []byte) bool {
	return bytes.HasPrefix(data, []byte("#?RADIANCE")) || bytes.HasPrefix(data, []byte("#?RGBE"))
}

// Read reads a picture whose lines run from the top down and from left to right.
func Read(data []byte) (*Picture, error) {
	if !Is(data) {
		return nil, fmt.Errorf("this is no Radiance picture")
	}
	r := bufio.NewReader(bytes.NewReader(data))
	exposure := 1.0
	for {
		line, err := r.ReadString('\n')
		if err != nil {
			return nil, fmt.Errorf("the Radiance picture ends within its header")
		}
		if line = strings.TrimSpace(line); line == "" {
			break
		}
		var v float64
		if strings.HasPrefix(line, "FORMAT=") && line != "FORMAT=32-bit_rle_rgbe" {
			return nil, fmt.Errorf("the Radiance picture has %s; only 32-bit_rle_rgbe is read", line)
		}
		if n, _ := fmt.Sscanf(line, "EXPOSURE=%g", &v); n == 1 && v > 0 {
			exposure *= v // several multiply
		}
	}
	line, err := r.ReadString('\n')
	if err != nil {
		return nil, fmt.Errorf("the Radiance picture ends within its header")
	}
	p := &Picture{}
	if n, _ := fmt.Sscanf(line, "-Y %d +X %d", &p.Height, &p.Width); n != 2 {
		return nil, fmt.Errorf("the Radiance picture's lines run as %q says; only -Y +X is read", strings.TrimSpace(line))
	}
	if p.Width < 1 || p.Height < 1 || p.Width > maxPixels || p.Height > maxPixels/p.Width {
		return nil, fmt.Errorf("a Radiance picture of %d x %d pixels is not read", p.Width, p.Height)
	}
	if least := p.Height; len(data) < least { // every line takes more than a byte
		return nil, fmt.Errorf("the Radiance picture ends early")
	}
	p.Pix = make([]float32, 0, 3*p.Width*min(p.Height, 1+len(data)/8))
	row := make([]byte, 4*p.Width)
	for y := range p.Height {
		if err := scan(r, row, p.Width); err != nil {
			return nil, fmt.Errorf("line %d of the Radiance picture: %w", y+1, err)
		}
		for x := range p.Width {
			e := row[4*x : 4*x+4]
			k := 0.0
			if e[3] > 0 {
				k = math.Ldexp(1/exposure, int(e[3])-136)
			}
			for c := range 3 {
				v := 0.0
				if e[3] > 0 {
					v = (float64(e[c]) + 0.5) * k
				}
				p.Pix = append(p.Pix, float32(v))
			}
		}
	}
	return p, nil
}

// scan reads a line of pixels.
func scan(r *bufio.Reader, row []byte, width int) error {
	head := make([]byte, 4)
	if _, err := io.ReadFull(r, head); err != nil {
		return fmt.Errorf("it is not there")
	}
	if width >= 8 && width < 1<<15 && head[0] == 2 && head[1] == 2 && int(head[2])<<8|int(head[3]) == width {
		for c := range 4 { // each component by itself
			for x := 0; x < width; {
				n, err := r.ReadByte()
				if err != nil {
					return fmt.Errorf("it is cut short")
				}
				run := n > 128
				if run {
					n -= 128
				}
				if n == 0 || x+int(n) > width {
					return fmt.Errorf("a run goes beyond its end")
				}
				v := byte(0)
				for k := range int(n) {
					if k == 0 || !run {
						if v, err = r.ReadByte(); err != nil {
							return fmt.Errorf("it is cut short")
						}
					}
					row[4*(x+k)+c] = v
				}
				x += int(n)
			}
		}
		return nil
	}
	shift := 0
	for x := 0; x < width; {
		if head[0] == 1 && head[1] == 1 && head[2] == 1 { // the older way: the pixel before, so many times
			n := int(head[3]) << shift
			if x == 0 || shift > 16 || x+n > width {
				return fmt.Errorf("a run goes beyond its end")
			}
			for k := range n {
				copy(row[4*(x+k):], row[4*(x-1):4*x])
			}
			x += n
			shift += 8
		} else {
			copy(row[4*x:], head)
			x++
			shift = 0
		}
		if x < width {
			if _, err := io.ReadFull(r, head); err != nil {
				return fmt.Errorf("it is cut short")
			}
		}
	}
	return nil
}
