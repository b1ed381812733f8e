package server

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/gofiber/fiber/v3"

	"perigyre/core/edit"
	"perigyre/core/model"
	"perigyre/core/move"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/farm"
	"perigyre/runs"
	"perigyre/store"
)

const tetra = "o Tetra\nv 0 0 0\nv 40 0 0\nv 0 0 40\nv 0 60 0\nf 1 2 3\nf 1 4 2\nf 1 3 4\nf 2 4 3\n"

type house struct {
	t    *testing.T
	app  *fiber.App
	data string // the folder

	studio *Studio
}

func newHouse(t *testing.T, token string) house {
	t.Helper()
	return newHouseAt(t, token, nil)
}

// newHouseAt is newHouse with a place where workers join.
func newHouseAt(t *testing.T, token string, place *farm.Place) house {
	t.Helper()
	data := t.TempDir()
	s, err := store.Open(data)
	if err != nil {
		t.Fatal(err)
	}
	limits := model.DefaultLimits
	limits.Bytes = 1 << 20
	st, err := OpenStudio(s, filepath.Join(t.TempDir(), "out"), limits, place)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close(); s.Close() })
	front := fstest.MapFS{"index.html": {Data: []byte("<title>front</title>")}}
	return house{t, App(st, front, []string{"here:1"}, token), data, st}
}

func (h house) send(r *http.Request, into any) int {
	h.t.Helper()
	r.Host = "here:1"
	return h.sendTo(r, into)
}

func (h house) sendTo(r *http.Request, into any) int {
	h.t.Helper()
	res, err := h.app.Test(r, fiber.TestConfig{Timeout: 20 * time.Second})
	if err != nil {
		h.t.Fatal(err)
	}
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	if err != nil {
		h.t.Fatal(err)
	}
	if text, ok := into.(*string); ok {
		*text = string(body)
	} else if into != nil {
		if err := json.Unmarshal(body, into); err != nil {
			h.t.Fatalf("%s %s: %v in %s", r.Method, r.URL, err, body)
		}
	}
	return res.StatusCode
}

func (h house) json(method, path string, body, into any) int {
	h.t.Helper()
	b, _ := json.Marshal(body)
	r := httptest.NewRequest(method, path, bytes.NewReader(b))
	r.Header.Set("Content-Type", "application/json")
	return h.send(r, into)
}

// change asks for a change of the shot that s is an answer for, and brings s up to date as the front end does.
func (h house) change(s *ShotReply, what string, body any) int {
	h.t.Helper()
	var text string
	code := h.json("POST", "/api/shots/"+s.ID+"/"+what, body, &text)
	if code != 200 {
		return code
	}
	before, _ := json.Marshal(s)
	if err := json.Unmarshal(whole(h.t, before, []byte(text)), s); err != nil {
		h.t.Fatal(err)
	}
	return code
}

// whole joins an answer and what a change of it left out.
func whole(t *testing.T, before, change []byte) []byte {
	t.Helper()
	var was map[string]any
	var c struct {
		Since int
		Lists map[string][]Piece
		Shot  map[string]any
	}
	if json.Unmarshal(before, &was) != nil || json.Unmarshal(change, &c) != nil {
		t.Fatalf("%.200s", change)
	}
	for name, pieces := range c.Lists {
		old, now := was, c.Shot
		if rest, ok := strings.CutPrefix(name, "document."); ok {
			old, now, name = old["document"].(map[string]any), now["document"].(map[string]any), rest
		}
		list, fresh := []any{}, now[name].([]any)
		for _, p := range pieces {
			if p.From < 0 {
				list, fresh = append(list, fresh[:p.Count]...), fresh[p.Count:]
			} else {
				list = append(list, old[name].([]any)[p.From:p.From+p.Count]...)
			}
		}
		now[name] = list
	}
	out, _ := json.Marshal(c.Shot)
	return out
}

