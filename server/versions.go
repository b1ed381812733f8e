package server

import (
	"bytes"
	"fmt"
	"net/url"
	"path"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"perigyre/core/shot"
	"perigyre/library"
	"perigyre/store"
)

func revision(c fiber.Ctx) (int, error) {
	n, err := strconv.Atoi(c.Params("number"))
	if err != nil {
		return 0, store.ErrMissing
	}
	return n, nil
}

// putVersionName keeps a revision under a name, or forgets the name.
func (st *Studio) putVersionName(c fiber.Ctx) error {
	n, err := revision(c)
	if err != nil {
		return err
	}
	var r struct {
		Name string `json:"name"`
	}
	if err := read(c, &r); err != nil {
		return err
	}
	if err := shot.CheckName("a version", r.Name); err != nil {
		return refused{err}
	}
	if err := st.store.NameVersion(c.Params("id"), n, strings.TrimSpace(r.Name)); err != nil {
		return err
	}
	list, err := st.store.History(c.Params("id"))
	return reply(c, list, err)
}

const largestThumbnail = 64 << 10

func (st *Studio) putThumbnail(c fiber.Ctx) error {
	n, err := revision(c)
	if err != nil {
		return err
	}
	data := bytes.Clone(c.Body())
	if len(data) > largestThumbnail || !bytes.HasPrefix(data, []byte("\x89PNG\r\n\x1a\n")) {
		return refused{fmt.Errorf("a small picture is a PNG of at most %d KB", largestThumbnail>>10)}
	}
	if err := st.store.PutThumbnail(c.Params("id"), n, data); err != nil {
		return err
	}
	return c.SendStatus(fiber.StatusNoContent)
}

func (st *Studio) getThumbnail(c fiber.Ctx) error {
	n, err := revision(c)
	if err != nil {
		return err
	}
	data, err := st.store.Thumbnail(c.Params("id"), n)
	if err != nil {
		return err
	}
	c.Set("Cache-Control", "private, max-age=86400")
	return c.Type("png").Send(data)
}

// getComparison says what differs from the revision "from" to the revision "to".
func (st *Studio) getComparison(c fiber.Ctx) error {
	var docs [2]*shot.Shot
	for i, key := range []string{"from", "to"} {
		n, err := strconv.Atoi(c.Query(key))
		if err != nil {
			return refused{fmt.Errorf("two revisions are compared")}
		}
		if docs[i], err = st.store.Document(c.Params("id"), n); err != nil {
			return err
		}
	}
	return reply(c, CompareReply{shot.Compare(docs[0], docs[1])}, nil)
}

func (st *Studio) postPaste(c fiber.Ctx) error {
	var r PasteRequest
	if err := read(c, &r); err != nil {
		return err
	}
	made, err := st.Paste(c.Params("id"), r)
	return reply(c, PasteReply{made}, err)
}

// getProject sends a project in one zip. It is put together before it is sent, so that what is missing is
// said rather than left out.
func (st *Studio) getProject(c fiber.Ctx) error {
	list, err := st.store.Projects()
	if err != nil {
		return err
	}
	for _, p := range list {
		if p.ID != c.Params("id") {
			continue
		}
		out := library.Project{Name: p.Name, Blob: st.store.Blob, Report: st.store.AssetReport}
		for _, s := range p.Shots {
			h, err := st.store.Shot(s.ID)
			if err != nil {
				return err
			}
			out.Shots = append(out.Shots, h.Document)
		}
		var b bytes.Buffer
		if err := out.Write(&b); err != nil {
			return refused{err}
		}
		name := path.Base(strings.ReplaceAll(p.Name, `\`, "-")) + ".zip"
		c.Set("Content-Type", "application/zip")
		c.Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s"; filename*=UTF-8''%s`, ascii(name), url.PathEscape(name)))
		return c.Send(b.Bytes())
	}
	return store.ErrMissing
}

// OpenProject brings in a project that was handed over as a zip: all of it or nothing.
func (st *Studio) OpenProject(f library.File) (*Imported, error) {
	p, err := library.ReadProject(f.Data, st.Limits)
	if err != nil {
		return nil, refused{fmt.Errorf("%s: %w", f.Name, err)}
	}
	for _, s := range p.Shots {
		for _, hash := range s.Blobs() {
			data, err := p.Blob(hash)
			if err != nil {
				return nil, err
			}
			if _, err := st.store.PutBlob(data); err != nil {
				return nil, err
			}
			if report, err := p.Report(hash); err == nil {
				if err := st.store.PutAsset(hash, report); err != nil {
					return nil, err
				}
			}
		}
	}
	project, first, err := st.store.AddProjectOf(p.Name, p.Shots, "Open "+f.Name)
	if err != nil {
		return nil, err
	}
	st.hub.send(Event{Projects: true})
	return &Imported{project, first, library.Report{File: f.Name}}, nil
}
