package exr

import (
	"encoding/binary"
	"errors"
	"math/bits"
)

// PIZ packs the 16-bit words of a block: those that occur are numbered, each channel goes through a Haar wavelet of
// whole numbers, and what comes out through a Huffman code (OpenEXR, ImfPizCompressor, ImfWav and ImfHuf; Technical
// Introduction to OpenEXR, "Data Compression").

var errPIZ = errors.New("its PIZ data is damaged")

// plane is one channel's part of a block: width words of its values, size of them a value, for some lines.
type plane struct {
	words              []uint16
	width, lines, each int // each is how many a value has: 1 for half, 2 for float
}

// planes splits a block, line by line and channel by channel, into its channels, or with back puts it together.
func planes(raw []byte, channels []Channel, width, lines int, list []plane, back bool) []plane {
	if list == nil {
		for _, c := range channels {
			n := 2
			if c.Half {
				n = 1
			}
			list = append(list, plane{make([]uint16, width*lines*n), width, lines, n})
		}
	}
	for y := range lines {
		for i := range list {
			p := &list[i]
			n := p.width * p.each
			for k := range n {
				if back {
					binary.LittleEndian.PutUint16(raw[2*k:], p.words[y*n+k])
				} else {
					p.words[y*n+k] = binary.LittleEndian.Uint16(raw[2*k:])
				}
			}
			raw = raw[2*n:]
		}
	}
	return list
}

// packPIZ packs a block.
func packPIZ(raw []byte, channels []Channel, width, lines int) []byte {
	list := planes(raw, channels, width, lines, nil, false)
	var used [1 << 13]byte
	total := 0
	for _, p := range list {
		total += len(p.words)
		for _, w := range p.words {
			used[w>>3] |= 1 << (w & 7)
		}
	}
	used[0] &^= 1 // zero is always there
	least, most := len(used)-1, 0
	for i, b := range used {
		if b != 0 {
			least, most = min(least, i), max(most, i)
		}
	}
	number := make([]uint16, 1<<16)
	next := 0
	for i := range number {
		if i == 0 || used[i>>3]>>(i&7)&1 != 0 {
			number[i] = uint16(next)
			next++
		}
	}
	out := binary.LittleEndian.AppendUint16(nil, uint16(least))
	out = binary.LittleEndian.AppendUint16(out, uint16(most))
	if least <= most {
		out = append(out, used[least:most+1]...)
	}
	all := make([]uint16, 0, total)
	for _, p := range list {
		for k, w := range p.words {
			p.words[k] = number[w]
		}
		for k := range p.each {
			wavelet(p, k, next-1, false)
		}
		all = append(all, p.words...)
	}
	packed := huffmanPack(all)
	out = binary.LittleEndian.AppendUint32(out, uint32(len(packed)))
	return append(out, packed...)
}

// unpackPIZ undoes packPIZ into a block of the right size.
func unpackPIZ(packed []byte, channels []Channel, width, lines int, raw []byte) error {
	r := reader{data: packed}
	head := r.take(4)
	if head == nil {
		return errPIZ
	}
	least, most := int(binary.LittleEndian.Uint16(head)), int(binary.LittleEndian.Uint16(head[2:]))
	var used [1 << 13]byte
	if most >= len(used) {
		return errPIZ
	}
	if least <= most {
		copy(used[least:most+1], r.take(most-least+1))
	}
	var words []uint16 // by their numbers
	for i := range 1 << 16 {
		if i == 0 || used[i>>3]>>(i&7)&1 != 0 {
			words = append(words, uint16(i))
		}
	}
	size := int(r.u32())
	body := r.take(size)
	if r.short {
		return errPIZ
	}
	all := make([]uint16, len(raw)/2)
	if err := huffmanUnpack(body, all); err != nil {
		return err
	}
	var list []plane
	for _, c := range channels {
		n := 2
		if c.Half {
			n = 1
		}
		p := plane{all[:width*lines*n], width, lines, n}
		all = all[len(p.words):]
		for k := range n {
			wavelet(p, k, len(words)-1, true)
		}
		for k, w := range p.words {
			if int(w) >= len(words) {
				return errPIZ
			}
			p.words[k] = words[w]
		}
		list = append(list, p)
	}
	planes(raw, channels, width, lines, list, true)
	return nil
}

// wavelet takes the k-th words of a plane's values through the transform, or back. Numbers up to 14 bits have an
// easier step than those of 16.
func wavelet(p plane, k, most int, back bool) {
	w, nx, ny := p.words, p.width, p.lines
	ox, oy := p.each, p.width*p.each
	step := func(a, b uint16) (uint16, uint16) {
		if most < 1<<14 {
			s, d := int16(a), int16(b)
			return uint16((int32(s) + int32(d)) >> 1), uint16(s - d)
		}
		o := (int(a) + 1<<15) & 0xffff
		m, d := (o+int(b))>>1, o-int(b)
		if d < 0 {
			m = (m + 1<<15) & 0xffff
		}
		return uint16(m), uint16(d & 0xffff)
	}
	if back {
		step = func(l, h uint16) (uint16, uint16) {
			if most < 1<<14 {
				d := int32(int16(h))
				a := int32(int16(l)) + d&1 + d>>1
				return uint16(a), uint16(a - d)
			}
			b := (int(l) - int(h)>>1) & 0xffff
			return uint16((int(h) + b - 1<<15) & 0xffff), uint16(b)
		}
	}
	level := func(d int) { // between neighbours d apart
		y := 0
		for ; y+2*d <= ny; y += 2 * d {
			x := 0
			for ; x+2*d <= nx; x += 2 * d {
				a := k + y*oy + x*ox
				b, c := a+d*ox, a+d*oy
				e := c + d*ox
				if back {
					w00, w10 := step(w[a], w[c])
					w01, w11 := step(w[b], w[e])
					w[a], w[b] = step(w00, w01)
					w[c], w[e] = step(w10, w11)
				} else {
					w00, w01 := step(w[a], w[b])
					w10, w11 := step(w[c], w[e])
					w[a], w[c] = step(w00, w10)
					w[b], w[e] = step(w01, w11)
				}
			}
			if nx&d != 0 {
				a := k + y*oy + x*ox
				w[a], w[a+d*oy] = step(w[a], w[a+d*oy])
			}
		}
		if ny&d != 0 {
			for x := 0; x+2*d <= nx; x += 2 * d {
				a := k + y*oy + x*ox
				w[a], w[a+d*ox] = step(w[a], w[a+d*ox])
			}
		}
	}
	n := min(nx, ny)
	if back {
		for d := 1 << bits.Len(uint(n)) >> 2; d >= 1; d >>= 1 {
			level(d)
		}
		return
	}
	for d := 1; 2*d <= n; d <<= 1 {
		level(d)
	}
}
