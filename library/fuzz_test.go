package library

import (
	"bytes"
	"context"
	"strings"
	"testing"
	"time"

	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/shot"
)

// Drawings as solids: whatever comes of one is a mesh that can be used.
func FuzzSolid(f *testing.F) {
	for _, body := range []string{
		`<path d="M10 10H90V90H10z M30 30V70H70V30z" fill="#204060"/>`, `<path d="M50 5L79 95L2 39H98L21 95z" stroke="#000" stroke-width="3" stroke-dasharray="9 2"/>`,
		`<g opacity=".5"><circle cx="50" cy="50" r="40"/><rect width="50" height="50" rx="9" fill="url(#g)"/></g><linearGradient id="g"><stop/><stop offset="1" stop-color="red"/></linearGradient>`,
		`<clipPath id="c"><circle cx="9" cy="9" r="7"/></clipPath><rect width="20" height="20" clip-path="url(#c)"/><mask id="m"><rect width="9" height="9" fill="#fff"/></mask><rect width="20" height="20" mask="url(#m)"/>`,
	} {
		f.Add([]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="40mm" viewBox="0 0 100 100">`+body+`</svg>`), 0.4, true)
	}
	f.Fuzz(func(t *testing.T, data []byte, width float64, both bool) {
		if len(data) > 4000 {
			return
		}
		ctx, done := context.WithTimeout(context.Background(), 5*time.Second)
		defer done()
		mark := &shot.Mark{Drawing: strings.Repeat("0", 64), Tolerance: 1e-4, Solid: mesh.Extrusion{Depth: 0.005, Bevel: mesh.RoundBevel, Width: width, Steps: 3, Both: both}}
		if mark.Solid.Check() != nil {
			return
		}
		m, err := Mark(ctx, mark, func(string) ([]byte, error) { return data, nil })
		if err != nil {
			return
		}
		for _, me := range m.Meshes {
			for _, p := range me.Primitives {
				if err := p.Check(); err != nil {
					t.Fatal(err)
				}
			}
		}
	})
}

// Saved projects of strangers: what is read has documents that are valid and files that are there.
func FuzzProject(f *testing.F) {
	d := shot.New("Front")
	p := Project{Name: "P", Shots: []*shot.Shot{d}, Blob: func(string) ([]byte, error) { return nil, nil }, Report: func(string) ([]byte, error) { return nil, nil }}
	var b bytes.Buffer
	if err := p.Write(&b); err != nil {
		f.Fatal(err)
	}
	f.Add(b.Bytes())
	limits := model.Limits{Bytes: 1 << 20, Triangles: 10_000, TextureSide: 512}
	f.Fuzz(func(t *testing.T, data []byte) {
		got, err := ReadProject(data, limits)
		if err != nil {
			return
		}
		for _, s := range got.Shots {
			if err := s.Validate(); err != nil {
				t.Fatal(err)
			}
		}
	})
}
