package runs

import (
	"archive/zip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"perigyre/core/check"
	"perigyre/core/fault"
	"perigyre/core/shot"
	"perigyre/store"
)

// States of a run.
const (
	Waiting   = "waiting"
	Running   = "running"
	Paused    = "paused"
	Cancelled = "cancelled"
	Done      = "done"
	Failed    = "failed"
)

// Progress is how a run stands.
type Progress struct {
	Run      string  `json:"run"`
	State    string  `json:"state"`
	Message  string  `json:"message"`
	Frame    int     `json:"frame"`             // the one being rendered, -1 for none
	Drawing  []int   `json:"drawing,omitempty"` // all that are, where there are several
	Compared float64 `json:"compared"`          // share of the shot's frames that have been compared with each other, while they are: for those beside a frame
	Share    float64 `json:"share"`             // of it, or of all that are being rendered together
	Done     int     `json:"done"`
	Of       int     `json:"of"`
	PerOne   float64 `json:"perFrame"` // seconds a frame so far, 0 before the first
	Left     float64 `json:"left"`     // seconds until the run is done, by what draws it; 0 for unknown

	Delivered int    `json:"delivered"`         // frames that are on the drive for deliveries, as they were written
	Trouble   string `json:"trouble,omitempty"` // what holds the delivery up
}

// Queue renders runs one after another, each frame on all processors. Frames are in the store, so
// that a queue opened again after the process was killed goes on with what is not on disk.
type Queue struct {
	store  *store.Store
	stock  Stock
	folder string
	tell   func(Progress)

	mu     sync.Mutex
	wake   chan struct{}
	now    string   // the run being rendered
	at     Progress // and how it is getting on
	stop   context.CancelFunc
	closed context.CancelFunc
	ended  chan struct{}

	hands      Hands
	deliveries *deliveries     // nil where there is no drive for them
	ctx        context.Context // ends when the queue is closed

	late     sync.Mutex
	unstored map[string]ending // how runs ended that the disk was too full to keep
}

type ending struct{ state, message string }

// run returns a run as it is, and keeps how it ended as soon as that can be kept.
func (q *Queue) run(id string) (*store.Run, error) {
	r, err := q.store.Run(id)
	q.late.Lock()
	defer q.late.Unlock()
	if e, ok := q.unstored[id]; ok && err == nil {
		if q.store.SetRunState(id, e.state, e.message) == nil {
			delete(q.unstored, id)
		}
		r.State, r.Message = e.state, e.message
	}
	return r, err
}

// Open starts a queue that writes below folder, with frames drawn by hands. Tell is called from goroutines of the queue.
func Open(s *store.Store, stock Stock, folder string, hands Hands, tell func(Progress)) (*Queue, error) {
	ctx, cancel := context.WithCancel(context.Background())
	q := &Queue{store: s, stock: stock, folder: folder, hands: hands, ctx: ctx, tell: tell, wake: make(chan struct{}, 1), closed: cancel, ended: make(chan struct{}), unstored: map[string]ending{}}
	all, err := s.Runs()
	if err != nil {
		cancel()
		return nil, err
	}
	for _, r := range all {
		if r.State == Running { // the process ended in the middle of it
			if err := q.interrupted(&r); err != nil {
				cancel()
				return nil, err
			}
		}
	}
	go q.work(ctx)
	return q, nil
}

// maxAttempts is how often the process may end in the middle of a frame before its run is set aside: what ends the
// process would end it at every start.
const maxAttempts = 2

// interrupted lets a run go on that was being rendered when the process ended, or sets it aside.
func (q *Queue) interrupted(r *store.Run) error {
	n := r.Attempts + 1
	if err := q.store.SetAttempts(r.ID, n); err != nil {
		return err
	}
	if n < maxAttempts {
		return q.store.SetRunState(r.ID, Waiting, "")
	}
	slog.Error("A run is set aside.", "run", r.ID, "attempts", n)
	return q.store.SetRunState(r.ID, Failed, fmt.Sprintf("the program ended %d times while this run was being rendered, each time before another frame was done, so that it is not taken up again by itself; what is done stays, and it can be told to go on", n))
}

