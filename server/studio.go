package server

import (
	"context"
	"encoding/json"
	"fmt"
	"path"
	"strings"
	"sync"

	"perigyre/core/check"
	"perigyre/core/edit"
	"perigyre/core/framing"
	"perigyre/core/model"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/farm"
	"perigyre/library"
	"perigyre/runs"
	"perigyre/store"
)

// Studio does the work behind the routes: it joins the store, the library and the core. It is safe for concurrent use.
type Studio struct {
	Limits model.Limits
	Demo   func(ctx context.Context) (shot string, err error) // brings the demonstration in, unless it is there; nil where there is none

	store      *store.Store
	farm       *farm.Boss // nil where this machine renders alone
	farmPlace  farm.Place
	drive      string // for deliveries, empty for none
	assets     *library.Assets
	queue      *runs.Queue
	stock      runs.Stock
	hub        hub
	desk       desk
	subjects   framing.Memory
	passed     check.Memory
	tests      testFrames
	small      smallPictures
	proofs     testFrames // by shot
	checks     testFrames // by shot
	plans      testFrames // of what is taken apart, by shot
	rehearsals rehearsals
	imports    testFrames      // by ticket
	room       chan struct{}   // for work on files from outside
	ctx        context.Context // ends when the studio closes
	end        context.CancelFunc
	tickets    testFrames // the same proofs by the tickets that their askers gave them, so that one that is late ends none but its own
}

// OpenStudio opens the work in a data folder. Runs write below output, and are spread over the workers that join at a place; of
// none, this machine renders alone.
func OpenStudio(s *store.Store, output string, limits model.Limits, place *farm.Place) (*Studio, error) {
	st := &Studio{Limits: limits, store: s, assets: &library.Assets{Open: s.Blob, Keep: s.PutBlob, Limits: limits}}
	st.ctx, st.end = context.WithCancel(context.Background())
	st.room = make(chan struct{}, bringing)
	st.stock = runs.Stock{Props: render.NewProps(st.assets), Surfaces: st.assets}
	hands := runs.Hands(runs.Here{Props: st.stock.Props})
	if place != nil {
		boss, err := farm.Open(st.ctx, farm.Config{Place: *place, Open: s.Blob, Props: st.stock.Props, Tell: func() { st.hub.send(Event{Workers: true}) }})
		if err != nil {
			return nil, err
		}
		st.farm, st.farmPlace, hands = boss, *place, boss
	}
	var err error
	st.queue, err = runs.Open(s, st.stock, output, hands, func(p runs.Progress) { st.hub.send(Event{Run: &p}) })
	return st, err
}

// Close ends the queue of runs and the event streams.
func (st *Studio) Close() {
	st.end()
	st.hub.close()
	st.queue.Close()
	if st.farm != nil {
		st.farm.Close()
	}
}

// DeliverTo has runs that ask for it delivered to a drive, which people know by a name.
func (st *Studio) DeliverTo(d runs.Drive, name string) {
	st.drive = name
	st.queue.DeliverTo(d)
}

// env is what edits work with.
func (st *Studio) env() edit.Env {
	return edit.Env{Assets: st.assets, NewID: store.NewID, Memory: &st.subjects}
}

// refused is something that the rules do not allow: the asker's to mend.
type refused struct{ error }

func (r refused) Unwrap() error { return r.error }

// Import brings files in as a shot, staged on a turntable: of a project, or of a new one where project is empty.
func (st *Studio) Import(ctx context.Context, files []library.File, unit, project string, step library.Step) (*Imported, error) {
	m, report, err := library.Bring(ctx, files, unit, st.Limits, step)
	if err != nil {
		return nil, refused{err}
	}
	step("Placing on the turntable", 0.92)
	hash, err := st.assets.KeepModel(m)
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
		return nil, refused{err}
	}
	if len(m.Spare) > 0 && library.Says(report.File) {
		for _, s := range m.Spare {
			report.Warnings = append(report.Warnings, fmt.Sprintf("%s came along, and %s does not refer to it; drop it on the shot to use it.", path.Base(s.Name), report.File))
		}
	} else if len(m.Spare) > 0 {
		var loose []library.File
		for _, s := range m.Spare {
			loose = append(loose, library.File{Name: s.Name, Data: s.Data})
		}
		got, err := library.PlaceSpare(d, loose, st.assets)
		if err != nil {
			return nil, refused{err}
		}
		for _, p := range got.Placed {
			report.Became = append(report.Became, fmt.Sprintf("%s is the %s of %s: %s.", p.File, p.Slot, p.Material, p.Why))
		}
		for _, l := range got.Left {
			report.Warnings = append(report.Warnings, fmt.Sprintf("%s was not used: %s.", l.File, l.Why))
		}
	}
	if m.Drawing != nil {
		if err := library.KeepMark(d, m, st.assets); err != nil {
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

// NewShot makes an empty shot of a project, or of a new one where project is empty.
func (st *Studio) NewShot(project, name string) (made Made, err error) {
	if err := shot.CheckName("a shot", name); err != nil {
		return made, refused{err}
	}
	made.Project = project
	if project == "" {
		made.Project, made.Shot, err = st.store.AddProject(name, stage.Empty("Shot 1", store.NewID), "Begin an empty shot")
	} else {
		made.Shot, err = st.store.AddShot(project, stage.Empty(name, store.NewID), "Begin an empty shot")
	}
	st.hub.send(Event{Projects: true})
	return made, err
}

// keepReport stores what arrived with an asset.
func (st *Studio) keepReport(hash string, r *library.Report) error {
	text, err := json.Marshal(r)
	if err != nil {
		return err
	}
	return st.store.PutAsset(hash, text)
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

// locks gives every shot a lock of its own: reading, changing and storing belong together, and one shot does not hold up
// another.
type locks struct {
	mu   sync.Mutex
	held map[string]*sync.Mutex
}

func (l *locks) lock(id string) (unlock func()) {
	l.mu.Lock()
	if l.held == nil {
		l.held = map[string]*sync.Mutex{}
	}
	m := l.held[id]
	if m == nil {
		m = new(sync.Mutex)
		l.held[id] = m
	}
	l.mu.Unlock()
	m.Lock()
	return m.Unlock
}
