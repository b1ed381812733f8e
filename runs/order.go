package runs

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"perigyre/core/fault"
	"perigyre/core/pose"
	"perigyre/core/render"
	"perigyre/core/scene"
	"perigyre/core/shot"
	"perigyre/formats/exr"
)

// Order is all that a frame's files depend on: its scene, and what of a run's settings, and of what files say of themselves,
// touches them. It is plain values, and can be carried out by anyone who has the same program and the assets that the scene names.
type Order struct {
	Touching
	Scene  *scene.Scene
	Phase  int             `json:",omitempty"` // of its samples, where it has neighbours
	Beside []render.Moment `json:",omitempty"` // neighbours that it is denoised with; none where it is denoised by itself
	File   string          `json:"-"`          // that the frame will be, for people

	fingerprint string
	spare       time.Duration
}

// Touching is what of a run's settings touches the pixels or the files of a frame.
type Touching struct {
	Program       string
	Width, Height int
	Quality       render.Quality
	Noise         float64
	Denoise       bool
	Format        FileFormat
	Bits          int
	Backdrop      *[3]float64
	BackdropLow   *[3]float64
	Vignette      float64
	Title         string
	Comment       string

	// Of EXR alone.
	Compression exr.Compression
	Tight       bool
	Passes      []render.Pass
	PassFiles   bool
	Rate        shot.Rate
}

// touching takes it from the plan's settings.
func (p *Plan) touching() Touching {
	o := p.Settings
	t := Touching{
		Program: Program(), Width: o.Width, Height: o.Height, Quality: o.Quality, Denoise: o.Denoise, Format: o.format(), Bits: o.Bits,
		Backdrop: o.Backdrop, BackdropLow: o.BackdropLow, Vignette: o.Vignette,
	}
	t.Title, t.Comment = p.texts()
	if o.Quality == render.Final {
		t.Noise = o.Noise
	}
	if o.Backdrop == nil {
		t.BackdropLow, t.Vignette = nil, 0
	}
	if t.Format == EXR {
		t.Compression, t.Tight, t.Passes, t.PassFiles, t.Rate = o.Compression, o.Tight, o.Passes, o.PassFiles, p.Document.Rate
		if t.Compression == "" {
			t.Compression = exr.ZIP
		}
	}
	return t
}

// Order resolves a frame.
func (p *Plan) Order(frame int) (o *Order, err error) {
	defer fault.Catch(&err)
	sc, err := p.scene(frame)
	if err != nil {
		return nil, err
	}
	name, err := p.Settings.File(p.Names, frame)
	if err != nil {
		return nil, err
	}
	o = &Order{Touching: p.touching(), Scene: sc, File: name}
	if p.Settings.along() {
		o.Phase, o.Beside, err = p.beside(frame, sc)
	}
	return o, err
}

// scene resolves a frame, or has it from a moment ago.
func (p *Plan) scene(frame int) (*scene.Scene, error) {
	if sc := p.scenes[frame]; sc != nil {
		return sc, nil
	}
	sc, err := p.resolve(p.pose, frame)
	if err == nil && p.Settings.along() {
		const few = 6
		if len(p.scenes) >= few {
			clear(p.scenes)
		}
		p.scenes[frame] = sc
	}
	return sc, err
}

func (p *Plan) resolve(by *pose.Evaluator, frame int) (*scene.Scene, error) {
	has := func(pass render.Pass) bool { return slices.Contains(p.Settings.Passes, pass) }
	return scene.Resolve(by, float64(frame), p.stock.Surfaces, scene.Options{
		Mattes: has(render.Matte) || has(render.PartMattes), Motion: has(render.Motion), Guides: has(render.GuideLines), Labels: has(render.Labels), Symmetry: p.stock.Props,
	})
}

