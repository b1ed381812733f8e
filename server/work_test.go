package server

import (
	"bytes"
	"database/sql"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"mime/multipart"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"perigyre/core/edit"
	"perigyre/core/model"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/library"
	"perigyre/runs"
	"perigyre/store"
)

// post sends files, and values beside them, as a browser's form.
func (h house) post(path string, files map[string]string, values map[string]string, into any) int {
	h.t.Helper()
	var b bytes.Buffer
	form := multipart.NewWriter(&b)
	for name, data := range files {
		w, err := form.CreateFormFile("file", name)
		if err != nil {
			h.t.Fatal(err)
		}
		_, _ = w.Write([]byte(data))
	}
	for name, v := range values {
		_ = form.WriteField(name, v)
	}
	form.Close()
	r := httptest.NewRequest("POST", path, &b)
	r.Header.Set("Content-Type", form.FormDataContentType())
	return h.send(r, into)
}

func (h house) shot(id string) (s ShotReply, d *shot.Shot) {
	h.t.Helper()
	if code := h.json("GET", "/api/shots/"+id, nil, &s); code != 200 {
		h.t.Fatalf("the shot is answered with %d", code)
	}
	return s, document(h.t, s)
}

// edit carries out changes of a shot that must be right.
func (h house) edit(id string, changes ...edit.Change) {
	h.t.Helper()
	s, _ := h.shot(id)
	r := EditRequest{Version: s.Version}
	for _, c := range changes {
		r.Edits = append(r.Edits, edit.Edit{Change: c})
	}
	var text string
	if code := h.json("POST", "/api/shots/"+id+"/edits", r, &text); code != 200 {
		h.t.Fatalf("%d: %s", code, text)
	}
}

func named(d *shot.Shot, name string) *shot.Part {
	for i := range d.Parts {
		if d.Parts[i].Name == name {
			return &d.Parts[i]
		}
	}
	return nil
}

// What was done to a part by hand stays when a newer file takes the place of the one it came from, and one undo takes the
// newer file back.
func TestReplacingThroughTheServer(t *testing.T) {
	h := newHouse(t, "")
	var got Imported
	h.send(upload(t, "tetra.obj", []byte(tetra)), &got)
	s, d := h.shot(got.Shot)
	was := named(d, "Tetra")
	h.edit(got.Shot, &edit.SetPart{Part: was.ID, Patch: edit.Patch(`{"name": "Gem", "rest": {"position": [0.01, 0, 0]}}`)},
		&edit.AddMove{Part: was.ID, Kind: "float"})
	newer := strings.ReplaceAll(tetra, "v 0 60 0", "v 0 90 0") + "o Second\nv 9 0 0\nv 12 0 0\nv 9 0 3\nv 9 3 0\nf 5 6 7\nf 5 8 6\n"
	var r library.Replaced
	if code := h.post("/api/shots/"+got.Shot+"/replace?root="+d.Sources[0].Root, map[string]string{"newer.obj": newer}, nil, &r); code != 200 {
		t.Fatalf("replacing: %d", code)
	}
	s, d = h.shot(got.Shot)
	gem := named(d, "Gem")
	if r.Matched != 1 || len(r.New) != 1 || gem == nil || gem.ID != was.ID || gem.Rest.Position[0] != 0.01 || len(gem.Moves) != 1 || gem.Mesh.Asset == was.Mesh.Asset || named(d, "Second") == nil {
		t.Errorf("%+v: %+v", r, gem)
	}
	if d.Sources[0].File != "newer.obj" || s.Reports[0].Triangles != 4 && s.Reports[0].Triangles != 6 {
		t.Errorf("the source is %+v, its report %+v", d.Sources[0], s.Reports)
	}
	h.change(&s, "undo", VersionRequest{s.Version})
	if _, d = h.shot(got.Shot); named(d, "Second") != nil || named(d, "Gem").Mesh.Asset != was.Mesh.Asset || len(named(d, "Gem").Moves) != 1 {
		t.Error("an undo does not take the newer file back")
	}
	var refusal ErrorReply
	if code := h.post("/api/shots/"+got.Shot+"/replace?root=nobody", map[string]string{"newer.obj": newer}, nil, &refusal); code != 422 || refusal.Error == "" {
		t.Errorf("replacing what is not there: %d %q", code, refusal.Error)
	}
}

