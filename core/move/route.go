package move

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Route is a line along which something goes, along the axes of its part's parent, from the part's place.
type Route struct {
	Path    string      `json:"path,omitempty"`    // circle, ellipse, rounded, points, closed or drawn; empty for none
	Width   float64     `json:"width,omitempty"`   // of the first three and of a drawing, metres
	Depth   float64     `json:"depth,omitempty"`   // of an ellipse or rounded rectangle, metres
	Corner  float64     `json:"corner,omitempty"`  // radius of a rounded rectangle's corners, metres
	Points  []geom.Vec3 `json:"points,omitempty"`  // that a smooth curve goes through, metres
	Drawing string      `json:"drawing,omitempty"` // SVG path data, laid on the floor as wide as Width
}

// longestDrawing is the most letters of path data.
const longestDrawing = 200_000

// routeWords are the values of a move's route; of one that goes along none at the time, the path is empty.
func routeWords[T any](of func(m *T) *Route, used func(m *T) bool) []Value[T] {
	return []Value[T]{
		{Name: "path", Label: "Path", As: AsChoice, Options: []Option{
			{"circle", "a circle"}, {"ellipse", "an ellipse"}, {"rounded", "a rounded rectangle"}, {"points", "a curve through points"},
			{"closed", "a closed curve through points"}, {"drawn", "a drawn line"},
		},
			Get: func(m *T, _ *shot.Part) any {
				if !used(m) {
					return ""
				}
				return of(m).Path
			},
			Set: choose(func(m *T, v string, _ *Subject) { of(m).Path = v; of(m).fill() })},
		{Name: "width", Label: "Width", Unit: Length, In: notBelow, At: func(m *T) *float64 { return &of(m).Width }},
		{Name: "depth", Label: "Depth", Unit: Length, In: notBelow, At: func(m *T) *float64 { return &of(m).Depth }},
		{Name: "corner", Label: "Corner", Unit: Length, In: notBelow, At: func(m *T) *float64 { return &of(m).Corner }},
		{Name: "points", Label: "Point", As: AsPoints, Unit: Length, Get: func(m *T, _ *shot.Part) any { return of(m).Points },
			Set: func(m *T, raw json.RawMessage, _ *Subject) error {
				r := of(m)
				r.Points = nil
				if err := json.Unmarshal(raw, &r.Points); err != nil {
					return fmt.Errorf("the points of a path are three numbers each")
				}
				return nil
			}},
		{Name: "drawing", Label: "Path data", As: AsDrawing, Str: func(m *T) *string { return &of(m).Drawing }},
	}
}

// routeSaid is how a route reads.
var routeSaid = say(val("path"),
	when("path", either("points", "closed"), val("points")),
	when("path", either("circle", "ellipse", "rounded", "drawn"), " ", val("width"), " wide"),
	when("path", "drawn", val("drawing")),
	when("path", either("ellipse", "rounded"), " and ", val("depth"), " deep"),
	when("path", "rounded", ", with corners of ", val("corner")))

var routeHandles = []Handle{
	{Is: "points", Name: "Point", Values: map[string]string{"points": "points"}, When: &When{"path", either("points", "closed")}},
	{Is: "along", Name: "Far end of the path", Values: map[string]string{"length": "width"}, Way: geom.Vec3{0, 0, -1}, When: &When{"path", either("circle")}},
	{Is: "along", Name: "Far end of the path", Values: map[string]string{"length": "depth"}, Way: geom.Vec3{0, 0, -1}, When: &When{"path", either("ellipse", "rounded")}},
	{Is: "along", Name: "Side of the path", Values: map[string]string{"length": "width"}, Way: geom.Vec3{0.5, 0, 0}, When: &When{"path", either("ellipse", "rounded")}},
}

// check returns an error in a sentence for a route that is no line.
func (r *Route) check() error {
	switch r.Path {
	case "circle", "ellipse", "rounded":
		if r.Width < tiny || r.Path != "circle" && r.Depth < tiny || r.Path == "rounded" && 2*r.Corner > math.Min(r.Width, r.Depth)*(1+1e-9) {
			return fmt.Errorf("a path has a width and depth of more than 0, and corners that fit")
		}
	case "drawn":
		if r.Width < tiny || len(r.Drawing) > longestDrawing {
			return fmt.Errorf("a drawn path is more than 0 wide, and its data at most %d letters long", longestDrawing)
		}
		if _, err := motion.Drawn(r.Drawing, r.Width); err != nil {
			return err
		}
	case "points", "closed":
		if len(r.Points) < 2 || r.Path == "closed" && len(r.Points) < 3 || len(r.Points) > 10_000 {
			return fmt.Errorf("a path through points has 2 of them, a closed one 3, and at most 10,000")
		}
		for i, q := range r.Points {
			if !(q.Len() <= most) || i > 0 && q == r.Points[i-1] {
				return fmt.Errorf("the points of a path are numbers, each apart from the one before")
			}
		}
	default:
		return fmt.Errorf("there is no path %q; one is a circle, ellipse, rounded, points, closed or drawn", r.Path)
	}
	return nil
}

func (r Route) clone() Route {
	r.Points = slices.Clone(r.Points)
	return r
}

// scale makes it so many times as large where that is no number of its words.
func (r *Route) scale(k float64) {
	for i := range r.Points {
		r.Points[i] = r.Points[i].Mul(k)
	}
}

// line is the route, measured.
func (r *Route) line() *motion.Path {
	switch r.Path {
	case "circle":
		return motion.Ellipse(r.Width/2, r.Width/2)
	case "ellipse":
		return motion.Ellipse(r.Width/2, r.Depth/2)
	case "rounded":
		return motion.RoundedRectangle(r.Width/2, r.Depth/2, r.Corner)
	case "drawn":
		p, _ := motion.Drawn(r.Drawing, r.Width) // check has looked
		return p
	}
	return motion.Through(r.Points, r.Path == "closed")
}

// at returns how far a part is from its place at a share of a route, metres, and along which way that goes on: at rest it stands where
// the path begins, or, where it goes through points, as far from the first one as that is from its place.
func (r *Route) at(line *motion.Path, share float64) (by, along geom.Vec3) {
	by, along = line.At(share)
	if r.Path != "points" && r.Path != "closed" {
		start, _ := line.At(0)
		by = by.Sub(start)
	}
	return by, along
}

// closes reports whether it ends where it begins.
func (r *Route) closes() bool { return r.Path != "points" }

// fill gives a path of another form what it lacks.
func (r *Route) fill() {
	if r.Width == 0 {
		r.Width = 0.2
	}
	if r.Depth == 0 {
		r.Depth = r.Width
	}
	if r.Corner == 0 {
		r.Corner = math.Min(r.Width, r.Depth) / 5
	}
	r.Corner = math.Min(r.Corner, math.Min(r.Width, r.Depth)/2)
	if len(r.Points) < 3 {
		r.Points = []geom.Vec3{{}, {r.Width, 0, r.Width / 2}, {2 * r.Width, 0, 0}}
	}
	if r.Drawing == "" {
		r.Drawing = "M0 0C10 -20 30 -20 40 0S70 20 80 0"
	}
}
