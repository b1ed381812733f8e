// Package server is the HTTP side: routes, live events and the built front end.
package server

import (
	"bufio"
	"bytes"
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"maps"
	"math"
	"mime/multipart"
	"net/http"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/gofiber/fiber/v3/middleware/static"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/lighting"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/numbers"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/formats/font"
	"perigyre/formats/gltf"
	"perigyre/library"
	"perigyre/runs"
	"perigyre/store"
)

// App returns the routes. Hosts are the names under which it may be asked; token, where it is not
// empty, must come with every request.
func App(st *Studio, front fs.FS, hosts []string, token string) *fiber.App {
	app := fiber.New(fiber.Config{
		AppName: "Perigyre", Immutable: true, // what is kept of a request outlives it
		BodyLimit: int(st.Limits.Bytes) + 1<<20, StreamRequestBody: true, DisablePreParseMultipartForm: true,
		ErrorHandler: func(c fiber.Ctx, err error) error { return st.fail(c, err) },
		ReadTimeout:  10 * time.Minute, IdleTimeout: 2 * time.Minute,
	})
	app.Use(recover.New(recover.Config{EnableStackTrace: true}))
	app.Use(guard(hosts, token))
	app.Use(bound(st.Limits.Bytes))

	api := app.Group("/api")
	api.Get("/state", st.getState)
	api.Get("/events", st.getEvents)
	api.Get("/backup", st.getBackup)
	api.Post("/imports", st.postImport)
	api.Delete("/imports/:ticket", func(c fiber.Ctx) error {
		st.imports.refuse(c.Params("ticket"))
		return c.SendStatus(fiber.StatusNoContent)
	})
	api.Post("/fonts", st.postFont)
	api.Post("/skies", st.postSky)
	api.Post("/skies/studio", func(c fiber.Ctx) error {
		hash, err := st.assets.Studio(c.Query("name"))
		if err != nil {
			return refused{err}
		}
		return reply(c, FontReply{hash, c.Query("name")}, nil)
	})
	api.Get("/skies/:hash", st.getSky)
	api.Put("/projects/:id", st.putProject)
	api.Delete("/projects/:id", func(c fiber.Ctx) error {
		return st.listed(c, st.store.RemoveProject(c.Params("id")))
	})
	api.Get("/assets/:hash.glb", st.getAsset)
	api.Get("/assets/:hash/images/:number", st.getImage)
	api.Get("/shapes", getShape)

	api.Post("/demo", func(c fiber.Ctx) error {
		if st.Demo == nil {
			return reply(c, nil, store.ErrMissing)
		}
		shot, err := st.Demo(st.ctx)
		return reply(c, Made{Shot: shot}, err)
	})
	api.Post("/shots", func(c fiber.Ctx) error {
		var r ShotRequest
		if err := read(c, &r); err != nil {
			return err
		}
		made, err := st.NewShot(r.Project, strings.TrimSpace(r.Name))
		return reply(c, made, err)
	})
	api.Get("/shots/:id", st.sendShot)
	api.Delete("/shots/:id", func(c fiber.Ctx) error {
		return st.listed(c, st.store.RemoveShot(c.Params("id")))
	})
	api.Post("/shots/:id/duplicate", func(c fiber.Ctx) error {
		id, err := st.Duplicate(c.Params("id"))
		return reply(c, store.ShotName{ID: id}, err)
	})
	api.Post("/shots/:id/edits", st.postEdit)
	api.Post("/shots/:id/undo", st.step(st.store.Undo))
	api.Post("/shots/:id/redo", st.step(st.store.Redo))
	api.Get("/shots/:id/history", func(c fiber.Ctx) error {
		list, err := st.store.History(c.Params("id"))
		return reply(c, list, err)
	})
	api.Post("/shots/:id/history/:number", func(c fiber.Ctx) error {
		n, err := strconv.Atoi(c.Params("number"))
		if err != nil {
			return store.ErrMissing
		}
		return st.step(func(id string, version int) error { return st.store.Restore(id, version, n) })(c)
	})
	api.Put("/shots/:id/history/:number/name", st.putVersionName)
	api.Put("/shots/:id/history/:number/picture", st.putThumbnail)
	api.Get("/shots/:id/history/:number/picture", st.getThumbnail)
	api.Get("/shots/:id/compare", st.getComparison)
	api.Post("/shots/:id/paste", st.postPaste)
	api.Get("/projects/:id/project.zip", st.getProject)
	api.Get("/shots/:id/findings", st.getFindings)
	st.routeRehearsal(api)
	api.Get("/shots/:id/parts/:part/meters", st.getMeters)
	api.Post("/shots/:id/apart", st.planApart)
	api.Delete("/shots/:id/apart", st.stopApart)
	api.Get("/shots/:id/seam/picture", st.getSeam)
	api.Get("/shots/:id/bake", func(c fiber.Ctx) error {
		v, err := st.open(c.Params("id"))
		if err != nil {
			return err
		}
		return st.sendBake(c, v)
	})
	api.Get("/presets/picture", st.getPreset)
	api.Get("/shots/:id/materials/picture", st.getMaterial)
	api.Get("/shots/:id/angles/picture", st.getAngle)
	api.Get("/shots/:id/parts/:part/measures", func(c fiber.Ctx) error {
		v, err := st.open(c.Params("id"))
		if err != nil {
			return err
		}
		e, _, err := st.measured(v)
		if err != nil {
			return err
		}
		m, err := edit.Measure(v.Document, e, c.Params("part"), st.env())
		if err != nil {
			return refused{err}
		}
		return reply(c, m, nil)
	})
	api.Get("/shots/:id/proof", st.getProof)
	api.Delete("/proofs/:ticket", func(c fiber.Ctx) error {
		st.tickets.cancel(c.Params("ticket"))
		return c.SendStatus(fiber.StatusNoContent)
	})
	api.Get("/shots/:id/triage", func(c fiber.Ctx) error {
		v, err := st.open(c.Params("id"))
		if err != nil {
			return err
		}
		t, err := library.Examine(v.Document, st.assets)
		return reply(c, t, err)
	})
	api.Post("/shots/:id/textures", st.postTextures)
	api.Post("/shots/:id/replace", func(c fiber.Ctx) error {
		files, _, err := st.upload(c)
		if err != nil {
			return err
		}
		got, err := st.Replace(c.Params("id"), c.Query("root"), files)
		return reply(c, got, err)
	})
	api.Post("/shots/:id/numbers", func(c fiber.Ctx) error {
		var r PartsRequest
		if err := read(c, &r); err != nil {
			return err
		}
		v, err := st.open(c.Params("id"))
		if err != nil {
			return err
		}
		n, err := library.Measure(v.Document, r.Parts, st.assets)
		return reply(c, n, err)
	})
	api.Post("/shots/:id/suiting", func(c fiber.Ctx) error {
		var r PartsRequest
		if err := read(c, &r); err != nil {
			return err
		}
		out, err := st.Suiting(c.Params("id"), r.Parts)
		return reply(c, out, err)
	})
	api.Get("/shots/:id/curves/:part", func(c fiber.Ctx) error {
		out, err := st.Curves(c.Params("id"), c.Params("part"))
		return reply(c, out, err)
	})
	api.Post("/shots/:id/hole", st.postHole)
	api.Post("/shots/:id/names", func(c fiber.Ctx) error {
		var r RunRequest
		if err := read(c, &r); err != nil {
			return err
		}
		n, err := st.Names(c.Params("id"), r.Settings)
		return reply(c, n, err)
	})
	api.Post("/shots/:id/test", st.postTest)
	api.Delete("/shots/:id/test", func(c fiber.Ctx) error {
		st.tests.cancel(c.Params("id"))
		return c.SendStatus(fiber.StatusNoContent)
	})
	api.Post("/shots/:id/runs", st.postRun)

	api.Get("/runs", func(c fiber.Ctx) error {
		list, err := st.Runs()
		return reply(c, list, err)
	})
	api.Get("/runs/:id", st.sendRun)
	api.Put("/runs/:id/:state<regex(paused|cancelled|waiting)>", func(c fiber.Ctx) error {
		if err := st.queue.Set(c.Params("id"), c.Params("state")); err != nil {
			return refused{err}
		}
		return st.sendRun(c)
	})
	api.Put("/runs/:id/first", func(c fiber.Ctx) error {
		if err := st.queue.First(c.Params("id")); err != nil {
			return refused{err}
		}
		return st.sendRun(c)
	})
	api.Get("/runs/:id/verify", func(c fiber.Ctx) error {
		bad, err := st.queue.Verify(c.Params("id"))
		return reply(c, bad, err)
	})
	api.Post("/runs/:id/redo/:from/:to", func(c fiber.Ctx) error {
		from, err1 := strconv.Atoi(c.Params("from"))
		to, err2 := strconv.Atoi(c.Params("to"))
		if err := errors.Join(err1, err2); err != nil {
			return store.ErrMissing
		}
		if err := st.queue.Redo(c.Params("id"), from, to); err != nil {
			return refused{err}
		}
		run, err := st.Run(c.Params("id"))
		return reply(c, run, err)
	})
	api.Get("/runs/:id/review/:kind<regex(apng|contact|sprites|map|webm|mp4)>", st.getReview)
	api.Get("/runs/:id/frames/:number.png", st.getFrame)
	api.Get("/runs/:id/frames.zip", st.getZip)
	st.addWorkers(api)
	api.Use(func(fiber.Ctx) error { return store.ErrMissing })

	app.Use(static.New("", static.Config{FS: front, ModifyResponse: func(c fiber.Ctx) error {
		if strings.HasPrefix(c.Path(), "/assets/") { // named by their content
			c.Set("Cache-Control", forever)
		} else {
			c.Set("Cache-Control", "no-cache")
		}
		return nil
	}}))
	app.Use(func(c fiber.Ctx) error { // addresses of shots are the front end's
		page, err := fs.ReadFile(front, "index.html")
		if err != nil {
			return c.Status(fiber.StatusServiceUnavailable).SendString("The front end has not been built: run make build.")
		}
		c.Set("Cache-Control", "no-cache")
		return c.Type("html", "utf-8").Send(page)
	})
	return app
}

