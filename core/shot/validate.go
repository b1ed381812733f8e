package shot

import (
	"fmt"
	"math"
	"slices"

	"perigyre/core/color"
	"perigyre/core/geom"
)

// Limits of a document. They keep what a file can ask for within what can be worked on.
const (
	MaxFrames = 100_000
	MaxSide   = 16_384
	MaxParts  = 100_000

	MaxFinishes = 1000
)

// Validate returns an error in a sentence that says what is wrong and where.
func (s *Shot) Validate() error {
	switch {
	case s.Schema != Schema:
		return wrong("schema", "the document says it is %q, but this program reads %q", s.Schema, Schema)
	case s.Frames < 1 || s.Frames > MaxFrames:
		return wrong("frames", "a shot has 1 to %d frames, not %d", MaxFrames, s.Frames)
	case s.Rate.Num < 1 || s.Rate.Den < 1 || s.Rate.PerSecond() > 1000:
		return wrong("rate", "a rate of %d/%d frames per second is not possible", s.Rate.Num, s.Rate.Den)
	case s.Ending != Loop && s.Ending != Once:
		return wrong("ending", "a shot ends as a loop or once, not as %q", s.Ending)
	case !slices.Contains(color.Views, s.View):
		return wrong("view", "there is no view transform %q; there are %q", s.View, color.Views)
	case s.Format.Width < 1 || s.Format.Height < 1 || s.Format.Width > MaxSide || s.Format.Height > MaxSide:
		return wrong("format", "a format of %d x %d pixels is not possible: each side is 1 to %d", s.Format.Width, s.Format.Height, MaxSide)
	case len(s.Parts) > MaxParts:
		return wrong("parts", "the shot has %d parts, more than %d", len(s.Parts), MaxParts)
	case s.pins() > MaxPins:
		return wrong("parts", "the shot has %d pins, more than %d", s.pins(), MaxPins)
	}
	if err := s.names(func(what string, name *string) error { return CheckName(what, *name) }); err != nil {
		return err
	}
	if len(s.Materials) > MaxParts || len(s.Finishes) > MaxFinishes || len(s.Sources) > MaxParts {
		return wrong("materials", "the shot has %d materials, %d finishes and %d files; there may be %d, %d and %d", len(s.Materials), len(s.Finishes), len(s.Sources), MaxParts, MaxFinishes, MaxParts)
	}
	if err := in("environment", s.Environment.validate()); err != nil {
		return err
	}
	for _, c := range []*[3]float64{s.Backdrop, s.BackdropLow} {
		if c != nil && !within(0, 1, c[:]...) {
			return wrong("backdrop", "a backdrop's red, green and blue are 0 to 1")
		}
	}
	if !within(0, 1, s.Vignette) {
		return wrong("vignette", "a vignette darkens by 0 to 100 %%")
	}
	materials := map[string]bool{}
	for _, m := range s.Materials {
		if materials[m.ID] {
			return wrong("materials", "two materials have the id %q", m.ID)
		}
		materials[m.ID] = true
		if err := in("materials", m.Validate()); err != nil {
			return err
		}
	}
	if len(s.Rigs) > MaxFinishes {
		return wrong("rigs", "the shot keeps %d rigs; there may be %d", len(s.Rigs), MaxFinishes)
	}
	for i := range s.Rigs {
		if err := in("rigs", s.Rigs[i].validate()); err != nil {
			return err
		}
	}
	if err := in("angles", s.validateAngles()); err != nil {
		return err
	}
	if err := in("accepted", s.validateAccepted()); err != nil {
		return err
	}
	if err := in("finishes", s.validateFinishes(materials)); err != nil {
		return err
	}
	seen, moves := map[string]bool{"": true}, map[string]bool{}
	for i := range s.Parts {
		p := &s.Parts[i]
		if p.ID == "" || seen[p.ID] {
			return wrong("parts", "part %q has the id %q, which is empty or taken", p.Name, p.ID)
		}
		if !seen[p.Parent] {
			return wrong("parts", "part %q is in %q, which does not stand before it", p.Name, p.Parent)
		}
		seen[p.ID] = true
		if err := onPart(p, p.validate(materials)); err != nil {
			return err
		}
		for j := range p.Moves {
			m := &p.Moves[j]
			if m.ID == "" || moves[m.ID] {
				return onPart(p, wrong("moves", "a move has the id %q, which is empty or taken", m.ID))
			}
			moves[m.ID] = true
			if err := onPart(p, in("moves", m.Check(p))); err != nil {
				return err
			}
		}
	}
	x := NewIndex(s)
	for i := range s.Parts {
		if c := s.Parts[i].Copies; c != nil {
			of, on := x.Part(c.Of), x.Part(c.On)
			if c.Kind == Surface && on >= 0 && (x.Within(i, on) || of >= 0 && x.Within(on, of)) {
				return onPart(&s.Parts[i], wrong("copies.on", "it scatters copies on what is copied, or on what it is in"))
			}
			if of < 0 || x.Within(i, of) || holdsCopies(s, x, of) {
				return onPart(&s.Parts[i], wrong("copies.of", "it copies %q, which is not there, holds it, or holds copies itself", c.Of))
			}
		}
	}
	if err := in("parts", s.validateNeeds(x)); err != nil {
		return err
	}
	if s.Environment.Bound != "" && x.Part(s.Environment.Bound) < 0 {
		return wrong("environment.bound", "the surroundings are bound to a part that is not in the shot")
	}
	if s.Camera != "" {
		if c := s.Part(s.Camera); c == nil || c.Kind != Camera {
			return wrong("camera", "the camera to render, %q, is not a camera of this shot", s.Camera)
		}
	}
	return nil
}

