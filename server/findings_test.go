package server

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"perigyre/core/edit"
)

// Findings are asked for by several windows while a shot is edited: each answer is of the newest version or says that a newer one was
// looked at, and in the end they are those of the shot as it is. A rehearsal ends when it is told to, and one of a newer version takes
// the place of an older.
func TestFindingsWhileEditing(t *testing.T) {
	h := newHouse(t, "")
	var got Imported
	h.send(upload(t, "tetra.obj", []byte(tetra)), &got)
	_, d := h.shot(got.Shot)
	part := d.Sources[0].Root
	h.edit(got.Shot, &edit.AddMove{Part: part, Kind: "turn", ID: "third"})
	var all sync.WaitGroup
	for range 3 {
		all.Go(func() {
			for range 6 {
				var r FindingsReply
				if code := h.json("GET", "/api/shots/"+got.Shot+"/findings", nil, &r); code != 200 && code != 409 {
					t.Errorf("%d", code)
				}
			}
		})
	}
	for k := range 6 {
		h.edit(got.Shot, &edit.SetPart{Part: part, Patch: edit.Patch(fmt.Sprintf(`{"name": "%d"}`, k))})
	}
	all.Wait()
	now, _ := h.shot(got.Shot)
	var r FindingsReply
	if code := h.json("GET", "/api/shots/"+got.Shot+"/findings", nil, &r); code != 200 || r.Version != now.Version || r.Findings == nil {
		t.Errorf("%d %+v of version %d", code, r, now.Version)
	}
	var m MetersReply
	if code := h.json("GET", "/api/shots/"+got.Shot+"/parts/"+part+"/meters", nil, &m); code != 200 || len(m.Meters) < 2 {
		t.Errorf("%d %+v", code, m)
	}

	state := func(want string) (r RehearsalReply) {
		t.Helper()
		for begin := time.Now(); ; time.Sleep(5 * time.Millisecond) {
			if h.json("GET", "/api/shots/"+got.Shot+"/rehearsal", nil, &r); r.State == want {
				return r
			}
			if time.Since(begin) > time.Minute {
				t.Fatalf("%+v, want %s", r, want)
			}
		}
	}
	if r := state("none"); r.Done != 0 {
		t.Errorf("%+v", r)
	}
	h.json("POST", "/api/shots/"+got.Shot+"/rehearsal", nil, nil)
	state("running")
	h.json("DELETE", "/api/shots/"+got.Shot+"/rehearsal", nil, nil)
	state("stopped")
	few := 3
	h.edit(got.Shot, &edit.SetTiming{Frames: &few})
	h.json("POST", "/api/shots/"+got.Shot+"/rehearsal", nil, nil)
	if r := state("done"); r.Done != 3 || len(r.Frames) != 3 || r.Version <= now.Version {
		t.Errorf("%+v", r)
	}
}
