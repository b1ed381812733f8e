// Package core holds nothing but the test of how its rooms may know each other.
package core

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// floors are the rooms of the core, the lowest first: each may know those of lower floors alone (docs/architecture.md).
var floors = [][]string{
	{"geom", "fault", "numbers", "lettering", "doctree"},
	{"planar"},
	{"mesh"},
	{"outline", "material", "color"},
	{"shot", "model"},
	{"motion", "lighting"},
	{"move"},
	{"pose"},
	{"framing"},
	{"scene"},
	{"loop", "stage", "assembly"},
	{"render"},
	{"upgrade", "exploded"},
	{"edit"},
	{"check"},
}

// Arrows go down: no room of the core knows one of a higher floor, and the renderer and what is below it know none of
// documents, motion, moves and poses.
func TestArrowsGoDown(t *testing.T) {
	known := func(dir string) map[string]bool {
		out := map[string]bool{}
		err := filepath.WalkDir(dir, func(name string, e fs.DirEntry, err error) error {
			if err != nil || e.IsDir() || !strings.HasSuffix(name, ".go") || strings.HasSuffix(name, "_test.go") {
				return err
			}
			f, err := parser.ParseFile(token.NewFileSet(), name, nil, parser.ImportsOnly)
			if err != nil {
				return err
			}
			for _, i := range f.Imports {
				if p, _ := strconv.Unquote(i.Path.Value); strings.HasPrefix(p, "perigyre/") {
					out[strings.TrimPrefix(p, "perigyre/")] = true
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	for k, floor := range floors {
		for _, room := range floor {
			for other := range known(room) {
				in, ok := strings.CutPrefix(other, "core/")
				if !ok {
					t.Errorf("core/%s knows %s, which is not of the core", room, other)
					continue
				}
				in, _, _ = strings.Cut(in, "/")
				if in != room && !slices.ContainsFunc(floors[:k], func(f []string) bool { return slices.Contains(f, in) }) {
					t.Errorf("core/%s knows core/%s, which is not below it", room, in)
				}
			}
		}
	}
	for other := range known("render") {
		if slices.Contains([]string{"shot", "pose", "motion", "move", "edit"}, path.Base(other)) {
			t.Errorf("the renderer knows %s", other)
		}
	}
}
