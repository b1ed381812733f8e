package framing

import (
	"math"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/lettering"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Label is a label of the picture with its leader line. Lengths are shares of the picture's shorter side, from its upper left corner, to the
// right and down.
type Label struct {
	Text     string
	Size     float64       // of an em
	At       [2]float64    // where the text begins on its baseline
	Line     [3][2]float64 // from what is labelled, to before the text, to the text
	Strength float64       // share of it that is there: of how far its parts have gone
	Drawn    bool          // seen in the picture, not in the pass of labels alone
	Dark     bool
}

// How labels are laid out.
const (
	labelSize   = 0.026 // of an em
	labelPitch  = 1.5   // ems from label to label
	labelEdge   = 0.03  // of the picture that stays free
	labelGap    = 0.4   // ems between a text and its line
	labelZone   = 0.07  // in which lines go up and down
	labelWidest = 0.3   // of the picture's width
	labelsAside = 60    // labels on a side; what else there is has none
)

// labelled is what is known of labels whatever the moment.
type labelled struct {
	list  []pose.Label
	of    []int     // the part of each that its line leads to
	side  []int     // on which side it stands: 0 left, 1 right
	long  []float64 // how far that part goes at most
	width [2]float64
	size  float64
}

type labelsOf struct{}

// Labels lays out the labels of a moment: at the sides of the picture, in the order of what they label, so that no line crosses another,
// as near to its height as the others leave room. Lines go straight to the side that parts are on when they are furthest from where
// they sit, and bend before the text (opo-leaders: Bekos, Kaufmann, Symvonis and Wolff, Boundary Labeling, 2007, from memory). World says
// where parts are, the camera too. They are the same ones in the same order at all moments; where nothing is to be seen of one, its
// strength is 0.
func Labels(e *pose.Evaluator, t motion.Time, world []geom.Mat4, g pose.Surfaces) ([]Label, error) {
	camera := e.Index.Part(e.Shot.Camera)
	if camera < 0 || e.Shot.Parts[camera].Camera == nil {
		return nil, nil
	}
	got, err := e.Once(labelsOf{}, func() (any, error) { return labelSides(e, camera, g) })
	if err != nil {
		return nil, err
	}
	l := got.(*labelled)
	out := make([]Label, len(l.list))
	for side := range 2 {
		var list []int
		for k := range l.list {
			if l.side[k] == side {
				list = append(list, k)
			}
		}
		l.column(e, camera, t, world, list, side, out)
	}
	return out, nil
}

// picture is the size of a format, in shares of its shorter side.
func picture(f shot.Format) (w, h float64) {
	short := float64(min(f.Width, f.Height))
	return float64(f.Width) / short, float64(f.Height) / short
}

// place is where a point of the room is in the picture, in shares of its shorter side; false for one that is not before the camera.
func place(e *pose.Evaluator, camera geom.Mat4, lens *shot.Lens, p geom.Vec3) (x, y float64, ok bool) {
	f := e.Shot.Format
	x, y, _, ok = Project(camera, lens, f, p)
	short := float64(min(f.Width, f.Height))
	return x / short, y / short, ok
}

// labelSides finds for each label the part that it leads to and the side on which it stands: the nearest to an edge, on the frame on which all
// are furthest apart.
func labelSides(e *pose.Evaluator, camera int, g pose.Surfaces) (*labelled, error) {
	list, err := e.Labels(g)
	if err != nil {
		return nil, err
	}
	var all []pose.Guided
	for _, l := range list {
		all = append(all, l.Of...)
	}
	out := &labelled{}
	if len(list) == 0 {
		return out, nil
	}
	apart := pose.Furthest(e, all)
	world := e.At(apart)
	w, h := picture(e.Shot.Format)
	var count [2]int
	for k := range list {
		most, of, side := -1.0, 0, 0
		for n := range list[k].Of {
			d := &list[k].Of[n]
			x, _, ok := place(e, world[camera], e.Shot.Parts[camera].Camera, world[d.Part].Point(d.Middle))
			if off := math.Abs(x - w/2); ok && off > most+1e-6*w && d.Size > 0.99*list[k].Of[0].Size {
				most, of, side = off, n, 0
				if x > w/2 {
					side = 1
				}
			}
		}
		if most < 0.02*w { // in the middle: where there are fewer
			if side = 0; count[1] <= count[0] {
				side = 1
			}
		}
		if count[side] == labelsAside {
			continue
		}
		count[side]++
		out.list, out.of, out.side = append(out.list, list[k]), append(out.of, of), append(out.side, side)
		out.long = append(out.long, list[k].Of[of].Gone(e, apart))
	}
	out.size = math.Min(labelSize, (h-2*labelEdge)/(labelPitch*float64(max(1, count[0], count[1]))))
	for k := range out.list {
		l := &out.list[k]
		l.Text = lettering.Within(l.Text, labelWidest*w/out.size)
		side := out.side[k]
		out.width[side] = math.Max(out.width[side], lettering.Width(l.Text)*out.size)
	}
	return out, nil
}

// column lays out some labels, on one side.
func (l *labelled) column(e *pose.Evaluator, camera int, t motion.Time, world []geom.Mat4, list []int, side int, out []Label) {
	w, h := picture(e.Shot.Format)
	lens := e.Shot.Parts[camera].Camera
	type anchor struct {
		label int
		x, y  float64
		seen  bool
	}
	at := make([]anchor, len(list))
	for i, k := range list {
		d := &l.list[k].Of[l.of[k]]
		a := anchor{label: k}
		if a.x, a.y, a.seen = place(e, world[camera], lens, world[d.Part].Point(d.Middle)); !a.seen {
			a.x, a.y = w/2, h/2
		}
		at[i] = a
	}
	slices.SortStableFunc(at, func(a, b anchor) int {
		switch {
		case a.y < b.y:
			return -1
		case a.y > b.y:
			return 1
		}
		return 0
	})
	wish := make([]float64, len(at))
	for i := range at {
		wish[i] = at[i].y
	}
	pitch := labelPitch * l.size
	heights := spaced(wish, pitch, labelEdge+pitch/2, h-labelEdge-pitch/2)
	edge, inward := labelEdge+l.width[side], 1.0 // where texts end towards the middle, and which way that is
	if side == 1 {
		edge, inward = w-edge, -1
	}
	text := edge + inward*labelGap*l.size
	zone := labelZone // as wide as what is labelled leaves room: where lines go up and down side by side, none crosses another
	for _, a := range at {
		if room := (a.x - text) * inward; a.seen && room > 0 {
			zone = math.Min(zone, room)
		}
	}
	for i, a := range at {
		of := &l.list[a.label]
		o := Label{Text: of.Text, Size: l.size, Drawn: of.Drawn, Dark: of.Dark}
		o.Line = [3][2]float64{{a.x, a.y}, {text + inward*zone, a.y}, {text, heights[i]}}
		if !a.seen || (a.x-text)*inward <= 0 { // what is under the labels has no line
			o.Line[0], o.Line[1] = o.Line[2], o.Line[2]
		}
		o.At = [2]float64{edge, heights[i] + lettering.Capital/2*l.size}
		if side == 0 {
			o.At[0] -= lettering.Width(o.Text) * l.size
		}
		if long := l.long[a.label]; long > 0 && a.seen {
			o.Strength = math.Min(1, of.Of[l.of[a.label]].Gone(e, t.T)/long)
		}
		out[a.label] = o
	}
}

// spaced moves values, which ascend, as little as may be (least squares) so that each is at least a distance above the one before, all of
// them between two bounds: pool adjacent violators (Barlow, Bartholomew, Bremner and Brunk, Statistical Inference under Order
// Restrictions, 1972).
func spaced(wish []float64, apart, low, high float64) []float64 {
	type block struct {
		sum float64
		n   int
	}
	var blocks []block
	for i, v := range wish {
		blocks = append(blocks, block{v - float64(i)*apart, 1})
		for n := len(blocks); n > 1 && blocks[n-2].sum*float64(blocks[n-1].n) > blocks[n-1].sum*float64(blocks[n-2].n); n-- {
			blocks[n-2].sum += blocks[n-1].sum
			blocks[n-2].n += blocks[n-1].n
			blocks = blocks[:n-1]
		}
	}
	high -= float64(len(wish)-1) * apart
	out := make([]float64, 0, len(wish))
	for _, b := range blocks {
		for range b.n {
			out = append(out, math.Max(low, math.Min(math.Max(low, high), b.sum/float64(b.n)))+float64(len(out))*apart)
		}
	}
	return out
}
