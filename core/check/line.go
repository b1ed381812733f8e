package check

import (
	"cmp"
	"slices"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/loop"
	"perigyre/core/motion"
)

// Line is evidence that can be drawn: a line through points, as they are on a frame.
type Line struct {
	Frame   float64      `json:"frame"`
	Arrow   bool         `json:"arrow,omitempty"` // at its end
	Room    [][3]float64 `json:"room"`            // the points, metres
	Picture [][2]float64 `json:"picture"`         // as shares of the picture's width and height, from its upper left corner; none where one of them is not before the camera
}

// line is a line through points of the room on a frame, as the render camera sees it then.
func (f *Facts) line(frame float64, room ...geom.Vec3) Line {
	out := Line{Frame: frame, Room: [][3]float64{}, Picture: [][2]float64{}}
	e := f.Pose
	for _, p := range room {
		out.Room = append(out.Room, p)
	}
	cam := e.Index.Part(e.Shot.Camera)
	if cam < 0 || e.Shot.Parts[cam].Camera == nil {
		return out
	}
	camera := e.Some(frame).Of(cam)
	for _, p := range room {
		x, y, _, seen := framing.Project(camera, e.Shot.Parts[cam].Camera, e.Shot.Format, p)
		if !seen {
			out.Picture = [][2]float64{}
			break
		}
		out.Picture = append(out.Picture, [2]float64{x / float64(e.Shot.Format.Width), y / float64(e.Shot.Format.Height)})
	}
	return out
}

// arrow is the way of a jump: from where something is seen to where it is seen next.
func arrow(frame float64, g loop.Gap) []Line {
	if g.Pixels <= loop.Proved {
		return nil
	}
	out := Line{Frame: frame, Arrow: true}
	for _, p := range [2]loop.Place{g.From, g.To} {
		out.Room = append(out.Room, p.Room)
		out.Picture = append(out.Picture, [2]float64{(p.Picture[0] + 1) / 2, (1 - p.Picture[1]) / 2})
	}
	return []Line{out}
}

// outline is a line round all that is seen of a part on a frame, through the points of it that lie outermost in the picture: the hull
// of them, by their order from left to right (Andrew, Another Efficient Algorithm for Convex Hulls in Two Dimensions, 1979).
func (f *Facts) outline(part string, frame float64) []Line {
	e := f.Pose
	root, cam := e.Index.Part(part), e.Index.Part(e.Shot.Camera)
	if root < 0 || cam < 0 {
		return nil
	}
	type seen struct {
		x, y float64
		at   geom.Vec3
	}
	var list []seen
	world := e.World(motion.At(e.Shot, frame))
	hidden := e.Index.Hidden()
	for i := range e.Shot.Parts {
		if q := &e.Shot.Parts[i]; !e.Index.Within(i, root) || hidden[i] || q.Mesh == nil && q.Shaped() == nil {
			continue
		}
		points, _, err := e.Points(i, motion.At(e.Shot, frame), world, f.Geometry)
		if err != nil {
			return nil
		}
		for _, p := range points {
			at := world[i].Point(p)
			if x, y, _, in := framing.Project(world[cam], e.Shot.Parts[cam].Camera, e.Shot.Format, at); in {
				list = append(list, seen{x, y, at})
			}
		}
	}
	slices.SortFunc(list, func(a, b seen) int { return cmp.Or(cmp.Compare(a.x, b.x), cmp.Compare(a.y, b.y)) })
	half := func(list []seen) (out []seen) {
		for _, p := range list {
			for n := len(out); n > 1 && (out[n-1].x-out[n-2].x)*(p.y-out[n-2].y)-(out[n-1].y-out[n-2].y)*(p.x-out[n-2].x) <= 0; n = len(out) {
				out = out[:n-1]
			}
			out = append(out, p)
		}
		return out
	}
	hull := half(list)
	slices.Reverse(list)
	if hull = append(hull, half(list)...); len(hull) < 3 {
		return nil
	}
	var room []geom.Vec3
	for _, p := range hull {
		room = append(room, p.at)
	}
	return []Line{f.line(frame, room...)}
}
