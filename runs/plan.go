package runs

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"perigyre/core/pose"
	"perigyre/core/render"
	"perigyre/core/scene"
	"perigyre/core/shot"
	"perigyre/store"
)

// Plan is a run ready to produce frames: a frozen document, its settings and where files go.
type Plan struct {
	Document *shot.Shot
	Names    Names
	Settings Settings
	Folder   string
	Single   bool // a frame or two are drawn and not kept: which frames of the shot show the same is not worth finding out

	pose   *pose.Evaluator
	stock  Stock
	made   map[string]Twin      // frames that are done, by what their pictures depend on
	scenes map[int]*scene.Scene // of the last frames, where they have neighbours
	firsts []int                // of each frame of the shot, the first that shows the same, likewise

	Elsewhere func(picture string) []Twin // frames of other runs that show the same, if they are known
}

// Stock is what pictures are made from.
type Stock struct {
	Props    *render.Props
	Surfaces pose.Surfaces
}

// NewPlan checks the settings against the document, which must not change from here on.
func NewPlan(d *shot.Shot, n Names, o Settings, folder string, stock Stock) (*Plan, error) {
	if err := o.Check(d); err != nil {
		return nil, err
	}
	if _, err := o.File(n, o.From); err != nil {
		return nil, err
	}
	return &Plan{Document: d, Names: n, Settings: o, Folder: folder, pose: pose.New(d), stock: stock, made: map[string]Twin{}, scenes: map[int]*scene.Scene{}}, nil
}

// List returns the frames of the plan, all waiting.
func (p *Plan) List() []store.Frame {
	out := make([]store.Frame, 0, p.Settings.Frames())
	for f := p.Settings.From; f <= p.Settings.To; f++ {
		if o := p.Settings.Only; len(o) > 0 && !slices.Contains(o, f) {
			continue
		}
		name, _ := p.Settings.File(p.Names, f) // checked by NewPlan
		out = append(out, store.Frame{Number: f, File: name, State: store.FrameWaiting})
	}
	return out
}

// Picture renders a frame and returns its files, the picture first, and a picture that a browser can show where that
// is none.
func (p *Plan) Picture(ctx context.Context, frame int, progress func(float64)) (files [][]byte, preview []byte, err error) {
	o, err := p.Order(frame)
	if err != nil {
		return nil, nil, err
	}
	return o.Draw(ctx, p.stock.Props, 0, progress)
}

// Previews is the folder in that of a run which holds pictures that a browser can show.
const Previews = "previews"

// Preview returns the name below the run's folder of what a browser can show of a frame.
func (p *Plan) Preview(file string) string {
	if f := p.Settings.format(); f == PNG || f == JPEG {
		return file
	}
	return filepath.Join(Previews, strings.TrimSuffix(file, filepath.Ext(file))+".png")
}

// Produce renders a frame and puts its file in place: whole or not at all.
func (p *Plan) Produce(ctx context.Context, f store.Frame, progress func(float64)) (store.Frame, error) {
	start := time.Now()
	o, err := p.Order(f.Number)
	if err != nil {
		return f, err
	}
	drawn := p.Again(o)
	if drawn == nil {
		drawn = new(Drawn)
		if drawn.Files, drawn.Preview, err = o.Draw(ctx, p.stock.Props, 0, progress); err != nil {
			return f, err
		}
	}
	drawn.Millis = time.Since(start).Milliseconds()
	return p.Put(f, o, drawn)
}

// Drawn are the files of a frame, the picture first, and a picture that a browser can show where that is none.
type Drawn struct {
	Files   [][]byte
	Preview []byte
	Millis  int64 // that it took where it was drawn
	Here    int64 // and that it would have taken on this machine; 0 for unknown
}

// Put puts the files of a frame in place: whole or not at all. The picture is the last, so that where it is the frame is whole.
func (p *Plan) Put(f store.Frame, o *Order, d *Drawn) (store.Frame, error) {
	f.Also = p.also(f.File)
	if len(d.Files) != 1+len(f.Also) {
		return f, fmt.Errorf("frame %d came as %d files where it has %d", f.Number, len(d.Files), 1+len(f.Also))
	}
	if d.Preview != nil {
		if err := os.MkdirAll(filepath.Join(p.Folder, Previews), 0o755); err != nil {
			return f, fmt.Errorf("the folder for previews cannot be made: %w", err)
		}
		if err := store.WriteFile(filepath.Join(p.Folder, p.Preview(f.File)), d.Preview); err != nil {
			return f, err
		}
	}
	f.Bytes = 0
	for i := len(d.Files) - 1; i >= 0; i-- {
		name := f.File
		if i > 0 {
			name = f.Also[i-1]
		}
		if err := os.MkdirAll(filepath.Dir(filepath.Join(p.Folder, name)), 0o755); err != nil {
			return f, fmt.Errorf("the folder for passes cannot be made: %w", err)
		}
		if err := store.WriteFile(filepath.Join(p.Folder, name), d.Files[i]); err != nil {
			return f, err
		}
		f.Bytes += int64(len(d.Files[i]))
	}
	f.State, f.SHA256, f.Millis = store.FrameDone, sum(d.Files...), d.Millis
	f.Picture = o.Fingerprint()
	p.made[f.Picture] = Twin{p.Folder, f}
	return f, nil
}