// Close stops after giving up the frame being rendered, which is rendered again another time.
func (q *Queue) Close() {
	q.closed()
	<-q.ended
	if q.deliveries != nil {
		<-q.deliveries.ended
	}
}

// disk is the folder that tells how much room there is.
func (q *Queue) disk() string { return filepath.Dir(absolute(q.folder)) }

// Findings are what is wrong with settings for a run of a shot.
func (q *Queue) Findings(project string, d *shot.Shot, o Settings) []check.Finding {
	return o.Findings(NamesOf(project, d), d, q.disk())
}

// Start freezes a shot into a new run and queues it.
func (q *Queue) Start(shotID, project string, d *shot.Shot, o Settings) (string, error) {
	names := NamesOf(project, d)
	plan, err := NewPlan(d, names, o, "", q.stock)
	if err != nil {
		return "", err
	}
	if err := o.room(q.disk()); err != nil {
		return "", err
	}
	settings, err := json.Marshal(o)
	if err != nil {
		return "", err
	}
	title := project + " " + d.Name
	for _, w := range o.Among {
		title += " " + w
	}
	earlier, err := q.store.Runs()
	if err != nil {
		return "", err
	}
	// The folder of a run that has ended, and that somebody has removed, can be used again.
	held := func(folder string) *store.Run {
		if i := slices.IndexFunc(earlier, func(r store.Run) bool { return r.Folder == folder }); i >= 0 {
			return &earlier[i]
		}
		return nil
	}
	folder, err := VersionFolder(q.folder, title, func(folder string) bool {
		r := held(folder)
		return r != nil && (r.State == Waiting || r.State == Running || r.State == Paused)
	})
	if err != nil {
		return "", err
	}
	if r := held(folder); r != nil {
		if err := q.store.MoveRun(r.ID, r.Folder+" (removed, "+r.ID+")"); err != nil {
			return "", err
		}
	}
	r := &store.Run{ID: store.NewID(), Shot: shotID, Title: project, Document: d, Settings: string(settings), Folder: folder, State: Waiting, Made: time.Now()}
	if err := q.store.AddRun(r, plan.List()); err != nil {
		os.Remove(folder) // empty: it was made a moment ago
		return "", err
	}
	q.poke()
	return r.ID, nil
}

func (q *Queue) poke() {
	select {
	case q.wake <- struct{}{}:
	default:
	}
}

// Set changes a run's state on request: Paused, Cancelled or Waiting (to go on). What is done stays.
func (q *Queue) Set(id, state string) error {
	if err := q.become(id, state); err != nil {
		return err
	}
	q.report(id, state, "")
	q.poke()
	return nil
}

// become changes a run's state if it may, under the lock under which runs begin and end.
func (q *Queue) become(id, state string) error {
	allowed := map[string][]string{
		Paused: {Waiting, Running}, Cancelled: {Waiting, Running, Paused, Failed}, Waiting: {Paused, Cancelled, Failed, Done},
	}
	q.mu.Lock()
	defer q.mu.Unlock()
	r, err := q.run(id)
	if err != nil {
		return err
	}
	if !slices.Contains(allowed[state], r.State) {
		return fmt.Errorf("a run that is %s cannot become %s", r.State, state)
	}
	if err := q.store.SetRunState(id, state, ""); err != nil {
		return err
	}
	if state == Waiting { // someone wants it: it has its attempts again
		return q.store.SetAttempts(id, 0)
	}
	if q.now == id {
		q.stop()
	}
	return nil
}

// report tells how a run stands between frames.
func (q *Queue) report(id, state, message string) {
	frames, err := q.store.Frames(id)
	if err != nil {
		return
	}
	p := progressOf(id, frames)
	p.State, p.Message = state, message
	p.Delivered, p.Trouble = q.deliveries.status(id)
	q.tell(p)
	q.deliveries.poke()
}

func progressOf(id string, frames []store.Frame) Progress {
	p := Progress{Run: id, Frame: -1, Of: len(frames)}
	millis := int64(0)
	for _, f := range frames {
		if f.State == store.FrameDone {
			p.Done++
			millis += f.Millis
		}
	}
	if p.Done > 0 {
		p.PerOne = float64(millis) / 1000 / float64(p.Done)
	}
	return p
}

