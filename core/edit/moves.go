package edit

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// AddMove puts a move at the end of a part's stack: one of a kind with first values for the part, or one that is given.
type AddMove struct {
	Part string        `json:"part"`
	Kind shot.MoveKind `json:"kind,omitempty"`
	ID   string        `json:"id,omitempty"` // of the new move; a new one if empty
	Move *shot.Move    `json:"move,omitempty"`
}

func init() { Register[AddMove]("addMove") }

// Do implements Change.
func (e *AddMove) Do(w *Work) (string, error) {
	p, err := w.part(e.Part)
	if err != nil {
		return "", err
	}
	m := shot.Move{}
	if e.Move != nil {
		m = e.Move.Clone()
	} else {
		k, s := move.Of(e.Kind), w.subject(w.Index().Part(e.Part))
		if k == nil || !k.Suits(s) {
			return "", fmt.Errorf("%s cannot be given a move %q", p.Name, e.Kind)
		}
		m = k.New(s)
		if k.Axle && len(p.Moves)+len(p.Tracks) == 0 && !p.Locked {
			if _, err := (&SetPivot{Part: e.Part, To: "middle"}).Do(w); err != nil {
				return "", err
			}
		}
	}
	if e.ID != "" {
		m.ID = e.ID
	}
	if m.ID == "" {
		m.ID = w.NewID()
	}
	p.Moves = append(p.Moves, m)
	return fmt.Sprintf("Add %s to %s", m.Kind, p.Name), nil
}

// Combine adds the moves of a combination to parts, the first selected first.
type Combine struct {
	Name  string   `json:"name"`
	Parts []string `json:"parts"`
}

func init() { Register[Combine]("combine") }

// Do implements Change.
func (e *Combine) Do(w *Work) (string, error) {
	var on []*move.Subject
	for _, id := range e.Parts {
		i := w.Index().Part(id)
		if i < 0 {
			return "", ErrGone
		}
		on = append(on, w.subject(i))
	}
	list, err := move.Combined(e.Name, on)
	if err != nil {
		return "", err
	}
	for k, moves := range list {
		for _, m := range moves {
			m.ID = w.NewID()
			p := &w.Shot.Parts[on[k].At]
			p.Moves = append(p.Moves, m)
		}
	}
	return fmt.Sprintf("Add %q", e.Name), nil
}

// SetMove changes a move: by a merge patch of when it acts and how, and by values that its sentence has names for.
type SetMove struct {
	Move   string                     `json:"move"`
	Patch  Patch                      `json:"patch,omitempty"`  // of muted, solo, backwards, span, pace, laps and after
	Values map[string]json.RawMessage `json:"values,omitempty"` // by name
	Frame  float64                    `json:"frame,omitempty"`  // where numbers that have pins are pinned
	Record bool                       `json:"record,omitempty"` // numbers without pins get some
}

func init() { Register[SetMove]("setMove") }

// Touches implements Toucher.
func (e *SetMove) Touches() (out []Touch) {
	if len(e.Patch) > 0 {
		for _, path := range leaves([]byte(e.Patch), "") {
			out = append(out, Touch{Move: e.Move, Field: path})
		}
	}
	for name := range e.Values {
		out = append(out, Touch{Move: e.Move, Field: "values." + name}, Touch{Move: e.Move, Field: "pins." + name})
	}
	return out
}

// Do implements Change.
func (e *SetMove) Do(w *Work) (string, error) {
	p, m, err := w.move(e.Move)
	if err != nil {
		return "", err
	}
	if len(e.Patch) > 0 {
		if err := patchMove(m, e.Patch); err != nil {
			return "", err
		}
	}
	s := w.subject(w.Index().Part(p.ID))
	for _, name := range slices.Sorted(maps.Keys(e.Values)) {
		if err := move.Set(m, name, e.Values[name], s, move.At{Frame: e.Frame, Record: e.Record}); err != nil {
			return "", err
		}
	}
	return fmt.Sprintf("Change %s of %s", m.Kind, p.Name), nil
}

// timing is what SetMove's patch can change.
type timing struct {
	Muted     bool       `json:"muted"`
	Solo      bool       `json:"solo,omitempty"`
	Backwards bool       `json:"backwards,omitempty"`
	Span      *shot.Span `json:"span"`
	Pace      shot.Pace  `json:"pace"`
	Laps      int        `json:"laps,omitempty"`
	After     shot.After `json:"after"`
}

func patchMove(m *shot.Move, patch Patch) error {
	t := timing{m.Muted, m.Solo, m.Backwards, m.Span, m.Pace, m.Laps, m.After}
	if err := patch.merge(&t, "move"); err != nil {
		return err
	}
	m.Muted, m.Solo, m.Backwards, m.Span, m.Pace, m.Laps, m.After = t.Muted, t.Solo, t.Backwards, t.Span, t.Pace, t.Laps, t.After
	if m.After == shot.Mirrored && m.Laps <= 1 {
		m.Laps = 2 // there and back again
	}
	return nil
}

// ReplaceMoves puts moves in the place of those with their ids: what mends do.
type ReplaceMoves struct {
	Moves []shot.Move `json:"moves"`
}

func init() { Register[ReplaceMoves]("replaceMoves") }

