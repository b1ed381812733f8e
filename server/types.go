package server

import (
	"encoding/json"
	"time"

	"perigyre/core/check"
	"perigyre/core/edit"
	"perigyre/core/exploded"
	"perigyre/core/framing"
	"perigyre/core/lighting"
	"perigyre/core/loop"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/farm"
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
		Kinds    Kinds           `json:"kinds"`
		Drive    string          `json:"drive"` // that runs can be delivered to, empty for none
	}

	// Kinds describe what the core knows kinds of, so that the front end draws them and knows none.
	Kinds struct {
		Moves   []move.Description `json:"moves"`
		Paces   []motion.PaceKind  `json:"paces"`
		Shapes  []mesh.Description `json:"shapes"`
		Values  []shot.ValueWords  `json:"values"`  // that a part's pins can animate
		Presets []material.Preset  `json:"presets"` // materials to start from
		Fronts  []move.Front       `json:"fronts"`  // the sides that a part's front is chosen from
		Formats []shot.NamedFormat `json:"formats"`
		Rigs    []shot.Rig         `json:"rigs"`
		Studios []lighting.Studio  `json:"studios"` // surroundings that are worked out
		Lights  []shot.LightWords  `json:"lights"`

		Qualities []render.QualityWords `json:"qualities"`
		Files     []runs.FormatWords    `json:"files"`
		Passes    []render.Pass         `json:"passes"`
	}

	// ShotReply is a shot with what follows from it.
	ShotReply struct {
		ID       string                  `json:"id"`
		Project  string                  `json:"project"` // its id
		Version  int                     `json:"version"`
		Revision int                     `json:"revision"` // its place in the history
		Pictured bool                    `json:"pictured"` // there is a small picture of it there
		CanUndo  bool                    `json:"canUndo"`
		CanRedo  bool                    `json:"canRedo"`
		Saved    time.Time               `json:"saved"`
		Document DocumentText            `json:"document"`
		Margins  *framing.Margins        `json:"margins"` // null where nothing is visible
		Optics   map[string]framing.View `json:"optics"`  // of every camera and angle, by id
		View     *framing.View           `json:"view"`    // of the render camera, null without one
		Loop     check.Verdict           `json:"loop"`
		Seam     []loop.Gap              `json:"seam"`
		Moves    []MoveReply             `json:"moves"`
		Pins     []PinsReply             `json:"pins"`   // of parts that have some
		Shown    []Shown                 `json:"shown"`  // of every part, in their order
		Wobble   *float64                `json:"wobble"` // metres from the turntable's axis to the middle of what turns on it, null without a turntable
		Reports  []library.Report        `json:"reports"`
		Standing []stage.Standing        `json:"standing"` // of each import
		Lights   []edit.LightPlace       `json:"lights"`
		Subject  edit.Lit                `json:"subject"` // what stands in the middle, on frame 0
		Run      runs.Settings           `json:"run"`     // what a run of it starts with

		document *shot.Shot
	}

	// FindingsReply is what was found about a version of a shot.
	FindingsReply struct {
		Version  int             `json:"version"`
		Findings []check.Finding `json:"findings"`
		Shorter  int             `json:"shorter"` // frames that show all that the loop shows; 0 where it takes all
	}

	// ApartReply is how a group of a version of a shot comes apart.
	ApartReply struct {
		Version int `json:"version"`
		exploded.Plan
	}

	// MetersReply is how a part goes, on every frame.
	MetersReply struct {
		Version int           `json:"version"`
		Meters  []check.Meter `json:"meters"`
	}

	// RehearsalReply is how the rehearsal of a shot stands.
	RehearsalReply struct {
		Version  int             `json:"version"` // that is or was rehearsed
		State    string          `json:"state"`   // none, running, done, stopped or failed
		Problem  string          `json:"problem,omitempty"`
		Frames   []int           `json:"frames"` // that are rendered, in their order
		Done     int             `json:"done"`   // how many of them are
		Findings []check.Finding `json:"findings"`
	}

	// Made is a new shot.
	Made struct {
		Project string `json:"project"`
		Shot    string `json:"shot"`
	}

	// ShotRequest asks for an empty shot of a project, or of a new project where none is named.
	ShotRequest struct {
		Project string `json:"project"`
		Name    string `json:"name"`
	}

	// MoveReply is how a move reads and is drawn.
	MoveReply struct {
		Part   string         `json:"part"`
		Move   string         `json:"move"`
		Closes bool           `json:"closes"` // comes back by itself
		Words  string         `json:"words"`  // whether it does
		Laps   float64        `json:"laps"`   // how often it repeats over the shot, where that can be said
		Mends  []check.Mend   `json:"mends"`
		Bar    move.Bar       `json:"bar"`
		Values map[string]any `json:"values"` // what its sentence shows, by name
	}

	// PinsReply says whether the pins of a part come back by themselves.
	PinsReply struct {
		Part   string       `json:"part"`
		Closes bool         `json:"closes"`
		Words  string       `json:"words"`
		Mends  []check.Mend `json:"mends"`
	}

	// Shown is how a part is seen.
	Shown struct {
		Hidden    bool               `json:"hidden,omitempty"`    // it, or what it is in
		Away      bool               `json:"away,omitempty"`      // from the bench
		Materials []string           `json:"materials,omitempty"` // that it wears
		Shape     *mesh.Shape        `json:"shape,omitempty"`     // that it is made as, if it has no mesh
		Measures  map[string]float64 `json:"measures,omitempty"`  // of a shape of its own, by name
		Open      bool               `json:"open,omitempty"`      // there are cutters, and its mesh is not closed: it has no cut faces
		Floor     bool               `json:"floor,omitempty"`     // it receives shadow and is not seen
		Fade      float64            `json:"fade,omitempty"`      // of such a floor: the share of the picture over which its shadow fades out
		Table     bool               `json:"table,omitempty"`     // it is the turntable of the set
		Carries   bool               `json:"carries,omitempty"`   // a move of it carries the render camera
		Turns     int64              `json:"turns,omitempty"`     // of what drives others: after so many turns of it they have all come round
	}

	// SuitingReply says which moves parts can be given.
	SuitingReply struct {
		Kinds        []shot.MoveKind    `json:"kinds"`
		Combinations []move.Combination `json:"combinations"`
	}

	// CurvesReply is the pins of a part, sampled.
	CurvesReply struct {
		Part   string  `json:"part"`
		Curves []Curve `json:"curves"`
	}

	// Curve is a track of a part or of a move of it.
	Curve struct {
		Move   string    `json:"move,omitempty"`
		Value  string    `json:"value"`
		Step   float64   `json:"step"`   // frames between samples, from frame 0 to the shot's length
		Values []float64 `json:"values"` // in the document's unit
		Speeds []float64 `json:"speeds"` // by the frame
	}

	// EditRequest asks for changes, all of them or none, that were made for the version that was seen.
	EditRequest struct {
		Version int         `json:"version"`
		Edits   []edit.Edit `json:"edits"`
	}

	// PartsRequest names parts.
	PartsRequest struct {
		Parts []string `json:"parts"`
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
		First    string          `json:"first"`
		Last     string          `json:"last"`
		Frames   int             `json:"frames"`
		Findings []check.Finding `json:"findings"` // in the settings: one that blocks where they cannot be carried out
	}

	// RunRequest starts a run or a test frame.
	RunRequest struct {
		Settings runs.Settings `json:"settings"`
		Frame    int           `json:"frame"`              // of a test frame
		Cameras  []string      `json:"cameras,omitempty"`  // a run through each; that of the shot where it is empty
		Finishes []string      `json:"finishes,omitempty"` // and in each, "" for as it came; the one that is shown where it is empty
		Formats  []shot.Format `json:"formats,omitempty"`  // and in each; that of the shot where it is empty
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
		Check    *CheckEvent    `json:"check,omitempty"`

		Rehearsal *CheckEvent `json:"rehearsal,omitempty"`
		Apart     *CheckEvent `json:"apart,omitempty"`

		Workers bool `json:"workers,omitempty"` // one has come or gone, or does something else
	}

	// WorkersReply is the page of workers.
	WorkersReply struct {
		Open    bool          `json:"open"`    // machines can join
		Address string        `json:"address"` // at which they do
		Line    string        `json:"line"`    // what is typed on a machine that is to join
		Apart   bool          `json:"apart"`   // the queue is no part of this program, which does not know the token that it has for workers
		Beyond  bool          `json:"beyond"`  // other machines reach it
		Safe    bool          `json:"safe"`    // what goes to and fro cannot be read on the way
		Working int           `json:"working"` // how many render, or would if there were something to
		Speed   float64       `json:"speed"`   // of those together, as a multiple of this machine's
		Members []farm.Member `json:"members"`
	}

	// WishRequest says what is wished of a worker.
	WishRequest struct {
		Wish string `json:"wish"`
	}

	// ShotEvent says that a shot has a new version.
	ShotEvent struct {
		ID      string `json:"id"`
		Version int    `json:"version"`
	}

	// CheckEvent says how much of a version of a shot has been looked at for findings, rehearsed, or planned to be taken apart.
	CheckEvent struct {
		ID      string  `json:"id"`
		Version int     `json:"version"`
		Share   float64 `json:"share"`
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
		Part  string     `json:"part,omitempty"`  // whose field is wrong
		Field string     `json:"field,omitempty"` // which, as the document names it
		Shot  *ShotReply `json:"shot,omitempty"`
	}
)

// DocumentText is a document as it is kept.
type DocumentText json.RawMessage

// MarshalJSON writes the text as it is.
func (t DocumentText) MarshalJSON() ([]byte, error) { return json.RawMessage(t).MarshalJSON() }

// UnmarshalJSON takes the text as it is.
func (t *DocumentText) UnmarshalJSON(b []byte) error {
	*t = append((*t)[:0], b...)
	return nil
}

// JSONSchemaAlias has the schema say what is in the text.
func (DocumentText) JSONSchemaAlias() any { return &shot.Shot{} }

// Revision is a row of a shot's history.
type Revision = store.Revision