func (q *Queue) work(ctx context.Context) {
	defer close(q.ended)
	for ctx.Err() == nil {
		r, err := q.next()
		if err != nil && r != nil { // this one; others go on
			slog.Error("A run cannot be read and is set aside.", "run", r.ID, "error", err)
			q.end(r.ID, Failed, "what it was to render cannot be read any more: the data folder is damaged there, and perigyre doctor says more; render it anew from the shot")
			continue
		}
		if err != nil {
			slog.Error("The queue of runs cannot be read.", "error", err)
		}
		if r == nil {
			q.hands.Rest()
			select {
			case <-ctx.Done():
			case <-q.wake:
			}
			continue
		}
		q.render(ctx, r)
	}
}

// next returns the run that waits with the highest priority, the oldest of them, or nil.
func (q *Queue) next() (*store.Run, error) {
	all, err := q.store.Runs()
	if err != nil {
		return nil, err
	}
	var first *store.Run
	for i := len(all) - 1; i >= 0; i-- {
		if r := &all[i]; r.State == Waiting && (first == nil || r.Priority > first.Priority) {
			first = r
		}
	}
	if first == nil {
		return nil, nil
	}
	return q.store.Run(first.ID)
}

// First puts a run before all others: one that is being rendered ends its frame, and waits.
func (q *Queue) First(id string) error {
	r, err := q.run(id)
	if err != nil {
		return err
	}
	if r.State != Waiting && r.State != Paused {
		return fmt.Errorf("a run that is %s does not wait for its turn", r.State)
	}
	if err := q.store.RaiseRun(id); err != nil {
		return err
	}
	if r.State == Paused {
		return q.Set(id, Waiting)
	}
	q.poke()
	return nil
}

// errOutranked ends a run for one of a higher priority; it goes on later.
var errOutranked = errors.New("another run goes first")

func (q *Queue) outranked(r *store.Run) error {
	now, err := q.store.Run(r.ID)
	if err != nil {
		return err
	}
	other, err := q.next()
	if err != nil || other == nil || other.Priority <= now.Priority {
		return err
	}
	return errOutranked
}

func (q *Queue) render(parent context.Context, r *store.Run) {
	ctx, cancel := context.WithCancel(parent)
	defer cancel()
	q.mu.Lock()
	fresh, err := q.store.Run(r.ID)
	if err != nil || fresh.State != Waiting { // paused or cancelled a moment ago
		q.mu.Unlock()
		return
	}
	q.now, q.stop = r.ID, cancel
	err = q.store.SetRunState(r.ID, Running, "")
	q.mu.Unlock()
	if err == nil {
		err = q.frames(ctx, r)
	}

	q.mu.Lock()
	defer q.mu.Unlock()
	q.now, q.at, q.stop = "", Progress{}, nil
	switch {
	case errors.Is(err, errOutranked):
		q.end(r.ID, Waiting, "")
	case parent.Err() != nil: // the process ends, and the run goes on with the next one
		q.end(r.ID, Waiting, "")
	case ctx.Err() != nil: // stopped on request: the state says how
	case err != nil:
		logFault("A run failed.", r.ID, err)
		q.end(r.ID, Failed, err.Error())
	default:
		q.end(r.ID, Done, "")
	}
}

// logFault logs why a run failed, and where in the program if it was its fault.
func logFault(what, id string, err error) {
	args := []any{"run", id, "error", err}
	if f := (*fault.Error)(nil); errors.As(err, &f) {
		args = append(args, "stack", f.Stack)
	}
	slog.Error(what, args...)
}

func (q *Queue) end(id, state, message string) {
	if err := q.store.SetRunState(id, state, message); err != nil {
		slog.Error("The state of a run cannot be stored.", "run", id, "error", err)
		q.late.Lock()
		q.unstored[id] = ending{state, message}
		q.late.Unlock()
	}
	q.report(id, state, message)
}