// holdsCopies reports whether the part or anything in it is copies.
func holdsCopies(s *Shot, x *Index, root int) bool {
	if s.Parts[root].Kind == Copies {
		return true
	}
	for _, i := range x.Children(root) {
		if holdsCopies(s, x, i) {
			return true
		}
	}
	return false
}

func (p *Part) validate(materials map[string]bool) error {
	has := map[PartKind]bool{Solid: p.Mesh != nil, Plinth: p.Plinth != nil, Camera: p.Camera != nil, Light: p.Light != nil, Group: true, Floor: true, Made: p.Shape != nil, Copies: p.Copies != nil, Cutter: p.Cut != nil}
	if ok, known := has[p.Kind]; !known || !ok {
		return wrong("kind", "it is of kind %q, but its data are not there", p.Kind)
	}
	for _, id := range p.Materials {
		if id != "" && !materials[id] {
			return wrong("materials", "it uses the material %q, which is not in the shot", id)
		}
	}
	if l := p.Front.Len(); p.Front != (geom.Vec3{}) && !(math.Abs(l-1) < 1e-6) {
		return fmt.Errorf("the front of a part is a way of the length 1, not %.4g", l)
	}
	if !allFinite(p.Rest.Position) || !allFinite(p.Rest.Size) || !allFinite(p.Pivot) {
		return wrong("rest", "its place or size is not a number")
	}
	if p.Rest.Size[0] == 0 || p.Rest.Size[1] == 0 || p.Rest.Size[2] == 0 {
		return wrong("rest.size", "a size of 0 cannot be undone; hide the part instead")
	}
	r := p.Rest.Rotation
	if l := r[0]*r[0] + r[1]*r[1] + r[2]*r[2] + r[3]*r[3]; !(math.Abs(l-1) < 1e-3) {
		return wrong("rest.rotation", "its rotation is not a unit quaternion")
	}
	if err := p.validateFlesh(); err != nil {
		return err
	}
	if p.Shape != nil {
		if err := in("shape", p.Shape.Check()); err != nil {
			return err
		}
	}
	if p.Mark != nil {
		if p.Kind != Group {
			return wrong("mark", "a mark is a group of its areas")
		}
		if err := in("mark", p.Mark.validate()); err != nil {
			return err
		}
	}
	if p.Cut != nil {
		if err := in("cut", p.Cut.validate()); err != nil {
			return err
		}
	}
	if p.Copies != nil {
		if err := in("copies", p.Copies.validate()); err != nil {
			return err
		}
	}
	switch {
	case p.Plinth != nil && !(positive(p.Plinth.Radius) && positive(p.Plinth.Height) && finite(p.Plinth.Bevel) && p.Plinth.Bevel >= 0):
		return wrong("plinth", "a plinth's radius and height are more than 0 and its bevel is not below 0")
	case p.Plinth != nil && !slices.Contains([]string{"", "stepped disc", "slab", "column"}, p.Plinth.Form):
		return wrong("plinth.form", "a plinth is a disc, a stepped disc, a slab or a column, not %q", p.Plinth.Form)
	case p.Camera != nil:
		c := p.Camera
		if !(c.Shutter >= 0 && c.Shutter <= 360) || !(c.FNumber >= 0 && finite(c.FNumber)) || !finite(c.Focus) || c.Blades < 0 || c.Blades > 32 || !finite(c.ShiftX) || !finite(c.ShiftY) || !(c.Across >= 0 && finite(c.Across)) || !(math.Abs(c.Exposure) <= 32) {
			return wrong("camera", "a shutter is open for 0 to 360 degrees, an f-number is not below 0, an aperture has at most 32 blades, and an exposure is within 32 stops")
		}
		if !positive(c.Focal) || !positive(c.SensorWidth) || !positive(c.SensorHeight) {
			return wrong("camera", "a lens has a focal length and a sensor size of more than 0 mm")
		}
		if !(c.Margin >= 0 && c.Margin <= 45) {
			return wrong("camera.margin", "a margin of %g %% leaves no picture; it is 0 to 45 %%", c.Margin)
		}
		if c.Sensor != FitWidth && c.Sensor != FitHeight && c.Sensor != FitLonger {
			return wrong("camera.sensor", "the sensor is fitted to width, height or longer, not %q", c.Sensor)
		}
	case p.Light != nil:
		if err := in("light", p.Light.validate()); err != nil {
			return err
		}
	}
	values := map[Value]bool{}
	if p.Ground != 0 && (p.Kind != Floor || !positive(p.Ground)) {
		return wrong("ground", "a floor that is seen has a side of more than 0")
	}
	if p.Fade != nil && !within(0, 0.5, *p.Fade) {
		return wrong("fade", "a shadow fades out over 0 to 50 %% of the picture")
	}
	for i := range p.Tracks {
		t := &p.Tracks[i]
		if values[t.Value] {
			return wrong("tracks", "it has two tracks of %s", t.Value)
		}
		values[t.Value] = true
		if err := in("tracks", t.validate()); err != nil {
			return err
		}
	}
	return nil
}

