package server

import (
	"encoding/json"
	"slices"

	"perigyre/core/check"
	"perigyre/core/edit"
	"perigyre/core/framing"
	"perigyre/core/loop"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/library"
	"perigyre/runs"
	"perigyre/store"
)

// Reply returns a shot with what follows from it.
func (st *Studio) Reply(id string) (*ShotReply, error) {
	v, err := st.open(id)
	if err != nil {
		return nil, err
	}
	h, err := st.store.Standing(id)
	if err != nil {
		return nil, err
	}
	d := v.Document
	r := &ShotReply{
		ID: id, Project: h.Project, Version: v.Version, Revision: v.Revision, Pictured: h.Pictured, CanUndo: h.CanUndo, CanRedo: h.CanRedo, Saved: h.Made,
		Document: DocumentText(v.text), document: d, Reports: []library.Report{}, Standing: []stage.Standing{},
	}
	e, facts, err := st.measured(v)
	if err != nil {
		return nil, err
	}
	r.Standing, r.Wobble = append(r.Standing, facts.Standing...), facts.Wobble
	r.Margins, r.Seam, r.Loop = facts.Margins, facts.Seam.Gaps, check.Judge(facts)
	if i := e.Index.Part(d.Camera); i >= 0 {
		view := framing.Optics(d.Parts[i].Camera, d.Format)
		r.View = &view
	}
	r.Optics = map[string]framing.View{}
	for i := range d.Parts {
		if d.Parts[i].Camera != nil {
			r.Optics[d.Parts[i].ID] = framing.Optics(d.Parts[i].Camera, d.Format)
		}
	}
	for i := range d.Angles {
		r.Optics[d.Angles[i].ID] = framing.Optics(&d.Angles[i].Lens, d.Angles[i].Format)
	}
	for _, s := range d.Sources {
		text, err := st.store.AssetReport(s.Asset)
		if err != nil {
			continue // a report is worth having, but the shot does not need it
		}
		var rep library.Report
		if json.Unmarshal(text, &rep) == nil {
			r.Reports = append(r.Reports, rep)
		}
	}
	r.Moves, r.Pins = movesOf(d, facts.Closings)
	r.Shown = st.shown(d, e.Index)
	r.Lights, r.Subject = edit.Bearings(d, e, st.env())
	r.Run = runs.Defaults(d)
	st.desk.keep(r)
	return r, nil
}

// movesOf tells how moves read and are drawn, and which pins do not come back.
func movesOf(d *shot.Shot, closings []loop.Closing) (moves []MoveReply, pins []PinsReply) {
	moves, pins = []MoveReply{}, []PinsReply{}
	of := map[string]*loop.Closing{}
	for i := range closings {
		c := &closings[i]
		if c.Move == "" {
			pins = append(pins, PinsReply{c.Part, c.Closes, c.Words, check.MendsOf(c)})
			continue
		}
		of[c.Move] = c
	}
	for i := range d.Parts {
		p := &d.Parts[i]
		for j := range p.Moves {
			m := &p.Moves[j]
			r := MoveReply{Part: p.ID, Move: m.ID, Closes: true, Mends: []check.Mend{}, Bar: move.BarOf(d, m), Values: move.Values(m, p)}
			if c := of[m.ID]; c != nil {
				r.Closes, r.Words, r.Laps, r.Mends = c.Closes, c.Words, c.Laps, check.MendsOf(c)
			}
			moves = append(moves, r)
		}
	}
	return moves, pins
}

// shown tells how parts are seen: in the order of the document.
func (st *Studio) shown(d *shot.Shot, x *shot.Index) []Shown {
	dressed, hidden, drivers := d.Dressed(), x.Hidden(), loop.Drivers(d)
	cuts := slices.ContainsFunc(d.Parts, func(p shot.Part) bool { return p.Cut != nil })
	out := make([]Shown, len(d.Parts))
	away := make([]bool, len(d.Parts))
	for i := range dressed.Parts {
		p := &dressed.Parts[i]
		up := x.Parent(i)
		away[i] = p.Away || up >= 0 && away[up]
		out[i] = Shown{Hidden: hidden[i], Away: away[i], Materials: p.Materials, Shape: p.Shaped(), Floor: p.Kind == shot.Floor && p.Shaped() == nil}
		out[i].Open = cuts && (p.Mesh != nil || p.Shaped() != nil) && st.passed.Open(st.assets, p)
		if out[i].Floor {
			out[i].Fade = p.Fades()
		}
		if p.Shape != nil {
			out[i].Measures = p.Shape.Measures()
		}
		if drivers[p.ID] {
			out[i].Turns = loop.Turns(dressed, p.ID)
		}
		for j := range p.Moves {
			m := &p.Moves[j]
			out[i].Table = out[i].Table || move.Table(m)
			out[i].Carries = out[i].Carries || !m.Muted && move.Carries(m)
		}
	}
	return out
}

// Hole fits the round surface that a face of a part is part of. The answer is in the room, on a frame.
func (st *Studio) Hole(id string, r HoleRequest) (*mesh.Cylinder, error) {
	v, err := st.open(id)
	if err != nil {
		return nil, err
	}
	i := v.Document.Index(r.Part)
	if i < 0 {
		return nil, store.ErrMissing
	}
	p := &v.Document.Parts[i]
	var m *mesh.Mesh
	if p.Mesh != nil {
		prims, err := st.assets.Mesh(*p.Mesh)
		if err != nil {
			return nil, err
		}
		if r.Mesh >= 0 && r.Mesh < len(prims) {
			m = prims[r.Mesh].Mesh
		}
	} else if made := p.Shaped(); made != nil {
		m = made.Build()
	}
	if m == nil {
		return nil, store.ErrMissing
	}
	c, err := m.FitCylinder(r.Triangle)
	if err != nil {
		return nil, refused{err}
	}
	e, _, err := st.measured(v)
	if err != nil {
		return nil, err
	}
	world := e.Some(float64(r.Frame)).Of(i)
	c.Centre, c.Axis = world.Point(c.Centre), world.Vector(c.Axis).Unit()
	c.Radius *= world.Column(0).Len()
	return &c, nil
}

// Suiting tells which moves and combinations parts can be given.
func (st *Studio) Suiting(id string, parts []string) (*SuitingReply, error) {
	v, err := st.open(id)
	if err != nil {
		return nil, err
	}
	out := &SuitingReply{Kinds: []shot.MoveKind{}, Combinations: []move.Combination{}}
	kinds, combinations, err := edit.Suiting(v.Document, parts, st.env())
	if err != nil {
		return nil, refused{err}
	}
	out.Kinds, out.Combinations = append(out.Kinds, kinds...), append(out.Combinations, combinations...)
	return out, nil
}
