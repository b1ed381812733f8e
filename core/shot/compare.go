package shot

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"reflect"
	"slices"
	"strings"
	"unicode"

	"perigyre/core/geom"
	"perigyre/core/material"
)

// Compare says in words what differs from a to b, the shot first and then its parts in the order of b. What has no words of its own is
// told by the names that it has in the document: where nothing is said the two are the same, but for what the server makes from the rest.
func Compare(a, b *Shot) []string {
	c := &comparison{names: map[string]string{}}
	for _, s := range []*Shot{a, b} {
		for i := range s.Parts {
			c.names[s.Parts[i].ID] = s.Parts[i].Name
		}
		for i := range s.Materials {
			c.names[s.Materials[i].ID] = s.Materials[i].Name
		}
	}
	c.shots(a, b)
	compareLists(c, "", "parts", a.Parts, b.Parts, func(p *Part) (string, string) { return p.ID, p.Name }, c.parts)
	compareLists(c, "Material ", "materials", a.Materials, b.Materials, func(m *material.Material) (string, string) { return m.ID, m.Name }, nil)
	compareLists(c, "Finish ", "finishes", a.Finishes, b.Finishes, func(f *Finish) (string, string) { return f.ID, f.Name }, nil)
	compareLists(c, "Angle ", "angles", a.Angles, b.Angles, func(x *Angle) (string, string) { return x.ID, x.Name }, nil)
	compareLists(c, "Lighting ", "lightings", a.Rigs, b.Rigs, func(r *Rig) (string, string) { return r.Name, r.Name }, nil)
	compareLists(c, "File ", "files", a.Sources, b.Sources, func(s *Source) (string, string) { return s.Root, s.File }, nil)
	return c.out
}

// comparison gathers sentences.
type comparison struct {
	names map[string]string // of parts and materials, by id
	out   []string
}

func (c *comparison) say(format string, args ...any) {
	c.out = append(c.out, fmt.Sprintf(format, args...))
}

// compareLists says what of a list is gone, new, in another order or different; differ is nil for things that are compared value by value.
func compareLists[T any](c *comparison, word, all string, a, b []T, key func(*T) (id, name string), differ func(a, b *T) []string) {
	keys := func(list []T) (ids []string, at map[string]int) { // names that are there twice are numbered
		at = map[string]int{}
		for i := range list {
			id, _ := key(&list[i])
			for n, name := 2, id; has(at, id); n++ {
				id = fmt.Sprint(name, " ", n)
			}
			ids, at[id] = append(ids, id), i
		}
		return ids, at
	}
	before, was := keys(a)
	after, is := keys(b)
	called := func(name string) string {
		if strings.HasPrefix(name, word) {
			return name
		}
		return word + name
	}
	for i := range a {
		if _, name := key(&a[i]); !has(is, before[i]) {
			c.say("%s is gone.", called(name))
		}
	}
	last, moved := -1, false
	for i := range b {
		_, name := key(&b[i])
		k, ok := was[after[i]]
		if !ok {
			c.say("%s is new.", called(name))
			continue
		}
		moved, last = moved || k < last, max(k, last)
		var changes []string
		if differ != nil {
			changes = differ(&a[k], &b[i])
		} else {
			changes = c.fields(&a[k], &b[i])
		}
		for _, change := range changes {
			c.say("%s: %s.", called(name), change)
		}
	}
	if moved {
		c.say("The %s are in another order.", all)
	}
}

func has(m map[string]int, id string) bool {
	_, ok := m[id]
	return ok
}

// shots says what differs of the shots themselves.
func (c *comparison) shots(a, b *Shot) {
	if a.Name != b.Name {
		c.say("The shot is called %s instead of %s.", b.Name, a.Name)
	}
	if a.Frames != b.Frames {
		c.say("%d frames instead of %d.", b.Frames, a.Frames)
	}
	if a.Rate != b.Rate {
		c.say("%s frames a second instead of %s.", b.Rate.words(), a.Rate.words())
	}
	if a.Ending != b.Ending {
		c.say("It ends as %s instead of %s.", b.Ending, a.Ending)
	}
	if a.Format != b.Format {
		c.say("%d x %d pixels instead of %d x %d.", b.Format.Width, b.Format.Height, a.Format.Width, a.Format.Height)
	}
	if a.View != b.View {
		c.say("The view transform is %s instead of %s.", b.View, a.View)
	}
	for _, change := range c.fields(a.Environment, b.Environment) {
		c.say("Environment: %s.", change)
	}
	if was, is := backdropWords(a), backdropWords(b); was != is {
		c.say("The backdrop is %s instead of %s.", is, was)
	} else if !reflect.DeepEqual(a.Backdrop, b.Backdrop) || !reflect.DeepEqual(a.BackdropLow, b.BackdropLow) {
		c.say("The backdrop is a shade of %s instead of another.", is)
	}
	if a.Camera != b.Camera {
		c.say("It is rendered through %s instead of %s.", c.name(b.Camera, "none"), c.name(a.Camera, "none"))
	}
	if a.Finish != b.Finish {
		c.say("Another finish is shown.")
	}
	rest := func(s *Shot) Shot { // what has not been told, and whatever is new in documents
		r := *s
		r.Name, r.Frames, r.Rate, r.Ending, r.Format, r.View, r.Camera, r.Finish = "", 0, Rate{}, "", Format{}, "", "", ""
		r.Environment, r.Backdrop, r.BackdropLow = Environment{}, nil, nil
		r.Parts, r.Materials, r.Sources, r.Finishes, r.Angles, r.Rigs = nil, nil, nil, nil, nil, nil
		return r
	}
	for _, change := range c.fields(rest(a), rest(b)) {
		c.say("%s.", strings.ToUpper(change[:1])+change[1:])
	}
}

