package demo

import (
	"embed"
	"encoding/json"
	"fmt"
	"math"
	"path"
	"strings"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/shot"
)

//go:embed shots/*.json
var shotFiles embed.FS

// script is how a shot of the demonstration is made from a staged model: where the camera looks from, how long the shot is,
// and which moves parts get, by their names or patterns of them. In moves "@Name" is the part of that name.
type script struct {
	Round  float64                      `json:"round"` // degrees from the front
	Up     float64                      `json:"up"`    // degrees from the floor
	Frames int                          `json:"frames"`
	Rate   *shot.Rate                   `json:"rate"`
	Ending shot.Ending                  `json:"ending"`
	Moves  map[string][]json.RawMessage `json:"moves"`
}

// Motion is an edit that makes a staged model a shot of the demonstration.
type Motion struct {
	Name string // of the shot
	Move func(s *shot.Shot, newID func() string) error
}

// Do implements edit.Change.
func (m *Motion) Do(w *edit.Work) (string, error) {
	if m.Name != "" {
		w.Shot.Name = m.Name
	}
	err := m.Move(w.Shot, w.NewID)
	w.Changed()
	return "Set it in motion", err
}

func named(s *shot.Shot, name string) *shot.Part {
	for i := range s.Parts {
		if s.Parts[i].Name == name {
			return &s.Parts[i]
		}
	}
	return nil
}

// Play makes a staged model the shot of a script.
func Play(s *shot.Shot, name string, newID func() string) error {
	text, err := shotFiles.ReadFile("shots/" + name + ".json")
	if err != nil {
		return err
	}
	var sc script
	if err := json.Unmarshal(text, &sc); err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	if t := named(s, "Turntable"); t != nil {
		t.Moves = []shot.Move{}
	}
	if c := s.Part(s.Camera); c != nil {
		c.Rest.Rotation = geom.AxisAngle(geom.Vec3{0, 1, 0}, sc.Round*math.Pi/180).Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, -sc.Up*math.Pi/180))
	}
	s.Frames = sc.Frames
	if sc.Rate != nil {
		s.Rate = *sc.Rate
	}
	if sc.Ending != "" {
		s.Ending = sc.Ending
	}
	for i := range s.Parts {
		p := &s.Parts[i]
		for pattern, list := range sc.Moves {
			if ok, err := path.Match(pattern, p.Name); err != nil || !ok {
				continue
			}
			p.Moves = []shot.Move{}
			for _, raw := range list {
				m, err := moveOf(s, raw)
				if err != nil {
					return fmt.Errorf("%s: %s: %w", name, p.Name, err)
				}
				m.ID = newID()
				p.Moves = append(p.Moves, m)
			}
		}
	}
	return nil
}

// moveOf reads a move, with the ids of parts for their names.
func moveOf(s *shot.Shot, raw json.RawMessage) (m shot.Move, err error) {
	text := string(raw)
	for i := range s.Parts {
		text = strings.ReplaceAll(text, fmt.Sprintf(`"@%s"`, s.Parts[i].Name), fmt.Sprintf("%q", s.Parts[i].ID))
	}
	m.After = shot.Stays
	if err = json.Unmarshal([]byte(text), &m); m.After == "" {
		m.After = shot.Stays
	}
	return m, err
}

// carry puts the planets of the gear set into a carrier of their own, behind everything else.
func carry(s *shot.Shot, newID func() string) {
	carrier := shot.Part{ID: newID(), Name: "Planet carrier", Parent: named(s, "Sun").Parent, Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}
	var rest, planets []shot.Part
	for _, p := range s.Parts {
		if !strings.HasPrefix(p.Name, "Planet ") {
			rest = append(rest, p)
			continue
		}
		p.Parent = carrier.ID
		planets = append(planets, p)
	}
	s.Parts = append(append(rest, carrier), planets...)
}

// WindUp drives the gear set: the ring is held, the sun is wound, and the shot closes on the shortest loop in which sun,
// carried planets and rotor all come round. The carrier makes 2 turns for 9 of the sun (16 to 72), a planet 28 for 45 of it
// in the carrier (56 / 72 x 16 / 20): 45 turns are the fewest after which all stand as they stood, and by the symmetry of even numbers
// of teeth half as many after which all look as they looked.
func WindUp(s *shot.Shot, newID func() string) error {
	carry(s, newID)
	return Play(s, "wind-up", newID)
}

// Rolling lets the reel roll there and back on the floor while the camera keeps pace.
func Rolling(s *shot.Shot, newID func() string) error {
	named(s, "Cord reel").Pivot = geom.Vec3{0, 0.06, 0}
	if p := named(s, "Plinth"); p != nil {
		p.Hidden = true
	}
	return Play(s, "reel", newID)
}

// Arriving lets the letters of the word come one after another.
func Arriving(s *shot.Shot, newID func() string) error { return Play(s, "mark", newID) }
