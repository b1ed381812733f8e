// Package library brings files in: it finds out what they are, reads them, puts them in order and
// reports what arrived.
package library

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"

	"perigyre/core/fault"
	"perigyre/core/model"
	"perigyre/core/shot"
	"perigyre/formats/gltf"
	"perigyre/formats/obj"
	"perigyre/formats/ply"
	"perigyre/formats/stl"
	"perigyre/formats/svg"
	"perigyre/formats/threemf"
)

// File is one uploaded file. Its name may have folders in it.
type File struct {
	Name string `json:"name"`
	Data []byte `json:"data"`
}

// Step tells how far an import is: a word for what is being done and a share from 0 to 1.
type Step func(doing string, share float64)

// Bring reads the model in a set of files that came together: one model with the files it refers
// to, or a zip of these. Unit is what one unit of the file is, or empty to take the format's own or
// a guess. Errors are sentences that name the file.
func Bring(ctx context.Context, files []File, unit string, limits model.Limits, step Step) (*model.Model, *Report, error) {
	return stoppable(ctx, limits, step, func(ctx context.Context, step Step) (*model.Model, *Report, error) {
		return bring(ctx, files, nil, unit, limits, step)
	})
}

// stoppable ends work on files with its context, or when it holds more memory than the limits allow. It does not wait for a
// reader that goes on after that. What that still does is nobody's: it ends with the file, whose size has a limit.
func stoppable(ctx context.Context, limits model.Limits, step Step, do func(context.Context, Step) (*model.Model, *Report, error)) (*model.Model, *Report, error) {
	type brought struct {
		m   *model.Model
		r   *Report
		err error
	}
	ctx, end := budget(ctx, limits)
	defer end()
	out := make(chan brought, 1)
	go func() {
		m, r, err := do(ctx, func(doing string, share float64) {
			if step != nil && ctx.Err() == nil {
				step(doing, share)
			}
		})
		out <- brought{m, r, err}
	}()
	select {
	case b := <-out:
		return b.m, b.r, b.err
	case <-ctx.Done():
		return nil, nil, context.Cause(ctx)
	}
}

// bring looks for what a model refers to among the files, and then where more may be.
func bring(ctx context.Context, files []File, more model.Files, unit string, limits model.Limits, step Step) (got *model.Model, says *Report, err error) {
	defer func() {
		if err != nil {
			got, says = nil, nil
		}
	}()
	defer fault.Catch(&err)
	step("Opening", 0)
	files, err = unpack(files, limits)
	if err != nil {
		return nil, nil, err
	}
	main, err := choose(files)
	if err != nil {
		return nil, nil, err
	}
	step("Reading "+path.Base(main.Name), 0.1)
	used := map[string]bool{main.Name: true}
	m, err := read(ctx, main, files, more, limits, used)
	if err != nil {
		return nil, nil, fmt.Errorf("%s: %w", path.Base(main.Name), err)
	}
	m.Spare = spare(files, used)
	step("Checking meshes", 0.5)
	report, err := normalise(ctx, m, limits, step)
	if err != nil {
		return nil, nil, fmt.Errorf("%s: %w", path.Base(main.Name), err)
	}
	report.File = shot.CleanName(path.Base(main.Name))
	if err := report.measure(m, unit); err != nil {
		return nil, nil, fmt.Errorf("%s: %w", report.File, err)
	}
	return m, report, nil
}

// read decodes the model, and notes which of the files it used. A panic in a reader is a fault of ours, but must not take the server or
// other people's work down with it.
func read(ctx context.Context, main File, files []File, more model.Files, limits model.Limits, used map[string]bool) (m *model.Model, err error) {
	defer func() {
		if p := recover(); p != nil {
			m, err = nil, fmt.Errorf("it could not be read because of a fault in this program (%v); please report it with the file", p)
		}
	}()
	folder := path.Dir(main.Name)
	beside := func(name string) ([]byte, bool) {
		name = path.Join(folder, name)
		for _, f := range files { // exactly, then without regard to case, then by the last part of the path
			if f.Name == name {
				used[f.Name] = true
				return f.Data, true
			}
		}
		for _, f := range files {
			if strings.EqualFold(f.Name, name) {
				used[f.Name] = true
				return f.Data, true
			}
		}
		for _, f := range files {
			if strings.EqualFold(path.Base(f.Name), path.Base(name)) {
				used[f.Name] = true
				return f.Data, true
			}
		}
		if more != nil {
			return more(name)
		}
		return nil, false
	}
	switch strings.ToLower(path.Ext(main.Name)) {
	case ".glb", ".gltf":
		return gltf.Read(main.Data, beside, limits)
	case ".obj":
		return obj.Read(main.Data, beside, limits)
	case ".ply":
		return ply.Read(main.Data, limits)
	case ".svg":
		d, err := svg.Open(main.Data)
		if err != nil {
			return nil, err
		}
		m, err := drawing(ctx, FirstMark("", d), d)
		if err == nil {
			m.Drawing = main.Data
		}
		return m, err
	case ".3mf":
		return threemf.Read(main.Data, limits)
	}
	return stl.Read(main.Data, limits)
}

