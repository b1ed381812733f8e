package main

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	_ "image/png"
	"io"
	"mime/multipart"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"perigyre/core/render"
	"perigyre/formats/exr"
	"perigyre/runs"
	"perigyre/server"
)

const tetra = "o Tetra\nv 0 0 0\nv 40 0 0\nv 0 0 40\nv 0 60 0\nf 1 2 3\nf 1 4 2\nf 1 3 4\nf 2 4 3\n"

// binary is the program, built once for the tests of this package.
var binary string

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "perigyre-test")
	if err != nil {
		panic(err)
	}
	binary = filepath.Join(dir, "perigyre")
	if out, err := exec.Command("go", "build", "-o", binary, ".").CombinedOutput(); err != nil {
		panic(string(out))
	}
	code := m.Run()
	os.RemoveAll(dir)
	os.Exit(code)
}

func run(t *testing.T, args ...string) (code int, out, errs string) {
	t.Helper()
	var o, e bytes.Buffer
	c := exec.Command(binary, args...)
	c.Stdout, c.Stderr = &o, &e
	err := c.Run()
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		t.Fatal(err)
	}
	return c.ProcessState.ExitCode(), o.String(), e.String()
}

func tetraFile(t *testing.T) string {
	t.Helper()
	name := filepath.Join(t.TempDir(), "tetra.obj")
	if err := os.WriteFile(name, []byte(tetra), 0o644); err != nil {
		t.Fatal(err)
	}
	return name
}

func TestExitCodes(t *testing.T) {
	file, out := tetraFile(t), t.TempDir()
	for _, c := range []struct {
		says string
		code int
		args []string
	}{
		{"no command", badInput, []string{"spin"}},
		{"unknown flag", badInput, []string{"import", file, "--sideways"}},
		{"accepts 1 arg", badInput, []string{"import"}},
		{"there is no file", badInput, []string{"import", "gone.glb"}},
		{"--out", badInput, []string{"turntable", file}},
		{"--size 100 is not", badInput, []string{"turntable", file, "--out", out, "--size", "100"}},
		{"whole turns", badInput, []string{"turntable", file, "--out", out, "--turns", "0"}},
		{"direction", badInput, []string{"turntable", file, "--out", out, "--direction", "left"}},
		{"no quality", badInput, []string{"turntable", file, "--out", out, "--quality", "best"}},
		{"8 or 16", badInput, []string{"turntable", file, "--out", out, "--bits", "12"}},
		{"--token", badInput, []string{"serve", "--data", t.TempDir(), "--listen", "0.0.0.0:0"}},
		{"cannot be made", failed, []string{"turntable", file, "--out", filepath.Join(file, "x"), "--frames", "1", "--size", "8x8"}},
		{"", 0, []string{"import", file, "--json"}},
	} {
		code, _, errs := run(t, c.args...)
		if code != c.code || !strings.Contains(errs, c.says) || strings.Count(errs, "\n") > 1 {
			t.Errorf("%v: exit code %d, want %d; it says %q, want something with %q", c.args, code, c.code, errs, c.says)
		}
	}
	if list, _ := os.ReadDir(out); len(list) != 0 {
		t.Errorf("refused commands left %d files", len(list))
	}
}

