// Command torture does to a server what nobody should: it kills it in the middle of edits and of runs, fills its disk, takes
// its folders away, starts a second one on the same data and damages what it has stored; and tells what held. It works on
// folders of its own and on the loopback address alone. It needs bin/perigyre.
package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"math/rand/v2"
	"mime/multipart"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"time"
)

var (
	program = flag.String("program", "bin/perigyre", "the program")
	edits   = flag.Int("edits", 100, "kills in the middle of edits")
	renders = flag.Int("runs", 30, "kills in the middle of runs")
	farms   = flag.Int("farms", 5, "rounds of faults in farms of workers")
	round   = flag.Int("from", 0, "the first of them, so that one that failed can be tried again")
	seed    = flag.Uint64("seed", 1, "decides when faults in farms come")
	only    = flag.String("only", "", "the one thing that is done, by its name in the table; all where it is left out")
	minutes = flag.Float64("mixed", 0, "minutes of mixed use afterwards, with the memory that it took")
)

// row is a line of the table.
type row struct {
	what, tried, held string
	failed            bool
}

var table []row

func tell(what, tried string, err error, held string) {
	r := row{what, tried, held, err != nil}
	if err != nil {
		r.held = err.Error()
	}
	table = append(table, r)
	fmt.Fprintf(os.Stderr, "%s: %s: %s\n", what, tried, r.held)
}

// server is a running program.
type server struct {
	cmd  *exec.Cmd
	url  string
	data string
	log  *bytes.Buffer
}

func start(data string, more ...string) (*server, error) {
	s := &server{data: data, log: new(bytes.Buffer)}
	s.cmd = exec.Command(*program, append([]string{"serve", "--data", data, "--listen", "127.0.0.1:0"}, more...)...)
	s.cmd.Stderr = s.log
	out, err := s.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := s.cmd.Start(); err != nil {
		return nil, err
	}
	line := make([]byte, 0, 200)
	one := make([]byte, 1)
	for !bytes.HasSuffix(line, []byte("\n")) {
		if _, err := out.Read(one); err != nil {
			_ = s.cmd.Wait()
			return nil, fmt.Errorf("it does not start: %s", strings.TrimSpace(s.log.String()))
		}
		line = append(line, one...)
	}
	_, s.url, _ = strings.Cut(strings.TrimSpace(string(line)), " is at ")
	return s, nil
}

func (s *server) kill() {
	_ = s.cmd.Process.Signal(syscall.SIGKILL)
	_ = s.cmd.Wait()
}

func (s *server) stop() {
	_ = s.cmd.Process.Signal(syscall.SIGTERM)
	_ = s.cmd.Wait()
}

var errGone = errors.New("the server does not answer")

// ask sends JSON and reads JSON; a refusal is an error with its sentence.
func (s *server) ask(method, path string, body, into any) error {
	var b io.Reader
	if body != nil {
		text, err := json.Marshal(body)
		if err != nil {
			return err
		}
		b = bytes.NewReader(text)
	}
	req, err := http.NewRequest(method, s.url+path, b)
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	return s.do(req, into)
}

func (s *server) do(req *http.Request, into any) error {
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return errGone
	}
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	if err != nil {
		return errGone
	}
	if res.StatusCode >= 300 {
		var e struct{ Error string }
		_ = json.Unmarshal(text, &e)
		return fmt.Errorf("%d: %s", res.StatusCode, e.Error)
	}
	if into == nil || len(text) == 0 {
		return nil
	}
	return json.Unmarshal(text, into)
}

const tetra = "o Tetra\nv 0 0 0\nv 40 0 0\nv 0 0 40\nv 0 60 0\nf 1 2 3\nf 1 4 2\nf 1 3 4\nf 2 4 3\n"

// bring brings a model in and returns its shot.
func (s *server) bring() (string, error) {
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	f, err := w.CreateFormFile("file", "tetra.obj")
	if err != nil {
		return "", err
	}
	_, _ = f.Write([]byte(tetra))
	if err := w.Close(); err != nil {
		return "", err
	}
	req, err := http.NewRequest(http.MethodPost, s.url+"/api/imports", &b)
	if err != nil {
		return "", err
	}
	req.Header.Set("Content-Type", w.FormDataContentType())
	var got struct{ Shot string }
	return got.Shot, errors.Join(s.do(req, &got), func() error {
		if got.Shot == "" {
			return errors.New("no shot came of it")
		}
		return nil
	}())
}

