package edit

import (
	"errors"
	"fmt"
	"strings"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Env is what edits need beside the document.
type Env struct {
	Assets framing.Geometry
	NewID  func() string
	Memory *framing.Memory // of what cameras have been fitted to; nil for none
}

// Work is an edit under way.
type Work struct {
	Env
	Shot *shot.Shot // what is changed
	Made []string   // parts that are new and that someone would want to have selected

	before *shot.Shot // as it was
	index  *shot.Index
	pose   *pose.Evaluator
	world  []geom.Mat4
	lits   map[string]Lit // what lights stand round, kept where nothing changes
}

// Index returns the index of the document as it was when it was last asked for; see Changed.
func (w *Work) Index() *shot.Index {
	if w.index == nil {
		w.index = shot.NewIndex(w.Shot)
	}
	return w.index
}

// Pose returns the evaluator of the document as it was before the change.
func (w *Work) Pose() *pose.Evaluator {
	if w.pose == nil {
		w.pose = pose.New(w.before)
	}
	return w.pose
}

// World returns the matrices of frame 0 as they were before the change.
func (w *Work) World() []geom.Mat4 {
	if w.world == nil {
		w.world = w.Pose().At(0)
	}
	return w.world
}

// Changed says that parts have come, gone or changed places.
func (w *Work) Changed() { w.index = nil }

// Result is what has become of a document.
type Result struct {
	Shot  *shot.Shot
	Words string   // for the history
	Made  []string // new parts
}

// Apply carries out edits one after another on a copy of a document, all of them or none: the document it returns is valid,
// and what follows from others in it is up to date. s stays as it was.
func Apply(s *shot.Shot, list []Edit, env Env) (*Result, error) {
	if len(list) == 0 {
		return nil, errors.New("nothing is said to change")
	}
	out := &Result{Shot: s}
	var words []string
	for _, e := range list {
		if e.Change == nil {
			return nil, errors.New("an edit says nothing to change")
		}
		w := &Work{Env: env, Shot: out.Shot.Clone(), before: out.Shot}
		said, err := e.Do(w)
		if err != nil {
			return nil, err
		}
		if err := w.Shot.Validate(); err != nil {
			return nil, err
		}
		out.Shot = w.Shot
		out.Made = append(out.Made, w.Made...)
		words = append(words, said)
	}
	if err := Update(out.Shot, env); err != nil {
		return nil, err
	}
	out.Words = strings.Join(words, ", ")
	return out, nil
}

// Follower brings something of a document up to date that follows from the rest of it: the camera that is kept fitted, the
// meshes of a mark.
type Follower func(s *shot.Shot, env Env) error

var followers [3][]Follower

// Stages of followers: meshes first, then what is cut from them, then the camera that sees all.
const (
	Meshes = iota
	Cuts
	Cameras
)

// Follow has a follower called after every change.
func Follow(stage int, f Follower) { followers[stage] = append(followers[stage], f) }

// Update brings up to date what follows from the rest of a document, which it changes, and checks the whole.
func Update(s *shot.Shot, env Env) error {
	for _, stage := range followers {
		for _, f := range stage {
			if err := f(s, env); err != nil {
				return err
			}
		}
	}
	return s.Validate()
}

// part returns a part that is to be changed.
func (w *Work) part(id string) (*shot.Part, error) {
	if i := w.Index().Part(id); i >= 0 {
		return &w.Shot.Parts[i], nil
	}
	return nil, ErrGone
}

// move returns a move that is to be changed, and the part it is on.
func (w *Work) move(id string) (*shot.Part, *shot.Move, error) {
	if p, m := w.Shot.Move(id); m != nil {
		return p, m, nil
	}
	return nil, nil, fmt.Errorf("the move is not in this shot any more")
}

// ErrGone is for an edit of a part that is not there.
var ErrGone = errors.New("a part that was chosen is not in this shot any more")