// Do implements Change.
func (e *ReplaceMoves) Do(w *Work) (words string, err error) {
	for i := range e.Moves {
		p, m, err := w.move(e.Moves[i].ID)
		if err != nil {
			return "", err
		}
		*m = e.Moves[i].Clone()
		words = fmt.Sprintf("Change %s of %s", m.Kind, p.Name)
	}
	if len(e.Moves) == 0 {
		return "", fmt.Errorf("nothing is said to change")
	}
	return words, nil
}

// RemoveMoves removes moves.
type RemoveMoves struct {
	Moves []string `json:"moves"`
}

func init() { Register[RemoveMoves]("removeMoves") }

// Do implements Change.
func (e *RemoveMoves) Do(w *Work) (words string, err error) {
	for _, id := range e.Moves {
		p, m, err := w.move(id)
		if err != nil {
			return "", err
		}
		words = fmt.Sprintf("Remove %s from %s", m.Kind, p.Name)
		p.Moves = slices.DeleteFunc(p.Moves, func(o shot.Move) bool { return o.ID == id })
	}
	switch len(e.Moves) {
	case 0:
		return "", fmt.Errorf("nothing is chosen")
	case 1:
		return words, nil
	}
	return fmt.Sprintf("Remove %d moves", len(e.Moves)), nil
}

// MoveMove puts a move at another place of its part's stack.
type MoveMove struct {
	Move string `json:"move"`
	To   int    `json:"to"` // place in the stack
}

func init() { Register[MoveMove]("moveMove") }

// Do implements Change.
func (e *MoveMove) Do(w *Work) (string, error) {
	p, _, err := w.move(e.Move)
	if err != nil {
		return "", err
	}
	at := slices.IndexFunc(p.Moves, func(o shot.Move) bool { return o.ID == e.Move })
	moved := p.Moves[at]
	rest := slices.Delete(slices.Clone(p.Moves), at, at+1)
	p.Moves = slices.Insert(rest, max(0, min(e.To, len(rest))), moved)
	return fmt.Sprintf("Reorder the moves of %s", p.Name), nil
}

// CopyMove puts copies of a move at the end of the stacks of other parts.
type CopyMove struct {
	Move string   `json:"move"`
	Onto []string `json:"onto"`
}

func init() { Register[CopyMove]("copyMove") }

// Do implements Change.
func (e *CopyMove) Do(w *Work) (string, error) {
	p, m, err := w.move(e.Move)
	if err != nil {
		return "", err
	}
	for _, id := range e.Onto {
		to, err := w.part(id)
		if err != nil {
			return "", err
		}
		c := m.Clone()
		c.ID = w.NewID()
		to.Moves = append(to.Moves, c)
	}
	if len(e.Onto) == 0 {
		return "", fmt.Errorf("nothing is chosen to copy it to")
	}
	return fmt.Sprintf("Copy %s of %s to %d parts", m.Kind, p.Name, len(e.Onto)), nil
}

// subject is a part as moves measure it.
func (w *Work) subject(i int) *move.Subject {
	s := &move.Subject{Shot: w.Shot, Index: w.Index(), At: i}
	s.Box = func() (room, parent, own geom.Box) {
		room, parent, own = geom.EmptyBox(), geom.EmptyBox(), geom.EmptyBox()
		world := w.World()
		up := geom.Identity
		if k := w.Index().Parent(i); k >= 0 {
			up = world[k]
		}
		inUp, ok1 := up.Inverse()
		inOwn, ok2 := world[i].Inverse()
		scale := func(k float64) geom.Mat4 { return geom.TRS(geom.Vec3{}, geom.NoTurn, geom.Vec3{1 / k, 1 / k, 1 / k}) }
		reach, err := w.reach(i)
		if err == nil && ok1 && ok2 {
			room = reach.Bounds()
			parent = reach.In(scale(w.Pose().Metre(i)).Mul(inUp)).Bounds()
			own = reach.In(scale(w.Pose().OwnMetre(i)).Mul(inOwn)).Bounds()
		}
		tenth := geom.Box{Min: geom.Vec3{-0.05, -0.05, -0.05}, Max: geom.Vec3{0.05, 0.05, 0.05}}
		for _, b := range []*geom.Box{&room, &parent, &own} {
			if b.Empty() || b.Size().Len() == 0 {
				*b = tenth
			}
		}
		return room, parent, own
	}
	s.Scene = func() geom.Box {
		return w.shownBox()
	}
	s.Eye = func() (geom.Vec3, geom.Quat) {
		_, turn, _, _ := w.World()[i].Decompose()
		return w.World()[i].Column(3), turn
	}
	return s
}

// Suiting returns the kinds of moves and the combinations that parts of a document can be given, the last of them the one
// that a single move goes to.
func Suiting(s *shot.Shot, parts []string, env Env) (kinds []shot.MoveKind, combinations []move.Combination, err error) {
	w := &Work{Env: env, Shot: s}
	var on []*move.Subject
	for _, id := range parts {
		i := w.Index().Part(id)
		if i < 0 {
			return nil, nil, ErrGone
		}
		on = append(on, w.subject(i))
	}
	if len(on) == 0 {
		return nil, nil, ErrGone
	}
	for _, k := range move.Kinds() {
		if k.Suits(on[len(on)-1]) {
			kinds = append(kinds, k.Name)
		}
	}
	return kinds, move.Combinations(on), nil
}
