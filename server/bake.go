package server

import (
	"bytes"
	"encoding/binary"

	"perigyre/core/geom"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// bakeMagic begins a baked block: "PGB1".
const bakeMagic = 0x31424750

// bake encodes the motion of a shot, little endian: the magic, the number of frames, of parts and of
// animated parts as uint32; the indices of the animated parts as uint32; then as float32 by columns
// the world matrix of every part on frame 0, and for each frame those of the animated parts; then the
// number of copied parts as uint32, and for each of them the indices of the copies part and of the
// part that is copied and the number of copies as uint32, and their matrices.
func bake(d *shot.Shot) []byte {
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
	matrices := func(list []geom.Mat4) {
		flat := make([]float32, 0, 16*len(list))
		for _, m := range list {
			for _, v := range m {
				flat = append(flat, float32(v))
			}
		}
		_ = binary.Write(&out, binary.LittleEndian, flat) // a bytes.Buffer does not fail
	}
	matrices(b.Still)
	for _, row := range b.World {
		matrices(row)
	}
	spreads := e.Spreads(b.Still)
	word(uint32(len(spreads)))
	for _, c := range spreads {
		word(uint32(c.Spread))
		word(uint32(c.Part))
		word(uint32(len(c.Places)))
		matrices(c.Places)
	}
	return out.Bytes()
}