type shotReply struct {
	Version  int
	Document struct {
		Name   string
		Frames int
	}
}

func (s *server) name(shot, name string) error {
	var now shotReply
	if err := s.ask(http.MethodGet, "/api/shots/"+shot, nil, &now); err != nil {
		return err
	}
	return s.ask(http.MethodPost, "/api/shots/"+shot+"/edits", map[string]any{"version": now.Version, "edits": []any{map[string]any{"rename": map[string]string{"name": name}}}}, nil)
}

// killsInEdits kills the server at any moment while edits come; none that was answered may be lost.
func killsInEdits(dir string) error {
	data := filepath.Join(dir, "edits")
	s, err := start(data)
	if err != nil {
		return err
	}
	shot, err := s.bring()
	if err != nil {
		return err
	}
	made, answered := 0, ""
	for k := range *edits {
		go func() {
			time.Sleep(time.Duration(5+rand.IntN(120)) * time.Millisecond)
			_ = s.cmd.Process.Signal(syscall.SIGKILL)
		}()
		for {
			made++
			name := fmt.Sprint("Edit ", made)
			err := s.name(shot, name)
			if errors.Is(err, errGone) {
				break
			}
			if err != nil {
				return fmt.Errorf("kill %d: %w", k+1, err)
			}
			answered = name
		}
		_ = s.cmd.Wait()
		if s, err = start(data); err != nil {
			return fmt.Errorf("after kill %d: %w", k+1, err)
		}
		var now shotReply
		if err := s.ask(http.MethodGet, "/api/shots/"+shot, nil, &now); err != nil {
			return fmt.Errorf("after kill %d: %w", k+1, err)
		}
		// The last one may have been kept and not answered.
		if now.Document.Name != answered && now.Document.Name != fmt.Sprint("Edit ", made) && answered != "" {
			return fmt.Errorf("after kill %d the shot is called %q, though %q was answered", k+1, now.Document.Name, answered)
		}
		answered = now.Document.Name
	}
	s.stop()
	tell("SIGKILL in edits", fmt.Sprintf("%d kills, %d edits", *edits, made), nil, "none that was answered is lost")
	return nil
}

type runReply struct {
	ID, Folder string
	Progress   struct {
		State   string
		Done    int
		Message string
	}
	Frames []struct{ File, SHA256, State string }
}

func settings(frames int) map[string]any {
	return map[string]any{"width": 160, "height": 160, "quality": "proof", "from": 0, "to": frames - 1, "first": 1, "padding": 4, "bits": 8, "name": "{shot}.{frame}", "backdrop": nil}
}

func (s *server) run(shot string, frames int) (r runReply, err error) {
	err = s.ask(http.MethodPost, "/api/shots/"+shot+"/runs", map[string]any{"settings": settings(frames)}, &r)
	return r, err
}

// ended waits for the end of a run, told to go on where it was set aside.
func (s *server) ended(id string) (r runReply, err error) {
	for end := time.Now().Add(3 * time.Minute); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
		if err := s.ask(http.MethodGet, "/api/runs/"+id, nil, &r); err != nil {
			return r, err
		}
		switch r.Progress.State {
		case "done", "failed", "cancelled":
			return r, nil
		}
	}
	return r, errors.New("the run does not end")
}