// A change is answered with what has become other: joined with what was known before it is what a window that opens the shot
// now is told, and it is short where little has changed.
func TestChangesAreAnsweredShortly(t *testing.T) {
	h := newHouse(t, "")
	var got Imported
	h.send(upload(t, "tetra.obj", []byte(tetra)), &got)
	var s ShotReply
	h.json("GET", "/api/shots/"+got.Shot, nil, &s)
	whose := document(t, s).Parts
	var made []edit.Edit
	for range 40 {
		made = append(made, edit.Edit{Change: &edit.AddShape{Kind: "box"}})
	}
	for round, ask := range []func() (string, any){
		func() (string, any) { return "edits", EditRequest{Version: s.Version, Edits: made} },
		func() (string, any) {
			return "edits", EditRequest{Version: s.Version, Edits: []edit.Edit{{Change: &edit.SetPart{Part: whose[1].ID, Patch: edit.Patch(`{"name": "Other", "rest": {"position": [0.01, 0.02, 0]}}`)}}}}
		},
		func() (string, any) {
			return "edits", EditRequest{Version: s.Version, Edits: []edit.Edit{{Change: &edit.RemoveParts{Parts: []string{document(t, s).Parts[9].ID}}}}}
		},
		func() (string, any) { return "undo", VersionRequest{s.Version} },
		func() (string, any) { return "undo", VersionRequest{s.Version} },
		func() (string, any) { return "redo", VersionRequest{s.Version} },
		func() (string, any) { return "history/2", VersionRequest{s.Version} },
	} {
		what, body := ask()
		before, _ := json.Marshal(s)
		var change, now string
		if code := h.json("POST", "/api/shots/"+s.ID+"/"+what, body, &change); code != 200 {
			t.Fatalf("round %d: %d %s", round, code, change)
		}
		h.json("GET", "/api/shots/"+s.ID, nil, &now)
		var a, b any
		_ = json.Unmarshal(whole(t, before, []byte(change)), &a)
		_ = json.Unmarshal([]byte(now), &b)
		if !reflect.DeepEqual(a, b) {
			t.Fatalf("round %d: the answer joined with the one before is not that of now", round)
		}
		if round > 0 && len(change) > len(now)/3 {
			t.Errorf("round %d: an answer of %d bytes where all is %d", round, len(change), len(now))
		}
		if err := json.Unmarshal([]byte(now), &s); err != nil {
			t.Fatal(err)
		}
	}
}

func upload(t *testing.T, name string, data []byte) *http.Request {
	t.Helper()
	var b bytes.Buffer
	form := multipart.NewWriter(&b)
	w, err := form.CreateFormFile("file", name)
	if err != nil {
		t.Fatal(err)
	}
	_, _ = w.Write(data)
	form.Close()
	r := httptest.NewRequest("POST", "/api/imports", &b)
	r.Header.Set("Content-Type", form.FormDataContentType())
	return r
}

func document(t *testing.T, r ShotReply) *shot.Shot {
	t.Helper()
	var d shot.Shot
	if err := json.Unmarshal(r.Document, &d); err != nil {
		t.Fatal(err)
	}
	return &d
}

func TestAModelBecomesAShotThatCanBeEdited(t *testing.T) {
	h := newHouse(t, "")
	var got Imported
	if code := h.send(upload(t, "tetra.obj", []byte(tetra)), &got); code != 200 || got.Report.Triangles != 4 || got.Report.Unit != "mm" {
		t.Fatalf("%d: %+v", code, got)
	}
	var s ShotReply
	h.json("GET", "/api/shots/"+got.Shot, nil, &s)
	if s.Version != 1 || s.CanUndo || s.Margins == nil || len(s.Moves) != 1 || !s.Moves[0].Closes || !s.Loop.Closes || *s.Wobble > 1e-9 {
		t.Fatalf("%+v", s)
	}
	name := document(t, s).Parts[0].Moves[0].ID
	turned := func(version int, values string) EditRequest {
		return EditRequest{Version: version, Edits: []edit.Edit{{Change: &edit.SetMove{Move: name, Values: map[string]json.RawMessage{"direction": json.RawMessage(values)}}}}}
	}
	if code := h.change(&s, "edits", turned(1, `"counterclockwise"`)); code != 200 || s.Version != 2 || !s.CanUndo {
		t.Fatalf("%d: version %d", code, s.Version)
	}
	var refusal ErrorReply
	if code := h.json("POST", "/api/shots/"+got.Shot+"/edits", turned(1, `"clockwise"`), &refusal); code != 409 || refusal.Shot == nil || refusal.Shot.Version != 2 {
		t.Errorf("a stale edit of the same word: %d %+v", code, refusal)
	}
	elsewhere := EditRequest{Version: 1, Edits: []edit.Edit{{Change: &edit.SetMove{Move: name, Patch: edit.Patch(`{"muted": true}`)}}}}
	if code := h.change(&s, "edits", elsewhere); code != 200 || s.Version != 3 {
		t.Errorf("an edit of another word: %d, version %d", code, s.Version)
	}
	half := EditRequest{Version: 3, Edits: []edit.Edit{
		{Change: &edit.Rename{Name: "Half"}},
		{Change: &edit.SetMove{Move: name, Values: map[string]json.RawMessage{"turns": json.RawMessage("0.5")}}},
	}}
	if code := h.json("POST", "/api/shots/"+got.Shot+"/edits", half, &refusal); code != 422 || !strings.Contains(refusal.Error, "whole number") {
		t.Errorf("half a turntable: %d %q", code, refusal.Error)
	}
	h.json("GET", "/api/shots/"+got.Shot, nil, &s)
	if d := document(t, s); d.Name == "Half" || s.Version != 3 {
		t.Error("of a list with a wrong edit one was carried out")
	}
	for range 2 {
		h.change(&s, "undo", VersionRequest{s.Version})
	}
	if document(t, s).Parts[0].Moves[0].Data.(*move.Turntable).Direction != shot.Clockwise || !s.CanRedo {
		t.Error("undo did not bring the direction back")
	}
	var baked string
	if code := h.json("GET", "/api/shots/"+got.Shot+"/bake", nil, &baked); code != 200 || baked[:4] != "PGB1" {
		t.Errorf("the bake: %d, %q", code, baked[:min(4, len(baked))])
	}
	var glb string
	asset := ""
	for _, p := range document(t, s).Parts {
		if p.Mesh != nil {
			asset = p.Mesh.Asset
		}
	}
	if code := h.json("GET", "/api/assets/"+asset+".glb", nil, &glb); code != 200 || !strings.HasPrefix(glb, "glTF") {
		t.Errorf("the asset: %d", code)
	}
}

