package server

import (
	"encoding/json"
	"fmt"
	"path"
	"reflect"
	"slices"
	"strings"
	"sync"

	"perigyre/core/arrange"
	"perigyre/core/framing"
	"perigyre/core/loop"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/pose"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/formats/gltf"
	"perigyre/library"
	"perigyre/runs"
	"perigyre/store"
)

// Studio does the work behind the routes: it joins the store, the library and the core.
type Studio struct {
	Limits model.Limits

	store   *store.Store
	assets  *library.Assets
	queue   *runs.Queue
	props   *render.Props
	hub     hub
	edits   sync.Mutex // one edit at a time: reading, changing and storing belong together
	tests   testFrames
	proofs  testFrames // by shot
	tickets testFrames // the same proofs by the tickets that their askers gave them, so that one that is late ends none but its own
	seen    sync.Mutex // guards sights
	sights  map[string]sight
}

// OpenStudio opens the work in a data folder. Runs write below output.
func OpenStudio(s *store.Store, output string, limits model.Limits) (*Studio, error) {
	st := &Studio{Limits: limits, store: s, assets: &library.Assets{Open: s.Blob}}
	st.props = render.NewProps(st.assets)
	var err error
	st.queue, err = runs.Open(s, st.props, output, func(p runs.Progress) { st.hub.send(Event{Run: &p}) })
	return st, err
}

// Close ends the queue of runs and the event streams.
func (st *Studio) Close() {
	st.hub.close()
	st.queue.Close()
}

// Import brings files in as a shot, staged on a turntable: of a project, or of a new one where project
// is empty.
func (st *Studio) Import(files []library.File, unit, project string, step library.Step) (*Imported, error) {
	m, report, err := library.Bring(files, unit, st.Limits, step)
	if err != nil {
		return nil, err
	}
	step("Placing on the turntable", 0.92)
	hash, err := st.keepModel(m)
	if err != nil {
		return nil, err
	}
	name := strings.TrimSuffix(report.File, path.Ext(report.File))
	d := shot.New("Turntable")
	if project != "" {
		d.Name = name
	}
	o := stage.Defaults()
	o.File, o.Asset, o.Name, o.Unit, o.Up, o.NewID = report.File, hash, name, report.Unit, report.Up, store.NewID
	if err := stage.Put(d, m, o, st.assets); err != nil {
		return nil, err
	}
	if len(m.Spare) > 0 {
		var loose []library.File
		for _, s := range m.Spare {
			loose = append(loose, library.File{Name: s.Name, Data: s.Data})
		}
		got, err := library.Texture(d, loose, nil, st.assets, st.Limits, st.keepModel)
		if err != nil {
			return nil, err
		}
		for _, p := range got.Placed {
			report.Became = append(report.Became, fmt.Sprintf("%s is the %s of %s: %s.", p.File, p.Slot, p.Material, p.Why))
		}
		for _, l := range got.Left {
			report.Warnings = append(report.Warnings, fmt.Sprintf("%s was not used: %s.", l.File, l.Why))
		}
	}
	if m.Drawing != nil {
		if err := st.keepMark(d, m); err != nil {
			return nil, err
		}
	}
	if err := st.keepReport(hash, report); err != nil {
		return nil, err
	}
	id, words := "", "Bring in "+report.File
	if project != "" {
		id, err = st.store.AddShot(project, d, words)
	} else {
		project, id, err = st.store.AddProject(name, d, words)
	}
	if err != nil {
		return nil, err
	}
	step("Done", 1)
	st.hub.send(Event{Projects: true})
	return &Imported{project, id, *report}, nil
}