func TestTurntableCommand(t *testing.T) {
	file, out := tetraFile(t), filepath.Join(t.TempDir(), "frames")
	args := []string{"turntable", file, "--out", out, "--frames", "4", "--size", "40x30", "--quality", "draft", "--bits", "16", "--first", "0", "--name", "{model}_{frame}", "--json"}
	code, stdout, errs := run(t, args...)
	if code != 0 {
		t.Fatal(errs)
	}
	var summary struct{ Frames, Rendered, Kept int }
	if err := json.Unmarshal([]byte(stdout), &summary); err != nil || summary.Frames != 4 || summary.Rendered != 4 {
		t.Fatalf("%v: %s", err, stdout)
	}
	for k := range 4 {
		f, err := os.Open(filepath.Join(out, fmt.Sprintf("tetra_%04d.png", k)))
		if err != nil {
			t.Fatal(err)
		}
		img, _, err := image.Decode(f)
		f.Close()
		if err != nil || img.Bounds() != image.Rect(0, 0, 40, 30) {
			t.Fatalf("frame %d: %v", k, err)
		}
		if _, ok := img.(*image.NRGBA64); !ok {
			t.Errorf("frame %d is a %T, want 16 bit with straight alpha", k, img)
		}
		_, _, _, corner := img.At(0, 0).RGBA()
		most := uint32(0)
		for i := range 40 * 30 {
			_, _, _, a := img.At(i%40, i/40).RGBA()
			most = max(most, a)
		}
		if corner != 0 || most != 65535 {
			t.Errorf("frame %d: alpha is %d in the corner and %d at most", k, corner, most)
		}
	}
	if _, err := os.Stat(filepath.Join(out, "tetra_0004.png")); err == nil {
		t.Error("frame 4 is frame 0 again and must not be written")
	}
	// The same command finds all done; one frame lost, it renders that one; another shot is refused.
	if err := os.Remove(filepath.Join(out, "tetra_0002.png")); err != nil {
		t.Fatal(err)
	}
	if _, stdout, _ = run(t, args...); !strings.Contains(stdout, `"rendered":1`) {
		t.Errorf("going on rendered %s", stdout)
	}
	code, _, errs = run(t, append(args, "--turns", "2")...)
	if code != badInput || !strings.Contains(errs, "holds another run") {
		t.Errorf("over another run: %d %s", code, errs)
	}
}

func TestImportReport(t *testing.T) {
	_, out, _ := run(t, "import", tetraFile(t), "--json")
	var r struct {
		Parts, Triangles, Vertices, Materials, Textures int
		Missing, LeftOut, Warnings                      []string
		Bounds                                          struct{ Min, Max []float64 }
		Unit                                            string
	}
	if err := json.Unmarshal([]byte(out), &r); err != nil {
		t.Fatal(err)
	}
	if r.Parts != 1 || r.Triangles != 4 || r.Unit != "mm" || r.Bounds.Max[1] != 60 || r.Missing == nil || r.LeftOut == nil || r.Warnings == nil {
		t.Errorf("%s", out)
	}
}

// A server that is told to end before it has begun to listen ends.
func TestEndedBeforeItBegins(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	data := t.TempDir()
	for range 30 { // who is first is for chance to say
		c := serveCommand()
		c.SetArgs([]string{"--data", data, "--listen", "127.0.0.1:0"})
		ended := make(chan error, 1)
		go func() { ended <- c.ExecuteContext(ctx) }()
		select {
		case err := <-ended:
			if err != nil && !errors.Is(err, context.Canceled) {
				t.Fatal(err)
			}
		case <-time.After(30 * time.Second):
			t.Fatal("it serves for ever")
		}
	}
}

// serving starts a server on a free port and waits until it says where it is.
func serving(t *testing.T, data string) (*exec.Cmd, string) {
	t.Helper()
	c := exec.Command(binary, "serve", "--data", data, "--listen", "127.0.0.1:0")
	pipe, err := c.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	line := make([]byte, 256)
	n, err := pipe.Read(line)
	at := strings.Index(string(line[:n]), "http://")
	if err != nil || at < 0 {
		t.Fatalf("the server says %q: %v", line[:n], err)
	}
	return c, strings.TrimSpace(string(line[at:n]))
}

func ask(t *testing.T, method, address string, body io.Reader, kind string, into any) {
	t.Helper()
	r, err := http.NewRequest(method, address, body)
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("Content-Type", kind)
	res, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	if res.StatusCode != 200 {
		b, _ := io.ReadAll(res.Body)
		t.Fatalf("%s %s: %d %s", method, address, res.StatusCode, b)
	}
	if err := json.NewDecoder(res.Body).Decode(into); err != nil {
		t.Fatal(err)
	}
}

// The server is killed in the middle of a run, several times, and started again: in the end every
// frame is there once, whole, as recorded, and the same as in a run that was left alone.
func TestKilledServerGoesOn(t *testing.T) {
	for _, o := range []runs.Settings{
		{Bits: 8},
		{Bits: 16, Format: runs.EXR, Passes: []render.Pass{render.Depth, render.Normal, render.PartMattes}},
	} {
		o.Width, o.Height, o.To, o.First, o.Padding, o.Name, o.Quality = 120, 120, 11, 1, 4, "{frame}", render.Proof
		t.Run(string(o.Format), func(t *testing.T) { killAndGoOn(t, o) })
	}
}