// What is kept of a request, as the ids that caches go by, is not written over by later ones: two shots that are asked
// for in turn stay apart.
func TestShotsStayApart(t *testing.T) {
	h := newHouse(t, "")
	var shots [2]string
	for i, name := range []string{"one.obj", "two.obj"} {
		var got Imported
		h.send(upload(t, name, []byte(tetra)), &got)
		shots[i] = got.Shot
	}
	for round := range 5 {
		for i, id := range shots {
			var s ShotReply
			h.json("GET", "/api/shots/"+id, nil, &s)
			h.change(&s, "edits", EditRequest{Version: s.Version, Edits: []edit.Edit{{Change: &edit.Rename{Name: fmt.Sprint(i, " ", round)}}}})
			h.json("POST", "/api/shots/"+shots[1-i]+"/undo", VersionRequest{1}, nil)
			var c CompareReply
			if h.json("GET", "/api/shots/"+id+"/compare?from=1&to=2", nil, &c); len(c.Differences) != 1 {
				t.Fatalf("between the first two versions of shot %d are %q", i, c.Differences)
			}
		}
	}
}

func TestBadUploadsLeaveNothing(t *testing.T) {
	h := newHouse(t, "")
	var refusal ErrorReply
	for name, data := range map[string]string{"a.glb": "glTF\x02", "b.obj": "v 1 2\n", "c.txt": "hello", "d.stl": ""} {
		if code := h.send(upload(t, name, []byte(data)), &refusal); code != 422 || !strings.Contains(refusal.Error, name) {
			t.Errorf("%s: %d %q", name, code, refusal.Error)
		}
	}
	var state State
	h.json("GET", "/api/state", nil, &state)
	if len(state.Projects) != 0 {
		t.Errorf("%d projects came of bad uploads", len(state.Projects))
	}
	if code := h.json("GET", "/api/shots/none", nil, &refusal); code != 404 {
		t.Errorf("a shot that is not there: %d", code)
	}
	if code := h.json("GET", "/api/assets/..%2f..%2fperigyre.db.glb", nil, nil); code != 404 {
		t.Errorf("a path out of the blobs: %d", code)
	}
}

