package server

import (
	"bytes"
	"context"
	"fmt"
	"image/png"
	"slices"
	"strconv"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"

	"perigyre/core/fault"
	"perigyre/core/material"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/render"
	"perigyre/core/scene"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/store"
)

// Small pictures are rendered as proofs are, with so many samples and at most so wide.
const (
	smallSamples = 24
	smallSide    = 480
	keptSmall    = 500
)

// smallPictures keeps rendered small pictures by what they show, and renders one at a time, so that proofs and runs have room.
type smallPictures struct {
	mu    sync.Mutex
	kept  map[string][]byte
	order []string // oldest first
}

// picture renders a frame of a document small: a PNG, with alpha where nothing is seen behind. Whether it is still wanted is
// asked when its turn has come.
func (st *Studio) picture(d *shot.Shot, frame, width, height int, wanted func() bool) (data []byte, err error) {
	return st.pictureOf(d, width, height, wanted, func(e *pose.Evaluator) (*scene.Scene, error) {
		return scene.Resolve(e, float64(frame), st.assets, scene.Options{Symmetry: st.stock.Props})
	})
}

// pictureOf does so of a scene of a document.
func (st *Studio) pictureOf(d *shot.Shot, width, height int, wanted func() bool, resolve func(e *pose.Evaluator) (*scene.Scene, error)) (data []byte, err error) {
	defer fault.Catch(&err)
	if width < 1 || height < 1 || width > smallSide || height > smallSide {
		return nil, refused{fmt.Errorf("a small picture is 1 to %d pixels wide and high", smallSide)}
	}
	s, err := resolve(pose.New(d))
	if err != nil {
		return nil, err
	}
	behind := render.Behind(d.Backdrop, d.BackdropLow, d.Vignette)
	key := fmt.Sprint(s.Fingerprint(), width, height)
	if behind != nil {
		key += fmt.Sprint(*behind)
	}
	st.small.mu.Lock()
	defer st.small.mu.Unlock()
	if data := st.small.kept[key]; data != nil {
		return data, nil
	}
	if !wanted() { // what waited for its turn may be of a shot that has gone on
		return nil, refused{fmt.Errorf("the shot has been changed meanwhile")}
	}
	drawn, err := render.NewScene(s, st.stock.Props)
	if err != nil {
		return nil, err
	}
	ctx, stop := context.WithTimeout(st.ctx, time.Minute)
	defer stop()
	film, err := drawn.Expose(ctx, width, height, render.Options{Quality: render.Proof, Samples: smallSamples, Denoise: true})
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	if err := png.Encode(&b, film.Image(d.View, behind, 8)); err != nil {
		return nil, err
	}
	if st.small.kept == nil {
		st.small.kept = map[string][]byte{}
	}
	if len(st.small.order) >= keptSmall {
		delete(st.small.kept, st.small.order[0])
		st.small.order = st.small.order[1:]
	}
	st.small.kept[key] = b.Bytes()
	st.small.order = append(st.small.order, key)
	return b.Bytes(), nil
}

func always() bool { return true }

// sendPicture answers with a small picture. Its address names what it shows, so that browsers keep it.
func sendPicture(c fiber.Ctx, data []byte, err error) error {
	if err != nil {
		return err
	}
	c.Set("Content-Type", "image/png")
	c.Set("Cache-Control", "private, max-age=86400")
	return c.Send(data)
}

// getPreset answers with a sample of a material to start from.
func (st *Studio) getPreset(c fiber.Ctx) error {
	m, err := material.FindPreset(c.Query("name"))
	if err != nil {
		return refused{err}
	}
	data, err := st.picture(stage.Sample(m), 0, 96, 96, always)
	return sendPicture(c, data, err)
}

// getMaterial answers with a sample of a material of a shot.
func (st *Studio) getMaterial(c fiber.Ctx) error {
	v, err := st.open(c.Params("id"))
	if err != nil {
		return err
	}
	list := v.Document.Materials
	i := slices.IndexFunc(list, func(m material.Material) bool { return m.ID == c.Query("material") })
	if i < 0 {
		return refused{fmt.Errorf("the material is not in this shot any more")}
	}
	data, err := st.picture(stage.Sample(list[i]), 0, 96, 96, always)
	return sendPicture(c, data, err)
}

// getAngle answers with a small picture of what an angle of a shot sees on a frame.
func (st *Studio) getAngle(c fiber.Ctx) error {
	v, err := st.open(c.Params("id"))
	if err != nil {
		return err
	}
	d := v.Document
	i := slices.IndexFunc(d.Angles, func(a shot.Angle) bool { return a.ID == c.Query("angle") })
	frame, bad := strconv.Atoi(c.Query("frame", "0"))
	width, odd := strconv.Atoi(c.Query("width", "160"))
	if i < 0 || bad != nil || odd != nil || frame < 0 || frame >= d.Frames {
		return refused{fmt.Errorf("the angle is not in this shot any more, or the frame is not")}
	}
	a := &d.Angles[i]
	height := max(1, width*a.Format.Height/a.Format.Width)
	if height > width { // tall formats are as high as others are wide
		width, height = max(1, width*a.Format.Width/a.Format.Height), width
	}
	data, err := st.picture(d.Seen(a), frame, width, height, func() bool {
		now, err := st.open(v.Shot)
		return err == nil && now.Version == v.Version
	})
	return sendPicture(c, data, err)
}

// getSeam answers with what the render camera sees at the seam: on the last frame, where frame N would be, and on the first.
func (st *Studio) getSeam(c fiber.Ctx) error {
	v, err := st.open(c.Params("id"))
	if err != nil {
		return err
	}
	const side = 160
	d := v.Document
	width, height := side, max(1, side*d.Format.Height/d.Format.Width)
	if height > side {
		width, height = max(1, side*d.Format.Width/d.Format.Height), side
	}
	var times = map[string]motion.Time{"last": motion.At(d, float64(d.Frames-1)), "end": motion.BeforeSeam(d), "first": motion.At(d, 0)}
	t, ok := times[c.Query("at")]
	if !ok || d.Ending != shot.Loop || d.Camera == "" {
		return store.ErrMissing
	}
	data, err := st.pictureOf(d, width, height, always, func(e *pose.Evaluator) (*scene.Scene, error) {
		s, _, err := scene.Moment(e, t, st.assets)
		if err == nil {
			s.Canonical(st.stock.Props)
		}
		return s, err
	})
	return sendPicture(c, data, err)
}