// Pictures find the slots that lack them, and nothing else is touched; a file that is no picture is left, with the reason.
func TestTexturingThroughTheServer(t *testing.T) {
	h := newHouse(t, "")
	var got Imported
	h.post("/api/imports", map[string]string{
		"tile.obj": "mtllib tile.mtl\no Tile\nv 0 0 0\nv 1 0 0\nv 1 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nusemtl Tile\nf 1/1 2/2 3/3\n",
		"tile.mtl": "newmtl Tile\nKd 1 1 1\nmap_Kd blue.png\n",
	}, nil, &got)
	if len(got.Report.Missing) != 1 {
		t.Fatalf("missing: %q", got.Report.Missing)
	}
	var b bytes.Buffer
	if err := png.Encode(&b, image.NewRGBA(image.Rect(0, 0, 4, 4))); err != nil {
		t.Fatal(err)
	}
	var placed library.Textured
	if code := h.post("/api/shots/"+got.Shot+"/textures", map[string]string{"blue.png": b.String()}, nil, &placed); code != 200 || len(placed.Placed) != 1 {
		t.Fatalf("placing: %d %+v", code, placed)
	}
	_, d := h.shot(got.Shot)
	found := false
	for i := range d.Materials {
		if x := d.Materials[i].BaseColorTexture; d.Materials[i].Name == "Tile" {
			found = x != nil && x.Missing == "" && x.Asset != ""
		}
	}
	if !found {
		t.Errorf("%+v", d.Materials)
	}
	placed = library.Textured{}
	h.post("/api/shots/"+got.Shot+"/textures", map[string]string{"note.png": "no picture"}, nil, &placed)
	if len(placed.Placed) > 0 || len(placed.Left) != 1 || placed.Left[0].File != "note.png" || placed.Left[0].Why == "" {
		t.Errorf("what is no picture: %+v", placed)
	}
}

// A duplicate is a shot of its own, under a name of its own, with no history; pasted parts bring along what they wear.
func TestDuplicatesAndPastedParts(t *testing.T) {
	h := newHouse(t, "")
	var got, other Imported
	h.send(upload(t, "tetra.obj", []byte(tetra)), &got)
	h.send(upload(t, "other.obj", []byte(tetra)), &other)
	_, d := h.shot(got.Shot)
	h.edit(got.Shot, &edit.SetPart{Part: named(d, "Tetra").ID, Patch: edit.Patch(`{"name": "Gem"}`)})
	var copied store.ShotName
	if code := h.json("POST", "/api/shots/"+got.Shot+"/duplicate", nil, &copied); code != 200 {
		t.Fatalf("duplicating: %d", code)
	}
	s, twin := h.shot(copied.ID)
	_, d = h.shot(got.Shot)
	if named(twin, "Gem") == nil || s.CanUndo || twin.Name == d.Name || s.Version != 1 {
		t.Errorf("the duplicate is %q in version %d", twin.Name, s.Version)
	}
	h.edit(copied.ID, &edit.SetPart{Part: named(twin, "Gem").ID, Patch: edit.Patch(`{"name": "Stone"}`)})
	if _, d = h.shot(got.Shot); named(d, "Gem") == nil || named(d, "Stone") != nil {
		t.Error("a change of the duplicate changes the shot")
	}
	var pasted PasteReply
	if code := h.json("POST", "/api/shots/"+other.Shot+"/paste", PasteRequest{From: got.Shot, Parts: []string{named(d, "Gem").ID}}, &pasted); code != 200 || len(pasted.Parts) != 1 {
		t.Fatalf("pasting: %d %+v", code, pasted)
	}
	_, there := h.shot(other.Shot)
	if p := there.Part(pasted.Parts[0]); p == nil || p.Name != "Gem" || p.Mesh.Asset != named(d, "Gem").Mesh.Asset {
		t.Errorf("what was pasted is %+v", p)
	}
	if err := there.Validate(); err != nil { // it wears nothing that is not there
		t.Error(err)
	}
}

