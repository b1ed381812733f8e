package server

import (
	"bytes"
	"context"
	"errors"
	"log/slog"

	"perigyre/core/edit"
	"perigyre/core/fault"
	"perigyre/core/model"
	"perigyre/core/shot"
	"perigyre/library"
	"perigyre/store"
)

// Edit applies edits to a shot, all of them or none. They were made for a version that the asker saw: if there is a newer one
// by now, they apply to that, unless it has changed what they set.
func (st *Studio) Edit(id string, r EditRequest) (made []string, err error) {
	return st.change(id, &r.Version, r.Edits)
}

// Change applies changes to a shot as it is now, in one step.
func (st *Studio) Change(id string, all ...edit.Change) error {
	var list []edit.Edit
	for _, c := range all {
		list = append(list, edit.Edit{Change: c})
	}
	_, err := st.change(id, nil, list)
	return err
}

// change applies edits to a shot as it is now; with a version that they were made for, only if they are still meant.
func (st *Studio) change(id string, seen *int, list []edit.Edit) (made []string, err error) {
	defer st.desk.locks.lock(id)()
	now, err := st.open(id)
	if err != nil {
		return nil, err
	}
	if seen != nil && *seen != now.Version {
		older := st.desk.document(id, *seen)
		if older == nil || !edit.Fresh(list, older, now.Document) {
			return nil, store.ErrStale
		}
	}
	got, err := apply(now.Document, list, st.env())
	if err != nil {
		return nil, refused{err}
	}
	text, err := store.Encode(got.Shot)
	if err != nil {
		return nil, err
	}
	if bytes.Equal(text, now.text) {
		return got.Made, nil // nothing to keep
	}
	if err := st.store.Edit(id, now.Version, got.Shot, text, got.Words); err != nil {
		return nil, err
	}
	h, err := st.store.Standing(id)
	if err != nil {
		return nil, err
	}
	h.Document, h.Text = got.Shot, text
	st.desk.put(&version{Head: h, text: text})
	st.changed(id, h.Version)
	return got.Made, nil
}

// apply is edit.Apply on foreign edits: a fault of the program fails them and nothing else.
func apply(d *shot.Shot, list []edit.Edit, env edit.Env) (got *edit.Result, err error) {
	defer func() {
		if f := (*fault.Error)(nil); errors.As(err, &f) {
			slog.Error("An edit met a fault of the program.", "error", f, "stack", f.Stack)
		}
	}()
	defer fault.Catch(&err)
	return edit.Apply(d, list, env)
}

func (st *Studio) changed(id string, version int) {
	st.hub.send(Event{Shot: &ShotEvent{id, version}})
}

// Replace puts a newer file in the place of an import of a shot.
func (st *Studio) Replace(id, root string, files []library.File) (*library.Replaced, error) {
	var m *model.Model
	var report *library.Report
	err := st.foreign("replace "+id, func(ctx context.Context) (err error) {
		if m, report, err = library.Bring(ctx, files, "", st.Limits, nil); err != nil {
			err = refused{err}
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	hash, err := st.assets.KeepModel(m)
	if err == nil {
		err = st.keepReport(hash, report)
	}
	if err != nil {
		return nil, err
	}
	e := &library.ReplaceModel{Root: root, Asset: hash, File: report.File}
	_, err = st.change(id, nil, []edit.Edit{{Change: e}})
	return e.Got, err
}

// Texture finds places for pictures in the materials of a shot.
func (st *Studio) Texture(id string, files []library.File, chosen []string) (*library.Textured, error) {
	e := &library.PlacePictures{Files: files, Materials: chosen}
	_, err := st.change(id, nil, []edit.Edit{{Change: e}})
	return e.Got, err
}

// Paste puts parts of another shot into this one.
func (st *Studio) Paste(id string, r PasteRequest) ([]string, error) {
	from, err := st.open(r.From)
	if err != nil {
		return nil, refused{errors.New("the shot that was copied from is not here any more")}
	}
	return st.change(id, nil, []edit.Edit{{Change: &edit.Paste{From: from.Document, Parts: r.Parts}}})
}
