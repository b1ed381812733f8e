package main

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"perigyre/core/model"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/formats/exr"
	"perigyre/formats/gltf"
	"perigyre/library"
)

// projectZip stages the tetrahedron in a shot of a project that is handed over.
func projectZip(t *testing.T) string {
	t.Helper()
	m, report, err := library.BringFile(context.Background(), tetraFile(t), "", model.DefaultLimits, nil)
	if err != nil {
		t.Fatal(err)
	}
	glb, err := gltf.Write(m)
	if err != nil {
		t.Fatal(err)
	}
	sum := sha256.Sum256(glb)
	hash := hex.EncodeToString(sum[:])
	stored := func(string) ([]byte, error) { return glb, nil }
	d := shot.New("Spin")
	d.Frames, d.Format = 24, shot.Format{Width: 40, Height: 30}
	o := stage.Defaults()
	n := 0
	o.File, o.Asset, o.Name, o.Unit, o.Up, o.NewID = report.File, hash, "Tetra", report.Unit, report.Up, func() string { n++; return fmt.Sprint("p", n) }
	o.Turntable.Turns = 2 // frame k + 12 shows what frame k does
	if err := stage.Put(d, m, o, &library.Assets{Open: stored}); err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	p := &library.Project{Name: "P", Shots: []*shot.Shot{d}, Blob: stored, Report: func(string) ([]byte, error) { return nil, os.ErrNotExist }}
	if err := p.Write(&b); err != nil {
		t.Fatal(err)
	}
	name := filepath.Join(t.TempDir(), "project.zip")
	if err := os.WriteFile(name, b.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	return name
}

// Frames of a shot as EXR with passes; what is damaged or gone is found, and the same command mends it and leaves
// the rest. Frames that show the same are the same file.
func TestRenderAndVerify(t *testing.T) {
	project, out := projectZip(t), filepath.Join(t.TempDir(), "frames")
	args := []string{"render", project, "--shot", "Spin", "--frames", "0-2,12,20", "--format", "exr", "--passes", "depth,camera normal", "--quality", "draft", "--out", out, "--json"}
	var summary struct{ Frames, Rendered, Kept int }
	again := func() {
		t.Helper()
		code, stdout, errs := run(t, args...)
		if code != 0 {
			t.Fatal(errs)
		}
		if err := json.Unmarshal([]byte(stdout), &summary); err != nil {
			t.Fatal(err, stdout)
		}
	}
	again()
	if summary.Frames != 5 || summary.Rendered != 5 {
		t.Errorf("%+v", summary)
	}
	file := func(k int) string { return filepath.Join(out, fmt.Sprintf("Spin.%04d.exr", k+1)) }
	data, err := os.ReadFile(file(0))
	if err != nil {
		t.Fatal(err)
	}
	p, err := exr.Read(data)
	if err != nil || p.Data.Dx() != 40 {
		t.Fatal(err, p)
	}
	var names []string
	for _, c := range p.Channels {
		names = append(names, c.Name)
	}
	if want := "A B G R camera_normal.X camera_normal.Y camera_normal.Z depth.Z"; strings.Join(names, " ") != want {
		t.Errorf("its channels are %v", names)
	}
	if twin, err := os.ReadFile(file(12)); err != nil || !bytes.Equal(twin, data) {
		t.Error("frame 12 shows what frame 0 does, but is another file")
	}
	if code, _, errs := run(t, "verify", out); code != 0 {
		t.Error(errs)
	}
	if err := os.WriteFile(file(1), data[:100], 0o600); err != nil {
		t.Fatal(err)
	}
	if err := os.Remove(file(20)); err != nil {
		t.Fatal(err)
	}
	code, stdout, errs := run(t, "verify", out)
	if code != failed || !strings.Contains(errs, "2 of 5") || !strings.Contains(stdout, "frame 1, Spin.0002.exr: damaged") || !strings.Contains(stdout, "frame 20, Spin.0021.exr: missing") {
		t.Errorf("%d %s %s", code, stdout, errs)
	}
	again()
	if summary.Rendered != 2 || summary.Kept != 3 {
		t.Errorf("mending: %+v", summary)
	}
	for says, args := range map[string][]string{
		"no pass":             {"--format", "exr", "--passes", "deep"},
		"passes are kept in":  {"--passes", "depth"},
		"JPEG has no alpha":   {"--format", "jpeg"},
		"no camera \"Left\"":  {"--camera", "Left"},
		"not a list":          {"--frames", "3-1"},
		"name one of its":     {"--shot", "Other"},
		"there is no format ": {"--format", "gif"},
	} {
		code, _, errs := run(t, append([]string{"render", project, "--shot", "Spin", "--out", filepath.Join(t.TempDir(), "x")}, args...)...)
		if code != badInput || !strings.Contains(errs, says) {
			t.Errorf("%v: %d %s", args, code, errs)
		}
	}
	code, stdout, errs = run(t, "tracks", project, "--shot", "Spin", "--points", "Tetra", "--csv")
	if lines := strings.Split(strings.TrimSpace(stdout), "\n"); code != 0 || len(lines) != 25 || !strings.HasPrefix(lines[0], "frame,camera x") {
		t.Errorf("tracks: %d %s %.200s", code, errs, stdout)
	}
}

// bench measures the shot that it is given, or that of the demonstration, and its numbers can be what they say: every
// quality takes its time, a finer one more.
func TestBench(t *testing.T) {
	code, out, errs := run(t, "bench", "--size", "64x64", "--json")
	var got speed
	if err := json.Unmarshal([]byte(out), &got); code != 0 || err != nil {
		t.Fatalf("%d %s %v", code, errs, err)
	}
	if got.Width != 64 || got.Kernel == "" || got.First <= 0 || !(got.Seconds["draft"] > 0 && got.Seconds["draft"] < got.Seconds["proof"] && got.Seconds["proof"] < got.Seconds["final"]) {
		t.Errorf("%+v", got)
	}
	if code, _, errs := run(t, "bench", "nowhere.zip"); code != badInput || !strings.Contains(errs, "nowhere.zip") {
		t.Errorf("of a project that is not there: %d %s", code, errs)
	}
}

// Edits from the command line are those of buttons: all of a list or none, into the same project.
func TestEdit(t *testing.T) {
	dir := t.TempDir()
	d := shot.New("Front")
	d.Parts = append(d.Parts, shot.Part{ID: "g", Name: "G", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}})
	p := library.Project{Name: "P", Shots: []*shot.Shot{d}, Blob: func(string) ([]byte, error) { return nil, os.ErrNotExist }, Report: func(string) ([]byte, error) { return nil, os.ErrNotExist }}
	var b bytes.Buffer
	if err := p.Write(&b); err != nil {
		t.Fatal(err)
	}
	zip, edits := filepath.Join(dir, "p.zip"), filepath.Join(dir, "edits.json")
	write := func(name, text string) {
		t.Helper()
		if err := os.WriteFile(name, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	write(zip, b.String())
	write(edits, `[{"rename": {"name": "Side"}}, {"addMove": {"part": "g", "kind": "nod"}}]`)
	if code, out, errs := run(t, "edit", zip, edits, "--shot", "Front"); code != 0 || !strings.Contains(out, "nod") {
		t.Fatalf("%d, %q, %q", code, out, errs)
	}
	read := func() *shot.Shot {
		t.Helper()
		data, err := os.ReadFile(zip)
		if err != nil {
			t.Fatal(err)
		}
		p, err := library.ReadProject(data, model.DefaultLimits)
		if err != nil {
			t.Fatal(err)
		}
		return p.Shots[0]
	}
	if s := read(); s.Name != "Side" || len(s.Part("g").Moves) != 1 {
		t.Errorf("the shot is %q with %d moves", s.Name, len(s.Part("g").Moves))
	}
	write(edits, `[{"rename": {"name": "Back"}}, {"remove": {"parts": ["gone"]}}]`)
	if code, _, errs := run(t, "edit", zip, edits); code != badInput || !strings.Contains(errs, "any more") {
		t.Errorf("%d, %q", code, errs)
	}
	if s := read(); s.Name != "Side" {
		t.Errorf("of a list with a wrong edit one was carried out: %q", s.Name)
	}
}
