package edit

import (
	"fmt"
	"math"
	"sort"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Stand lowers or lifts parts so that their lowest point is on the floor, or on the plinth of
// the turntable they are on, less what they sink.
type Stand struct {
	Parts []string `json:"parts"`
	Sink  float64  `json:"sink"` // metres
}

func init() { Register[Stand]("stand") }

// Do implements Change.
func (e *Stand) Do(w *Work) (string, error) {
	return w.each(e.Parts, "Stand", func(i int) (geom.Mat4, error) {
		box, err := w.bounds(i)
		return geom.Translation(geom.Vec3{0, w.ground(i) - e.Sink - box.Min[1], 0}), err
	})
}

// Centre brings the middle of parts' footprints over the origin of what they are in.
type Centre struct {
	Parts []string `json:"parts"`
}

func init() { Register[Centre]("centre") }

// Do implements Change.
func (e *Centre) Do(w *Work) (string, error) {
	return w.each(e.Parts, "Centre", func(i int) (geom.Mat4, error) {
		c, err := w.footprint(i)
		at := geom.Vec3{}
		if up := w.Index().Parent(i); up >= 0 {
			at = w.World()[up].Column(3)
		}
		return geom.Translation(geom.Vec3{at[0] - c[0], 0, at[2] - c[1]}), err
	})
}

// Align brings one side or the middle of each part to that of all of them together.
type Align struct {
	Parts []string `json:"parts"`
	Axis  int      `json:"axis"` // 0 to 2 for x to z of the room
	To    string   `json:"to"`   // low, middle or high
}

func init() { Register[Align]("align") }

// Do implements Change.
func (e *Align) Do(w *Work) (string, error) {
	list, err := w.free(e.Parts)
	if err != nil {
		return "", err
	}
	if e.Axis < 0 || e.Axis > 2 {
		return "", fmt.Errorf("an axis is x, y or z")
	}
	all := geom.EmptyBox()
	boxes := make([]geom.Box, len(list))
	for k, i := range list {
		if boxes[k], err = w.bounds(i); err != nil {
			return "", err
		}
		all = all.Union(boxes[k])
	}
	side := func(b geom.Box) (float64, error) {
		switch e.To {
		case "low":
			return b.Min[e.Axis], nil
		case "middle":
			return b.Centre()[e.Axis], nil
		case "high":
			return b.Max[e.Axis], nil
		}
		return 0, fmt.Errorf("parts are aligned to low, middle or high, not %q", e.To)
	}
	to, err := side(all)
	if err != nil {
		return "", err
	}
	for k, i := range list {
		from, _ := side(boxes[k])
		var d geom.Vec3
		d[e.Axis] = to - from
		if err := w.setWorld(i, geom.Translation(d).Mul(w.World()[i])); err != nil {
			return "", err
		}
	}
	return "Align " + w.names(list), nil
}

// Distribute spaces the middles of parts evenly between the two outermost.
type Distribute struct {
	Parts []string `json:"parts"`
	Axis  int      `json:"axis"`
}

func init() { Register[Distribute]("distribute") }

// Do implements Change.
func (e *Distribute) Do(w *Work) (string, error) {
	list, err := w.free(e.Parts)
	if err != nil {
		return "", err
	}
	if len(list) < 3 || e.Axis < 0 || e.Axis > 2 {
		return "", fmt.Errorf("spacing out takes three parts or more")
	}
	middle := map[int]float64{}
	for _, i := range list {
		box, err := w.bounds(i)
		if err != nil {
			return "", err
		}
		middle[i] = box.Centre()[e.Axis]
	}
	sort.SliceStable(list, func(x, y int) bool { return middle[list[x]] < middle[list[y]] })
	first, last := middle[list[0]], middle[list[len(list)-1]]
	for k, i := range list {
		var d geom.Vec3
		d[e.Axis] = first + (last-first)*float64(k)/float64(len(list)-1) - middle[i]
		if err := w.setWorld(i, geom.Translation(d).Mul(w.World()[i])); err != nil {
			return "", err
		}
	}
	return "Space out " + w.names(list), nil
}

// Resize makes a part as high as is said, standing where it stands.
type Resize struct {
	Part   string  `json:"part"`
	Height float64 `json:"height"` // metres
}

func init() { Register[Resize]("resize") }

// Do implements Change.
func (e *Resize) Do(w *Work) (string, error) {
	list, err := w.free([]string{e.Part})
	if err != nil {
		return "", err
	}
	box, err := w.bounds(list[0])
	if err != nil {
		return "", err
	}
	now := box.Size()[1]
	if !(e.Height > 0) || !(now > 0) {
		return "", fmt.Errorf("a height is more than 0, before and after")
	}
	c, err := w.footprint(list[0])
	if err != nil {
		return "", err
	}
	foot, k := geom.Vec3{c[0], box.Min[1], c[1]}, e.Height/now
	m := geom.Translation(foot).Mul(geom.TRS(geom.Vec3{}, geom.NoTurn, geom.Vec3{k, k, k})).Mul(geom.Translation(foot.Mul(-1)))
	words := ""
	err = w.sized(list, func() (err error) {
		words, err = w.each([]string{e.Part}, fmt.Sprintf("Make %.4g mm high:", e.Height*1000), func(int) (geom.Mat4, error) { return m, nil })
		return err
	})
	return words, err
}

// Transform moves, turns and resizes parts in the room about a point.
type Transform struct {
	Parts []string  `json:"parts"`
	About geom.Vec3 `json:"about"`
	Move  geom.Vec3 `json:"move"`
	Turn  geom.Quat `json:"turn"`
	Size  float64   `json:"size"`         // factor
	At    *float64  `json:"at,omitempty"` // the frame on which they are pinned there, rather than resting there
}

func init() { Register[Transform]("transform") }

// Do implements Change.
func (e *Transform) Do(w *Work) (string, error) {
	if !usable(e.Size) || !e.Move.Finite() || !e.About.Finite() {
		return "", fmt.Errorf("a size of %g times is not possible", e.Size)
	}
	m := geom.Translation(e.About.Add(e.Move)).Mul(geom.TRS(geom.Vec3{}, e.Turn.Unit(), geom.Vec3{e.Size, e.Size, e.Size})).Mul(geom.Translation(e.About.Mul(-1)))
	if e.At != nil {
		return w.record(e.Parts, *e.At, m)
	}
	return w.each(e.Parts, "Place", func(int) (geom.Mat4, error) { return m, nil })
}

// FaceTo lays a face of a part on another face: the points meet and the normals are opposite.
type FaceTo struct {
	Part   string    `json:"part"`
	From   geom.Vec3 `json:"from"` // in the room, on the part
	Normal geom.Vec3 `json:"normal"`
	To     geom.Vec3 `json:"to"` // in the room, on something else
	Facing geom.Vec3 `json:"facing"`
}

func init() { Register[FaceTo]("faceTo") }

// Do implements Change.
func (e *FaceTo) Do(w *Work) (string, error) {
	turn := geom.Between(e.Normal, e.Facing.Mul(-1))
	m := geom.Translation(e.To).Mul(geom.TRS(geom.Vec3{}, turn, geom.Vec3{1, 1, 1})).Mul(geom.Translation(e.From.Mul(-1)))
	return w.each([]string{e.Part}, "Face", func(int) (geom.Mat4, error) { return m, nil })
}

// FaceCamera turns parts about the room's upright, through their pivots, until their front, seen from above, looks at the
// camera that is rendered through. Their own z is the front of parts whose front nobody has said.
type FaceCamera struct {
	Parts []string `json:"parts"`
}

func init() { Register[FaceCamera]("faceCamera") }

// Do implements Change.
func (e *FaceCamera) Do(w *Work) (string, error) {
	cam := w.Index().Part(w.Shot.Camera)
	if cam < 0 {
		return "", fmt.Errorf("the shot has no camera to face")
	}
	eye := w.World()[cam].Column(3)
	return w.each(e.Parts, "Face the camera:", func(i int) (geom.Mat4, error) {
		pivot, front := w.World()[i].Point(w.Shot.Parts[i].Pivot), w.World()[i].Column(2)
		if f := w.Shot.Parts[i].Front; f != (geom.Vec3{}) {
			front = w.World()[i].Vector(f)
		}
		to := eye.Sub(pivot)
		if math.Hypot(front[0], front[2]) < 1e-9*front.Len() || math.Hypot(to[0], to[2]) < 1e-12 {
			return geom.Mat4{}, fmt.Errorf("%s looks straight up or down, or is under the camera; there is no turn that faces it", w.Shot.Parts[i].Name)
		}
		angle := math.Atan2(to[0], to[2]) - math.Atan2(front[0], front[2])
		turn := geom.TRS(geom.Vec3{}, geom.AxisAngle(geom.Vec3{0, 1, 0}, angle), geom.Vec3{1, 1, 1})
		return geom.Translation(pivot).Mul(turn).Mul(geom.Translation(pivot.Mul(-1))), nil
	})
}

// Reset puts parts at the origin of what they are in, unturned and as large as they came.
type Reset struct {
	Parts []string `json:"parts"`
}

func init() { Register[Reset]("reset") }

// Do implements Change.
func (e *Reset) Do(w *Work) (string, error) {
	list, err := w.free(e.Parts)
	if err != nil {
		return "", err
	}
	for _, i := range list {
		p := &w.Shot.Parts[i]
		p.Rest, p.Pivot = shot.AtRest, geom.Vec3{}
	}
	return "Reset the place of " + w.names(list), nil
}

// RestHere makes the pose that parts have on a frame their rest pose.
type RestHere struct {
	Parts []string `json:"parts"`
	Frame float64  `json:"frame"`
}

func init() { Register[RestHere]("restHere") }

// Do implements Change.
func (e *RestHere) Do(w *Work) (string, error) {
	list, err := w.free(e.Parts)
	if err != nil {
		return "", err
	}
	for _, i := range list {
		if err := w.setLocal(&w.Shot.Parts[i], w.Pose().Local(i, e.Frame)); err != nil {
			return "", err
		}
	}
	return fmt.Sprintf("Make frame %g the rest pose of %s", e.Frame, w.names(list)), nil
}