// A disk that fails is told as the server's fault, not as bad input, and is in the log.
func TestAFailingDiskIsNoBadInput(t *testing.T) {
	h := newHouse(t, "")
	var log bytes.Buffer
	was := slog.Default()
	slog.SetDefault(slog.New(slog.NewTextHandler(&log, nil)))
	defer slog.SetDefault(was)
	var got Imported
	h.send(upload(t, "tetra.obj", []byte(tetra)), &got)
	blobs := filepath.Join(h.data, "blobs")
	if err := os.RemoveAll(blobs); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(blobs, nil, 0o600); err != nil { // nothing can be read from below a file, or written there
		t.Fatal(err)
	}
	var refusal ErrorReply
	if code := h.send(upload(t, "other.obj", []byte(strings.ReplaceAll(tetra, "40", "41"))), &refusal); code != 500 || refusal.Error == "" {
		t.Errorf("an import: %d %q", code, refusal.Error)
	}
	if code := h.json("GET", "/api/assets/"+strings.Repeat("ab", 32)+".glb", nil, &refusal); code != 500 && code != 404 {
		t.Errorf("an asset: %d %q", code, refusal.Error)
	}
	var s ShotReply
	if code := h.json("GET", "/api/shots/"+got.Shot, nil, &s); code == 200 {
		shape := EditRequest{Version: s.Version, Edits: []edit.Edit{{Change: &edit.AddWord{}}}}
		if code := h.json("POST", "/api/shots/"+got.Shot+"/edits", shape, &refusal); code != 500 {
			t.Errorf("a word, whose mesh is kept: %d %q", code, refusal.Error)
		}
	}
	if strings.Count(log.String(), "level=ERROR") < 2 {
		t.Errorf("the log says %q", log.String())
	}
}

// Every answer tells browsers what it may do, the front page too, and the address that is printed logs in; what a file brought
// is served as what it is.
func TestHeaders(t *testing.T) {
	h := newHouse(t, "secret")
	for _, path := range []string{"/?token=secret", "/shots/any?token=secret", "/api/state?token=secret", "/api/nothing?token=secret", "/", "/api/state"} {
		r := httptest.NewRequest("GET", path, nil)
		r.Host = "here:1"
		res, err := h.app.Test(r)
		if err != nil {
			t.Fatal(err)
		}
		for _, name := range []string{"Content-Security-Policy", "X-Content-Type-Options", "Referrer-Policy"} {
			if res.Header.Get(name) == "" {
				t.Errorf("%s: no %s", path, name)
			}
		}
		if logs := strings.Contains(path, "token"); logs != strings.Contains(res.Header.Get("Set-Cookie"), "HttpOnly") {
			t.Errorf("%s: %d, the cookie is %q", path, res.StatusCode, res.Header.Get("Set-Cookie"))
		}
	}
	for data, want := range map[string]string{
		"<!doctype html><script>alert(1)</script>": "application/octet-stream", "<svg xmlns='http://www.w3.org/2000/svg'/>": "application/octet-stream",
		"\x89PNG\r\n\x1a\n": "image/png", "\xff\xd8\xff": "image/jpeg", "": "application/octet-stream",
	} {
		if got := pictureType([]byte(data)); got != want {
			t.Errorf("%q is served as %s", data, got)
		}
	}
}

func TestGuard(t *testing.T) {
	h := newHouse(t, "")
	other := httptest.NewRequest("GET", "/api/state", nil)
	other.Host = "evil.example"
	if code := h.sendTo(other, nil); code != 403 {
		t.Errorf("another host: %d", code)
	}
	cross := httptest.NewRequest("DELETE", "/api/projects/x", nil)
	cross.Header.Set("Origin", "http://evil.example")
	if code := h.send(cross, nil); code != 403 {
		t.Errorf("another origin: %d", code)
	}
	var page string
	if code := h.send(httptest.NewRequest("GET", "/shots/abc", nil), &page); code != 200 || !strings.Contains(page, "front") {
		t.Errorf("an address of the front end: %d %q", code, page)
	}
	locked := newHouse(t, "secret")
	if code := locked.send(httptest.NewRequest("GET", "/api/state", nil), nil); code != 401 {
		t.Errorf("without the token: %d", code)
	}
	with := httptest.NewRequest("GET", "/api/state", nil)
	with.Header.Set("Authorization", "Bearer secret")
	if code := locked.send(with, nil); code != 200 {
		t.Errorf("with the token: %d", code)
	}
}