// words is the rate as a number, or as the fraction that it is where that is no short one.
func (r Rate) words() string {
	if v := r.PerSecond(); math.Abs(v*1000-math.Round(v*1000)) < 1e-9 {
		return fmt.Sprintf("%.6g", v)
	}
	return fmt.Sprintf("%d/%d", r.Num, r.Den)
}

func (c *comparison) name(id, none string) string {
	if id == "" {
		return none
	}
	if name := c.names[id]; name != "" {
		return name
	}
	return id
}

// all names things, each once.
func (c *comparison) all(ids []string) string {
	var names []string
	for _, id := range ids {
		if name := c.name(id, "none"); !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return orNone(strings.Join(names, ", "))
}

func backdropWords(s *Shot) string {
	hex := func(c *[3]float64) string {
		return fmt.Sprintf("#%02x%02x%02x", int(c[0]*255+0.5), int(c[1]*255+0.5), int(c[2]*255+0.5))
	}
	switch {
	case s.Backdrop == nil:
		return "transparent"
	case s.BackdropLow == nil:
		return hex(s.Backdrop)
	}
	return hex(s.Backdrop) + " to " + hex(s.BackdropLow)
}

// maxChanges of one part are told one by one: of bent curves there can be thousands.
const maxChanges = 40

// parts says what differs of a part.
func (c *comparison) parts(a, b *Part) (out []string) {
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	if a.Name != b.Name {
		say("was called %s", a.Name)
	}
	if a.Parent != b.Parent {
		say("in %s instead of %s", c.name(b.Parent, "the room"), c.name(a.Parent, "the room"))
	}
	if a.Rest.Position != b.Rest.Position {
		say("moved by %.4g mm", b.Rest.Position.Sub(a.Rest.Position).Len()*1000)
	}
	if a.Rest.Rotation != b.Rest.Rotation {
		q := b.Rest.Rotation.Mul(a.Rest.Rotation.Inverse())
		angle := 2 * math.Atan2(math.Sqrt(q[0]*q[0]+q[1]*q[1]+q[2]*q[2]), math.Abs(q[3]))
		say("turned by %.4g degrees", angle*180/math.Pi)
	}
	if a.Rest.Size != b.Rest.Size {
		if k := b.Rest.Size[0] / a.Rest.Size[0]; b.Rest.Size == a.Rest.Size.Mul(k) {
			say("resized to %.4g %%", 100*k)
		} else {
			say("resized unevenly")
		}
	}
	if a.Front != b.Front {
		say("its front is another")
	}
	if a.Pivot != b.Pivot {
		say("its pivot moved by %.4g mm", b.Pivot.Sub(a.Pivot).Len()*1000)
	}
	for _, f := range []struct {
		was, is bool
		on, off string
	}{
		{a.Hidden, b.Hidden, "hidden", "shown"}, {a.Away, b.Away, "put away in the bench", "brought back in the bench"},
		{a.Locked, b.Locked, "locked", "unlocked"}, {a.Set, b.Set, "of the set", "not of the set"},
	} {
		if f.was != f.is {
			out = append(out, map[bool]string{true: f.on, false: f.off}[f.is])
		}
	}
	if !reflect.DeepEqual(a.Mesh, b.Mesh) {
		say("another mesh")
	}
	if !slices.Equal(a.Materials, b.Materials) {
		say("wears %s instead of %s", c.all(b.Materials), c.all(a.Materials))
	}
	out = append(out, c.tracks(a.Tracks, b.Tracks)...)
	out = append(out, c.moves(a.Moves, b.Moves)...)
	for _, pair := range [][2]any{{a.Plinth, b.Plinth}, {a.Camera, b.Camera}, {a.Light, b.Light}, {a.Shape, b.Shape}, {a.Copies, b.Copies}, {a.Cut, b.Cut}, {a.Mark.asked(), b.Mark.asked()}} {
		out = append(out, c.fields(pair[0], pair[1])...)
	}
	rest := func(p *Part) Part {
		r := *p
		r.ID, r.Name, r.Parent, r.Rest, r.Front, r.Pivot = "", "", "", Rest{}, geom.Vec3{}, geom.Vec3{}
		r.Hidden, r.Away, r.Locked, r.Set = false, false, false, false
		r.Mesh, r.Materials, r.Tracks, r.Moves = nil, nil, nil, nil
		r.Plinth, r.Camera, r.Light, r.Shape, r.Copies, r.Cut, r.Mark = nil, nil, nil, nil, nil, nil, nil
		return r
	}
	out = append(out, c.fields(rest(a), rest(b))...)
	if n := len(out); n > maxChanges {
		out = append(out[:maxChanges-1], fmt.Sprintf("and %d differences more", n-maxChanges+1))
	}
	return out
}

// asked returns the mark without what the server makes of it.
func (m *Mark) asked() *Mark {
	if m = cloneValue(m); m != nil {
		m.Built, m.Places = "", nil
	}
	return m
}

func (c *comparison) tracks(a, b []Track) (out []string) {
	of := func(list []Track, v Value) Track {
		if i := slices.IndexFunc(list, func(t Track) bool { return t.Value == v }); i >= 0 {
			return list[i]
		}
		return Track{Value: v}
	}
	var values []Value
	for _, list := range [][]Track{b, a} {
		for _, t := range list {
			if !slices.Contains(values, t.Value) {
				values = append(values, t.Value)
			}
		}
	}
	for _, v := range values {
		x, y := of(a, v), of(b, v)
		if n, m := len(x.Pins), len(y.Pins); n != m {
			out = append(out, fmt.Sprintf("%s %d pins instead of %d", v, m, n))
			continue
		}
		for _, change := range c.fields(x, y) {
			out = append(out, fmt.Sprintf("%s %s", v, change))
		}
	}
	return out
}

func (c *comparison) moves(a, b []Move) (out []string) {
	at := func(list []Move, id string) int {
		return slices.IndexFunc(list, func(m Move) bool { return m.ID == id })
	}
	for _, m := range a {
		if at(b, m.ID) < 0 {
			out = append(out, fmt.Sprintf("no %s any more", m.Kind))
		}
	}
	last, moved := -1, false
	for _, m := range b {
		i := at(a, m.ID)
		if i < 0 {
			out = append(out, fmt.Sprintf("a new %s", m.Kind))
			continue
		}
		moved, last = moved || i < last, max(i, last)
		for _, change := range c.fields(a[i], m) {
			out = append(out, fmt.Sprintf("%s %s", m.Kind, strings.TrimPrefix(change, string(m.Kind)+" ")))
		}
	}
	if moved {
		out = append(out, "its moves are in another order")
	}
	return out
}

// told is a value of a document: as it is read, and as it is.
type told struct{ words, exactly string }

// fields says which values of two things of one type differ, by the names that they have in the document.
func (c *comparison) fields(a, b any) (out []string) {
	if reflect.DeepEqual(a, b) {
		return nil
	}
	flat := func(v any) map[string]told {
		out := map[string]told{}
		text, err := json.Marshal(v)
		if err != nil {
			return out
		}
		var tree any
		if json.Unmarshal(text, &tree) == nil {
			c.flatten("", tree, out)
		}
		return out
	}
	was, is := flat(a), flat(b)
	paths := maps.Clone(was)
	maps.Copy(paths, is)
	for _, path := range slices.Sorted(maps.Keys(paths)) {
		v, w := is[path], was[path]
		switch {
		case v.exactly == w.exactly:
		case v.words == w.words:
			out = append(out, fmt.Sprintf("%s %s instead of %s", path, orNone(v.exactly), orNone(w.exactly)))
		default:
			out = append(out, fmt.Sprintf("%s %s instead of %s", path, orNone(v.words), orNone(w.words)))
		}
	}
	return out
}

func orNone(v string) string {
	if v == "" {
		return "none"
	}
	return v
}

// flatten names every value of decoded JSON by the path to it, in words. Lists of numbers stay together.
func (c *comparison) flatten(path string, v any, out map[string]told) {
	join := func(k string) string { return strings.TrimSpace(path + " " + k) }
	switch v := v.(type) {
	case map[string]any:
		for k, x := range v {
			c.flatten(join(spaced(k)), x, out)
		}
	case []any:
		var words, exactly []string
		for _, x := range v {
			if n, ok := x.(float64); ok {
				words, exactly = append(words, fmt.Sprintf("%.4g", n)), append(exactly, fmt.Sprint(n))
			}
		}
		if len(words) == len(v) {
			out[path] = told{strings.Join(words, ", "), strings.Join(exactly, ", ")}
			return
		}
		for i, x := range v {
			c.flatten(join(fmt.Sprint(i+1)), x, out)
		}
	case float64:
		out[path] = told{fmt.Sprintf("%.6g", v), fmt.Sprint(v)}
	case string:
		out[path] = told{c.name(v, ""), v}
	case nil:
	default:
		out[path] = told{fmt.Sprint(v), fmt.Sprint(v)}
	}
}

// spaced parts the words of a name of the document.
func spaced(name string) string {
	var out strings.Builder
	for _, r := range name {
		if unicode.IsUpper(r) {
			out.WriteByte(' ')
		}
		out.WriteRune(unicode.ToLower(r))
	}
	return out.String()
}
