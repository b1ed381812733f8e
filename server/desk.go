package server

import (
	"sync"

	"perigyre/core/check"
	"perigyre/core/framing"
	"perigyre/core/pose"
	"perigyre/core/shot"
	"perigyre/store"
)

// desk holds the shots that are being worked on: as they are now, what has been measured of that, and a few documents from
// before, by which edits that were made for them are told.
type desk struct {
	locks locks

	mu    sync.Mutex // guards what follows
	shots map[string]*opened
	order []string // the one used last is the last
}

// maxOpened shots are held, and of each at most maxOlder documents, whose texts take at most maxHeld bytes together.
const (
	maxOpened = 8
	maxOlder  = 32
	maxHeld   = 32 << 20
)

// opened is a shot on the desk.
type opened struct {
	now   *version
	reply *ShotReply       // the last that was worked out, as a rule that of now
	older map[int]*version // by their numbers, with the present one
}

// version is a version of a shot that does not change any more. What is measured of it is measured once.
type version struct {
	*store.Head
	text []byte // of the document in its newest form

	once  sync.Once
	facts *check.Facts
	err   error

	look  sync.Mutex // held while it is looked for what is found
	found []check.Finding

	shorter int // frames that show all that the loop shows
}

// open returns a shot as it is now.
func (st *Studio) open(id string) (*version, error) {
	n, err := st.store.Version(id)
	if err != nil {
		return nil, err
	}
	if v := st.desk.find(id, n); v != nil {
		return v, nil
	}
	h, err := st.store.Standing(id)
	if err != nil {
		return nil, err
	}
	if v := st.desk.revision(id, h.Revision); v != nil { // it has been undone or done again
		h.Document, h.Text = v.Document, v.Text
		v = &version{Head: h, text: v.text}
		st.desk.put(v)
		return v, nil
	}
	if h, err = st.store.Shot(id); err != nil {
		return nil, err
	}
	text, err := store.Encode(h.Document)
	if err != nil {
		return nil, err
	}
	v := &version{Head: h, text: text}
	st.desk.put(v)
	return v, nil
}

// revision returns a version of a shot with the document of a place in its history, or nil where there is none on the desk.
// What a place in the history holds never changes.
func (d *desk) revision(id string, n int) *version {
	d.mu.Lock()
	defer d.mu.Unlock()
	if o := d.shots[id]; o != nil {
		for _, v := range o.older {
			if v.Revision == n {
				return v
			}
		}
	}
	return nil
}

func (d *desk) find(id string, n int) *version {
	d.mu.Lock()
	defer d.mu.Unlock()
	if o := d.shots[id]; o != nil && o.now.Version == n {
		return o.now
	}
	return nil
}

// put makes a version the present one of its shot.
func (d *desk) put(v *version) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.shots == nil {
		d.shots = map[string]*opened{}
	}
	o := d.shots[v.Shot]
	if o == nil {
		if len(d.order) >= maxOpened {
			delete(d.shots, d.order[0])
			d.order = d.order[1:]
		}
		o = &opened{older: map[int]*version{}}
		d.shots[v.Shot] = o
		d.order = append(d.order, v.Shot)
	}
	o.now = v
	o.older[v.Version] = v
	held := 0
	for n := v.Version; n > v.Version-maxOlder; n-- {
		if o.older[n] != nil {
			if held += len(o.older[n].text); held > maxHeld && n < v.Version {
				delete(o.older, n)
			}
		}
	}
	delete(o.older, v.Version-maxOlder)
}

// keep keeps an answer, which does not change any more.
func (d *desk) keep(r *ShotReply) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if o := d.shots[r.ID]; o != nil {
		o.reply = r
	}
}

// replied returns the last answer for a shot if it was for a version, else nil.
func (d *desk) replied(id string, version int) *ShotReply {
	d.mu.Lock()
	defer d.mu.Unlock()
	if o := d.shots[id]; o != nil && o.reply != nil && o.reply.Version == version {
		return o.reply
	}
	return nil
}

// document returns a shot as it was in a version, or nil where that is not known any more.
func (d *desk) document(id string, n int) *shot.Shot {
	d.mu.Lock()
	defer d.mu.Unlock()
	if o := d.shots[id]; o != nil && o.older[n] != nil {
		return o.older[n].Document
	}
	return nil
}

// known returns a shot as it is now, and what has been measured of it.
func (st *Studio) known(id string) (*version, *check.Facts, error) {
	v, err := st.open(id)
	if err != nil {
		return nil, nil, err
	}
	_, facts, err := st.measured(v)
	return v, facts, err
}

// measured returns what has been measured of a version.
func (st *Studio) measured(v *version) (*pose.Evaluator, *check.Facts, error) {
	v.once.Do(func() {
		var u *framing.Subject
		if u, v.err = framing.NewSubject(v.Document, st.assets, &st.subjects); v.err == nil {
			if v.facts, v.err = check.Measure(u, st.assets, st.stock.Props); v.err == nil {
				v.facts.Textures = st.assets
			}
		}
	})
	if v.err != nil {
		return nil, nil, v.err
	}
	return v.facts.Pose, v.facts, nil
}