// MaxCopies of one part.
const MaxCopies = 100_000

// Number returns how many copies there are, at most.
func (c *Spread) Number() int {
	if c.Kind == Grid {
		return c.Count[0] * c.Count[1] * c.Count[2]
	}
	return c.Count[0]
}

func (c *Spread) validate() error {
	for _, n := range c.Count {
		if n < 1 || n > MaxCopies {
			return fmt.Errorf("copies are 1 to %d", MaxCopies)
		}
	}
	if c.Number() > MaxCopies {
		return fmt.Errorf("%d copies are more than %d", c.Number(), MaxCopies)
	}
	for _, v := range []float64{c.Radius, c.Sweep, c.Area[0], c.Area[1], c.Apart, c.Turn, c.Vary, c.Rise, c.Flip, c.Delay} {
		if !finite(v) {
			return fmt.Errorf("a measure of the copies is not a number")
		}
	}
	switch {
	case !allFinite(c.Step):
		return fmt.Errorf("the step from copy to copy is not a number")
	case c.Kind == Along && len(c.Path) < 2:
		return fmt.Errorf("a path has at least two corners")
	case c.Kind == Scatter && !(c.Area[0] > 0 && c.Area[1] > 0):
		return fmt.Errorf("the area that is scattered on has a width and a depth of more than 0")
	case c.Vary < 0 || c.Vary >= 1:
		return fmt.Errorf("sizes vary by less than the whole")
	case c.Apart < 0:
		return fmt.Errorf("the distance between copies is not below 0")
	case c.Kind != Row && c.Kind != Grid && c.Kind != Ring && c.Kind != Along && c.Kind != Scatter && c.Kind != Surface:
		return fmt.Errorf("copies stand in a row, grid or ring, along a path or scattered, not %q", c.Kind)
	}
	for _, p := range c.Path {
		if !allFinite(p) {
			return fmt.Errorf("a corner of the path is not a number")
		}
	}
	return nil
}

func (d Direction) validate() error {
	if d != Clockwise && d != CounterClockwise {
		return fmt.Errorf("a direction is clockwise or counterclockwise, not %q", d)
	}
	return nil
}

// MaxRadiance bounds colours of light and strengths: what is brighter leaves nothing of others in single precision.
const MaxRadiance = 1e9

func (e *Environment) validate() error {
	if e.Picture != "" && len(e.Picture) != 64 {
		return fmt.Errorf("the environment's picture is not named by its content")
	}
	if !finite(e.Turn) || !finite(e.Raised) {
		return fmt.Errorf("the environment's turn is not a number that it can be")
	}
	for _, c := range [][3]float64{e.Zenith, e.Horizon, e.Ground} {
		if !within(0, MaxRadiance, c[:]...) {
			return fmt.Errorf("a sky's red, green and blue are 0 to %g; light below 0 does not exist", MaxRadiance)
		}
	}
	if !within(0, MaxRadiance, e.Strength) {
		return fmt.Errorf("the environment's strength is 0 to %g", MaxRadiance)
	}
	return nil
}

// within reports whether numbers lie between two others, both included; what is no number does not.
func within(least, most float64, list ...float64) bool {
	for _, v := range list {
		if !(v >= least && v <= most) {
			return false
		}
	}
	return true
}

// finite reports whether a number is one that can be worked with: not so large that nothing is left of others beside it.
func finite(v float64) bool { return math.Abs(v) <= 1e12 }

// positive reports whether a measure is above 0, and not by so little that what is divided by it is nothing.
func positive(v float64) bool { return v >= 1e-12 && v <= 1e12 }

func allFinite(v geom.Vec3) bool { return finite(v[0]) && finite(v[1]) && finite(v[2]) }