// Replace puts a newer file in the place of an import of a shot: see library.Replace.
func (st *Studio) Replace(id, root string, files []library.File) (*library.Replaced, error) {
	m, report, err := library.Bring(files, "", st.Limits, nil)
	if err != nil {
		return nil, refused{err}
	}
	hash, err := st.keepModel(m)
	if err == nil {
		err = st.keepReport(hash, report)
	}
	if err != nil {
		return nil, err
	}
	st.edits.Lock()
	defer st.edits.Unlock()
	h, err := st.store.Shot(id)
	if err != nil {
		return nil, err
	}
	d := h.Document.Clone()
	got, err := library.Replace(d, root, m, hash, report.File, st.assets, store.NewID)
	if err != nil {
		return nil, refused{err}
	}
	return got, st.save(h, d, "Replace the model by "+report.File)
}

// Duplicate makes another shot of a project, as the shot is now.
func (st *Studio) Duplicate(id string) (string, error) {
	h, err := st.store.Shot(id)
	if err != nil {
		return "", err
	}
	project, err := st.store.ProjectOf(id)
	if err != nil {
		return "", err
	}
	words := "Duplicate " + h.Document.Name
	h.Document.Name += ", copy"
	made, err := st.store.AddShot(project, h.Document, words)
	st.hub.send(Event{Projects: true})
	return made, err
}

// sight is what is measured of a version through its camera.
type sight struct {
	margins *framing.Margins
	seam    []loop.Gap
}

// mostSights are kept.
const mostSights = 32

// look measures a version of a shot once.
func (st *Studio) look(key string, d *shot.Shot) (sight, error) {
	st.seen.Lock()
	defer st.seen.Unlock()
	if s, ok := st.sights[key]; ok {
		return s, nil
	}
	e := pose.New(d)
	bodies, err := framing.Bodies(e, st.assets)
	if err != nil {
		return sight{}, err
	}
	var out sight
	m, ok, err := framing.Measure(e, bodies)
	if err != nil {
		return out, err
	}
	if ok {
		out.margins = &m
	}
	out.seam = loop.Seam(e, bodies)
	if st.sights == nil || len(st.sights) >= mostSights {
		st.sights = map[string]sight{}
	}
	st.sights[key] = out
	return out, nil
}

// settle brings what follows up to date and checks the whole.
func (st *Studio) settle(d *shot.Shot) error {
	if err := st.makeMarks(d); err != nil {
		return err
	}
	if err := library.Skims(d, st.assets); err != nil {
		return err
	}
	if err := stage.Settle(d, st.assets); err != nil {
		return err
	}
	return d.Validate()
}

// Edit applies one edit to the version that the asker saw.
func (st *Studio) Edit(id string, r EditRequest) error {
	st.edits.Lock()
	defer st.edits.Unlock()
	h, err := st.store.Shot(id)
	if err != nil {
		return err
	}
	if h.Version != r.Version {
		return store.ErrStale
	}
	d, words := h.Document.Clone(), ""
	switch {
	case r.Edit.Clean != nil:
		words, err = library.Clean(d, r.Edit.Clean, st.assets, st.Limits, st.keepModel, store.NewID)
	case r.Edit.Texture != nil:
		words, err = library.MoveTexture(d, r.Edit.Texture, st.assets, st.keepModel)
	default:
		d, words, err = arrange.Apply(r.Edit, h.Document, st.assets)
	}
	if err != nil {
		return refused{err}
	}
	if root := reread(r.Edit, d); root != "" {
		if err := stage.Stand(d, root, st.assets); err != nil {
			return err
		}
	}
	return st.save(h, d, words)
}

// Change changes a shot as it is now.
func (st *Studio) Change(id, words string, change func(*shot.Shot)) error {
	st.edits.Lock()
	defer st.edits.Unlock()
	h, err := st.store.Shot(id)
	if err != nil {
		return err
	}
	d := h.Document.Clone()
	change(d)
	return st.save(h, d, words)
}

// save settles a changed document and keeps it as the next revision of its shot.
func (st *Studio) save(h *store.Head, d *shot.Shot, words string) error {
	if err := st.settle(d); err != nil {
		return refused{err}
	}
	if reflect.DeepEqual(d, h.Document) {
		return nil // nothing to keep
	}
	if err := st.store.Edit(h.Shot, h.Version, d, words); err != nil {
		return err
	}
	st.changed(h.Shot, h.Version+1)
	return nil
}

