package move

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"perigyre/core/motion"
	"perigyre/core/shot"
)

func lower(s string) string {
	if s == "" {
		return s
	}
	return strings.ToLower(s[:1]) + s[1:]
}

// Values returns everything of a move that its sentence shows, by name.
func Values(m *shot.Move, on *shot.Part) map[string]any { return kinds[m.Kind].values(m.Data, on) }

// At is the time at which a number is set: where it has pins it is pinned there, and with Record it is pinned
// even if it has none.
type At struct {
	Frame  float64
	Record bool
}

// Set changes a value of a move by its name, and what has to change with it. A number that has pins gets one at the
// time.
func Set(m *shot.Move, name string, v json.RawMessage, s *Subject, at At) error {
	k := kinds[m.Kind]
	for i := range m.Pins {
		pinned := string(m.Pins[i].Value)
		if pinned == name {
			return Pin(m, name, at.Frame, v)
		}
		if strings.HasPrefix(pinned, name+" ") && Number(m, name) == nil { // a component of a vector
			return setComponents(m, name, v, s, at)
		}
	}
	if at.Record && shot.CanPin(m.Kind, name) {
		return Pin(m, name, at.Frame, v)
	}
	return k.set(m.Data, name, v, s)
}

// setComponents sets the three numbers of a vector one by one.
func setComponents(m *shot.Move, name string, v json.RawMessage, s *Subject, at At) error {
	var list []json.RawMessage
	if json.Unmarshal(v, &list) != nil || len(list) != 3 {
		return fmt.Errorf("the %s is three numbers", lower(Label(m.Kind, name)))
	}
	for i, axis := range []string{" x", " y", " z"} {
		if err := Set(m, name+axis, list[i], s, at); err != nil {
			return err
		}
	}
	return nil
}

// Pin puts a pin on a number of a move. Without a value it is what the number is then. The first pin after frame 0 of a
// number that had none keeps it as it was on frame 0.
func Pin(m *shot.Move, name string, frame float64, v json.RawMessage) error {
	n := Number(m, name)
	if n == nil || !shot.CanPin(m.Kind, name) {
		return fmt.Errorf("a %s has nothing that is called %q and can be pinned", m.Kind, name)
	}
	at := slices.IndexFunc(m.Pins, func(t shot.Track) bool { return string(t.Value) == name })
	value := *n
	if at >= 0 {
		value = motion.Sample(&m.Pins[at], frame)
	}
	changed := len(v) > 0
	if changed {
		if err := json.Unmarshal(v, &value); err != nil {
			return fmt.Errorf("%s cannot be %s", Label(m.Kind, name), v)
		}
	}
	if at < 0 {
		m.Pins = append(m.Pins, shot.Track{Value: shot.Value(name)})
		at = len(m.Pins) - 1
		if frame > 0 && changed {
			m.Pins[at].Put(shot.Pin{Time: 0, Value: *n, Next: shot.Smooth})
		}
	}
	m.Pins[at].Put(shot.Pin{Time: frame, Value: value, Next: shot.Smooth})
	return nil
}

// Label returns the words for a value of a kind.
func Label(kind shot.MoveKind, name string) string {
	k := kinds[kind]
	for _, n := range k.numbers {
		if n.name == name {
			return n.label
		}
	}
	for _, l := range k.labels {
		if l.name == name {
			return l.label
		}
	}
	return name
}
