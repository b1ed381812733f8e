package server

import (
	"time"

	"perigyre/core/framing"
	"perigyre/core/loop"
	"perigyre/core/model"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/library"
	"perigyre/runs"
	"perigyre/store"
)

// The types that go over the wire beside the document. The front end's are generated from them.
type (
	// State is what the front end needs at its start.
	State struct {
		Projects []store.Project `json:"projects"`
		Limits   model.Limits    `json:"limits"`
		Endings  []string        `json:"endings"` // of files that can be brought in
		Fonts    []string        `json:"fonts"`   // that come along
	}

	// ShotReply is a shot with what follows from it.
	ShotReply struct {
		ID       string           `json:"id"`
		Project  string           `json:"project"`
		Version  int              `json:"version"`
		Revision int              `json:"revision"` // its place in the history
		Pictured bool             `json:"pictured"` // there is a small picture of it there
		CanUndo  bool             `json:"canUndo"`
		CanRedo  bool             `json:"canRedo"`
		Saved    time.Time        `json:"saved"`
		Document shot.Shot        `json:"document"`
		Margins  *framing.Margins `json:"margins"` // null where nothing is visible
		View     *framing.View    `json:"view"`    // of the render camera, null without one
		Seam     []loop.Gap       `json:"seam"`
		Closings []loop.Closing   `json:"closings"`
		Wobble   *float64         `json:"wobble"` // metres from the turntable's axis to the middle of what turns on it, null without a turntable
		Reports  []library.Report `json:"reports"`
		Standing []stage.Standing `json:"standing"` // of each import
	}

	// EditRequest asks for a change of the version that was seen.
	EditRequest struct {
		Version int       `json:"version"`
		Edit    shot.Edit `json:"edit"`
	}

	// VersionRequest asks for an undo, a redo or a restoring.
	VersionRequest struct {
		Version int `json:"version"`
	}

	// CompareReply says what differs between two revisions.
	CompareReply struct {
		Differences []string `json:"differences"`
	}

	// PasteRequest asks for parts of another shot.
	PasteRequest struct {
		From  string   `json:"from"` // the other shot
		Parts []string `json:"parts"`
	}

	// PasteReply names the new parts.
	PasteReply struct {
		Parts []string `json:"parts"`
	}

	// Imported answers an import.
	Imported struct {
		Project string         `json:"project"`
		Shot    string         `json:"shot"`
		Report  library.Report `json:"report"`
	}

	// FontReply answers a font file.
	FontReply struct {
		Hash string `json:"hash"`
		Name string `json:"name"`
	}

	// HoleRequest names a face of a part: a triangle of one of its meshes.
	HoleRequest struct {
		Part     string `json:"part"`
		Mesh     int    `json:"mesh"`
		Triangle int    `json:"triangle"`
		Frame    int    `json:"frame"`
	}

	// NameReply previews the names of a run.
	NameReply struct {
		First   string `json:"first"`
		Last    string `json:"last"`
		Frames  int    `json:"frames"`
		Problem string `json:"problem"` // why the settings cannot be carried out, or empty
	}

	// RunRequest starts a run or a test frame.
	RunRequest struct {
		Settings runs.Settings `json:"settings"`
		Frame    int           `json:"frame"`             // of a test frame
		Cameras  []string      `json:"cameras,omitempty"` // a run through each; that of the shot where it is empty
	}

	// RunReply is a run with its frames.
	RunReply struct {
		ID       string        `json:"id"`
		Shot     string        `json:"shot"`
		Title    string        `json:"title"`
		ShotName string        `json:"shotName"`
		Folder   string        `json:"folder"`
		Made     time.Time     `json:"made"`
		Rate     shot.Rate     `json:"rate"`
		Ending   shot.Ending   `json:"ending"`
		Whole    bool          `json:"whole"` // it holds every frame of the shot
		Settings runs.Settings `json:"settings"`
		Progress runs.Progress `json:"progress"`
		Frames   []store.Frame `json:"frames"`
	}

	// Event is pushed to every window.
	Event struct {
		Shot     *ShotEvent     `json:"shot,omitempty"`
		Projects bool           `json:"projects,omitempty"` // the list changed
		Run      *runs.Progress `json:"run,omitempty"`
		Import   *StepEvent     `json:"import,omitempty"`
		Test     *StepEvent     `json:"test,omitempty"`
	}

	// ShotEvent says that a shot has a new version.
	ShotEvent struct {
		ID      string `json:"id"`
		Version int    `json:"version"`
	}

	// StepEvent says how far something is. Ticket is what the asker named it.
	StepEvent struct {
		Ticket string  `json:"ticket"`
		Doing  string  `json:"doing"`
		Share  float64 `json:"share"`
	}

	// ErrorReply is a sentence. With a stale edit comes the newer shot.
	ErrorReply struct {
		Error string     `json:"error"`
		Shot  *ShotReply `json:"shot,omitempty"`
	}
)

// Revision is a row of a shot's history.
type Revision = store.Revision
