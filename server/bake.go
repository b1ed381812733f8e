package server

import (
	"bytes"
	"encoding/binary"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// bakeMagic begins a baked block: "PGB1".
const bakeMagic = 0x31424750

// mostLiving matrices of copies that change are sent; more copies than that stand as on frame 0.
const mostLiving = 500_000

// bake encodes the motion of a shot, little endian: the magic, the number of frames, of parts and of
// animated parts as uint32; the indices of the animated parts as uint32; then as float32 by columns
// the world matrix of every part on frame 0, and for each frame those of the animated parts; then the
// number of copied parts as uint32, and for each of them the indices of the copies part and of the
// part that is copied, the number of copies and that of sets (one, or one for each frame) as uint32, and
// each set of their matrices. What flexes follows: a count, and for each the part, 0 for a bend or 1 for a twist,
// the axis and the axis towards which as uint32, the matrix from the part's frame to that of the flex, its base
// and length, and the angle of each frame. Last are the looks: a count, and for each the part, and for each frame
// base colour and its share, glow and its share, opacity and strength.
func bake(d *shot.Shot, g pose.Surfaces) ([]byte, error) {
	e := pose.New(d)
	b := e.Bake()
	var out bytes.Buffer
	word := func(v uint32) { out.Write(binary.LittleEndian.AppendUint32(nil, v)) }
	word(bakeMagic)
	word(uint32(b.Frames))
	word(uint32(len(b.Still)))
	word(uint32(len(b.Animated)))
	for _, i := range b.Animated {
		word(uint32(i))
	}
	numbers := func(list ...float64) {
		flat := make([]float32, len(list))
		for i, v := range list {
			flat[i] = float32(v)
		}
		_ = binary.Write(&out, binary.LittleEndian, flat) // a bytes.Buffer does not fail
	}
	matrices := func(list []geom.Mat4) {
		flat := make([]float64, 0, 16*len(list))
		for _, m := range list {
			flat = append(flat, m[:]...)
		}
		numbers(flat...)
	}
	matrices(b.Still)
	for _, row := range b.World {
		matrices(row)
	}
	spreads, err := e.Spreads(0, b.Still, g)
	if err != nil {
		return nil, err
	}
	word(uint32(len(spreads)))
	living := make([][]pose.Copied, b.Frames)
	for n, c := range spreads {
		word(uint32(c.Spread))
		word(uint32(c.Part))
		word(uint32(len(c.Places)))
		sets := 1
		if e.Living(c.Spread) && len(c.Places)*b.Frames <= mostLiving {
			sets = b.Frames
		}
		word(uint32(sets))
		matrices(c.Places)
		for f := 1; f < sets; f++ {
			if living[f] == nil {
				if living[f], err = e.Spreads(float64(f), e.At(float64(f)), g); err != nil {
					return nil, err
				}
			}
			matrices(living[f][n].Places)
		}
	}
	flexes(e, word, numbers)
	looks(e, word, numbers)
	return out.Bytes(), nil
}

func flexes(e *pose.Evaluator, word func(uint32), numbers func(...float64)) {
	n := 0
	for i := range e.Shot.Parts {
		if e.Shot.Parts[i].Kind != shot.Group {
			n += len(e.Flexes(i))
		}
	}
	word(uint32(n))
	for i := range e.Shot.Parts {
		if e.Shot.Parts[i].Kind == shot.Group {
			continue
		}
		for _, x := range e.Flexes(i) {
			kind := uint32(0)
			if x.Flex.Shape == "twist" {
				kind = 1
			}
			for _, v := range []uint32{uint32(i), kind, uint32(x.Flex.Axis), uint32(x.Flex.Towards)} {
				word(v)
			}
			numbers(x.In[:]...)
			numbers(x.Flex.Base[0], x.Flex.Base[1], x.Flex.Base[2], x.Flex.Length)
			for f := range e.Shot.Frames {
				numbers(motion.FlexAngle(x.Move, motion.At(e.Shot, float64(f))))
			}
		}
	}
}

func looks(e *pose.Evaluator, word func(uint32), numbers func(...float64)) {
	all := make([][]motion.Look, e.Shot.Frames)
	var changing []int
	for f := range all {
		all[f] = e.Looks(float64(f))
	}
	for i := range e.Shot.Parts {
		for f := range all {
			if all[f] != nil && all[f][i] != motion.AsItIs {
				changing = append(changing, i)
				break
			}
		}
	}
	word(uint32(len(changing)))
	for _, i := range changing {
		word(uint32(i))
		for f := range all {
			l := all[f][i]
			numbers(l.Color[0], l.Color[1], l.Color[2], l.ColorMix, l.Glow[0], l.Glow[1], l.Glow[2], l.GlowMix, l.Opacity, l.Strength)
		}
	}
}