// killsInRuns kills the server while frames are rendered; in the end every file is that of an undisturbed run.
func killsInRuns(dir string) error {
	calm, err := start(filepath.Join(dir, "calm"))
	if err != nil {
		return err
	}
	shot, err := calm.bring()
	if err != nil {
		return err
	}
	const frames = 40
	r, err := calm.run(shot, frames)
	if err != nil {
		return err
	}
	want, err := calm.ended(r.ID)
	calm.stop()
	if err != nil {
		return err
	}
	data := filepath.Join(dir, "disturbed")
	s, err := start(data)
	if err != nil {
		return err
	}
	if shot, err = s.bring(); err != nil {
		return err
	}
	if r, err = s.run(shot, frames); err != nil {
		return err
	}
	for k := range *renders {
		time.Sleep(time.Duration(20+rand.IntN(250)) * time.Millisecond)
		s.kill()
		if s, err = start(data); err != nil {
			return fmt.Errorf("after kill %d: %w", k+1, err)
		}
		if err := s.ask(http.MethodGet, "/api/runs/"+r.ID, nil, &r); err != nil {
			return fmt.Errorf("after kill %d: %w", k+1, err)
		}
		if r.Progress.State == "failed" || r.Progress.State == "done" { // set aside after two; or to be done again
			path := "/api/runs/" + r.ID + "/waiting"
			if r.Progress.State == "done" {
				if err := os.RemoveAll(r.Folder); err != nil {
					return err
				}
			}
			if err := s.ask(http.MethodPut, path, nil, nil); err != nil {
				return fmt.Errorf("after kill %d: %w", k+1, err)
			}
		}
	}
	got, err := s.ended(r.ID)
	if err == nil && got.Progress.State == "failed" {
		if err = s.ask(http.MethodPut, "/api/runs/"+r.ID+"/waiting", nil, nil); err == nil {
			got, err = s.ended(r.ID)
		}
	}
	s.stop()
	if err != nil {
		return err
	}
	if got.Progress.State != "done" || len(got.Frames) != len(want.Frames) {
		return fmt.Errorf("the run ended as %s with %d of %d frames: %s", got.Progress.State, len(got.Frames), len(want.Frames), got.Progress.Message)
	}
	for i, f := range got.Frames {
		if f.SHA256 != want.Frames[i].SHA256 {
			return fmt.Errorf("%s is not what an undisturbed run made", f.File)
		}
		if _, err := os.Stat(filepath.Join(got.Folder, f.File)); err != nil {
			return err
		}
	}
	left := 0
	_ = filepath.WalkDir(data, func(name string, _ os.DirEntry, err error) error {
		if strings.HasPrefix(filepath.Base(name), ".writing-") {
			left++
		}
		return err
	})
	if left > 0 {
		return fmt.Errorf("%d files of killed writers are left", left)
	}
	tell("SIGKILL in runs", fmt.Sprintf("%d kills, %d frames", *renders, frames), nil, "every file equals an undisturbed run's, nothing half written is left")
	return nil
}

// fullDisk lets a small disk fill up.
func fullDisk(dir string) error {
	disk := filepath.Join(dir, "small")
	if err := os.Mkdir(disk, 0o755); err != nil {
		return err
	}
	if err := exec.Command("mount", "-t", "tmpfs", "-o", "size=3m", "tmpfs", disk).Run(); err != nil {
		tell("full disk", "a tmpfs of 3 MB", nil, "not tried: a tmpfs cannot be mounted here (it takes root)")
		return nil
	}
	defer func() { _ = exec.Command("umount", disk).Run() }()
	s, err := start(filepath.Join(dir, "full"), "--out", disk)
	if err != nil {
		return err
	}
	defer s.stop()
	shot, err := s.bring()
	if err != nil {
		return err
	}
	// The room is taken once the run has begun.
	r, err := s.run(shot, 60)
	if err != nil {
		return err
	}
	fill := filepath.Join(disk, "fill")
	f, err := os.Create(fill)
	if err != nil {
		return err
	}
	block := make([]byte, 64<<10)
	for {
		if _, err := f.Write(block); err != nil {
			break
		}
	}
	f.Close()
	got, err := s.ended(r.ID)
	if err != nil {
		return err
	}
	if got.Progress.State != "failed" || !strings.Contains(got.Progress.Message, "full") {
		return fmt.Errorf("with the disk full the run is %s: %s", got.Progress.State, got.Progress.Message)
	}
	said := got.Progress.Message
	if err := os.Remove(fill); err != nil {
		return err
	}
	if err := s.ask(http.MethodPut, "/api/runs/"+r.ID+"/waiting", nil, nil); err != nil {
		return err
	}
	if got, err = s.ended(r.ID); err != nil {
		return err
	}
	var bad []int
	if err := s.ask(http.MethodGet, "/api/runs/"+r.ID+"/verify", nil, &bad); err != nil {
		return err
	}
	if got.Progress.State != "done" || len(bad) > 0 {
		return fmt.Errorf("with room made the run is %s, %d frames are damaged", got.Progress.State, len(bad))
	}
	tell("full disk", "a tmpfs of 3 MB", nil, fmt.Sprintf("%q; with room made it goes on and verifies", said))
	return nil
}