// Whatever is asked, with whatever in the address and the body, is answered with what was asked for or a sentence, and
// never by a fault of the program; what is refused changes nothing.
func TestOddRequests(t *testing.T) {
	h := newHouse(t, "")
	var got Imported
	h.send(upload(t, "tetra.obj", []byte(tetra)), &got)
	var before, after, page string
	h.json("GET", "/api/shots/"+got.Shot, nil, &before)
	var s ShotReply
	h.json("GET", "/api/shots/"+got.Shot, nil, &s)
	settings := runs.Defaults(document(t, s))
	settings.Width, settings.Height, settings.To, settings.Format, settings.Bits, settings.Quality = 16, 16, 0, runs.EXR, 16, render.Draft
	settings.Passes = []render.Pass{render.Depth}
	var run RunReply
	if code := h.json("POST", "/api/shots/"+got.Shot+"/runs", RunRequest{Settings: settings}, &run); code != 200 {
		t.Fatalf("the run is not taken: %d", code)
	}
	for run.Progress.State != runs.Done { // its frame is there to be asked for
		if h.json("GET", "/api/runs/"+run.ID, nil, &run); run.Progress.State == runs.Failed {
			t.Fatal(run.Progress.Message)
		}
	}
	// What a browser makes of a number that is none is no range that ends at frame 0.
	text, _ := json.Marshal(RunRequest{Settings: settings})
	r := httptest.NewRequest("POST", "/api/shots/"+got.Shot+"/runs", strings.NewReader(strings.Replace(string(text), `"to":0`, `"to":null`, 1)))
	r.Header.Set("Content-Type", "application/json")
	if code := h.send(r, &page); code != 422 || !strings.Contains(page, "its settings.to is no number") {
		t.Errorf("a run to no number is answered with %d: %s", code, page)
	}
	odd := map[string][]string{
		"id": {got.Shot, run.ID, "none", "..%2f..%2fperigyre", "%00", strings.Repeat("x", 300)}, "hash": {"none", strings.Repeat("a", 64), "..%2fx"},
		"number": {"0", "-1", "x", "1e9", "99999999999999999999"}, "from": {"-1", "x"}, "to": {"-5", "x"}, "ticket": {"none"}, "state": {"paused"}, "kind": {"apng"},
	}
	queries := []string{"", "?frame=x&width=-1&height=1e99&from=NaN&to=-1&pass=none&size=0", "?frame=-7&width=99999999&height=99999999&samples=0&a=1&b=x"}
	bodies := []string{
		"", "{", "[]", "null", "{}", `"x"`, `{"version":-1}`, `{"version":1e99}`, `{"edits":[{}],"version":1}`, `{"edits":null}`, `{"version":1,"edits":[{"rename":{"name":3}}]}`,
		`{"settings":{"width":-1,"passes":["none"]}}`, `{"name":"\u0000"}`, `{"frame":-1,"settings":null}`, "\xff\xfe",
	}
	asked := 0
	for _, route := range h.app.GetRoutes(true) {
		if route.Path == "/api/events" || route.Method == "HEAD" || strings.HasSuffix(route.Path, "/duplicate") {
			continue // the first does not end, and the last is nothing odd
		}
		paths := []string{withoutPatterns(route.Path)}
		for _, name := range route.Params {
			var more []string
			for _, p := range paths {
				for _, v := range odd[name] {
					more = append(more, strings.Replace(p, ":"+name, v, 1))
				}
			}
			paths = more
		}
		for _, p := range paths {
			if route.Method == "DELETE" && strings.Contains(p, got.Shot) {
				continue
			}
			for k := range max(len(queries), len(bodies)) {
				var r *http.Request
				switch bare := route.Method == "GET" || route.Method == "DELETE"; {
				case bare && k < len(queries):
					r = httptest.NewRequest(route.Method, p+queries[k], nil)
				case bare:
					continue
				default:
					r = httptest.NewRequest(route.Method, p, strings.NewReader(bodies[k]))
					r.Header.Set("Content-Type", "application/json")
				}
				code := h.send(r, &page)
				asked++
				var refusal ErrorReply
				if code >= 500 || code >= 400 && (json.Unmarshal([]byte(page), &refusal) != nil || !strings.Contains(refusal.Error, " ") || strings.Contains(page, "json:")) {
					t.Errorf("%s %s, %d: %d %s", r.Method, r.URL, k, code, page)
				}
			}
		}
	}
	if h.json("GET", "/api/shots/"+got.Shot, nil, &after); before != after {
		t.Errorf("the shot was\n%s\nand is\n%s", before, after)
	}
	if asked < 300 {
		t.Errorf("%d requests were made", asked)
	}
}

// withoutPatterns takes the patterns out of an address's parameters.
func withoutPatterns(path string) string {
	for {
		from, to := strings.Index(path, "<"), strings.Index(path, ">")
		if from < 0 {
			return path
		}
		path = path[:from] + path[to+1:]
	}
}