// spare returns the pictures among the files that nothing has asked for.
func spare(files []File, used map[string]bool) (out []model.Image) {
	for _, f := range files {
		switch strings.ToLower(path.Ext(f.Name)) {
		case ".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff", ".bmp":
			if !used[f.Name] {
				out = append(out, model.Image{Name: f.Name, Data: f.Data})
			}
		}
	}
	return out
}

// Says reports whether a model's own file says what its surfaces look like, so that nothing is guessed.
func Says(name string) bool {
	switch strings.ToLower(path.Ext(name)) {
	case ".glb", ".gltf":
		return true
	}
	return false
}

// Extensions are the endings of the models that can be brought in, in order of preference.
var Extensions = []string{".glb", ".gltf", ".3mf", ".obj", ".ply", ".stl", ".svg"}

// choose finds the one model among the files.
func choose(files []File) (File, error) {
	for _, ext := range Extensions {
		var found []File
		for _, f := range files {
			if strings.EqualFold(path.Ext(f.Name), ext) {
				found = append(found, f)
			}
		}
		if len(found) > 1 {
			return File{}, fmt.Errorf("there are %d models, %s and %s among them; bring them in one at a time", len(found), found[0].Name, found[1].Name)
		}
		if len(found) == 1 {
			return found[0], nil
		}
	}
	for _, f := range files { // no known ending: the content may tell
		switch {
		case gltf.IsGLB(f.Data):
			f.Name += ".glb"
			return f, nil
		case ply.IsPLY(f.Data):
			f.Name += ".ply"
			return f, nil
		case stl.IsBinary(f.Data):
			f.Name += ".stl"
			return f, nil
		}
	}
	if len(files) == 0 {
		return File{}, errors.New("nothing was brought in")
	}
	return File{}, fmt.Errorf("%s is not a model that can be brought in; those are GLB, glTF, 3MF, OBJ, PLY, STL and SVG, or a zip with one of them", path.Base(files[0].Name))
}

const maxEntries = 10_000

// unpack replaces zips by what is in them. What they unpack to is bounded by the limits, whatever
// their headers promise.
func unpack(files []File, limits model.Limits) ([]File, error) {
	var out []File
	left := limits.Bytes
	for _, f := range files {
		if int64(len(f.Data)) > limits.Bytes {
			return nil, fmt.Errorf("%s has %d MB, more than the %d MB that --max-upload allows", f.Name, len(f.Data)>>20, limits.Bytes>>20)
		}
		if len(f.Data) == 0 {
			return nil, fmt.Errorf("%s is empty", f.Name)
		}
		if !bytes.HasPrefix(f.Data, []byte("PK\x03\x04")) {
			out = append(out, f)
			continue
		}
		z, err := zip.NewReader(bytes.NewReader(f.Data), int64(len(f.Data)))
		if err != nil {
			return nil, fmt.Errorf("%s is a damaged zip: %w", f.Name, err)
		}
		if threemf.Is3MF(z) { // a model of its own
			if !strings.EqualFold(path.Ext(f.Name), ".3mf") {
				f.Name += ".3mf"
			}
			out = append(out, f)
			continue
		}
		if len(z.File) > maxEntries {
			return nil, fmt.Errorf("%s holds %d files, more than %d", f.Name, len(z.File), maxEntries)
		}
		for _, entry := range z.File {
			name := strings.ReplaceAll(entry.Name, `\`, "/")
			base := path.Base(name)
			if entry.FileInfo().IsDir() || strings.HasPrefix(name, "__MACOSX/") || strings.HasPrefix(base, ".") {
				continue
			}
			if clean := path.Clean(name); path.IsAbs(clean) || strings.HasPrefix(clean, "..") {
				return nil, fmt.Errorf("%s holds the file %q, which would lie outside it", f.Name, entry.Name)
			}
			r, err := entry.Open()
			if err != nil {
				return nil, fmt.Errorf("%s: %s: %w", f.Name, entry.Name, err)
			}
			data, err := io.ReadAll(io.LimitReader(r, left+1))
			r.Close()
			if err != nil {
				return nil, fmt.Errorf("%s: %s is damaged: %w", f.Name, entry.Name, err)
			}
			if left -= int64(len(data)); left < 0 {
				return nil, fmt.Errorf("%s unpacks to more than the %d MB that --max-upload allows", f.Name, limits.Bytes>>20)
			}
			out = append(out, File{path.Clean(name), data})
		}
	}
	return out, nil
}