// Fingerprint returns the hash of an order. Orders with the same one have the same files, in one run and in any other, of one
// shot and of any other.
func (o *Order) Fingerprint() string {
	if o.fingerprint == "" {
		b, _ := json.Marshal(o.Touching) // plain values always encode
		all := sum(b) + o.Scene.Fingerprint()
		if len(o.Beside) > 0 {
			all += fmt.Sprint(" ", o.Phase)
		}
		for _, m := range o.Beside {
			all += fmt.Sprint(" ", m.Scene.Fingerprint(), " ", m.Phase)
		}
		o.fingerprint = sum([]byte(all))
	}
	return o.fingerprint
}

// Fingerprint returns the hash of all that a frame's files depend on.
func (p *Plan) Fingerprint(frame int) (string, error) {
	o, err := p.Order(frame)
	if err != nil {
		return "", err
	}
	return o.Fingerprint(), nil
}

// options are what the renderer is asked for.
func (o *Order) options(threads int, progress func(float64)) render.Options {
	return render.Options{Quality: o.Quality, Noise: o.Noise, Denoise: o.Denoise, Passes: o.Passes, Threads: threads, Progress: progress}
}

// Draw renders an order on so many threads, 0 for all there are, and returns its files, the picture first, and a picture that
// a browser can show where that is none.
func (o *Order) Draw(ctx context.Context, props *render.Props, threads int, progress func(float64)) (files [][]byte, preview []byte, err error) {
	defer fault.Catch(&err)
	film, err := o.expose(ctx, props, threads, progress)
	if err != nil {
		return nil, nil, err
	}
	return o.encode(film)
}

// expose renders an order, with its neighbours where it has some.
func (o *Order) expose(ctx context.Context, props *render.Props, threads int, progress func(float64)) (*render.Film, error) {
	if len(o.Beside) > 0 {
		film, spare, err := props.ExposeAlong(ctx, append([]render.Moment{{Scene: o.Scene, Phase: o.Phase}}, o.Beside...), o.Width, o.Height, o.options(threads, progress))
		o.spare = spare
		return film, err
	}
	sc, err := render.NewScene(o.Scene, props)
	if err != nil {
		return nil, err
	}
	return sc.Expose(ctx, o.Width, o.Height, o.options(threads, progress))
}

// Spare is how much of the time that Draw took last was for neighbours, which in a run are drawn once for all.
func (o *Order) Spare() time.Duration { return o.spare }

// Strips returns in how many strips an order can be drawn apart from each other: 1 for pictures that are not large, and for
// those with neighbours, of which each machine would have to draw as many strips again.
func (o *Order) Strips() int {
	if len(o.Beside) > 0 {
		return 1
	}
	return render.Strips(o.Width, o.Height)
}

// Assets returns the content hashes of the stored files that an order is drawn from.
func (o *Order) Assets() []string {
	list := o.Scene.Assets()
	for _, m := range o.Beside {
		list = append(list, m.Scene.Assets()...)
	}
	slices.Sort(list)
	return slices.Compact(list)
}

// DrawStrip renders one of an order's strips.
func (o *Order) DrawStrip(ctx context.Context, props *render.Props, k, threads int, progress func(float64)) (film *render.Film, err error) {
	defer fault.Catch(&err)
	sc, err := render.NewScene(o.Scene, props)
	if err != nil {
		return nil, err
	}
	return sc.ExposeStrip(ctx, o.Width, o.Height, k, o.options(threads, progress))
}

// Join makes the files of an order of its strips, in their order.
func (o *Order) Join(props *render.Props, strips []*render.Film) (files [][]byte, preview []byte, err error) {
	defer fault.Catch(&err)
	if len(strips) != o.Strips() {
		return nil, nil, fmt.Errorf("%d strips came of a picture that has %d", len(strips), o.Strips())
	}
	sc, err := render.NewScene(o.Scene, props)
	if err != nil {
		return nil, nil, err
	}
	film, err := sc.Join(o.Width, o.Height, strips, o.options(0, nil))
	if err != nil {
		return nil, nil, err
	}
	return o.encode(film)
}