const forever = "public, max-age=31536000, immutable"

func reply(c fiber.Ctx, v any, err error) error {
	if err != nil {
		return err
	}
	c.Set("Cache-Control", "no-store")
	return c.JSON(v)
}

// fail turns an error into a sentence with a fitting status.
func (st *Studio) fail(c fiber.Ctx, err error) error {
	out := ErrorReply{Error: err.Error()}
	status := fiber.StatusInternalServerError
	var r refused
	var f *fiber.Error
	if field := (*shot.FieldError)(nil); errors.As(err, &field) {
		out.Part, out.Field = field.Part, field.Field
	}
	switch {
	case store.Full(err):
		slog.Error("The disk is full.", "path", c.Path(), "error", err)
		status, out.Error = fiber.StatusInsufficientStorage, "the disk is full: this was not kept, and everything that was kept before is safe; make room and do it again"
	case errors.Is(err, store.ErrMissing):
		status = fiber.StatusNotFound
	case errors.Is(err, store.ErrStale):
		status = fiber.StatusConflict
		out.Shot, _ = st.Reply(c.Params("id"))
	case errors.Is(err, context.Canceled):
		status, out.Error = fiber.StatusConflict, "It was cancelled."
	case errors.As(err, &r):
		if d := (*fs.PathError)(nil); errors.As(err, &d) { // of a disk, not of the asker
			slog.Error("A file failed.", "path", c.Path(), "error", err)
			break
		}
		status = fiber.StatusUnprocessableEntity
	case errors.As(err, &f):
		status = f.Code
		if f.Code == fiber.StatusRequestEntityTooLarge && f.Message == fiber.ErrRequestEntityTooLarge.Message {
			out.Error = fmt.Sprintf("it is larger than the %d MB that --max-upload allows", st.Limits.Bytes>>20)
		}
	default:
		slog.Error("A request failed.", "path", c.Path(), "error", err)
	}
	return c.Status(status).JSON(out)
}

