package shot

import (
	"encoding/json"
	"fmt"
	"math"
	"reflect"
	"slices"
	"sort"
	"strings"
)

// Compare says in words what differs from a to b, the shot first and then its parts in the order of b.
func Compare(a, b *Shot) []string {
	out := []string{}
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	if a.Name != b.Name {
		say("The shot is called %s instead of %s.", b.Name, a.Name)
	}
	if a.Frames != b.Frames {
		say("%d frames instead of %d.", b.Frames, a.Frames)
	}
	if a.Rate != b.Rate {
		say("%.4g frames a second instead of %.4g.", b.Rate.PerSecond(), a.Rate.PerSecond())
	}
	if a.Ending != b.Ending {
		say("It ends as %s instead of %s.", b.Ending, a.Ending)
	}
	if a.Format != b.Format {
		say("%d x %d pixels instead of %d x %d.", b.Format.Width, b.Format.Height, a.Format.Width, a.Format.Height)
	}
	if a.View != b.View {
		say("The view transform is %s instead of %s.", b.View, a.View)
	}
	for _, change := range fields(a.Environment, b.Environment) {
		say("Environment: %s.", change)
	}
	if !reflect.DeepEqual(a.Backdrop, b.Backdrop) || !reflect.DeepEqual(a.BackdropLow, b.BackdropLow) {
		say("The backdrop is %s instead of %s.", backdropWords(b), backdropWords(a))
	}
	name := func(s *Shot, id string) string {
		if p := s.Part(id); p != nil {
			return p.Name
		}
		return "none"
	}
	if a.Camera != b.Camera {
		say("It is rendered through %s instead of %s.", name(b, b.Camera), name(a, a.Camera))
	}
	if a.Finish != b.Finish {
		say("Another finish is shown.")
	}
	for _, p := range a.Parts {
		if b.Part(p.ID) == nil {
			say("%s is gone.", p.Name)
		}
	}
	for i := range b.Parts {
		p := &b.Parts[i]
		was := a.Part(p.ID)
		if was == nil {
			say("%s is new.", p.Name)
			continue
		}
		for _, change := range compareParts(was, p, func(s *Part, id string) string {
			if s == was {
				return name(a, id)
			}
			return name(b, id)
		}) {
			say("%s: %s.", p.Name, change)
		}
	}
	was := map[string]int{}
	for i, m := range a.Materials {
		was[m.ID] = i
	}
	for _, m := range b.Materials {
		if i, ok := was[m.ID]; ok {
			for _, change := range fields(a.Materials[i], m) {
				say("Material %s: %s.", m.Name, change)
			}
		}
	}
	return out
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

func compareParts(a, b *Part, name func(*Part, string) string) (out []string) {
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	if a.Name != b.Name {
		say("was called %s", a.Name)
	}
	if a.Parent != b.Parent {
		say("in %s instead of %s", roomOr(name(b, b.Parent)), roomOr(name(a, a.Parent)))
	}
	if d := b.Rest.Position.Sub(a.Rest.Position).Len(); d > 1e-9 {
		say("moved by %.4g mm", d*1000)
	}
	q := b.Rest.Rotation.Mul(a.Rest.Rotation.Inverse())
	if angle := 2 * math.Atan2(math.Sqrt(q[0]*q[0]+q[1]*q[1]+q[2]*q[2]), math.Abs(q[3])); angle > 1e-9 {
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
	}{{a.Hidden, b.Hidden, "hidden", "shown"}, {a.Away, b.Away, "put away in the bench", "brought back in the bench"}, {a.Locked, b.Locked, "locked", "unlocked"}} {
		if f.was != f.is {
			out = append(out, map[bool]string{true: f.on, false: f.off}[f.is])
		}
	}
	if !reflect.DeepEqual(a.Mesh, b.Mesh) {
		say("another mesh")
	}
	if !slices.Equal(a.Materials, b.Materials) {
		say("other materials")
	}
	if !reflect.DeepEqual(a.Tracks, b.Tracks) {
		n := func(p *Part) (n int) {
			for _, t := range p.Tracks {
				n += len(t.Pins)
			}
			return n
		}
		say("%d pins instead of %d", n(b), n(a))
	}
	for _, m := range a.Moves {
		if !slices.ContainsFunc(b.Moves, func(o Move) bool { return o.ID == m.ID }) {
			say("no %s any more", m.Kind)
		}
	}
	for _, m := range b.Moves {
		i := slices.IndexFunc(a.Moves, func(o Move) bool { return o.ID == m.ID })
		if i < 0 {
			say("a new %s", m.Kind)
			continue
		}
		for _, change := range fields(a.Moves[i], m) {
			say("%s %s", m.Kind, strings.TrimPrefix(change, string(m.Kind)+" "))
		}
	}
	for _, pair := range [][2]any{{a.Plinth, b.Plinth}, {a.Camera, b.Camera}, {a.Light, b.Light}, {a.Shape, b.Shape}, {a.Copies, b.Copies}} {
		out = append(out, fields(pair[0], pair[1])...)
	}
	if a.Mark != nil && b.Mark != nil {
		for _, change := range fields(a.Mark, b.Mark) {
			if !strings.HasPrefix(change, "built") && !strings.HasPrefix(change, "places") {
				out = append(out, change)
			}
		}
	}
	return out
}

func roomOr(name string) string {
	if name == "none" {
		return "the room"
	}
	return name
}

// fields says which values of two things of one type differ, by the names that they have in the document.
func fields(a, b any) []string {
	flat := func(v any) map[string]string {
		text, err := json.Marshal(v)
		if err != nil {
			return nil
		}
		var tree any
		if json.Unmarshal(text, &tree) != nil {
			return nil
		}
		out := map[string]string{}
		flatten("", tree, out)
		return out
	}
	was, is := flat(a), flat(b)
	keys := map[string]bool{}
	for k := range was {
		keys[k] = true
	}
	for k := range is {
		keys[k] = true
	}
	var out []string
	for k := range keys {
		if v, w := is[k], was[k]; v != w {
			out = append(out, fmt.Sprintf("%s %s instead of %s", k, orNone(v), orNone(w)))
		}
	}
	sort.Strings(out)
	return out
}

func orNone(v string) string {
	if v == "" {
		return "none"
	}
	return v
}

// flatten names every value of decoded JSON by the path to it, in words. Lists of numbers stay together.
func flatten(path string, v any, out map[string]string) {
	join := func(k string) string {
		if path == "" {
			return k
		}
		return path + " " + k
	}
	switch v := v.(type) {
	case map[string]any:
		for k, x := range v {
			flatten(join(k), x, out)
		}
	case []any:
		var parts []string
		for _, x := range v {
			if n, ok := x.(float64); ok {
				parts = append(parts, fmt.Sprintf("%.4g", n))
			}
		}
		if len(parts) == len(v) {
			out[path] = strings.Join(parts, ", ")
			return
		}
		for i, x := range v {
			flatten(join(fmt.Sprint(i+1)), x, out)
		}
	case float64:
		out[path] = fmt.Sprintf("%.6g", v)
	case nil:
	default:
		out[path] = fmt.Sprint(v)
	}
}