// also returns the names of a frame's further files, below the run's folder.
func (p *Plan) also(file string) (out []string) {
	if p.Settings.PassFiles {
		for _, pass := range p.Settings.Passes {
			out = append(out, filepath.Join(layerName(pass), file))
		}
	}
	return out
}

// sum returns the SHA-256 of files, one behind the other, as hexadecimal digits.
func sum(files ...[]byte) string {
	h := sha256.New()
	for _, f := range files {
		h.Write(f)
	}
	return hex.EncodeToString(h.Sum(nil))
}

// read returns the files of a frame, the picture first.
func read(folder string, f store.Frame) ([][]byte, error) {
	var out [][]byte
	for _, name := range append([]string{f.File}, f.Also...) {
		data, err := os.ReadFile(filepath.Join(folder, name))
		if err != nil {
			return nil, err
		}
		out = append(out, data)
	}
	return out, nil
}

// Intact reports whether a frame's files are on disk as they were recorded.
func (p *Plan) Intact(f store.Frame) bool { return Intact(p.Folder, f) }

// Intact reports whether a frame's files are in a folder as they were recorded.
func Intact(folder string, f store.Frame) bool {
	files, err := read(folder, f)
	return err == nil && f.State == store.FrameDone && sum(files...) == f.SHA256
}

// Record is run.json, which is handed over with the frames.
type Record struct {
	Program     string          `json:"program"`
	Fingerprint string          `json:"fingerprint"` // of the document and the settings: the same means the same pictures; others may, too
	Project     string          `json:"project"`
	Shot        string          `json:"shot"`
	Camera      string          `json:"camera"`
	Rate        shot.Rate       `json:"rate"`
	Length      int             `json:"length"` // of the shot, in frames
	Ending      shot.Ending     `json:"ending"`
	Settings    Settings        `json:"settings"`
	Alpha       string          `json:"alpha"` // straight, associated or none
	Color       string          `json:"colour"`
	View        string          `json:"viewTransform"`
	Accepted    []shot.Accepted `json:"accepted,omitempty"` // what the check found and is to stay, with the reasons
	Complete    bool            `json:"complete"`
	Frames      []store.Frame   `json:"frames"`
}

const recordFile = "run.json"

// Asked returns a hash of the document and the settings: of what was asked for, whether it can be seen or not.
func (p *Plan) Asked() string {
	doc, _ := json.Marshal(p.Document) // a validated document always encodes
	settings, _ := json.Marshal(p.Settings)
	return sum(append(doc, settings...))
}

// WriteRecord writes run.json beside the frames.
func (p *Plan) WriteRecord(frames []store.Frame) error {
	r := Record{
		Program: "Perigyre", Fingerprint: p.Asked(), Project: p.Names.Project, Shot: p.Names.Shot, Camera: p.Names.Camera,
		Rate: p.Document.Rate, Length: p.Document.Frames, Ending: p.Document.Ending, Settings: p.Settings,
		Alpha: "straight", Color: "sRGB, IEC 61966-2-1", View: string(p.Document.View), Accepted: p.Document.Accepted, Complete: true, Frames: frames,
	}
	if p.Settings.format() == EXR {
		r.Alpha, r.Color, r.View = "associated", "scene-linear, Rec. ITU-R BT.709 primaries", "none"
	} else if p.Settings.Backdrop != nil || !p.Settings.format().words().Alpha {
		r.Alpha = "none"
	}
	for _, f := range frames {
		r.Complete = r.Complete && f.State == store.FrameDone
	}
	b, err := json.MarshalIndent(r, "", "  ")
	if err != nil {
		return err
	}
	return store.WriteFile(filepath.Join(p.Folder, recordFile), append(b, '\n'))
}

// ReadRecord returns the run.json of a folder, or nil where there is none that can be read.
func ReadRecord(folder string) *Record {
	b, err := os.ReadFile(filepath.Join(folder, recordFile))
	if err != nil {
		return nil
	}
	r := new(Record)
	if json.Unmarshal(b, r) != nil {
		return nil
	}
	return r
}

// VersionFolder makes the first folder name-v001, name-v002, ... below root that does not exist yet,
// so that a run never writes where another one did. Taken tells of folders that an earlier run had, which may be gone; nil for
// none.
func VersionFolder(root, name string, taken func(folder string) bool) (string, error) {
	if err := os.MkdirAll(root, 0o755); err != nil {
		return "", fmt.Errorf("the output folder cannot be made: %w", err)
	}
	for v := 1; v < 100_000; v++ {
		folder := filepath.Join(root, fmt.Sprintf("%s-v%03d", SafeName(name), v))
		if taken != nil && taken(folder) {
			continue
		}
		switch err := os.Mkdir(folder, 0o755); {
		case err == nil:
			return folder, nil
		case !os.IsExist(err):
			return "", fmt.Errorf("the output folder cannot be made: %w", err)
		}
	}
	return "", fmt.Errorf("the output folder %s is full of versions of %s", root, name)
}
