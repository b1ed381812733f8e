package runs

import (
	"bytes"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"perigyre/store"
)

// watched is a drive that sees to it that no name other than those of what is arriving ever stands for anything but the whole file.
type watched struct {
	Folder
	t    *testing.T
	want map[string][]byte
}

func (w watched) Rename(from, to string) error {
	err := w.Folder.Rename(from, to)
	if got, _ := w.Folder.Read(to); !bytes.Equal(got, w.want[to]) {
		w.t.Errorf("%s stood for %d bytes of %d", to, len(got), len(w.want[to]))
	}
	return err
}

// A run arrives whole on a drive that is late, full and away, for every seed, and no final name ever stands for half a file.
func TestADriveWithTroubles(t *testing.T) {
	from := t.TempDir()
	want := map[string][]byte{}
	var frames []store.Frame
	for i := range 30 {
		name := fmt.Sprintf("f.%04d.png", i)
		data := bytes.Repeat([]byte{byte(i), 1, 2}, 2000)
		if err := os.WriteFile(filepath.Join(from, name), data, 0o644); err != nil {
			t.Fatal(err)
		}
		want[filepath.Join("run", name)] = data
		frames = append(frames, store.Frame{Number: i, File: name, State: store.FrameDone, SHA256: sum(data)})
	}
	for seed := range uint64(12) {
		to := Folder(t.TempDir())
		troubles := map[string]bool{}
		c := Courier{To: &StandIn{Over: watched{to, t, want}, Troubles: DriveTroubles, Every: 15 * time.Millisecond, Seed: seed}, Under: "run", Wait: time.Millisecond, Most: 4 * time.Millisecond,
			Say: func(_, what string) { troubles[what] = true }}
		if err := c.Bring(t.Context(), from, frames, nil); err != nil {
			t.Fatal(err)
		}
		list, err := os.ReadDir(filepath.Join(string(to), "run"))
		if err != nil || len(list) != len(frames) {
			t.Fatalf("seed %d: %d files arrived: %v", seed, len(list), err)
		}
		for name, data := range want {
			if got, err := to.Read(name); err != nil || !bytes.Equal(got, data) {
				t.Errorf("seed %d: %s: %v", seed, name, err)
			}
		}
		if len(troubles) < 2 {
			t.Errorf("seed %d: it had no troubles: %v", seed, troubles)
		}
	}
}

// What is there under the same name is never written over, and a drive that is not there is not made.
func TestADriveKeepsWhatItHas(t *testing.T) {
	from, to := t.TempDir(), t.TempDir()
	if err := os.WriteFile(filepath.Join(from, "a.png"), []byte("new"), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(to, "a.png"), []byte("old"), 0o644); err != nil {
		t.Fatal(err)
	}
	c := Courier{To: Folder(to)}
	if err := c.Deliver(t.Context(), from, "a.png"); !errors.Is(err, ErrOther) {
		t.Error(err)
	}
	if got, _ := os.ReadFile(filepath.Join(to, "a.png")); string(got) != "old" {
		t.Errorf("it is %q now", got)
	}
	away := filepath.Join(to, "away")
	err := Folder(away).Write("b/a.png", nil)
	if _, there := os.Stat(away); err == nil || there == nil || !strings.Contains(trouble(err), "away") {
		t.Errorf("a drive that was not there was made: %v", err)
	}
}

// A run that asks for it is on the drive soon after it is done, and one that does not is not.
func TestRunsAreDelivered(t *testing.T) {
	_, q := opened(t, func(Progress) {})
	to := t.TempDir()
	q.DeliverTo(&StandIn{Over: Folder(to), Troubles: []string{Late, Fill}, Every: 10 * time.Millisecond, Seed: 5})
	var ids []string
	for _, deliver := range []bool{true, false} {
		o := Defaults(boxShot())
		o.Deliver = deliver
		id, err := q.Start("shot", "P", boxShot(), o)
		if err != nil {
			t.Fatal(err)
		}
		wait(t, q, id, Done)
		ids = append(ids, id)
	}
	for range 1000 {
		if _, p, _, _ := q.Status(ids[0]); p.Delivered == 6 && p.Trouble == "" {
			break
		}
		time.Sleep(10 * time.Millisecond)
	}
	list, err := os.ReadDir(to)
	if err != nil || len(list) != 1 {
		t.Fatalf("%d folders are on the drive: %v", len(list), err)
	}
	r, _, frames, err := q.Status(ids[0])
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range frames {
		if there := filepath.Join(to, filepath.Base(r.Folder)); !Intact(there, f) {
			t.Errorf("frame %d is not on the drive as it was rendered", f.Number)
		}
	}
}
