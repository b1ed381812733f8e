package server

import (
	"bufio"
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"image/png"
	"math"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"perigyre/core/fault"
	"perigyre/core/render"
	"perigyre/core/scene"
)

// proofSide and proofPixels bound a proof, whose pixels take some 250 bytes each while they gather, and
// proofSamples how far it sharpens.
const (
	proofSide    = 1280
	proofPixels  = 500_000
	proofSamples = 128
)

// getProof streams a proof of a frame as it sharpens: for each picture the number of samples and of bytes as
// uint32, little endian, and a PNG. It ends when another one of the same shot begins, when it is told to, and when
// nobody reads it any more.
func (st *Studio) getProof(c fiber.Ctx) error {
	v, err := st.open(c.Params("id"))
	if err != nil {
		return err
	}
	frame, err1 := strconv.Atoi(c.Query("frame"))
	width, err2 := strconv.Atoi(c.Query("width"))
	d := v.Document
	if err1 != nil || err2 != nil || width < 1 || width > proofSide || frame < 0 || frame >= d.Frames {
		return refused{fmt.Errorf("a proof is of a frame of the shot, 1 to %d pixels wide", proofSide)}
	}
	if n := width * width * d.Format.Height / d.Format.Width; n > proofPixels {
		width = int(float64(width) * math.Sqrt(float64(proofPixels)/float64(n)))
	}
	height := max(1, width*d.Format.Height/d.Format.Width)
	drawn, err := st.scene(v, frame)
	if err != nil {
		return err
	}
	behind := render.Behind(d.Backdrop, d.BackdropLow, d.Vignette)
	c.Set("Content-Type", "application/octet-stream")
	running, end := st.proofs.begin(st.ctx, strings.Clone(c.Params("id")))     // an older one of the same shot ends
	told, forget := st.tickets.begin(st.ctx, strings.Clone(c.Query("ticket"))) // Fiber takes its strings back
	return stream(c, "a proof", func(w *bufio.Writer) error {
		defer end()
		defer forget()
		ctx, stop := context.WithTimeout(running, 10*time.Minute)
		defer stop()
		defer context.AfterFunc(told, stop)()
		err := drawn.Refine(ctx, width, height, proofSamples, func(f *render.Film, samples int) error {
			var b bytes.Buffer
			enc := png.Encoder{CompressionLevel: png.BestSpeed}
			if err := enc.Encode(&b, f.Image(d.View, behind, 8)); err != nil {
				return err
			}
			head := binary.LittleEndian.AppendUint32(nil, uint32(samples))
			head = binary.LittleEndian.AppendUint32(head, uint32(b.Len()))
			if _, err := w.Write(append(head, b.Bytes()...)); err != nil {
				return err
			}
			return w.Flush()
		})
		if ctx.Err() != nil { // another proof took its place, or its window is gone
			return nil
		}
		return err
	})
}

// scene makes a frame of a version ready to be drawn.
func (st *Studio) scene(v *version, frame int) (_ *render.Scene, err error) {
	defer fault.Catch(&err)
	e, _, err := st.measured(v)
	if err != nil {
		return nil, err
	}
	s, err := scene.Resolve(e, float64(frame), st.assets, scene.Options{Symmetry: st.stock.Props})
	if err != nil {
		return nil, err
	}
	return render.NewScene(s, st.stock.Props)
}
