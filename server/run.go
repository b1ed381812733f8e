package server

import (
	"encoding/json"
	"fmt"
	"log/slog"

	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/runs"
	"perigyre/store"
)

// StartRuns queues a run of a shot, or one for each of several cameras, and returns the first. All are checked
// before any is queued.
func (st *Studio) StartRuns(id string, r RunRequest) (*RunReply, error) {
	h, err := st.open(id)
	if err != nil {
		return nil, err
	}
	through := r.Cameras
	if len(through) == 0 {
		through = []string{h.Document.Camera}
	}
	o := r.Settings
	o.Apart = len(through) > 1
	var list []*shot.Shot
	for _, camera := range through {
		d := h.Document.Clone()
		if camera != d.Camera {
			if p := d.Part(camera); p == nil || p.Camera == nil {
				return nil, refused{fmt.Errorf("one of the cameras to render through is not in the shot any more")}
			}
			d.Camera = camera
			if err := stage.FitCamera(d, st.assets, &st.subjects); err != nil { // fitted for this camera
				return nil, refused{err}
			}
		}
		if _, err := runs.NewPlan(d, runs.NamesOf(h.Project, d), o, "", st.stock); err != nil {
			return nil, refused{err}
		}
		list = append(list, d)
	}
	first := ""
	for _, d := range list {
		run, err := st.queue.Start(h.Shot, h.Project, d, o)
		if err != nil {
			return nil, refused{err}
		}
		if first == "" {
			first = run
		}
	}
	return st.Run(first)
}

// Run returns a run with its frames.
func (st *Studio) Run(id string) (*RunReply, error) {
	r, p, frames, err := st.queue.Status(id)
	if err != nil {
		return nil, err
	}
	out := &RunReply{
		ID: id, Shot: r.Shot, Title: r.Title, ShotName: r.Document.Name, Folder: r.Folder, Made: r.Made,
		Rate: r.Document.Rate, Ending: r.Document.Ending, Whole: len(frames) == r.Document.Frames, Progress: p, Frames: frames,
	}
	if err := json.Unmarshal([]byte(r.Settings), &out.Settings); err != nil {
		return nil, fmt.Errorf("the run's settings are damaged: %w", err)
	}
	return out, nil
}

// Runs returns all runs, newest first.
func (st *Studio) Runs() ([]RunReply, error) {
	all, err := st.store.Runs()
	if err != nil {
		return nil, err
	}
	out := []RunReply{}
	for _, r := range all {
		one, err := st.Run(r.ID)
		if err != nil { // one that cannot be read hides no other
			slog.Error("A run cannot be read.", "run", r.ID, "error", err)
			one = &RunReply{ID: r.ID, Shot: r.Shot, Title: r.Title, Folder: r.Folder, Made: r.Made, Rate: shot.Rate{Num: 24, Den: 1}, Ending: shot.Once, Frames: []store.Frame{},
				Progress: runs.Progress{Run: r.ID, State: runs.Failed, Message: "what it was to render cannot be read any more; its frames are in its folder, and perigyre doctor says more"}}
		}
		out = append(out, *one)
	}
	return out, nil
}

// Names previews the file names of a run, or says why it cannot be.
func (st *Studio) Names(id string, o runs.Settings) (*NameReply, error) {
	h, err := st.open(id)
	if err != nil {
		return nil, err
	}
	out := &NameReply{Frames: max(0, o.Frames()), Remarks: o.Remarks()}
	names := runs.NamesOf(h.Project, h.Document)
	if out.First, err = o.File(names, o.From); err == nil {
		if out.Last, err = o.File(names, o.To); err == nil {
			err = o.Check(h.Document)
		}
	}
	if err != nil {
		out.Problem = err.Error()
	}
	return out, nil
}
