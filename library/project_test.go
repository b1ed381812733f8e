package library

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"io"
	"reflect"
	"strings"
	"testing"

	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/shot"
	"perigyre/formats/gltf"
)

// A project goes into a zip and comes out the same; a zip that was tampered with, or that lacks something,
// is refused with the place.
func TestProjectThereAndBack(t *testing.T) {
	m := &model.Model{Materials: []material.Material{material.Default()}, Images: []model.Image{{Name: "a.png", MIME: "image/png", Data: pictureOf(2, 2)}},
		Meshes: []model.Mesh{{Primitives: []model.Primitive{{Mesh: &mesh.Mesh{Positions: [][3]float32{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}}, Indices: []uint32{0, 1, 2}}}}}},
		Nodes:  []model.Node{{Name: "Sail", Parent: -1, Rotation: [4]float64{0, 0, 0, 1}, Size: [3]float64{1, 1, 1}}}}
	m.Materials[0].BaseColorTexture = &material.Texture{}
	glb, err := gltf.Write(m)
	if err != nil {
		t.Fatal(err)
	}
	sum := sha256.Sum256(glb)
	hash := hex.EncodeToString(sum[:])
	first, _ := placed(t, m)
	for i := range first.Parts {
		if first.Parts[i].Mesh != nil {
			first.Parts[i].Mesh.Asset = hash
		}
	}
	first.Sources[0].Asset, first.Materials[0].BaseColorTexture.Asset = hash, hash
	second := first.Clone()
	first.Name, second.Name = "Up / down", "up / down" // the same folder on some systems
	p := Project{Name: "Boat", Shots: []*shot.Shot{first, second},
		Blob: func(h string) ([]byte, error) { return glb, nil }, Report: func(string) ([]byte, error) { return []byte(`{"file":"boat.glb"}`), nil }}
	var b bytes.Buffer
	if err := p.Write(&b); err != nil {
		t.Fatal(err)
	}
	if !IsProject(b.Bytes()) {
		t.Error("it is not known for a project")
	}
	got, err := ReadProject(b.Bytes(), model.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	if got.Name != "Boat" || len(got.Shots) != 2 || !reflect.DeepEqual(got.Shots[0], first.Clone()) || !reflect.DeepEqual(got.Shots[1], second.Clone()) {
		t.Error("the shots are not what they were")
	}
	if r, err := got.Report(hash); err != nil || !strings.Contains(string(r), "boat.glb") {
		t.Error("the report is gone", err)
	}

	for want, change := range map[string]func(name string, data []byte) []byte{
		"not what it was": func(name string, data []byte) []byte {
			if strings.HasSuffix(name, ".glb") {
				return append(data, 0)
			}
			return data
		},
		"not in the zip": func(name string, data []byte) []byte {
			if strings.HasSuffix(name, ".glb") {
				return nil
			}
			return data
		},
		"has no mesh 7": func(name string, data []byte) []byte {
			return bytes.ReplaceAll(data, []byte(`"mesh": 0`), []byte(`"mesh": 7`))
		},
		"shots/Up - down/shot.json": func(name string, data []byte) []byte {
			return bytes.Replace(data, []byte(`"frames": 96`), []byte(`"frames": -1`), 1)
		},
	} {
		if _, err := ReadProject(rezipped(t, b.Bytes(), change), model.DefaultLimits); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v does not say %q", err, want)
		}
	}
}

// rezipped packs a zip anew with changed files; those that change to nil are left out.
func rezipped(t *testing.T, data []byte, change func(string, []byte) []byte) []byte {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	var files []File
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		data, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		if data = change(f.Name, data); data != nil {
			files = append(files, File{f.Name, data})
		}
	}
	return zipOf(t, files...)
}