// imported brings a tetrahedron in.
func imported(t *testing.T, address string) (got server.Imported) {
	t.Helper()
	var form bytes.Buffer
	w := multipart.NewWriter(&form)
	part, _ := w.CreateFormFile("file", "tetra.obj")
	_, _ = part.Write([]byte(tetra))
	w.Close()
	ask(t, "POST", address+"/api/imports", &form, w.FormDataContentType(), &got)
	return got
}

func killAndGoOn(t *testing.T, o runs.Settings) {
	data := t.TempDir()
	c, address := serving(t, data)
	got := imported(t, address)
	settings, _ := json.Marshal(server.RunRequest{Settings: o})
	var r server.RunReply
	ask(t, "POST", address+"/api/shots/"+got.Shot+"/runs", bytes.NewReader(settings), "application/json", &r)
	id := r.ID
	killed := 0
	if code, _, errs := run(t, "serve", "--data", data, "--listen", "127.0.0.1:0"); code == 0 || !strings.Contains(errs, address) {
		t.Errorf("a second server on the folder ends with %d: %s", code, errs)
	}
	for deadline := time.Now().Add(2 * time.Minute); r.Progress.State != runs.Done; {
		if time.Now().After(deadline) {
			t.Fatalf("the run is %s after %d of %d", r.Progress.State, r.Progress.Done, r.Progress.Of)
		}
		before := r.Progress.Done
		ask(t, "GET", address+"/api/runs/"+id, nil, "", &r)
		if r.Progress.Done > before && killed < 3 && r.Progress.State == runs.Running {
			_ = c.Process.Kill() // SIGKILL: no chance to tidy up
			_ = c.Wait()
			killed++
			c, address = serving(t, data)
			ask(t, "GET", address+"/api/runs/"+id, nil, "", &r) // from here on it has to get further by itself
		}
		time.Sleep(2 * time.Millisecond)
	}
	if killed == 0 {
		t.Fatal("the run was over before the server could be killed")
	}
	ask(t, "GET", address+"/api/runs/"+id, nil, "", &r)
	other, elsewhere := serving(t, t.TempDir()) // one that has not got the frames
	defer other.Process.Kill()
	var alone server.RunReply
	ask(t, "POST", elsewhere+"/api/shots/"+imported(t, elsewhere).Shot+"/runs", bytes.NewReader(settings), "application/json", &alone)
	for deadline := time.Now().Add(2 * time.Minute); alone.Progress.State != runs.Done && time.Now().Before(deadline); time.Sleep(5 * time.Millisecond) {
		ask(t, "GET", elsewhere+"/api/runs/"+alone.ID, nil, "", &alone)
	}
	for i, f := range alone.Frames {
		if f.SHA256 != r.Frames[i].SHA256 {
			t.Errorf("frame %d is not the one of a run that was left alone", f.Number)
		}
	}
	_ = c.Process.Signal(os.Interrupt)
	if err := c.Wait(); err != nil {
		t.Errorf("the server did not end well: %v", err)
	}
	seen := map[string]bool{}
	for _, f := range r.Frames {
		b, err := os.ReadFile(filepath.Join(r.Folder, f.File))
		h := sha256.Sum256(b)
		if err != nil || hex.EncodeToString(h[:]) != f.SHA256 || seen[f.File] {
			t.Errorf("frame %d: %v, recorded as %s", f.Number, err, f.SHA256)
		}
		seen[f.File] = true
		if o.Format == runs.EXR {
			_, err = exr.Read(b)
		} else {
			_, _, err = image.Decode(bytes.NewReader(b))
		}
		if err != nil {
			t.Errorf("frame %d is torn: %v", f.Number, err)
		}
	}
	list, _ := os.ReadDir(r.Folder)
	want := 13 // frames and run.json
	if o.Format == runs.EXR {
		want++ // the folder of previews
	}
	if len(seen) != 12 || len(list) != want {
		t.Errorf("%d frames are recorded and %d files are there, want 12 and %d", len(seen), len(list), want)
	}
}
