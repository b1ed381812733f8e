package library

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"path"
	"strings"

	"perigyre/core/model"
	"perigyre/core/shot"
	"perigyre/core/upgrade"
	"perigyre/formats/gltf"
	"perigyre/formats/hdr"
)

// ProjectSchema names the version of a project's zip.
const ProjectSchema = "perigyre/project/1"

const projectFile = "project.json"

// Project is a project with its shots as they are now, as it is handed over in one zip: project.json,
// shots/NAME/shot.json with shot.schema.json beside them, and assets under their SHA-256 with the report
// of their import.
type Project struct {
	Name  string
	Shots []*shot.Shot
	// Blob returns a stored file by its content hash, and Report the report of an asset, or an error.
	Blob, Report func(hash string) ([]byte, error)
}

type projectList struct {
	Schema string   `json:"schema"`
	Name   string   `json:"name"`
	Shots  []string `json:"shots"` // files in the zip, in their order
}

// Write writes the zip. A stored file that is missing is an error; nothing that was written before is worth
// keeping then.
func (p *Project) Write(w io.Writer) error {
	z := zip.NewWriter(w)
	put := func(name string, data []byte) error {
		f, err := z.Create(name)
		if err == nil {
			_, err = f.Write(data)
		}
		return err
	}
	list := projectList{Schema: ProjectSchema, Name: p.Name, Shots: []string{}}
	taken := map[string]bool{}
	done := map[string]bool{}
	for i, s := range p.Shots {
		folder := safe(s.Name)
		if taken[strings.ToLower(folder)] {
			folder = fmt.Sprintf("%s %d", folder, i+1)
		}
		taken[strings.ToLower(folder)] = true
		name := path.Join("shots", folder, "shot.json")
		list.Shots = append(list.Shots, name)
		text, err := json.MarshalIndent(s, "", "  ")
		if err != nil {
			return err
		}
		if err := put(name, text); err != nil {
			return err
		}
		for _, hash := range s.Blobs() {
			if done[hash] {
				continue
			}
			done[hash] = true
			data, err := p.Blob(hash)
			if err != nil {
				return fmt.Errorf("a file that %s needs is missing: %w", s.Name, err)
			}
			if err := put("assets/"+hash+ending(data), data); err != nil {
				return err
			}
			if report, err := p.Report(hash); err == nil {
				if err := put("assets/"+hash+".json", report); err != nil {
					return err
				}
			}
		}
	}
	if err := put("shots/shot.schema.json", shot.JSONSchema); err != nil {
		return err
	}
	text, err := json.MarshalIndent(list, "", "  ")
	if err != nil {
		return err
	}
	if err := put(projectFile, text); err != nil {
		return err
	}
	return z.Close()
}

func ending(data []byte) string {
	switch {
	case gltf.IsGLB(data):
		return ".glb"
	case bytes.HasPrefix(data, []byte("\x00\x01\x00\x00")), bytes.HasPrefix(data, []byte("true")):
		return ".ttf"
	case hdr.Is(data):
		return ".hdr"
	case bytes.HasPrefix(data, []byte("\x76\x2f\x31\x01")):
		return ".exr"
	case bytes.HasPrefix(data, []byte("OTTO")):
		return ".otf"
	case bytes.Contains(data[:min(len(data), 2000)], []byte("<svg")):
		return ".svg"
	}
	return ".bin"
}

// safe makes a name fit for every file system.
func safe(name string) string {
	name = strings.TrimSpace(strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune(`<>:"/\|?*`, r) {
			return '-'
		}
		return r
	}, name))
	name = strings.Trim(name, ". ")
	if name == "" {
		return "shot"
	}
	return name
}

// IsProject reports whether data are a project's zip.
func IsProject(data []byte) bool {
	if !bytes.HasPrefix(data, []byte("PK\x03\x04")) {
		return false
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return false
	}
	for _, f := range z.File {
		if f.Name == projectFile {
			return true
		}
	}
	return false
}

// ReadProject reads a project's zip. Everything is checked before anything is kept: the documents, that
// each stored file is what its name says, and that none is missing.
func ReadProject(data []byte, limits model.Limits) (*Project, error) {
	files, err := unpack([]File{{"the project", data}}, limits)
	if err != nil {
		return nil, err
	}
	byName, blobs, reports := map[string][]byte{}, map[string][]byte{}, map[string][]byte{}
	for _, f := range files {
		byName[f.Name] = f.Data
		if path.Dir(f.Name) != "assets" {
			continue
		}
		hash := strings.TrimSuffix(path.Base(f.Name), path.Ext(f.Name))
		if path.Ext(f.Name) == ".json" {
			reports[hash] = f.Data
			continue
		}
		if sum := sha256.Sum256(f.Data); hex.EncodeToString(sum[:]) != hash {
			return nil, fmt.Errorf("%s is not what it was when the project was written; get the zip again", f.Name)
		}
		if gltf.IsGLB(f.Data) {
			if _, err := gltf.Read(f.Data, nil, limits); err != nil {
				return nil, fmt.Errorf("%s: %w", f.Name, err)
			}
		}
		blobs[hash] = f.Data
	}
	var list projectList
	if err := json.Unmarshal(byName[projectFile], &list); err != nil {
		return nil, fmt.Errorf("its %s cannot be read: %w", projectFile, err)
	}
	if list.Schema != ProjectSchema {
		return nil, fmt.Errorf("it says it is %q, but this program reads %q", list.Schema, ProjectSchema)
	}
	p := &Project{Name: strings.TrimSpace(list.Name)}
	if p.Name == "" {
		p.Name = "Project"
	}
	get := func(from map[string][]byte) func(string) ([]byte, error) {
		return func(hash string) ([]byte, error) {
			if b, ok := from[hash]; ok {
				return b, nil
			}
			return nil, fmt.Errorf("the zip has no %.12s", hash)
		}
	}
	p.Blob, p.Report = get(blobs), get(reports)
	held := &Assets{Open: p.Blob}
	for _, name := range list.Shots {
		text, ok := byName[path.Clean(name)]
		if !ok {
			return nil, fmt.Errorf("it names %s, which is not in it", name)
		}
		s, err := upgrade.Read(text)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		for _, hash := range s.Blobs() {
			if blobs[hash] == nil {
				return nil, fmt.Errorf("%s needs the file %.12s, which is not in the zip", name, hash)
			}
		}
		if err := usable(s, held, limits); err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		p.Shots = append(p.Shots, s)
	}
	if len(p.Shots) == 0 {
		return nil, fmt.Errorf("it holds no shots")
	}
	return p, nil
}

// usable checks that what parts and materials refer to inside assets is there.
func usable(s *shot.Shot, a *Assets, limits model.Limits) error {
	triangles := 0
	for i := range s.Parts {
		p := &s.Parts[i]
		if p.Mesh == nil {
			continue
		}
		prims, err := a.Mesh(*p.Mesh)
		if err != nil {
			return fmt.Errorf("part %q: %w", p.Name, err)
		}
		for _, prim := range prims {
			triangles += prim.Triangles()
		}
		if err := limits.CheckTriangles(triangles); err != nil {
			return err
		}
	}
	for i := range s.Materials {
		for _, slot := range s.Materials[i].TextureSlots() {
			if t := *slot; t != nil && t.Asset != "" {
				m, err := a.Model(t.Asset)
				if err != nil || t.Image < 0 || t.Image >= len(m.Images) {
					return fmt.Errorf("material %q has a picture that is not there", s.Materials[i].Name)
				}
			}
		}
	}
	return nil
}