// A drawing becomes parts; another edge makes their meshes anew and keeps their names and moves.
func TestMarksThroughTheServer(t *testing.T) {
	h := newHouse(t, "")
	var got Imported
	svg := `<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" viewBox="0 0 60 60"><path id="frame" fill="#123456" d="M0 0H60V60H0z M15 15V45H45V15z"/><circle id="dot" cx="30" cy="30" r="8" fill="#fa0"/></svg>`
	if code := h.send(upload(t, "mark.svg", []byte(svg)), &got); code != 200 {
		t.Fatalf("a drawing: %d", code)
	}
	_, d := h.shot(got.Shot)
	frame, dot := named(d, "frame"), named(d, "dot")
	if frame == nil || dot == nil {
		t.Fatalf("%+v", d.Parts)
	}
	h.edit(got.Shot, &edit.SetPart{Part: dot.ID, Patch: edit.Patch(`{"name": "Eye"}`)}, &edit.AddMove{Part: dot.ID, Kind: "float"})
	mark := d.Parts[d.Index(frame.Parent)]
	if mark.Mark == nil {
		t.Fatalf("the drawing is %+v", mark)
	}
	h.edit(got.Shot, &edit.SetPart{Part: mark.ID, Patch: edit.Patch(`{"mark": {"solid": {"bevel": "chamfer", "width": 0.001, "steps": 2}}}`)})
	_, now := h.shot(got.Shot)
	eye := named(now, "Eye")
	if eye == nil || eye.ID != dot.ID || len(eye.Moves) != 1 || eye.Mesh.Asset == dot.Mesh.Asset || named(now, "frame").Mesh.Asset == frame.Mesh.Asset {
		t.Errorf("after another edge: %+v", eye)
	}
	h.edit(got.Shot, &edit.AddWord{})
	_, now = h.shot(got.Shot)
	letters := 0
	for i := range now.Parts {
		if up := now.Part(now.Parts[i].Parent); up != nil && up.Mark != nil && up.Mark.Word != nil && now.Parts[i].Mesh != nil {
			letters++
		}
	}
	if letters != len("Word") {
		t.Errorf("a word of four letters has %d meshes", letters)
	}
}

// A project that was saved opens in another house as it was, with all that it needs; one that is cut short is refused and
// leaves nothing.
func TestProjectsGoElsewhere(t *testing.T) {
	h := newHouse(t, "")
	var got Imported
	h.send(upload(t, "tetra.obj", []byte(tetra)), &got)
	_, d := h.shot(got.Shot)
	h.edit(got.Shot, &edit.SetPart{Part: named(d, "Tetra").ID, Patch: edit.Patch(`{"name": "Gem"}`)})
	_, d = h.shot(got.Shot)
	var zip string
	if code := h.json("GET", "/api/projects/"+got.Project+"/project.zip", nil, &zip); code != 200 {
		t.Fatalf("saving: %d", code)
	}
	elsewhere := newHouse(t, "")
	var opened Imported
	if code := elsewhere.send(upload(t, "project.zip", []byte(zip)), &opened); code != 200 {
		t.Fatalf("opening: %d", code)
	}
	s, there := elsewhere.shot(opened.Shot)
	a, _ := json.Marshal(d)
	b, _ := json.Marshal(there)
	if !bytes.Equal(a, b) {
		t.Errorf("the document is another:\n%s\n%s", a, b)
	}
	var here, far string
	h.json("GET", "/api/shots/"+got.Shot+"/bake", nil, &here)
	elsewhere.json("GET", "/api/shots/"+opened.Shot+"/bake", nil, &far)
	if here != far || here == "" {
		t.Error("it moves otherwise")
	}
	if code := elsewhere.json("GET", "/api/assets/"+named(there, "Gem").Mesh.Asset+".glb", nil, &far); code != 200 || s.Margins == nil {
		t.Errorf("its mesh: %d", code)
	}
	var refusal ErrorReply
	for _, cut := range []int{len(zip) / 2, len(zip) - 30} {
		if code := elsewhere.send(upload(t, "project.zip", []byte(zip[:cut])), &refusal); code != 422 || refusal.Error == "" {
			t.Errorf("a project cut short: %d %q", code, refusal.Error)
		}
	}
	var state State
	if elsewhere.json("GET", "/api/state", nil, &state); len(state.Projects) != 1 {
		t.Errorf("%d projects are there", len(state.Projects))
	}
}

