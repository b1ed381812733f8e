package edit

import (
	"fmt"
	"math"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/shot"
)

// AddShape adds a shape with measures that suit what is there.
type AddShape struct {
	Kind mesh.ShapeKind `json:"kind"`
	ID   string         `json:"id,omitempty"` // of the new part; a new one if empty
}

func init() { Register[AddShape]("addShape") }

// Do implements Change.
func (e *AddShape) Do(w *Work) (string, error) {
	s, err := mesh.FirstShape(e.Kind, w.usualSize())
	if err != nil {
		return "", err
	}
	return w.added(shot.Part{ID: e.ID, Name: capital(string(e.Kind)), Kind: shot.Made, Shape: &s, Set: e.Kind == mesh.SweepShape})
}

// AddWord adds a word made solid.
type AddWord struct {
	ID string `json:"id,omitempty"`
}

func init() { Register[AddWord]("addWord") }

// Do implements Change.
func (e *AddWord) Do(w *Work) (string, error) {
	size := w.usualSize()
	return w.added(shot.Part{ID: e.ID, Name: "Word", Kind: shot.Group, Mark: &shot.Mark{
		Word:      &shot.Word{Text: "Word", Font: "Go Bold", Size: size, Leading: 1.2, Align: "centre"},
		Solid:     mesh.Extrusion{Depth: size / 5, Bevel: mesh.Chamfer, Width: size / 60, Steps: 4},
		Tolerance: size / 1000,
		Places:    []geom.Vec3{},
	}})
}

// AddCopies adds copies of a part: a ring of eight about where it is, so wide that they do not overlap.
type AddCopies struct {
	Of string `json:"of"`
	ID string `json:"id,omitempty"`
}

func init() { Register[AddCopies]("addCopies") }

// Do implements Change.
func (e *AddCopies) Do(w *Work) (string, error) {
	of, err := w.part(e.Of)
	if err != nil {
		return "", err
	}
	box, err := w.bounds(w.Index().Part(e.Of))
	if err != nil {
		return "", err
	}
	size, wide := w.usualSize(), math.Hypot(box.Size()[0], box.Size()[2])
	if !(wide > 0) {
		wide = 0.8 * size
	}
	step := digits(wide*1.05, 3)
	p := shot.Part{
		ID: e.ID, Name: of.Name + ", copies", Parent: of.Parent, Kind: shot.Copies, Rest: shot.Rest{Position: of.Rest.Position, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}},
		Copies: &shot.Spread{
			Of: e.Of, Kind: shot.Ring, Count: [3]int{8, 1, 1}, Step: geom.Vec3{step, step, step}, Radius: digits(math.Max(size*1.5, step*1.4), 2), Face: true,
			Area: geom.Vec2{6 * size, 6 * size}, Path: []geom.Vec3{{-2 * size, 0, 0}, {0, 0, size}, {2 * size, 0, 0}}, Apart: step,
		},
	}
	return w.added(p)
}

// added adds a new part at rest.
func (w *Work) added(p shot.Part) (string, error) {
	if p.ID == "" {
		p.ID = w.NewID()
	}
	if p.Rest == (shot.Rest{}) {
		p.Rest = shot.AtRest
	}
	p.Moves = []shot.Move{}
	p.Name = freeName(w.Shot, p.Name)
	return (&AddPart{Part: p}).Do(w)
}

// freeName returns a name, with a number behind it if it is taken.
func freeName(s *shot.Shot, name string) string {
	for i := range s.Parts {
		if s.Parts[i].Name == name {
			return nextName(s, nil, name)
		}
	}
	return name
}

// usualSize is what suits what is there, metres: the radius of the plinth, or half of all that is seen, or 0.1 m.
func (w *Work) usualSize() float64 {
	for i := range w.Shot.Parts {
		if p := w.Shot.Parts[i].Plinth; p != nil {
			return p.Radius
		}
	}
	box := w.subject(0).Scene
	if len(w.Shot.Parts) > 0 {
		if b := box(); !b.Empty() && b.Size().Len() > 0 {
			return b.Size().Len() / 2
		}
	}
	return 0.1
}

// digits rounds a number to so many digits.
func digits(v float64, n int) float64 {
	if v == 0 {
		return 0
	}
	p := math.Pow(10, math.Floor(math.Log10(math.Abs(v)))-float64(n-1))
	return math.Round(v/p) * p
}

func capital(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// SetShape changes measures of a shape by their names.
type SetShape struct {
	Part     string             `json:"part"`
	Measures map[string]float64 `json:"measures"`
}

func init() { Register[SetShape]("setShape") }

// Do implements Change.
func (e *SetShape) Do(w *Work) (string, error) {
	p, err := w.shape(e.Part)
	if err != nil {
		return "", err
	}
	for name, v := range e.Measures {
		if err := p.Shape.Set(name, v); err != nil {
			return "", err
		}
	}
	return "Change the measures of " + p.Name, nil
}

// SetPoints changes the points of a shape: it puts one in, half-way to the one after, or takes one out, or moves one.
type SetPoints struct {
	Part   string     `json:"part"`
	At     int        `json:"at"`               // which point
	To     *geom.Vec3 `json:"to,omitempty"`     // moves it
	Add    bool       `json:"add,omitempty"`    // one more, between it and the next
	Remove bool       `json:"remove,omitempty"` // takes it out
}

func init() { Register[SetPoints]("setPoints") }

// Do implements Change.
func (e *SetPoints) Do(w *Work) (string, error) {
	p, err := w.shape(e.Part)
	if err != nil {
		return "", err
	}
	list := append([]geom.Vec3(nil), p.Shape.Points...)
	switch {
	case e.At < 0 || e.At >= len(list):
		return "", fmt.Errorf("%s has no point %d", p.Name, e.At+1)
	case e.To != nil:
		list[e.At] = *e.To
	case e.Remove:
		list = append(list[:e.At], list[e.At+1:]...)
	case e.Add && e.At+1 < len(list):
		middle := list[e.At].Add(list[e.At+1]).Mul(0.5)
		list = append(list[:e.At+1], append([]geom.Vec3{middle}, list[e.At+1:]...)...)
	default:
		return "", fmt.Errorf("a point is put in between two")
	}
	p.Shape.Points = list
	return "Change the points of " + p.Name, nil
}

func (w *Work) shape(id string) (*shot.Part, error) {
	p, err := w.part(id)
	if err == nil && p.Shape == nil {
		err = fmt.Errorf("%s is no shape by its measures", p.Name)
	}
	return p, err
}
