package server

import (
	"bufio"
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/lettering"
	"perigyre/core/mesh"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// bakeMagic begins a baked block: "PGB1".
const bakeMagic = 0x31424750

// maxLiving matrices of copies that change are sent; more copies than that stand as on frame 0.
const maxLiving = 500_000

// A baked block is the motion of a shot, little endian: the magic, the number of frames, of parts and of animated parts as
// uint32; the indices of the animated parts as uint32; then as float32 by columns the world matrix of every part on frame 0,
// and for each frame those of the animated parts; then the number of copied parts as uint32, and for each of them the
// indices of the copies part and of the part that is copied, the number of copies and that of sets (one, or one for each
// frame) as uint32, and each set of their matrices. What bends follows: a count, and for each the part, 0 for a bend or 1
// for a twist, the axis and the axis towards which as uint32, the matrix from the part's frame to that of the bend, its
// base and length, and the angle of each frame; a cage is written as it says. Then come the looks: a count, and for each the part, and for each frame
// base colour and its share, glow and its share, opacity and strength. Last are the weights of morph targets: a count, and for each
// the part and the number of its targets as uint32, and for each frame their weights. Bones are parts like others. At the end are guide lines that are
// seen in the picture: a count, and for each how many points it has as uint32; and labels: a count, and for each 1 for dark letters, else 0,
// the outlines of its letters (lettering.Path) as a length and bytes up to a multiple of four, and the size of an em. Then for each frame
// come the points of all lines, in the room, and of each label where it begins, the three points of its line, and its strength, as
// framing.Label has them.

// maxBaked bytes of matrices are sent of one shot.
const maxBaked = 1 << 30

// sendBake streams the motion of a version: no more than a few frames are held at a time.
func (st *Studio) sendBake(c fiber.Ctx, v *version) error {
	e, _, err := st.measured(v)
	if err != nil {
		return err
	}
	b := &block{ctx: st.ctx, e: e, g: st.assets, animated: e.Animated()}
	if n := (64*len(b.animated) + b.caged()) * v.Document.Frames; n > maxBaked {
		return refused{fmt.Errorf("the motion of %d parts over %d frames is %d MB, more than the %d MB that are shown at a time; shorten the shot or let fewer parts move", len(b.animated), v.Document.Frames, n>>20, maxBaked>>20)}
	}
	if err := b.prepare(); err != nil {
		return err
	}
	c.Set("X-Version", strconv.Itoa(v.Version))
	c.Type("bin")
	return stream(c, "a bake", func(w *bufio.Writer) error { return b.write(w) })
}

// block is a bake under way.
type block struct {
	ctx      context.Context // whether anybody still wants it
	e        *pose.Evaluator
	g        pose.Surfaces
	animated []int
	still    []geom.Mat4
	spreads  []pose.Copied
	w        io.Writer
	buf      []byte
	err      error
}

// prepare works out what can fail before anything is sent.
func (b *block) prepare() (err error) {
	b.still = b.e.At(0)
	b.spreads, err = b.e.Spreads(0, b.still, b.g)
	return err
}

// bakeOf returns the whole block.
func bakeOf(e *pose.Evaluator, g pose.Surfaces) ([]byte, error) {
	b := &block{ctx: context.Background(), e: e, g: g, animated: e.Animated()}
	if err := b.prepare(); err != nil {
		return nil, err
	}
	var out bytes.Buffer
	err := b.write(&out)
	return out.Bytes(), err
}

func (b *block) write(w io.Writer) error {
	b.w = w
	b.word(bakeMagic)
	b.word(uint32(b.e.Shot.Frames))
	b.word(uint32(len(b.still)))
	b.word(uint32(len(b.animated)))
	for _, i := range b.animated {
		b.word(uint32(i))
	}
	for i := range b.still {
		b.numbers(b.still[i][:]...)
	}
	err := b.e.Bake(func(_ int, world []geom.Mat4) error {
		for _, i := range b.animated {
			b.numbers(world[i][:]...)
		}
		if err := b.ctx.Err(); err != nil {
			return err
		}
		return b.flush()
	})
	if err == nil {
		err = b.copies()
	}
	if err != nil {
		return err
	}
	b.bends()
	b.looks()
	b.weights()
	if err := b.drawn(); err != nil {
		return err
	}
	return b.flush()
}

func (b *block) flush() error {
	if b.err == nil {
		_, b.err = b.w.Write(b.buf)
	}
	b.buf = b.buf[:0]
	return b.err
}

func (b *block) word(v uint32) { b.buf = binary.LittleEndian.AppendUint32(b.buf, v) }

func (b *block) numbers(list ...float64) {
	for _, v := range list {
		b.buf = binary.LittleEndian.AppendUint32(b.buf, math.Float32bits(float32(v)))
	}
	if len(b.buf) > 1<<16 {
		_ = b.flush() // which keeps the error
	}
}

// copies writes the places of copies: of those that change, set by set, one spread after another.
func (b *block) copies() error {
	b.word(uint32(len(b.spreads)))
	frames := b.e.Shot.Frames
	living := make([][]pose.Copied, frames) // at most maxLiving matrices of each
	for n, c := range b.spreads {
		sets := 1
		if b.e.Living(c.Spread) && len(c.Places)*frames <= maxLiving {
			sets = frames
		}
		for _, v := range []int{c.Spread, c.Part, len(c.Places), sets} {
			b.word(uint32(v))
		}
		for i := range c.Places {
			b.numbers(c.Places[i][:]...)
		}
		for f := 1; f < sets; f++ {
			if living[f] == nil {
				var err error
				if living[f], err = b.e.Spreads(float64(f), b.e.At(float64(f)), b.g); err != nil {
					return err
				}
			}
			for i := range living[f][n].Places {
				b.numbers(living[f][n].Places[i][:]...)
			}
		}
	}
	return nil
}

func (b *block) bends() {
	n := 0
	for i := range b.e.Shot.Parts {
		if b.e.Shot.Parts[i].Kind != shot.Group {
			n += len(b.e.Bends(i))
		}
	}
	b.word(uint32(n))
	for i := range b.e.Shot.Parts {
		if b.e.Shot.Parts[i].Kind == shot.Group {
			continue
		}
		list := b.e.Bends(i)
		for k := range list {
			first := list[k].At(motion.At(b.e.Shot, 0))
			if first.Cage != nil {
				b.cage(i, &list[k], first.Cage)
				continue
			}
			twist := uint32(0)
			if first.Twist {
				twist = 1
			}
			for _, v := range []uint32{uint32(i), twist, uint32(first.Axis), uint32(first.Towards)} {
				b.word(v)
			}
			b.numbers(list[k].In[:]...)
			b.numbers(first.Base[0], first.Base[1], first.Base[2], first.Length)
			for f := range b.e.Shot.Frames {
				b.numbers(list[k].At(motion.At(b.e.Shot, float64(f))).Angle)
			}
		}
	}
}

// caged is how many bytes a frame the points of all cages take.
func (b *block) caged() (n int) {
	for i := range b.e.Shot.Parts {
		list := b.e.Bends(i)
		for k := range list {
			if c := list[k].At(motion.At(b.e.Shot, 0)).Cage; c != nil && b.e.Shot.Parts[i].Kind != shot.Group {
				n += 12 * len(c.Offsets)
			}
		}
	}
	return n
}

// cage writes a cage: the part, 2, how many points it has along y and z as uint32; then the matrix to its frame, its low corner and
// how many points it has along x, its size and 0, and for each frame how far each point has moved.
func (b *block) cage(part int, of *pose.Bending, c *mesh.Cage) {
	for _, v := range []uint32{uint32(part), 2, uint32(c.N[1]), uint32(c.N[2])} {
		b.word(v)
	}
	b.numbers(of.In[:]...)
	b.numbers(c.Low[0], c.Low[1], c.Low[2], float64(c.N[0]), c.Size[0], c.Size[1], c.Size[2], 0)
	for f := range b.e.Shot.Frames {
		for _, p := range of.At(motion.At(b.e.Shot, float64(f))).Cage.Offsets {
			b.numbers(p[:]...)
		}
	}
}

func (b *block) looks() {
	frames := b.e.Shot.Frames
	if b.e.Looks(0) == nil {
		b.word(0)
		return
	}
	changing := map[int]bool{}
	for f := range frames {
		for i, l := range b.e.Looks(float64(f)) {
			changing[i] = changing[i] || l != motion.AsItIs
		}
	}
	var list []int
	for i := range b.e.Shot.Parts {
		if changing[i] {
			list = append(list, i)
		}
	}
	all := make([][10]float64, frames*len(list))
	for f := range frames {
		looks := b.e.Looks(float64(f))
		for k, i := range list {
			l := looks[i]
			all[k*frames+f] = [10]float64{l.Color[0], l.Color[1], l.Color[2], l.ColorMix, l.Glow[0], l.Glow[1], l.Glow[2], l.GlowMix, l.Opacity, l.Strength}
		}
	}
	b.word(uint32(len(list)))
	for k, i := range list {
		b.word(uint32(i))
		for f := range frames {
			b.numbers(all[k*frames+f][:]...)
		}
	}
}

// drawn writes guide lines and labels, each frame by frame.
func (b *block) drawn() error {
	guided, err := b.e.Guided(b.g)
	if err != nil {
		return err
	}
	guided = slices.DeleteFunc(guided, func(g pose.Guided) bool { return !g.Drawn })
	first := motion.At(b.e.Shot, 0)
	labels, err := b.labels(first, b.still)
	if err != nil {
		return err
	}
	b.word(uint32(len(guided)))
	for k := range guided {
		b.word(uint32(guided[k].Points(b.e)))
	}
	b.word(uint32(len(labels)))
	for _, l := range labels {
		dark := uint32(0)
		if l.Dark {
			dark = 1
		}
		b.word(dark)
		b.text(lettering.Path(l.Text))
		b.numbers(l.Size)
	}
	for f := 0; f < b.e.Shot.Frames && len(guided)+len(labels) > 0; f++ {
		if err := b.ctx.Err(); err != nil {
			return err
		}
		t := motion.At(b.e.Shot, float64(f))
		world := b.e.World(t)
		for k := range guided {
			line := guided[k].Line(b.e, t, world)
			for n := range guided[k].Points(b.e) {
				p := line[min(n, len(line)-1)]
				b.numbers(p[:]...)
			}
		}
		if labels, err = b.labels(t, world); err != nil {
			return err
		}
		for _, l := range labels {
			b.numbers(l.At[0], l.At[1], l.Line[0][0], l.Line[0][1], l.Line[1][0], l.Line[1][1], l.Line[2][0], l.Line[2][1], l.Strength)
		}
	}
	return nil
}

// labels are those of a moment that are seen in the picture.
func (b *block) labels(t motion.Time, world []geom.Mat4) ([]framing.Label, error) {
	list, err := framing.Labels(b.e, t, world, b.g)
	return slices.DeleteFunc(list, func(l framing.Label) bool { return !l.Drawn }), err
}

// text writes bytes, up to a multiple of four.
func (b *block) text(s string) {
	b.word(uint32(len(s)))
	b.buf = append(b.buf, s...)
	for len(b.buf)%4 != 0 {
		b.buf = append(b.buf, 0)
	}
}

func (b *block) weights() {
	var list []int
	for i := range b.e.Shot.Parts {
		if len(b.e.Shot.Parts[i].Morphs) > 0 {
			list = append(list, i)
		}
	}
	b.word(uint32(len(list)))
	for _, i := range list {
		b.word(uint32(i))
		b.word(uint32(len(b.e.Shot.Parts[i].Morphs)))
		for f := range b.e.Shot.Frames {
			b.numbers(b.e.Weights(i, motion.At(b.e.Shot, float64(f)))...)
		}
	}
}