// frames renders what a run lacks. A frame counts as done when its file is on disk as recorded.
func (q *Queue) frames(ctx context.Context, r *store.Run) error {
	plan, err := q.plan(r)
	if err != nil {
		return err
	}
	list, err := q.store.Frames(r.ID)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(r.Folder, 0o755); err != nil {
		return fmt.Errorf("the output folder cannot be made: %w", err)
	}
	store.RemoveUnfinished(r.Folder) // of a process that was killed
	for i, f := range list {
		if f.State == store.FrameDone && !plan.Intact(f) {
			list[i] = store.Frame{Number: f.Number, File: f.File, State: store.FrameWaiting}
			if err := q.store.SetFrame(r.ID, list[i]); err != nil {
				return err
			}
		} else if f.State == store.FrameDone {
			plan.Remember(f)
		}
	}
	if err := plan.WriteRecord(list); err != nil {
		return err
	}
	if err := q.produce(ctx, r, plan, list); err != nil {
		return err
	}
	if err := q.gone(r, plan, list); err != nil {
		return err
	}
	return Full(plan.WriteRecord(list), list)
}

// gone looks whether the files of all frames are still there at the end of a run, whose folder may have been removed or moved
// while it was rendered. Those that are not are to be rendered again.
func (q *Queue) gone(r *store.Run, plan *Plan, list []store.Frame) error {
	var lost []int
	for _, f := range list {
		if _, err := os.Stat(filepath.Join(plan.Folder, f.File)); err == nil {
			continue
		}
		lost = append(lost, f.Number)
		if err := q.store.SetFrame(r.ID, store.Frame{Number: f.Number, File: f.File, State: store.FrameWaiting}); err != nil {
			return err
		}
	}
	if len(lost) == 0 {
		return nil
	}
	return fmt.Errorf("frames %s are not in %s any more: they were removed or moved while the run was going on; let it go on, and they are rendered again", stretches(lost), plan.Folder)
}

// Full says of a disk that is full which frames are safe; other errors stay as they are.
func Full(err error, list []store.Frame) error {
	if !store.Full(err) {
		return err
	}
	var done []int
	for _, f := range list {
		if f.State == store.FrameDone {
			done = append(done, f.Number)
		}
	}
	if len(done) == 0 {
		return fmt.Errorf("the disk is full before the first frame; make room and let the run go on")
	}
	return fmt.Errorf("the disk is full: %d of %d frames are safe, %s; make room and let the run go on", len(done), len(list), stretches(done))
}

// stretches writes rising numbers as 0-59, 80.
func stretches(list []int) string {
	var out []string
	for i := 0; i < len(list); {
		k := i
		for k+1 < len(list) && list[k+1] == list[k]+1 {
			k++
		}
		if k > i {
			out = append(out, fmt.Sprintf("%d-%d", list[i], list[k]))
		} else {
			out = append(out, fmt.Sprint(list[i]))
		}
		i = k + 1
	}
	return strings.Join(out, ", ")
}

// Verify returns the frames that were done and whose files are missing or are not what was written.
func (q *Queue) Verify(id string) ([]int, error) {
	r, err := q.store.Run(id)
	if err != nil {
		return nil, err
	}
	plan, err := q.plan(r)
	if err != nil {
		return nil, err
	}
	list, err := q.store.Frames(id)
	if err != nil {
		return nil, err
	}
	bad := []int{}
	for _, f := range list {
		if f.State == store.FrameDone && !plan.Intact(f) {
			bad = append(bad, f.Number)
		}
	}
	return bad, nil
}

// Redo has frames rendered again: the run waits for its turn. A run that is being rendered is paused first.
func (q *Queue) Redo(id string, from, to int) error {
	r, err := q.store.Run(id)
	if err != nil {
		return err
	}
	if r.State == Running || r.State == Waiting {
		return fmt.Errorf("pause the run before frames of it are rendered again")
	}
	list, err := q.store.Frames(id)
	if err != nil {
		return err
	}
	n := 0
	for _, f := range list {
		if f.Number < from || f.Number > to {
			continue
		}
		n++
		if err := q.store.SetFrame(id, store.Frame{Number: f.Number, File: f.File, State: store.FrameWaiting}); err != nil {
			return err
		}
	}
	if n == 0 {
		return fmt.Errorf("the run has no frames from %d to %d", from, to)
	}
	return q.Set(id, Waiting)
}