// Texture finds places for pictures in the materials of a shot: see library.Texture.
func (st *Studio) Texture(id string, files []library.File, chosen []string) (*library.Textured, error) {
	st.edits.Lock()
	defer st.edits.Unlock()
	h, err := st.store.Shot(id)
	if err != nil {
		return nil, err
	}
	d := h.Document.Clone()
	got, err := library.Texture(d, files, chosen, st.assets, st.Limits, st.keepModel)
	if err != nil {
		return nil, refused{err}
	}
	words := fmt.Sprintf("Place %d textures", len(got.Placed))
	if len(got.Placed) == 1 {
		words = "Place " + got.Placed[0].File
	}
	return got, st.save(h, d, words)
}

// keepModel stores a model and returns its content hash.
func (st *Studio) keepModel(m *model.Model) (string, error) {
	bare := *m
	bare.Animation = nil // it has become pins
	data, err := gltf.Write(&bare)
	if err != nil {
		return "", err
	}
	return st.store.PutBlob(data)
}

// keepReport stores what arrived with an asset.
func (st *Studio) keepReport(hash string, r *library.Report) error {
	text, err := json.Marshal(r)
	if err != nil {
		return err
	}
	return st.store.PutAsset(hash, text)
}

// reread returns the root of an import that an edit has given another size or upright, so that it and
// its set are placed anew, or "".
func reread(e shot.Edit, d *shot.Shot) string {
	if e.SetReading != nil {
		return e.SetReading.Root
	}
	if e.Arrange != nil && e.Arrange.Resize != nil {
		for _, src := range d.Sources {
			if src.Root == e.Arrange.Resize.Part {
				return src.Root
			}
		}
	}
	return ""
}

// refused is an edit that the rules do not allow: the asker's to mend.
type refused struct{ error }

func (st *Studio) changed(id string, version int) {
	st.hub.send(Event{Shot: &ShotEvent{id, version}})
}

// Reply returns a shot with its measurements.
func (st *Studio) Reply(id string) (*ShotReply, error) {
	h, err := st.store.Shot(id)
	if err != nil {
		return nil, err
	}
	d := h.Document
	r := &ShotReply{
		ID: id, Project: h.Project, Version: h.Version, Revision: h.Revision, Pictured: h.Pictured, CanUndo: h.CanUndo, CanRedo: h.CanRedo, Saved: h.Made, Document: *d,
		Closings: loop.Closings(d), Reports: []library.Report{}, Standing: []stage.Standing{}, Seam: []loop.Gap{},
	}
	seen, err := st.look(fmt.Sprint(id, " ", h.Version), d)
	if err != nil {
		return nil, err
	}
	r.Margins, r.Seam = seen.margins, seen.seam
	if c := d.Part(d.Camera); c != nil {
		v := framing.Optics(c.Camera, d.Format)
		r.View = &v
	}
	for _, s := range d.Sources {
		standing, err := stage.Measure(d, s.Root, st.assets)
		if err != nil {
			return nil, err
		}
		r.Standing = append(r.Standing, standing)
		if off := standing.Wobble; off != nil && (r.Wobble == nil || *off > *r.Wobble) {
			r.Wobble = off
		}
		text, err := st.store.AssetReport(s.Asset)
		if err != nil {
			continue // a report is worth having, but the shot does not need it
		}
		var rep library.Report
		if json.Unmarshal(text, &rep) == nil {
			r.Reports = append(r.Reports, rep)
		}
	}
	return r, nil
}

