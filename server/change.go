package server

import (
	"reflect"

	"perigyre/core/shot"
	"perigyre/store"
)

// ShotChange answers a change: the shot as it is now, without what the asker has. Of the lists that Lists names the shot holds
// only what is not in the answer for the version Since; for 0 it holds everything.
type ShotChange struct {
	Since int                `json:"since"`
	Lists map[string][]Piece `json:"lists"`
	Shot  *ShotReply         `json:"shot"`
	Made  []string           `json:"made,omitempty"` // parts that the edit made
}

// Piece is a piece of a list: so many elements of the earlier one from a place on, or so many of those that came along.
type Piece struct {
	From  int `json:"from"` // -1 for what came along
	Count int `json:"count"`
}

// answer returns the answer to a change of a shot by someone who has the answer for version since.
func (st *Studio) answer(id string, since int) (*ShotChange, error) {
	was := st.desk.replied(id, since)
	now, err := st.Reply(id)
	if err != nil {
		return nil, err
	}
	out := &ShotChange{Lists: map[string][]Piece{}, Shot: now}
	if was == nil {
		return out, nil
	}
	short := *now
	d := *now.document
	d.Parts, out.Lists["document.parts"] = changed(was.document.Parts, d.Parts, func(a, b *shot.Part) bool { return a.Same(b) })
	d.Materials, out.Lists["document.materials"] = changed(was.document.Materials, d.Materials, alike)
	text, err := store.Encode(&d)
	if err != nil {
		return nil, err
	}
	short.Document = text
	short.Seam, out.Lists["seam"] = changed(was.Seam, now.Seam, alike)
	short.Moves, out.Lists["moves"] = changed(was.Moves, now.Moves, alike)
	short.Pins, out.Lists["pins"] = changed(was.Pins, now.Pins, alike)
	short.Shown, out.Lists["shown"] = changed(was.Shown, now.Shown, alike)
	out.Since, out.Shot = since, &short
	return out, nil
}

func alike[T any](a, b *T) bool { return reflect.DeepEqual(a, b) }

// changed returns the elements of a list that are not in an earlier one, and how the two make the list. Lists of one length
// are compared element by element, others from both ends.
func changed[T any](was, now []T, same func(a, b *T) bool) (fresh []T, list []Piece) {
	fresh, list = []T{}, []Piece{}
	add := func(from int) {
		if n := len(list); n > 0 && (from < 0 && list[n-1].From < 0 || from >= 0 && list[n-1].From >= 0 && list[n-1].From+list[n-1].Count == from) {
			list[n-1].Count++
			return
		}
		list = append(list, Piece{from, 1})
	}
	tail := 0
	if len(was) != len(now) {
		for tail < min(len(was), len(now)) && same(&was[len(was)-1-tail], &now[len(now)-1-tail]) {
			tail++
		}
	}
	for i := range now {
		from := i
		if i >= len(now)-tail {
			from = len(was) - len(now) + i
		} else if i >= len(was) || !same(&was[i], &now[i]) {
			from = -1
			fresh = append(fresh, now[i])
		}
		add(from)
	}
	return fresh, list
}
