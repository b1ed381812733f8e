package check

import (
	"math"
	"slices"

	"perigyre/core/assembly"
	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

// piece is something that is seen as one: a part, or one copy of it.
type piece struct {
	part    int
	carrier int // itself, or the copies part that shows it again
	copy    int // its number among those of its part, -1 for the part itself
	rides   int // the part that it moves rigidly with, -1 for the room; -2 for what goes its own way
	bends   bool
}

// pieces are what is seen in a shot, in the order of the bodies of its scenes, and where they are over time.
type pieces struct {
	f      *Facts
	e      *pose.Evaluator
	list   []piece
	times  []float64 // frames, evenly over the shot
	solids map[solidKey]*assembly.Solid
	reach  map[int]geom.Box // of parts that hang on bones
	left   bool             // something has too many triangles to be looked at
}

type solidKey struct {
	part int
	size geom.Vec3
}

// maxTimes are looked at, one a frame in shots that are not long, and so many places of pieces are held at most.
const (
	maxTimes  = 1000
	maxPlaces = 1_000_000
)

// piecesOf gathers what is seen in a document, at so many times a frame.
func (f *Facts) piecesOf(e *pose.Evaluator, often float64) (*pieces, error) {
	p := &pieces{f: f, e: e, solids: f.built}
	if p.solids == nil {
		p.solids = map[solidKey]*assembly.Solid{}
	}
	s := e.Shot
	hidden, carrier := e.Index.Hidden(), e.Carrier()
	for i := range s.Parts {
		if q := &s.Parts[i]; !hidden[i] && (q.Mesh != nil || q.Shaped() != nil) {
			p.list = append(p.list, piece{i, i, -1, carrier[i], e.Soft(i)})
		}
	}
	spreads, err := e.Spreads(0, e.At(0), f.Geometry)
	if err != nil {
		return nil, err
	}
	for _, c := range spreads {
		if hidden[c.Spread] {
			continue
		}
		rides := carrier[c.Spread]
		if e.Living(c.Spread) {
			rides = -2
		}
		for k := range c.Places {
			p.list = append(p.list, piece{c.Part, c.Spread, k, rides, e.Soft(c.Part)})
		}
	}
	end := float64(s.Frames)
	if s.Ending == shot.Once {
		end--
	}
	n := int(math.Min(math.Max(1, end*often), math.Min(maxTimes, math.Max(2, maxPlaces/math.Max(1, float64(len(p.list)))))))
	for k := range n + 1 {
		p.times = append(p.times, end*float64(k)/float64(n))
	}
	return p, nil
}

// time is a moment of the pieces; the last one of a loop is that before its seam.
func (p *pieces) time(k int) motion.Time {
	if k == len(p.times)-1 && p.e.Shot.Ending == shot.Loop {
		return motion.BeforeSeam(p.e.Shot)
	}
	return motion.At(p.e.Shot, p.times[k])
}

// at returns where some pieces are in the room at a moment; nil for all of them. One that is not there has no size.
func (p *pieces) at(t motion.Time, of []int) ([]geom.Mat4, error) {
	world := p.e.World(t)
	var spreads []pose.Copied
	living := func(i int) bool { return p.list[i].copy >= 0 }
	if of == nil && slices.ContainsFunc(p.list, func(q piece) bool { return q.copy >= 0 }) || slices.ContainsFunc(of, living) {
		var err error
		if spreads, err = p.e.SpreadsAt(t, world, p.f.Geometry); err != nil {
			return nil, err
		}
	}
	place := func(i int) geom.Mat4 {
		q := p.list[i]
		if q.copy < 0 {
			return world[q.part]
		}
		for k := range spreads {
			if c := &spreads[k]; c.Spread == q.carrier && c.Part == q.part && q.copy < len(c.Places) {
				return world[q.carrier].Mul(c.Places[q.copy])
			}
		}
		return geom.Mat4{15: 1}
	}
	if of == nil {
		out := make([]geom.Mat4, len(p.list))
		for i := range out {
			out[i] = place(i)
		}
		return out, nil
	}
	out := make([]geom.Mat4, len(of))
	for k, i := range of {
		out[k] = place(i)
	}
	return out, nil
}

// rigid splits where a piece is into its size along its own axes and a rigid motion; false where it has no size, or is sheared.
func rigid(m geom.Mat4) (geom.Mat4, geom.Vec3, bool) {
	at, q, size, exact := m.Decompose()
	if !exact || math.Abs(size[0]*size[1]*size[2]) < 1e-18 {
		return m, size, false
	}
	return geom.TRS(at, q, geom.Vec3{1, 1, 1}), size, true
}

// solid returns a piece's surface in metres at a size.
func (p *pieces) solid(i int, size geom.Vec3) (*assembly.Solid, error) {
	for k := range size { // to what a surface is known by
		size[k] = float64(float32(size[k]))
	}
	key := solidKey{p.list[i].part, size}
	if got := p.solids[key]; got != nil {
		return got, nil
	}
	points, triangles, err := p.f.Geometry.Surface(&p.e.Shot.Parts[key.part])
	if err != nil {
		return nil, err
	}
	if len(triangles) > 3*maxFaces {
		p.left, triangles = true, nil
	}
	out := assembly.NewSolid(points, triangles, size)
	p.solids[key] = out
	return out, nil
}

// turns is what a piece of a size looks like turned. Evenly sized or not, it looks the same about an axis across which it is.
func (p *pieces) turns(i int, size geom.Vec3) assembly.Turns {
	q := &p.e.Shot.Parts[p.list[i].part]
	if p.f.Sight.Symmetry == nil {
		return assembly.Turns{Often: 1}
	}
	m := scene.Mesh{Shape: q.Shaped()}
	if q.Mesh != nil {
		m = scene.Mesh{Asset: q.Mesh.Asset, Index: q.Mesh.Mesh}
	}
	n, axis, through, _ := p.f.Sight.Symmetry.Turns(m)
	if math.Abs(size[(axis+1)%3]-size[(axis+2)%3]) > 1e-6*math.Abs(size[(axis+1)%3]) {
		n = 1
	}
	for k := range through {
		through[k] *= size[k]
	}
	return assembly.Turns{Often: n, Axis: axis, Through: through}
}

// corners is how far the corners of a piece that is round stand out of its faces, so that it goes through what fits it exactly as
// it turns; 0 for what is not. Metres.
func (p *pieces) corners(i int, size geom.Vec3) float64 {
	t := p.turns(i, size)
	box, err := p.box(i)
	if err != nil || t.Often < 12 {
		return 0
	}
	radius := box.Size()[(t.Axis+1)%3] * math.Abs(size[(t.Axis+1)%3]) / 2
	return radius * (1 - math.Cos(math.Pi/float64(t.Often)))
}

// box is round a piece in its own frame; of what hangs on bones round where it is at some of the times.
func (p *pieces) box(i int) (geom.Box, error) {
	if part := p.list[i].part; p.e.Fleshed(part) {
		if got, ok := p.reach[part]; ok {
			return got, nil
		}
		box := geom.EmptyBox()
		for k := 0; k < len(p.times); k += max(1, len(p.times)/24) {
			at := p.time(k)
			points, _, err := p.e.Points(part, at, p.e.World(at), p.f.Geometry)
			if err != nil {
				return box, err
			}
			for _, q := range points {
				box = box.With(q)
			}
		}
		if p.reach == nil {
			p.reach = map[int]geom.Box{}
		}
		p.reach[part] = box
		return box, nil
	}
	s, err := p.f.Geometry.Support(&p.e.Shot.Parts[p.list[i].part])
	if err != nil {
		return geom.EmptyBox(), err
	}
	return s.Bounds(), nil
}

// soft is the surface of a piece at each of the times.
type soft func(t int) lying

// lying is a surface as it lies at a moment: a box in the room that it is in, where its frame is, and what makes it.
type lying struct {
	box   geom.Box
	in    geom.Mat4
	solid func() *assembly.Solid
}

// lies is a surface that is made, at a place.
func lies(s *assembly.Solid, in geom.Mat4) lying {
	return lying{s.Bounds().Transformed(in), in, func() *assembly.Solid { return s }}
}

// soft returns what makes the surface of a piece: bent as it is then, or of the size that it has then. What is of one size for good is
// made once.
func (p *pieces) soft(i int, c *course) (soft, error) {
	if !p.list[i].bends && !c.soft {
		s, err := p.solid(i, c.size)
		return func(t int) lying { return lies(s, c.rigid[t]) }, err
	}
	points, triangles, err := p.f.Geometry.Surface(&p.e.Shot.Parts[p.list[i].part])
	if err != nil {
		return nil, err
	}
	if len(triangles) > 3*maxFaces {
		p.left, triangles = true, nil
	}
	if part := p.list[i].part; p.e.Fleshed(part) {
		rest := assembly.NewPosable(points, triangles)
		return func(t int) lying {
			at := p.time(t)
			out, _, err := p.e.Points(part, at, p.e.World(at), p.f.Geometry)
			if err != nil { // it was there a moment ago
				return lies(assembly.NewSolid(nil, nil, geom.Vec3{1, 1, 1}), geom.Identity)
			}
			for k, q := range out {
				out[k] = c.at[t].Point(q)
			}
			return posed(rest, out, triangles)
		}, nil
	}
	whole, err := p.solid(i, geom.Vec3{1, 1, 1})
	if err != nil {
		return nil, err
	}
	if p.list[i].bends {
		list := p.e.Bends(p.list[i].part)
		in := make([]geom.Vec3, len(points))
		for k, q := range points {
			in[k] = list[0].In.Point(q)
		}
		return func(t int) lying {
			out := make([]geom.Vec3, len(in))
			p.e.BendAll(p.list[i].part, p.times[t], slices.Clone(in), out)
			to := c.at[t].Mul(list[len(list)-1].Out)
			for k, q := range out {
				out[k] = to.Point(q)
			}
			return posed(whole, out, triangles)
		}, nil
	}
	return func(t int) lying {
		if x, size, ok := rigid(c.at[t]); ok && size[0] > 0 && size[1] > 0 && size[2] > 0 {
			return lies(whole.Scaled(size), x)
		}
		out := make([]geom.Vec3, len(points))
		for k, q := range points {
			out[k] = c.at[t].Point(q)
		}
		return posed(whole, out, triangles)
	}, nil
}

// posed is a surface whose points are where they are in the room.
func posed(of *assembly.Solid, points []geom.Vec3, triangles []uint32) lying {
	box := geom.EmptyBox()
	for _, p := range points {
		box.Hold(p)
	}
	return lying{box, geom.Identity, func() *assembly.Solid { return of.Posed(points, triangles) }}
}
