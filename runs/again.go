package runs

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"slices"
	"sync"

	"perigyre/core/render"
	"perigyre/core/scene"
	"perigyre/core/shot"
	"perigyre/formats/exr"
	"perigyre/store"
)

// Twin is where a frame was rendered before.
type Twin struct {
	Folder string
	store.Frame
}

// touching is what of a run's settings, and of what its files say, touches the pixels or the files of a frame.
type touching struct {
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

// Fingerprint returns the hash of all that a frame's files depend on: of its scene, and of the settings that touch them.
// Frames with the same one have the same files, in this run and in any other, of this shot and of any other.
func (p *Plan) Fingerprint(frame int) (string, error) {
	sc, err := p.scene(frame)
	if err != nil {
		return "", err
	}
	return p.fingerprint(sc), nil
}

func (p *Plan) fingerprint(sc *scene.Scene) string {
	p.once.Do(func() {
		o := p.Settings
		t := touching{
			Program: program(), Width: o.Width, Height: o.Height, Quality: o.Quality, Denoise: o.Denoise, Format: o.format(), Bits: o.Bits,
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
		b, _ := json.Marshal(t) // plain values always encode
		p.base = sum(b)
	})
	return sum([]byte(p.base + sc.Fingerprint()))
}

// scene resolves a frame.
func (p *Plan) scene(frame int) (*scene.Scene, error) {
	has := func(pass render.Pass) bool { return slices.Contains(p.Settings.Passes, pass) }
	return scene.Resolve(p.pose, float64(frame), p.stock.Surfaces, scene.Options{
		Mattes: has(render.Matte) || has(render.PartMattes), Motion: has(render.Motion), Guides: has(render.GuideLines), Labels: has(render.Labels), Symmetry: p.stock.Props,
	})
}

// program is a hash of the running program: another one may draw another picture.
var program = sync.OnceValue(func() string {
	h := sha256.New()
	if name, err := os.Executable(); err == nil {
		if f, err := os.Open(name); err == nil {
			_, _ = io.Copy(h, f) // what cannot be read is told apart from nothing
			f.Close()
		}
	}
	return hex.EncodeToString(h.Sum(nil))
})

// again returns the files of a frame that shows the same, nil where there is none that is whole.
func (p *Plan) again(picture string) (files [][]byte, preview []byte) {
	twins := []Twin{}
	if f, ok := p.made[picture]; ok {
		twins = append(twins, f)
	}
	if p.Elsewhere != nil {
		twins = append(twins, p.Elsewhere(picture)...)
	}
	for _, t := range twins {
		files, err := read(t.Folder, t.Frame)
		if err != nil || sum(files...) != t.SHA256 {
			continue
		}
		if shown := p.Preview(t.File); shown != t.File {
			if preview, err = os.ReadFile(filepath.Join(t.Folder, shown)); err != nil {
				continue
			}
		}
		return files, preview
	}
	return nil, nil
}

// Remember lets a frame that is done be taken again where another one shows the same.
func (p *Plan) Remember(f store.Frame) {
	if picture, err := p.Fingerprint(f.Number); err == nil {
		p.made[picture] = Twin{p.Folder, f}
	}
}
