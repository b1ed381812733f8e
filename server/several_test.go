package server

import (
	"image/png"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/runs"
)

// Four finishes in two formats, a still of each: eight files with names that tell them apart, each of its format's size and
// fitted for it, at one press; and small pictures of materials and angles are what they say.
func TestSeveralTogether(t *testing.T) {
	h := newHouse(t, "")
	var made Made
	if code := h.json("POST", "/api/shots", ShotRequest{Name: "Colours"}, &made); code != 200 {
		t.Fatalf("an empty project is answered with %d", code)
	}
	h.edit(made.Shot, &edit.AddShape{Kind: "sphere", ID: "ball"})
	h.edit(made.Shot, &edit.Wear{Parts: []string{"ball"}, Dress: edit.Dress{Preset: "satin paint"}})
	var finishes []string
	for _, f := range [][2]string{{"a", "brass"}, {"b", "rubber"}, {"c", "ceramic"}, {"d", "velvet"}} {
		h.edit(made.Shot, &edit.AddFinish{ID: f[0], Name: "In " + f[1]})
		h.edit(made.Shot, &edit.Wear{Parts: []string{"ball"}, Dress: edit.Dress{Preset: f[1]}})
		finishes = append(finishes, f[0])
	}
	_, d := h.shot(made.Shot)
	o := runs.Defaults(d)
	o.Width, o.Height, o.From, o.To, o.Quality, o.Denoise = 54, 54, 3, 3, render.Draft, false
	o.Name = "{model}.{finish}.{format}.{frame}"
	var first RunReply
	if code := h.json("POST", "/api/shots/"+made.Shot+"/runs", RunRequest{Settings: o, Finishes: finishes, Formats: []shot.Format{{Width: 1080, Height: 1080}, {Width: 1080, Height: 1920}}}, &first); code != 200 {
		t.Fatalf("the runs are not taken: %d", code)
	}
	var list []RunReply
	for done := false; !done; {
		h.json("GET", "/api/runs", nil, &list)
		done = len(list) > 0
		for _, r := range list {
			if r.Progress.State == runs.Failed {
				t.Fatal(r.Progress.Message)
			}
			done = done && r.Progress.State == runs.Done
		}
	}
	var names []string
	for _, r := range list {
		name := r.Frames[0].File
		names = append(names, name)
		f, err := os.Open(filepath.Join(r.Folder, name))
		if err != nil {
			t.Fatal(err)
		}
		img, err := png.Decode(f)
		f.Close()
		if err != nil || img.Bounds().Dx() != 54 || img.Bounds().Dy() != 54 && img.Bounds().Dy() != 96 {
			t.Fatalf("%s is %v large, %v", name, img.Bounds(), err)
		}
		// The ball is kept 8 % clear on every side, in either format: by its width, which is the shorter.
		left, right := 54, 0
		for y := range img.Bounds().Dy() {
			for x := range 54 {
				if _, _, _, a := img.At(x, y).RGBA(); a > 0xf000 {
					left, right = min(left, x), max(right, x)
				}
			}
		}
		if left < 3 || left > 7 || right < 46 || right > 50 {
			t.Errorf("in %s the ball reaches from %d to %d of 54", name, left, right)
		}
	}
	slices.Sort(names)
	if len(slices.Compact(names)) != 8 || names[0] != "Colours.In brass.1080x1080.0004.png" {
		t.Errorf("the files are %q", names)
	}
	h.edit(made.Shot, &edit.KeepAngle{ID: "side", From: &edit.View{Position: geom.Vec3{0, 0.1, 0.9}, Rotation: geom.NoTurn}})
	for path, want := range map[string]int{
		"/api/presets/picture?name=brass": 200, "/api/presets/picture?name=none": 422,
		"/api/shots/" + made.Shot + "/materials/picture?material=" + d.Materials[0].ID: 200,
		"/api/shots/" + made.Shot + "/angles/picture?angle=side&width=64":              200,
		"/api/shots/" + made.Shot + "/angles/picture?angle=none":                       422,
		"/api/shots/" + made.Shot + "/angles/picture?angle=side&width=99999":           422,
	} {
		var text string
		code := h.send(httptest.NewRequest("GET", path, nil), &text)
		if code != want || want == 200 && text[:4] != "\x89PNG" {
			t.Errorf("%s is answered with %d", path, code)
		}
	}
}
