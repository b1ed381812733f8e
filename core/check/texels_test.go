package check

import (
	"context"
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/shot"
)

// sheet is a square of a metre that faces the camera, with a picture of so many pixels a side over all of it.
type sheet struct {
	side int
	why  string
}

func (sheet) Primitives(string, int) ([]model.Primitive, error) {
	return []model.Primitive{{Mesh: &mesh.Mesh{Positions: [][3]float32{{-0.5, 0, 0}, {0.5, 0, 0}, {0.5, 1, 0}, {-0.5, 1, 0}}, UV: [][2]float32{{0, 1}, {1, 1}, {1, 0}, {0, 0}}, Indices: []uint32{0, 1, 2, 0, 2, 3}}}}, nil
}

func (s sheet) Doubt(*material.Texture, material.Slot) (file, why string) { return "bark.png", s.why }

func (s sheet) Sides(*material.Texture) (width, height int, err error) { return s.side, s.side, nil }

// A picture of 100 pixels on a metre that comes as near as 3 m, in 1080 px through 50 mm on 36 mm: one of its pixels covers
// 0.01 * 1080 * 50/36 / 3 = 5 of the picture. One of 400 pixels covers less than two, and one that fits its slot is not doubted.
func TestTexturesAreFineEnoughAndInTheirSlot(t *testing.T) {
	s := box()
	s.Materials = append(s.Materials, material.Default())
	m := &s.Materials[len(s.Materials)-1]
	m.ID, m.Name, m.BaseColorTexture = "bark", "Bark", &material.Texture{}
	s.Parts = append(s.Parts, shot.Part{ID: "sheet", Name: "Sheet", Kind: shot.Solid, Rest: shot.AtRest, Mesh: &shot.MeshRef{}, Materials: []string{"bark"}, Moves: []shot.Move{},
		Tracks: []shot.Track{pinned(shot.TrackZ, shot.Straight, 0, 0, 48, s.Parts[1].Rest.Position[2]-3, 96, 0)}})
	s.Parts[1].Rest.Position[1] = 0.5
	f, _ := judge(t, s)
	for side, want := range map[int]float64{100: 5, 400: 0} {
		for _, why := range []string{"", "it looks like a normal map"} {
			f.Textures = sheet{side, why}
			found, err := Find(context.Background(), f, Watch{})
			if err != nil {
				t.Fatal(err)
			}
			if got := of(found, "coarse"); len(got) != 0 != (want > 0) || want > 0 && (math.Abs(got[0].Value-want) > 1e-3 || got[0].Frames[0] != 48) {
				t.Errorf("%d pixels: %+v", side, got)
			}
			if got := of(found, "slot"); len(got) != 0 != (why != "") {
				t.Errorf("%q: %+v", why, got)
			}
		}
	}
}

// What is drawn of a finding lies where that is: the arrow of a jump is as long as it says, and the line round what is cut off leaves
// the picture by as much.
func TestEvidenceLiesWhereItIs(t *testing.T) {
	s := box(sliding(0, 96, 0.1))
	s.Parts[0].Moves[0].After = shot.Stays
	_, found := judge(t, s)
	seam := of(found, "seam")[0]
	l := seam.Lines[0]
	long := math.Hypot((l.Picture[1][0]-l.Picture[0][0])*float64(s.Format.Width), (l.Picture[1][1]-l.Picture[0][1])*float64(s.Format.Height))
	if !l.Arrow || math.Abs(long-seam.Value) > 1e-6 || math.Abs(geom.Vec3(l.Room[1]).Sub(l.Room[0]).Len()-0.1) > 1e-3 {
		t.Errorf("%+v is %g px long", seam, long)
	}
	s = box(turning(1))
	s.Parts[1].Rest.Position[0] += 1.3
	_, found = judge(t, s)
	margin := of(found, "margin")[0]
	least := 0.0
	for _, p := range margin.Lines[0].Picture {
		least = math.Min(least, math.Min(math.Min(p[0], 1-p[0]), math.Min(p[1], 1-p[1])))
	}
	if math.Abs(-100*least-margin.Value) > 0.01 || len(margin.Lines[0].Room) != len(margin.Lines[0].Picture) {
		t.Errorf("%+v leaves it by %g", margin, least)
	}
}