// takenFolder takes a run's folder away while it is at work, and afterwards.
func takenFolder(dir string) error {
	s, err := start(filepath.Join(dir, "taken"))
	if err != nil {
		return err
	}
	defer s.stop()
	shot, err := s.bring()
	if err != nil {
		return err
	}
	r, err := s.run(shot, 60)
	if err != nil {
		return err
	}
	for r.Progress.Done < 3 {
		if err := s.ask(http.MethodGet, "/api/runs/"+r.ID, nil, &r); err != nil {
			return err
		}
	}
	if err := os.RemoveAll(r.Folder); err != nil {
		return err
	}
	got, err := s.ended(r.ID)
	if err != nil {
		return err
	}
	if got.Progress.State != "failed" || !strings.Contains(got.Progress.Message, "removed") {
		return fmt.Errorf("its folder taken away, the run is %s: %s", got.Progress.State, got.Progress.Message)
	}
	if err := os.RemoveAll(got.Folder); err != nil {
		return err
	}
	again, err := s.run(shot, 4)
	if err != nil {
		return err
	}
	if got, err = s.ended(again.ID); err != nil || got.Progress.State != "done" || got.Folder != r.Folder {
		return fmt.Errorf("the next run is %s in %s, %v", got.Progress.State, got.Folder, err)
	}
	tell("folder taken away", "in a run, and after it", nil, "said, and its name is used again by the next run")
	return nil
}

// twoServers starts a second server on the same data, and one after the first was killed.
func twoServers(dir string) error {
	data := filepath.Join(dir, "two")
	s, err := start(data)
	if err != nil {
		return err
	}
	second, err := start(data)
	if err == nil {
		second.kill()
		s.kill()
		return errors.New("two servers are at work on one folder")
	}
	if !strings.Contains(err.Error(), s.url) {
		s.kill()
		return fmt.Errorf("who has the folder is not said: %w", err)
	}
	s.kill()
	if s, err = start(data); err != nil {
		return fmt.Errorf("after the owner was killed: %w", err)
	}
	s.stop()
	tell("two servers", "on one folder", nil, "the second is told who has it; after a kill it is free")
	return nil
}

// damage changes a byte of a stored file, empties the database, and asks the doctor.
func damage(dir string) error {
	data := filepath.Join(dir, "damaged")
	s, err := start(data)
	if err != nil {
		return err
	}
	shot, err := s.bring()
	if err != nil {
		return err
	}
	s.stop()
	saved := filepath.Join(dir, "saved.zip")
	if out, err := exec.Command(*program, "backup", data, "--out", saved).CombinedOutput(); err != nil {
		return fmt.Errorf("backup: %s", out)
	}
	files, _ := filepath.Glob(filepath.Join(data, "blobs", "??", "*"))
	if len(files) == 0 {
		return errors.New("nothing is stored")
	}
	text, err := os.ReadFile(files[0])
	if err != nil {
		return err
	}
	text[len(text)/2] ^= 1
	if err := os.WriteFile(files[0], text, 0o644); err != nil {
		return err
	}
	out, err := exec.Command(*program, "doctor", data).CombinedOutput()
	if err == nil || !bytes.Contains(out, []byte("is damaged")) || !bytes.Contains(out, []byte("used by: tetra")) {
		return fmt.Errorf("the doctor says of a changed byte: %s", out)
	}
	if s, err = start(data); err != nil {
		return fmt.Errorf("with a damaged file: %w", err)
	}
	if _, err := s.bring(); err != nil { // the same file
		return err
	}
	s.stop()
	if out, err := exec.Command(*program, "doctor", data, "--mend").CombinedOutput(); err != nil {
		return fmt.Errorf("the same file brought in again, the doctor says: %s", out)
	}
	if err := os.Truncate(filepath.Join(data, "perigyre.db"), 0); err != nil {
		return err
	}
	for _, end := range []string{"-wal", "-shm"} {
		_ = os.Remove(filepath.Join(data, "perigyre.db"+end))
	}
	if s, err = start(data); err == nil {
		s.stop()
		return errors.New("an emptied database begins anew without a word")
	}
	if !strings.Contains(err.Error(), "emptied") {
		return err
	}
	restored := filepath.Join(dir, "restored")
	if out, err := exec.Command(*program, "restore", saved, restored).CombinedOutput(); err != nil {
		return fmt.Errorf("restore: %s", out)
	}
	if s, err = start(restored); err != nil {
		return err
	}
	defer s.stop()
	if err := s.ask(http.MethodGet, "/api/shots/"+shot, nil, nil); err != nil {
		return fmt.Errorf("after restoring: %w", err)
	}
	tell("damaged bytes", "a stored file, the database", nil, "named with what uses it, healed when it comes again; an emptied database is told, a backup restored")
	return nil
}

