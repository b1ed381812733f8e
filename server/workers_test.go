package server

import (
	"strings"
	"testing"
	"time"

	"perigyre/farm"
)

// Where no workers may join there are none to wish anything of; where they may, the page has the line that makes one join, what is wished of
// this machine is kept, nonsense is refused with a sentence, and a worker that is there is not forgotten.
func TestThePageOfWorkers(t *testing.T) {
	alone := newHouse(t, "")
	var page WorkersReply
	if code := alone.json("GET", "/api/workers", nil, &page); code != 200 || page.Open || page.Line != "" || page.Working != 1 || page.Speed != 1 {
		t.Errorf("%d: %+v", code, page)
	}
	if code := alone.json("PUT", "/api/workers/abcd", WishRequest{farm.Pause}, nil); code != 404 {
		t.Errorf("a worker that there is not was told to pause: %d", code)
	}

	h := newHouseAt(t, "", &farm.Place{Folder: t.TempDir(), Listen: "127.0.0.1:0", Token: "otter"})
	for range 600 {
		h.json("GET", "/api/workers", nil, &page)
		if page.Working == 1 && page.Members[0].State == farm.Waiting {
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	if !page.Open || page.Beyond || page.Safe || len(page.Members) != 1 || !page.Members[0].Here || !strings.HasPrefix(page.Line, "perigyre worker --join 127.0.0.1:") || !strings.HasSuffix(page.Line, " --token otter") {
		t.Fatalf("%+v", page)
	}
	id := page.Members[0].ID
	if code := h.json("PUT", "/api/workers/"+id, WishRequest{farm.Pause}, &page); code != 200 || page.Members[0].State != farm.Paused || page.Working != 0 {
		t.Errorf("%d: %+v", code, page)
	}
	var e ErrorReply
	if code := h.json("PUT", "/api/workers/"+id, WishRequest{"dance"}, &e); code != 422 || !strings.Contains(e.Error, "not \"dance\"") {
		t.Errorf("%d: %s", code, e.Error)
	}
	if code := h.json("DELETE", "/api/workers/"+id, nil, &e); code != 422 || !strings.Contains(e.Error, "is there") {
		t.Errorf("%d: %s", code, e.Error)
	}
	if code := h.json("DELETE", "/api/workers/nobody", nil, nil); code != 404 {
		t.Errorf("nobody was forgotten: %d", code)
	}
}

// A queue apart has a token for workers that this program does not know, and this program's own secret is not for the page.
func TestThePageOfAQueueApart(t *testing.T) {
	address, end, err := farm.Serve(farm.Place{Folder: t.TempDir(), Listen: "127.0.0.1:0", Token: "otter"}, "badger")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(end)
	h := newHouseAt(t, "", &farm.Place{Folder: t.TempDir(), Join: "nats://first:badger@" + address})
	var page WorkersReply
	h.json("GET", "/api/workers", nil, &page)
	if !page.Open || !page.Apart || page.Beyond || page.Address != address || page.Line != "perigyre worker --join "+address+" --token TOKEN" {
		t.Errorf("%+v", page)
	}
}