// Hole fits the round surface that a face of a part is part of. The answer is in the room, on a frame.
func (st *Studio) Hole(id string, r HoleRequest) (*mesh.Cylinder, error) {
	h, err := st.store.Shot(id)
	if err != nil {
		return nil, err
	}
	i := h.Document.Index(r.Part)
	if i < 0 {
		return nil, store.ErrMissing
	}
	p := &h.Document.Parts[i]
	var m *mesh.Mesh
	if p.Mesh != nil {
		prims, err := st.assets.Mesh(*p.Mesh)
		if err != nil {
			return nil, err
		}
		if r.Mesh >= 0 && r.Mesh < len(prims) {
			m = prims[r.Mesh].Mesh
		}
	} else if made := p.Shaped(); made != nil {
		m = made.Build()
	}
	if m == nil {
		return nil, store.ErrMissing
	}
	c, err := m.FitCylinder(r.Triangle)
	if err != nil {
		return nil, refused{err}
	}
	world := pose.New(h.Document).At(float64(r.Frame))[i]
	c.Centre, c.Axis = world.Point(c.Centre), world.Vector(c.Axis).Unit()
	c.Radius *= world.Column(0).Len()
	return &c, nil
}

// StartRuns queues a run of a shot, or one for each of several cameras, and returns the first. All are checked
// before any is queued.
func (st *Studio) StartRuns(id string, r RunRequest) (*RunReply, error) {
	h, err := st.store.Shot(id)
	if err != nil {
		return nil, err
	}
	through := r.Cameras
	if len(through) == 0 {
		through = []string{h.Document.Camera}
	}
	o := r.Settings
	o.Apart = len(through) > 1
	var list []*shot.Shot
	for _, camera := range through {
		d := *h.Document
		d.Parts = slices.Clone(d.Parts)
		if camera != d.Camera {
			if p := d.Part(camera); p == nil || p.Camera == nil {
				return nil, refused{fmt.Errorf("one of the cameras to render through is not in the shot any more")}
			}
			d.Camera = camera
			lens := *d.Part(camera).Camera
			d.Part(camera).Camera = &lens
			if err := stage.Settle(&d, st.assets); err != nil { // fitted for this camera
				return nil, refused{err}
			}
		}
		if _, err := runs.NewPlan(&d, runs.NamesOf(h.Project, &d), o, "", st.props); err != nil {
			return nil, refused{err}
		}
		list = append(list, &d)
	}
	first := ""
	for _, d := range list {
		run, err := st.queue.Start(h.Shot, h.Project, d, o)
		if err != nil {
			return nil, refused{err}
		}
		if first == "" {
			first = run
		}
	}
	return st.Run(first)
}

// Run returns a run with its frames.
func (st *Studio) Run(id string) (*RunReply, error) {
	r, p, frames, err := st.queue.Status(id)
	if err != nil {
		return nil, err
	}
	out := &RunReply{
		ID: id, Shot: r.Shot, Title: r.Title, ShotName: r.Document.Name, Folder: r.Folder, Made: r.Made,
		Rate: r.Document.Rate, Ending: r.Document.Ending, Whole: len(frames) == r.Document.Frames, Progress: p, Frames: frames,
	}
	if err := json.Unmarshal([]byte(r.Settings), &out.Settings); err != nil {
		return nil, fmt.Errorf("the run's settings are damaged: %w", err)
	}
	return out, nil
}

// Runs returns all runs, newest first.
func (st *Studio) Runs() ([]RunReply, error) {
	all, err := st.store.Runs()
	if err != nil {
		return nil, err
	}
	out := []RunReply{}
	for _, r := range all {
		one, err := st.Run(r.ID)
		if err != nil {
			return nil, err
		}
		out = append(out, *one)
	}
	return out, nil
}

// Names previews the file names of a run, or says why it cannot be.
func (st *Studio) Names(id string, o runs.Settings) (*NameReply, error) {
	h, err := st.store.Shot(id)
	if err != nil {
		return nil, err
	}
	out := &NameReply{Frames: max(0, o.Frames())}
	names := runs.NamesOf(h.Project, h.Document)
	if out.First, err = o.File(names, o.From); err == nil {
		if out.Last, err = o.File(names, o.To); err == nil {
			err = o.Check(h.Document)
		}
	}
	if err != nil {
		out.Problem = err.Error()
	}
	return out, nil
}
