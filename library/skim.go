package library

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Skims cuts the contours that skimming moves of a document go along, where what they are cut from has
// changed.
func Skims(d *shot.Shot, a *Assets) error {
	for i := range d.Parts {
		for j := range d.Parts[i].Moves {
			s, ok := d.Parts[i].Moves[j].Data.(*move.Skim)
			if !ok {
				continue
			}
			if err := contour(d, s, a); err != nil {
				return fmt.Errorf("part %q: %w", d.Parts[i].Name, err)
			}
		}
	}
	return nil
}

// contour cuts the surface of a part, with all in it at rest, in that part's frame.
func contour(d *shot.Shot, s *move.Skim, a *Assets) error {
	root := d.Index(s.On)
	if root < 0 {
		return nil // Validate says so
	}
	place := map[string]geom.Mat4{d.Parts[root].ID: geom.Identity}
	var parts []int
	key := fmt.Sprint(s.Normal, s.Offset*ownMetre(d, root))
	for i := root; i < len(d.Parts); i++ {
		p := &d.Parts[i]
		up, ok := place[p.Parent]
		if i != root {
			if !ok || p.Kind == shot.Copies {
				continue
			}
			place[p.ID] = up.Mul(pose.Local(p, p.Rest))
		}
		if p.Mesh != nil || p.Shaped() != nil {
			parts = append(parts, i)
			text, err := json.Marshal([]any{p.Mesh, p.Shaped(), place[p.ID]})
			if err != nil {
				return err
			}
			key += string(text)
		}
	}
	if key = hashOf(key); key == s.Key {
		return nil
	}
	var points []geom.Vec3
	var indices []uint32
	for _, i := range parts {
		own, faces, err := a.Surface(&d.Parts[i])
		if err != nil {
			return err
		}
		first := uint32(len(points))
		for _, p := range own {
			points = append(points, place[d.Parts[i].ID].Point(p))
		}
		for _, f := range faces {
			indices = append(indices, first+f)
		}
	}
	n := s.Normal.Unit()
	line, normals := mesh.Slice(points, indices, n, n.Dot(d.Parts[root].Pivot)+s.Offset*ownMetre(d, root))
	if len(line) > maxCorners {
		return fmt.Errorf("the cut has %d corners, more than %d; skim over something simpler", len(line), maxCorners)
	}
	s.Contour, s.Normals, s.Key = line, normals, key
	return nil
}

// ownMetre is how many units of a part's own frame a metre of the room is.
func ownMetre(d *shot.Shot, i int) float64 {
	m := geom.Identity
	for ; i >= 0; i = d.Index(d.Parts[i].Parent) {
		m = pose.Local(&d.Parts[i], d.Parts[i].Rest).Mul(m)
	}
	return pose.PerMetre(m)
}

func hashOf(text string) string {
	sum := sha256.Sum256([]byte(text))
	return hex.EncodeToString(sum[:8])
}

const maxCorners = 50_000