func (q *Queue) plan(r *store.Run) (*Plan, error) {
	var o Settings
	if err := json.Unmarshal([]byte(r.Settings), &o); err != nil {
		return nil, fmt.Errorf("the run's settings are damaged: %w", err)
	}
	plan, err := NewPlan(r.Document, NamesOf(r.Title, r.Document), o, r.Folder, q.stock)
	if err != nil {
		return nil, err
	}
	plan.Elsewhere = func(picture string) (out []Twin) {
		folders, frames, err := q.store.FramesLike(picture)
		if err != nil {
			slog.Error("Frames that show the same cannot be looked up.", "error", err)
		}
		for i, f := range frames {
			out = append(out, Twin{folders[i], f})
		}
		return out
	}
	return plan, nil
}

// Status returns how a run stands, with its frames and settings.
func (q *Queue) Status(id string) (*store.Run, Progress, []store.Frame, error) {
	r, err := q.run(id)
	if err != nil {
		return nil, Progress{}, nil, err
	}
	frames, err := q.store.Frames(id)
	if err != nil {
		return nil, Progress{}, nil, err
	}
	p := progressOf(id, frames)
	p.State, p.Message = r.State, r.Message
	q.mu.Lock()
	if at := &q.at; at.Run == id && r.State == Running {
		p.Frame, p.Drawing, p.Compared, p.Share, p.Left = at.Frame, at.Drawing, at.Compared, at.Share, at.Left
	}
	q.mu.Unlock()
	p.Delivered, p.Trouble = q.deliveries.status(id)
	return r, p, frames, nil
}

// Preview returns the file of what a browser can show of a frame that is done.
func (q *Queue) Preview(id string, number int) (string, error) {
	r, err := q.store.Run(id)
	if err != nil {
		return "", err
	}
	plan, err := q.plan(r)
	if err != nil {
		return "", err
	}
	file, err := q.File(id, number)
	if err != nil {
		return "", err
	}
	return filepath.Join(r.Folder, plan.Preview(filepath.Base(file))), nil
}

// File returns the file of a frame that is done.
func (q *Queue) File(id string, number int) (string, error) {
	r, _, frames, err := q.Status(id)
	if err != nil {
		return "", err
	}
	for _, f := range frames {
		if f.Number == number && f.State == store.FrameDone {
			return filepath.Join(r.Folder, f.File), nil
		}
	}
	return "", store.ErrMissing
}

// Zippable returns an error in a sentence where a zip of a run would not be all of it: frames that are not rendered, unless
// some will do, and frames whose files are gone.
func (q *Queue) Zippable(id string, some bool) error {
	r, _, frames, err := q.Status(id)
	if err != nil {
		return err
	}
	done, gone := 0, []string{}
	for _, f := range frames {
		if f.State != store.FrameDone {
			continue
		}
		done++
		for _, name := range append([]string{f.File}, f.Also...) {
			if _, err := os.Stat(filepath.Join(r.Folder, name)); err != nil {
				gone = append(gone, name)
			}
		}
	}
	switch {
	case len(gone) > 0:
		return fmt.Errorf("%d files of the run are not in its folder any more, %s among them; let the run go on, and they are rendered again", len(gone), gone[0])
	case done < len(frames) && !some:
		return fmt.Errorf("%d of the %d frames are rendered so far", done, len(frames))
	case done == 0:
		return errors.New("the run has no frames yet")
	}
	return nil
}

// Zip streams the frames that are done, and run.json.
func (q *Queue) Zip(id string, w io.Writer) error {
	r, _, frames, err := q.Status(id)
	if err != nil {
		return err
	}
	z := zip.NewWriter(w)
	names := []string{}
	for _, f := range frames {
		if f.State == store.FrameDone {
			names = append(append(names, f.File), f.Also...)
		}
	}
	for _, name := range append(names, recordFile) {
		if err := addFile(z, filepath.Join(r.Folder, name), name, r.Made); err != nil {
			return err
		}
	}
	return z.Close()
}

func addFile(z *zip.Writer, file, name string, made time.Time) error {
	f, err := os.Open(file)
	if errors.Is(err, os.ErrNotExist) && name == recordFile {
		return nil // a run that has not begun
	}
	if err != nil {
		return err
	}
	defer f.Close()
	w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Store, Modified: made}) // pictures are compressed already
	if err != nil {
		return err
	}
	_, err = io.Copy(w, f)
	return err
}