// read reads what was sent, which is JSON.
func read(c fiber.Ctx, into any) error {
	if err := c.Bind().JSON(into); err != nil {
		return refused{unreadable("request", err)}
	}
	if err := numbers.Missing(c.Body(), into); err != nil {
		return refused{fmt.Errorf("the request cannot be read: %w; load the page again", err)}
	}
	return nil
}

// unreadable says what is wrong with something in JSON.
func unreadable(what string, err error) error {
	var field *json.UnmarshalTypeError
	if errors.As(err, &field) && field.Field != "" {
		return fmt.Errorf("the %s cannot be read: its %s is a %s, which it cannot be", what, field.Field, field.Value)
	}
	return fmt.Errorf("the %s cannot be read: it is not whole, or not what is expected here; load the page again, which may be older than the program", what)
}

func (st *Studio) getState(c fiber.Ctx) error {
	list, err := st.store.Projects()
	fonts := slices.Sorted(maps.Keys(font.Shipped))
	return reply(c, State{list, st.Limits, library.Extensions, fonts, described, st.drive}, err)
}

// described are the kinds of things that the core knows.
var described = Kinds{
	Moves: move.Describe(), Paces: motion.Paces, Shapes: mesh.Shapes(), Values: shot.HandValues(), Presets: material.Presets,
	Fronts: move.Fronts, Formats: shot.Formats, Rigs: lighting.Rigs, Studios: lighting.Studios, Lights: shot.LightKinds,
	Qualities: render.Qualities, Files: runs.FileFormats, Passes: render.Passes,
}

