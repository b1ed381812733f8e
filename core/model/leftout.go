package model

import (
	"fmt"
	"maps"
	"slices"
	"unicode/utf8"
)

// LeftOut counts what a file holds that is not taken in. The zero LeftOut is empty.
type LeftOut struct {
	order []string
	count map[string]int
	more  int
}

// maxLeftOut bounds how many kinds of things are named; of further ones the number is.
const maxLeftOut, maxLeftOutName = 200, 120

// Add notes one more of a kind.
func (l *LeftOut) Add(what string) { l.AddMany(what, 1) }

// AddMany notes more of a kind.
func (l *LeftOut) AddMany(what string, n int) {
	if len(what) > maxLeftOutName {
		k := maxLeftOutName
		for k > 0 && !utf8.RuneStart(what[k]) {
			k--
		}
		what = what[:k] + "…"
	}
	if l.count == nil {
		l.count = map[string]int{}
	}
	if l.count[what] == 0 {
		if len(l.order) == maxLeftOut {
			l.more += n
			return
		}
		l.order = append(l.order, what)
	}
	l.count[what] += n
}

// Names returns the kinds in the order in which they came, with how often where it is more than once.
func (l *LeftOut) Names() []string {
	var out []string
	for _, w := range l.order {
		if n := l.count[w]; n > 1 {
			w = fmt.Sprintf("%s (%d times)", w, n)
		}
		out = append(out, w)
	}
	if l.more > 0 {
		out = append(out, fmt.Sprintf("and %d more things of other kinds", l.more))
	}
	return out
}

// Clone returns a copy that grows apart.
func (l *LeftOut) Clone() *LeftOut {
	return &LeftOut{slices.Clone(l.order), maps.Clone(l.count), l.more}
}