// mixed uses a server for a while in all ways at once, and tells its memory as it goes.
func mixed(dir string) error {
	s, err := start(filepath.Join(dir, "mixed"))
	if err != nil {
		return err
	}
	defer s.stop()
	var shots []string
	for range 4 {
		shot, err := s.bring()
		if err != nil {
			return err
		}
		shots = append(shots, shot)
	}
	var memory []string
	begun, n := time.Now(), 0
	long := time.Duration(*minutes * float64(time.Minute))
	for next := long / 10; time.Since(begun) < long; n++ {
		shot := shots[n%len(shots)]
		if err := s.name(shot, fmt.Sprint("Name ", n)); err != nil {
			return err
		}
		for _, path := range []string{"/bake", "/history", "/triage", ""} {
			if err := s.ask(http.MethodGet, "/api/shots/"+shot+path, nil, nil); err != nil && path != "/bake" {
				return fmt.Errorf("%s: %w", path, err)
			}
		}
		if n%50 == 0 {
			if _, err := s.bring(); err != nil {
				return err
			}
			r, err := s.run(shot, 2)
			if err != nil {
				return err
			}
			if _, err := s.ended(r.ID); err != nil {
				return err
			}
		}
		if time.Since(begun) > next {
			next += long / 10
			memory = append(memory, resident(s.cmd.Process.Pid))
		}
	}
	tell("mixed use", fmt.Sprintf("%.3g minutes, %d rounds", *minutes, n), nil, "resident MB: "+strings.Join(memory, " "))
	return nil
}

// resident returns the memory of a process in MB, where the system tells it as Linux does.
func resident(pid int) string {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return "?"
	}
	_, rest, _ := strings.Cut(string(text), "VmRSS:")
	var kb int
	_, _ = fmt.Sscan(rest, &kb)
	return fmt.Sprint(kb >> 10)
}

func main() {
	flag.Parse()
	dir, err := os.MkdirTemp("", "perigyre-torture-")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	defer os.RemoveAll(dir)
	list := []struct {
		what string
		do   func(string) error
	}{{"SIGKILL in edits", killsInEdits}, {"SIGKILL in runs", killsInRuns}, {"full disk", fullDisk}, {"folder taken away", takenFolder}, {"two servers", twoServers}, {"damaged bytes", damage}, {"faults in farms", faultsInFarms}}
	if *minutes > 0 {
		list = append(list, struct {
			what string
			do   func(string) error
		}{"mixed use", mixed})
	}
	for _, t := range list {
		if *only != "" && t.what != *only {
			continue
		}
		if err := t.do(dir); err != nil {
			tell(t.what, "", err, "")
		}
	}
	failed := false
	fmt.Printf("%-20s %-28s %-6s %s\n", "what", "tried", "", "")
	for _, r := range table {
		mark := "held"
		if r.failed {
			mark, failed = "FAILED", true
		}
		fmt.Printf("%-20s %-28s %-6s %s\n", r.what, r.tried, mark, r.held)
	}
	if failed {
		os.RemoveAll(dir)
		os.Exit(1)
	}
}