// getEvents is the stream of server-sent events (WHATWG HTML, 9.2).
func (st *Studio) getEvents(c fiber.Ctx) error {
	c.Set("Content-Type", "text/event-stream")
	c.Set("Cache-Control", "no-store")
	return stream(c, "events", func(w *bufio.Writer) error {
		events := st.hub.join()
		defer st.hub.leave(events)
		beat := time.NewTicker(15 * time.Second) // tells a window that is gone
		defer beat.Stop()
		fmt.Fprint(w, "retry: 500\n\n") // milliseconds: one that is cut off asks anew at once
		for w.Flush() == nil {
			select {
			case e, ok := <-events:
				if !ok {
					return nil
				}
				fmt.Fprintf(w, "data: %s\n\n", e)
			case <-beat.C:
				fmt.Fprint(w, ": beat\n\n")
			}
		}
		return nil // the window is gone
	})
}

// upload returns the files of a form and its values by name.
func (st *Studio) upload(c fiber.Ctx) (files []library.File, values map[string][]string, err error) {
	form, err := c.MultipartForm()
	if err != nil {
		return nil, nil, refused{fmt.Errorf("the upload did not arrive whole; try it again")}
	}
	defer func() { _ = form.RemoveAll() }()
	left := st.Limits.Bytes
	for _, h := range form.File["file"] {
		if left -= h.Size; left < 0 {
			return nil, nil, refused{fmt.Errorf("the files are larger than the %d MB that --max-upload allows", st.Limits.Bytes>>20)}
		}
		data, err := readPart(h)
		if err != nil {
			return nil, nil, refused{fmt.Errorf("%s did not arrive whole: %w", h.Filename, err)}
		}
		files = append(files, library.File{Name: path.Base(strings.ReplaceAll(h.Filename, `\`, "/")), Data: data})
	}
	return files, form.Value, nil
}

// postTextures takes pictures for the materials of a shot, those with the ids "material" before others.
func (st *Studio) postTextures(c fiber.Ctx) error {
	files, values, err := st.upload(c)
	if err != nil {
		return err
	}
	got, err := st.Texture(c.Params("id"), files, values["material"])
	return reply(c, got, err)
}

func (st *Studio) postImport(c fiber.Ctx) error {
	files, values, err := st.upload(c)
	if err != nil {
		return err
	}
	value := func(name string) string {
		if v := values[name]; len(v) > 0 {
			return v[0]
		}
		return ""
	}
	ticket := value("ticket")
	if len(files) == 1 && library.IsProject(files[0].Data) {
		var got *Imported
		err := st.foreign(ticket, func(context.Context) error {
			got, err = st.OpenProject(files[0])
			return err
		})
		return reply(c, got, err)
	}
	var got *Imported
	err = st.foreign(ticket, func(ctx context.Context) error {
		tell := st.hub.steps(func(doing string, share float64) Event { return Event{Import: &StepEvent{ticket, doing, share}} })
		got, err = st.Import(ctx, files, value("unit"), value("project"), tell)
		return err
	})
	return reply(c, got, err)
}

// postFont keeps a font file and answers with its hash and name.
func (st *Studio) postFont(c fiber.Ctx) error {
	form, err := c.MultipartForm()
	if err != nil || len(form.File["file"]) != 1 {
		return refused{fmt.Errorf("one font file is needed")}
	}
	defer func() { _ = form.RemoveAll() }()
	data, err := readPart(form.File["file"][0])
	if err != nil {
		return refused{err}
	}
	name, err := font.Name(data)
	if err != nil {
		return refused{fmt.Errorf("%s: %w", path.Base(form.File["file"][0].Filename), err)}
	}
	hash, err := st.store.PutBlob(data)
	return reply(c, FontReply{hash, name}, err)
}

// postSky keeps a picture of surroundings that can be read.
func (st *Studio) postSky(c fiber.Ctx) error {
	form, err := c.MultipartForm()
	if err != nil || len(form.File["file"]) != 1 {
		return refused{fmt.Errorf("one picture of the surroundings is needed")}
	}
	defer func() { _ = form.RemoveAll() }()
	name := path.Base(form.File["file"][0].Filename)
	data, err := readPart(form.File["file"][0])
	if err == nil {
		_, _, _, err = library.ReadSky(data)
	}
	if err != nil {
		return refused{fmt.Errorf("%s: %w", name, err)}
	}
	hash, err := st.store.PutBlob(data)
	return reply(c, FontReply{hash, name}, err)
}

// skyWidth is that of the picture the browser lights with.
const skyWidth = 256

// getSky sends a small one: width and height as uint32, then r, g, b as float32 from the top, little endian.
func (st *Studio) getSky(c fiber.Ctx) error {
	w, h, pix, err := st.assets.Sky(c.Params("hash"))
	if err != nil {
		return store.ErrMissing
	}
	for w > skyWidth && w%2 == 0 && h%2 == 0 {
		small := make([]float32, 0, len(pix)/4)
		for y := 0; y < h; y += 2 {
			for x := 0; x < w; x += 2 {
				for k := range 3 {
					at := 3*(y*w+x) + k
					small = append(small, (pix[at]+pix[at+3]+pix[at+3*w]+pix[at+3*w+3])/4)
				}
			}
		}
		w, h, pix = w/2, h/2, small
	}
	out := binary.LittleEndian.AppendUint32(nil, uint32(w))
	out = binary.LittleEndian.AppendUint32(out, uint32(h))
	for _, v := range pix {
		out = binary.LittleEndian.AppendUint32(out, math.Float32bits(v))
	}
	c.Set("Cache-Control", "public, max-age=31536000, immutable")
	return c.Type("bin").Send(out)
}

func readPart(h *multipart.FileHeader) ([]byte, error) {
	f, err := h.Open()
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, h.Size))
}

func (st *Studio) putProject(c fiber.Ctx) error {
	var r struct {
		Name string `json:"name"`
	}
	if err := read(c, &r); err != nil {
		return err
	}
	name := strings.TrimSpace(r.Name)
	if name == "" {
		return refused{fmt.Errorf("a project needs a name")}
	}
	if err := shot.CheckName("a project", name); err != nil {
		return refused{err}
	}
	return st.listed(c, st.store.RenameProject(c.Params("id"), name))
}

// listed answers a change of the list of projects with the new list.
func (st *Studio) listed(c fiber.Ctx, err error) error {
	if err != nil {
		return err
	}
	st.hub.send(Event{Projects: true})
	return st.getState(c)
}

func (st *Studio) getAsset(c fiber.Ctx) error {
	data, err := st.store.Blob(c.Params("hash"))
	if err != nil {
		return err
	}
	c.Set("Cache-Control", forever)
	c.Set("Content-Type", "model/gltf-binary")
	return c.Send(data)
}

// getImage sends a picture out of an asset.
func (st *Studio) getImage(c fiber.Ctx) error {
	m, err := st.assets.Model(c.Params("hash"))
	if err != nil {
		return err
	}
	n, err := strconv.Atoi(c.Params("number"))
	if err != nil || n < 0 || n >= len(m.Images) || len(m.Images[n].Data) == 0 {
		return store.ErrMissing
	}
	c.Set("Cache-Control", forever)
	c.Set("Content-Type", pictureType(m.Images[n].Data))
	return c.Send(m.Images[n].Data)
}

// pictureType is what a picture that a file brought is served as: by what its data are, never by what the file calls it, and
// nothing that a browser would run.
func pictureType(data []byte) string {
	switch t := http.DetectContentType(data); t {
	case "image/png", "image/jpeg", "image/webp", "image/gif", "image/bmp":
		return t
	}
	return "application/octet-stream"
}

// getShape makes the mesh of a shape, which its measures say all about.
func getShape(c fiber.Ctx) error {
	var shape mesh.Shape
	if err := json.Unmarshal([]byte(c.Query("of")), &shape); err != nil {
		return refused{unreadable("shape", err)}
	}
	if err := shape.Check(); err != nil {
		return refused{err}
	}
	node := model.Node{Name: string(shape.Kind), Parent: -1, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}
	data, err := gltf.Write(&model.Model{
		Nodes: []model.Node{node}, Materials: []material.Material{material.Default()},
		Meshes: []model.Mesh{{Name: string(shape.Kind), Primitives: []model.Primitive{{Mesh: shape.Build()}}}},
	})
	if err != nil {
		return err
	}
	c.Set("Cache-Control", forever)
	c.Set("Content-Type", "model/gltf-binary")
	return c.Send(data)
}

func (st *Studio) sendShot(c fiber.Ctx) error {
	r, err := st.Reply(c.Params("id"))
	return reply(c, r, err)
}

func (st *Studio) postEdit(c fiber.Ctx) error {
	var r EditRequest
	if err := read(c, &r); err != nil {
		return err
	}
	made, err := st.Edit(c.Params("id"), r)
	if err != nil {
		return err
	}
	out, err := st.answer(c.Params("id"), r.Version)
	if err != nil {
		return err
	}
	out.Made = made
	return reply(c, out, nil)
}

// step answers a walk through the history.
func (st *Studio) step(walk func(id string, version int) error) fiber.Handler {
	return func(c fiber.Ctx) error {
		var r VersionRequest
		if err := read(c, &r); err != nil {
			return err
		}
		id := c.Params("id")
		if err := walk(id, r.Version); errors.Is(err, store.ErrStale) || errors.Is(err, store.ErrMissing) {
			return err
		} else if err != nil {
			return refused{err}
		}
		st.changed(id, r.Version+1)
		out, err := st.answer(id, r.Version)
		return reply(c, out, err)
	}
}

// postHole fits the round surface that a face is part of, and answers with its axis in the room.
func (st *Studio) postHole(c fiber.Ctx) error {
	var r HoleRequest
	if err := read(c, &r); err != nil {
		return err
	}
	hole, err := st.Hole(c.Params("id"), r)
	return reply(c, hole, err)
}

func (st *Studio) postTest(c fiber.Ctx) error {
	var r RunRequest
	if err := read(c, &r); err != nil {
		return err
	}
	data, took, err := st.TestFrame(c.Params("id"), r.Frame, r.Settings)
	if err != nil {
		return err
	}
	c.Set("X-Seconds", strconv.FormatFloat(took.Seconds(), 'f', 3, 64))
	return c.Type("png").Send(data)
}

func (st *Studio) postRun(c fiber.Ctx) error {
	var r RunRequest
	if err := read(c, &r); err != nil {
		return err
	}
	run, err := st.StartRuns(c.Params("id"), r)
	return reply(c, run, err)
}

func (st *Studio) sendRun(c fiber.Ctx) error {
	r, err := st.Run(c.Params("id"))
	return reply(c, r, err)
}

func (st *Studio) getFrame(c fiber.Ctx) error {
	n, err := strconv.Atoi(c.Params("number"))
	if err != nil {
		return store.ErrMissing
	}
	if pass := c.Query("pass"); pass != "" {
		data, err := st.queue.Pass(c.Params("id"), n, render.Pass(pass))
		if errors.Is(err, store.ErrMissing) {
			return err
		} else if err != nil {
			return refused{err}
		}
		c.Set("Cache-Control", "private, max-age=3600")
		return c.Type("png").Send(data)
	}
	file, err := st.queue.Preview(c.Params("id"), n)
	if err != nil {
		return err
	}
	data, err := os.ReadFile(file)
	if errors.Is(err, fs.ErrNotExist) {
		return store.ErrMissing
	} else if err != nil {
		return err
	}
	c.Set("Cache-Control", "private, max-age=3600")
	return c.Type(strings.TrimPrefix(filepath.Ext(file), ".")).Send(data)
}

// getReview sends the frames of a run as one file.
func (st *Studio) getReview(c fiber.Ctx) error {
	id, kind := c.Params("id"), c.Params("kind")
	r, err := st.Run(id)
	if err != nil {
		return err
	}
	name := path.Base(strings.ReplaceAll(r.Folder, `\`, "/"))
	var data []byte
	ending, form := ".png", "image/png"
	switch kind {
	case "apng":
		data, err = st.queue.Animation(id)
	case "contact":
		data, err = st.queue.Contact(id)
		name += " contact sheet"
	case "sprites":
		data, _, err = st.queue.Sprites(id)
		name += " sprites"
	case "map":
		_, data, err = st.queue.Sprites(id)
		name, ending, form = name+" sprites", ".json", "application/json"
	default:
		data, err = st.queue.Movie(c.Context(), id, kind)
		ending, form = "."+kind, "video/"+kind
	}
	if err != nil {
		return refused{err}
	}
	c.Set("Content-Type", form)
	c.Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s"; filename*=UTF-8''%s`, ascii(name+ending), url.PathEscape(name+ending)))
	return c.Send(data)
}

func (st *Studio) getZip(c fiber.Ctx) error {
	r, err := st.Run(c.Params("id"))
	if err != nil {
		return err
	}
	if err := st.queue.Zippable(r.ID, c.Query("some") != ""); err != nil {
		return refused{err}
	}
	if c.Query("check") != "" { // whether it can be had, before it is
		return c.SendStatus(fiber.StatusNoContent)
	}
	name := path.Base(strings.ReplaceAll(r.Folder, `\`, "/")) + ".zip"
	c.Set("Content-Type", "application/zip")
	c.Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s"; filename*=UTF-8''%s`, ascii(name), url.PathEscape(name)))
	return stream(c, "a zip", func(w *bufio.Writer) error { return st.queue.Zip(r.ID, w) })
}

// getBackup streams a backup of everything but rendered frames.
func (st *Studio) getBackup(c fiber.Ctx) error {
	name := "perigyre-" + time.Now().Format("2006-01-02") + ".zip"
	c.Set("Content-Type", "application/zip")
	c.Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s"`, name))
	return stream(c, "a backup", func(w *bufio.Writer) error {
		damaged, err := st.store.Backup(st.ctx, w)
		if len(damaged) > 0 { // the backup says so itself
			slog.Error("A backup is without damaged files.", "files", damaged)
		}
		return err
	})
}

func ascii(s string) string {
	return string(bytes.Map(func(r rune) rune {
		if r < ' ' || r > '~' || r == '"' {
			return '_'
		}
		return r
	}, []byte(s)))
}
