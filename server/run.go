package server

import (
	"encoding/json"
	"fmt"
	"log/slog"
	"math"

	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/runs"
	"perigyre/store"
)

// maxTogether runs are queued at a press.
const maxTogether = 500

// StartRuns queues a run of a shot, or one for each camera, finish and format of several, and returns the first. All are
// checked before any is queued, and each camera is fitted for each format.
func (st *Studio) StartRuns(id string, r RunRequest) (*RunReply, error) {
	h, err := st.open(id)
	if err != nil {
		return nil, err
	}
	or := func(list []string, one string) []string {
		if len(list) == 0 {
			return []string{one}
		}
		return list
	}
	through, finishes, sizes := or(r.Cameras, h.Document.Camera), or(r.Finishes, h.Document.Finish), r.Formats
	if len(sizes) == 0 {
		sizes = []shot.Format{h.Document.Format}
	}
	if n := len(through) * len(finishes) * len(sizes); n > maxTogether {
		return nil, refused{fmt.Errorf("these are %d runs, more than the %d that are queued at a time", n, maxTogether)}
	}
	type one struct {
		d *shot.Shot
		o runs.Settings
	}
	var list []one
	for _, camera := range through {
		for _, size := range sizes {
			for _, finish := range finishes {
				d := h.Document.Clone()
				o := r.Settings
				o.Among = nil
				if p := d.Part(camera); p == nil || p.Camera == nil {
					return nil, refused{fmt.Errorf("one of the cameras to render through is not in the shot any more")}
				}
				// Other formats are as large as theirs says, by the share of its own that the shot's is rendered at.
				share := float64(o.Width) / float64(d.Format.Width)
				other := size != d.Format
				d.Finish = finish
				if camera != d.Camera || other {
					d.Camera, d.Format = camera, size
					if other {
						o.Width, o.Height = int(math.Max(1, math.Round(share*float64(size.Width)))), int(math.Max(1, math.Round(share*float64(size.Height))))
					}
					d.Part(camera).Locked = false                                       // in the copy that is rendered, whose format is another
					if err := stage.FitCamera(d, st.assets, &st.subjects); err != nil { // fitted for this camera and format
						return nil, refused{err}
					}
				}
				if err := d.Validate(); err != nil {
					return nil, refused{err}
				}
				names := runs.NamesOf(h.ProjectName, d)
				for _, w := range []struct {
					several bool
					word    string
				}{{len(through) > 1, names.Camera}, {len(finishes) > 1, names.Finish}, {len(sizes) > 1, names.Format}} {
					if w.several {
						o.Among = append(o.Among, w.word)
					}
				}
				if _, err := runs.NewPlan(d, names, o, "", st.stock); err != nil {
					return nil, refused{err}
				}
				list = append(list, one{d, o})
			}
		}
	}
	first := ""
	for _, x := range list {
		run, err := st.queue.Start(h.Shot, h.ProjectName, x.d, x.o)
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
	names := runs.NamesOf(h.ProjectName, h.Document)
	out := &NameReply{Frames: max(0, o.Frames()), Findings: st.queue.Findings(h.ProjectName, h.Document, o)}
	out.First, _ = o.File(names, o.From) // what is wrong with them is among the findings
	out.Last, _ = o.File(names, o.To)
	return out, nil
}
