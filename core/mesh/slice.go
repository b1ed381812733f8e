package mesh

import (
	"math"

	"perigyre/core/geom"
)

// Slice returns the longest closed line in which a plane cuts a surface, counter-clockwise seen from the tip
// of the plane's normal, with the surface's normals along it. The plane holds the points p with n.p = offset.
// Corners that meet are joined; a surface that the plane does not cut in a closed line gives none.
func Slice(points []geom.Vec3, indices []uint32, n geom.Vec3, offset float64) (line, normals []geom.Vec3) {
	n = n.Unit()
	box := geom.EmptyBox()
	for _, p := range points {
		box = box.With(p)
	}
	size := box.Size().Len()
	if size == 0 {
		return nil, nil
	}
	// Vertices on the plane count as above it, so that every cut goes through the insides of edges.
	side := make([]float64, len(points))
	for i, p := range points {
		if side[i] = n.Dot(p) - offset; math.Abs(side[i]) < 1e-9*size {
			side[i] = 1e-9 * size
		}
	}
	// Places rather than vertices, so that seams between smooth groups and textures do not end a line.
	type place [3]int64
	at := func(p geom.Vec3) place {
		var q place
		for k := range q {
			q[k] = int64(math.Round(p[k] / (1e-7 * size)))
		}
		return q
	}
	type corner struct {
		point, normal geom.Vec3
		next          place
		used          bool
	}
	from := map[place]*corner{}
	var order []place
	cut := func(a, b uint32) geom.Vec3 {
		if side[a] > side[b] {
			a, b = b, a // the same place from both sides
		}
		return points[a].Add(points[b].Sub(points[a]).Mul(side[a] / (side[a] - side[b])))
	}
	for t := 0; t+2 < len(indices); t += 3 {
		var ends []geom.Vec3
		for k := range 3 {
			a, b := indices[t+k], indices[t+(k+1)%3]
			if (side[a] > 0) != (side[b] > 0) {
				ends = append(ends, cut(a, b))
			}
		}
		if len(ends) != 2 || at(ends[0]) == at(ends[1]) {
			continue
		}
		p, q, r := points[indices[t]], points[indices[t+1]], points[indices[t+2]]
		face := q.Sub(p).Cross(r.Sub(p)).Unit()
		// Along the line the surface's outside is on the right, seen from the plane's tip.
		if n.Cross(face).Dot(ends[1].Sub(ends[0])) < 0 {
			ends[0], ends[1] = ends[1], ends[0]
		}
		a := at(ends[0])
		if from[a] == nil {
			from[a] = &corner{point: ends[0], normal: face, next: at(ends[1])}
			order = append(order, a)
		}
	}
	longest := 0.0
	for _, begin := range order {
		if from[begin].used {
			continue
		}
		var list []*corner
		long, key := 0.0, begin
		closed := false
		for {
			c := from[key]
			if c == nil {
				break
			}
			if c.used {
				closed = key == begin
				break
			}
			c.used = true
			if len(list) > 0 {
				long += c.point.Sub(list[len(list)-1].point).Len()
			}
			list = append(list, c)
			key = c.next
		}
		if !closed || long <= longest || len(list) < 3 {
			continue
		}
		longest = long
		line, normals = make([]geom.Vec3, len(list)), make([]geom.Vec3, len(list))
		for i, c := range list {
			// The normal at a corner is between those of the faces that meet there.
			line[i], normals[i] = c.point, c.normal.Add(list[(i+len(list)-1)%len(list)].normal).Unit()
		}
	}
	return line, normals
}