// Windows that change one shot at the same time, each from the version that it saw last: all changes stand, each in the
// history once, and every window is told of every version.
func TestManyWindowsAtOnce(t *testing.T) {
	h := newHouse(t, "")
	var got Imported
	h.send(upload(t, "tetra.obj", []byte(tetra)), &got)
	const windows, rounds = 4, 10
	var made []edit.Change
	for range windows {
		made = append(made, &edit.AddShape{Kind: "box"})
	}
	h.edit(got.Shot, made...)
	s, d := h.shot(got.Shot)
	events := h.studio.hub.join()
	defer h.studio.hub.leave(events)
	var all sync.WaitGroup
	for w := range windows {
		part := d.Parts[len(d.Parts)-1-w].ID
		seen := s.Version
		all.Go(func() {
			for k := range rounds {
				var c ShotChange
				r := EditRequest{Version: seen, Edits: []edit.Edit{{Change: &edit.SetPart{Part: part, Patch: edit.Patch(fmt.Sprintf(`{"name": "%d.%d"}`, w, k))}}}}
				if code := h.json("POST", "/api/shots/"+got.Shot+"/edits", r, &c); code != 200 {
					t.Errorf("window %d, edit %d: %d", w, k, code)
					return
				}
				seen = c.Shot.Version
			}
		})
	}
	all.Wait()
	now, d := h.shot(got.Shot)
	for w := range windows {
		if name := d.Parts[len(d.Parts)-1-w].Name; name != fmt.Sprintf("%d.%d", w, rounds-1) {
			t.Errorf("part %d is called %q", w, name)
		}
	}
	if now.Version != s.Version+windows*rounds {
		t.Errorf("version %d after %d edits from %d", now.Version, windows*rounds, s.Version)
	}
	var history []Revision
	if h.json("GET", "/api/shots/"+got.Shot+"/history", nil, &history); len(history) != now.Version {
		t.Errorf("%d places in the history", len(history))
	}
	told := map[int]bool{}
	for len(events) > 0 {
		var e Event
		if err := json.Unmarshal(<-events, &e); err != nil || e.Shot == nil {
			t.Fatalf("%v: %+v", err, e)
		}
		told[e.Shot.Version] = true
	}
	if len(told) != windows*rounds {
		t.Errorf("%d versions were told", len(told))
	}
}

// A document or a run that is damaged on the disk is said where it is asked for, and stops nothing else: neither the list of
// projects, nor that of runs, nor the runs that wait behind it.
func TestDamageStopsNothingElse(t *testing.T) {
	h := newHouse(t, "")
	var a, b Imported
	h.send(upload(t, "a.obj", []byte(tetra)), &a)
	h.send(upload(t, "b.obj", []byte(tetra)), &b)
	var s ShotReply
	h.json("GET", "/api/shots/"+a.Shot, nil, &s)
	o := runs.Defaults(document(t, s))
	o.Width, o.Height, o.To, o.Quality = 16, 16, 0, render.Draft
	var broken, whole RunReply
	if code := h.json("POST", "/api/shots/"+a.Shot+"/runs", RunRequest{Settings: o}, &broken); code != 200 {
		t.Fatal(code)
	}
	db, err := sql.Open("sqlite", "file:"+filepath.Join(h.data, "perigyre.db")+"?_pragma=busy_timeout(5000)")
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	for _, q := range []string{`UPDATE run SET document = x'0011'`, `UPDATE revision SET document = x'0011' WHERE shot = '` + a.Shot + `'`} {
		if _, err := db.Exec(q); err != nil {
			t.Fatal(err)
		}
	}
	h.studio.Close() // and another start
	st, err := store.Open(h.data)
	if err != nil {
		t.Fatal(err)
	}
	again, err := OpenStudio(st, t.TempDir(), model.DefaultLimits, nil)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { again.Close(); st.Close() })
	h.studio, h.app = again, App(again, fstest.MapFS{"index.html": {}}, []string{"here:1"}, "")
	if code := h.json("GET", "/api/state", nil, new(State)); code != 200 {
		t.Errorf("the list of projects: %d", code)
	}
	var e ErrorReply
	if code := h.json("GET", "/api/shots/"+a.Shot, nil, &e); code == 200 || !strings.Contains(e.Error, "damaged") {
		t.Errorf("the damaged shot: %d %q", code, e.Error)
	}
	if code := h.json("POST", "/api/shots/"+b.Shot+"/runs", RunRequest{Settings: o}, &whole); code != 200 {
		t.Fatalf("a run of another shot: %d", code)
	}
	for end := time.Now().Add(time.Minute); ; time.Sleep(10 * time.Millisecond) {
		var list []RunReply
		if code := h.json("GET", "/api/runs", nil, &list); code != 200 || len(list) != 2 {
			t.Fatalf("the list of runs: %d, %d of them", code, len(list))
		}
		if list[0].Progress.State == runs.Done && list[1].Progress.State != runs.Running {
			break
		}
		if time.Now().After(end) {
			t.Fatalf("the other run does not end: %+v", list)
		}
	}
}
