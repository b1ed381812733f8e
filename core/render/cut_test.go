package render

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/pose"
	"perigyre/core/render/bvh"
	"perigyre/core/shot"
)

// What a ray calls inside a cutter is inside by its definition, and nothing else; its normal looks out.
func TestCuttersAgainstTheirDefinitions(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 9))
	place := shot.Rest{Position: geom.Vec3{0.3, -0.2, 0.1}, Rotation: geom.AxisAngle(geom.Vec3{1, 2, 3}, 0.8), Size: geom.Vec3{1.3, 0.8, 1}}
	for _, cut := range []shot.Cut{
		{Shape: "slab", Size: geom.Vec3{0, 0.4, 0}},
		{Shape: "box", Size: geom.Vec3{1, 0.7, 0.5}},
		{Shape: "box", Size: geom.Vec3{1, 0.7, 0.5}, Radius: 0.2},
		{Shape: "cylinder", Size: geom.Vec3{0, 0.9, 0}, Radius: 0.35},
		{Shape: "sphere", Radius: 0.5},
		{Shape: "part", Of: "thing"},
	} {
		s := still(material.Material{Name: "m"}, 1)
		s.Part("thing").Rest, s.Part("thing").Hidden = place, true
		s.Parts = append(s.Parts, shot.Part{ID: "c", Name: "C", Kind: shot.Cutter, Rest: place, Cut: &cut})
		if err := s.Validate(); err != nil {
			t.Fatal(err)
		}
		e := pose.New(s)
		sc, err := drawn(e, 0, NewProps(things{ball(0.5)}))
		if err != nil {
			t.Fatal(err)
		}
		inverse, _ := e.At(0)[s.Index("c")].Inverse()
		depth := func(at geom.Vec3) float64 { // below 0 inside
			p := inverse.Point(at)
			q := geom.Vec3{math.Abs(p[0]), math.Abs(p[1]), math.Abs(p[2])}.Sub(cut.Size.Mul(0.5))
			switch cut.Shape {
			case "slab":
				return q[1]
			case "sphere":
				return p.Len() - cut.Radius
			case "part":
				return p.Len() - 0.5
			case "cylinder":
				return math.Max(q[1], math.Hypot(p[0], p[2])-cut.Radius)
			}
			q = q.Add(geom.Vec3{cut.Radius, cut.Radius, cut.Radius})
			out := geom.Vec3{math.Max(0, q[0]), math.Max(0, q[1]), math.Max(0, q[2])}
			return out.Len() + math.Min(0, math.Max(q[0], math.Max(q[1], q[2]))) - cut.Radius
		}
		w := new(bvh.Walker)
		for range 400 {
			o := geom.Vec3{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}
			d := geom.Vec3{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}.Unit()
			spans := sc.cutters[0].spans(sc, vec(o), vec(d), w, nil)
			for k := range 60 {
				at := float64(k+1) * 0.07
				in := false
				for _, x := range spans {
					in = in || at > float64(x.from) && at < float64(x.to)
				}
				if e := depth(o.Add(d.Mul(at))); math.Abs(e) > 2e-3 && in != (e < 0) {
					t.Fatalf("%s: %.3f along a ray is inside: %v, by definition it is %.4f away", cut.Shape, at, in, e)
				}
			}
			for _, x := range spans {
				if x.to > 20 {
					continue
				}
				p := o.Add(d.Mul(float64(x.to)))
				n := geom.Vec3{float64(x.normal.X), float64(x.normal.Y), float64(x.normal.Z)}
				if rise := depth(p.Add(n.Mul(1e-2))) - depth(p.Sub(n.Mul(1e-2))); rise <= 0 {
					t.Fatalf("%s: the normal %v looks inwards", cut.Shape, n)
				}
			}
		}
	}
}

// fineBall is a sphere of about two million triangles for 1024 rings.
func fineBall(rings, around int) *mesh.Mesh {
	var profile []geom.Vec2
	for i := range rings + 1 {
		sin, cos := math.Sincos(math.Pi * float64(i) / float64(rings))
		profile = append(profile, geom.Vec2{0.5 * sin, -0.5 * cos})
	}
	profile[0][0], profile[rings][0] = 0, 0
	return mesh.Lathe(profile, around, mesh.DefaultCrease)
}

// A sphere that a slab cuts: the cut face is a disc of radius sqrt(r^2 - z^2), seen at its own depth; the
// silhouette is that of the sphere as long as its widest ring is left. The same on a mesh of a million triangles.
func TestCutSphere(t *testing.T) {
	meshes := []*mesh.Mesh{ball(0.5)}
	if !testing.Short() {
		meshes = append(meshes, fineBall(512, 1024))
	}
	for _, m := range meshes {
		s := still(material.Material{Name: "white", BaseColor: [4]float64{1, 1, 1, 1}, Roughness: 1}, 1)
		s.Format = shot.Format{Width: 100, Height: 100}
		s.Part("cam").Rest = shot.Rest{Position: geom.Vec3{0, 0, 2}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}
		s.Parts = append(s.Parts, shot.Part{
			ID: "c", Name: "C", Kind: shot.Cutter, // takes away 0.2 < z < 1.2
			Rest: shot.Rest{Position: geom.Vec3{0, 0, 0.7}, Rotation: geom.AxisAngle(geom.Vec3{1, 0, 0}, math.Pi/2), Size: geom.Vec3{1, 1, 1}},
			Cut:  &shot.Cut{Shape: "slab", Size: geom.Vec3{0, 1, 0}, Color: &[3]float64{1, 0, 0}},
		})
		f := expose(t, s, things{m}, 0, Options{Quality: Proof, Passes: []Pass{Albedo, Depth}})
		cap, cover := 0.0, 0.0
		for i := range 100 * 100 {
			cap += float64(f.Layers[0].Pix[3*i] - f.Layers[0].Pix[3*i+1])
			cover += float64(f.Pix[4*i+3])
		}
		pixel := 2 * 18.0 / 50 / 100 // at the distance 1
		want := math.Pi * (0.25 - 0.04) / (1.8 * 1.8) / (pixel * pixel)
		if math.Abs(cap/want-1) > 0.003 {
			t.Errorf("%d triangles: the cut face covers %.2f pixels, its closed form %.2f", m.Triangles(), cap, want)
		}
		// The cone that touches the sphere has the half angle asin(r / d), the silhouette the radius tan of it.
		tan := math.Tan(math.Asin(0.5 / 2))
		if want := math.Pi * tan * tan / (pixel * pixel); math.Abs(cover/want-1) > 0.003 {
			t.Errorf("%d triangles: the silhouette covers %.2f pixels, its closed form %.2f", m.Triangles(), cover, want)
		}
		if d := f.Layers[1].Pix[50*100+50]; math.Abs(float64(d)-1.8) > 1e-4 {
			t.Errorf("the cut face lies at the depth %g, not 1.8", d)
		}
	}
}

// A ball in a hollow ball in a window: the shell shows a ring, the inner one its own face, and a part that is not
// to be cut is whole.
func TestNestedCuts(t *testing.T) {
	shell := ball(0.5)
	inner := ball(0.4)
	first := uint32(len(shell.Positions))
	for i := 0; i < len(inner.Indices); i += 3 { // turned inside out
		shell.Indices = append(shell.Indices, first+inner.Indices[i], first+inner.Indices[i+2], first+inner.Indices[i+1])
	}
	shell.Positions = append(shell.Positions, inner.Positions...)
	shell.Normals, shell.UV, shell.Tangents = nil, nil, nil
	shell.MakeNormals(mesh.DefaultCrease)
	s := still(material.Material{Name: "white", BaseColor: [4]float64{1, 1, 1, 1}, Roughness: 1}, 1)
	s.Format = shot.Format{Width: 100, Height: 100}
	s.Part("cam").Rest = shot.Rest{Position: geom.Vec3{0, 0, 2}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}
	s.Parts = append(s.Parts,
		shot.Part{ID: "in", Name: "In", Kind: shot.Solid, Rest: shot.AtRest, Mesh: &shot.MeshRef{Mesh: 1}, Materials: []string{"m"}},
		shot.Part{ID: "c", Name: "C", Kind: shot.Cutter, Rest: shot.Rest{Position: geom.Vec3{0, 0, 1}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}},
			Cut: &shot.Cut{Shape: "box", Size: geom.Vec3{3, 3, 2}, Color: &[3]float64{1, 0, 0}}}) // takes away z > 0
	area := func() (cap float64) {
		f := expose(t, s, things{shell, ball(0.2)}, 0, Options{Quality: Proof, Passes: []Pass{Albedo}})
		for i := range 100 * 100 {
			cap += float64(f.Layers[0].Pix[3*i] - f.Layers[0].Pix[3*i+1])
		}
		pixel := 2 * 18.0 / 50 / 100
		return cap * 4 * pixel * pixel / math.Pi // at the depth 2, over pi
	}
	if got := area(); math.Abs(got/(0.25-0.16+0.04)-1) > 0.01 {
		t.Errorf("ring and disc together are %.5f pi, not %.5f", got, 0.25-0.16+0.04)
	}
	s.Part("thing").Rest.Size = geom.Vec3{-1, 1, 1} // seen in a mirror, its inside is where it was
	if got := area(); math.Abs(got/(0.25-0.16+0.04)-1) > 0.01 {
		t.Errorf("mirrored, ring and disc together are %.5f pi", got)
	}
	s.Part("c").Cut.Parts = []string{"thing"}
	if got, want := area(), 0.25-0.16; math.Abs(got/want-1) > 0.01 {
		t.Errorf("the ring alone is %.5f pi, not %.5f", got, want)
	}
}

// A tray of boxes that touch: a point is inside of it where it is inside of one of them, whichever way a ray goes out from it, through
// faces that lie on each other too.
func TestInsideOfWhatIsPutTogether(t *testing.T) {
	boxes := []geom.Box{
		{Min: geom.Vec3{-1, -1, -1}, Max: geom.Vec3{1, -0.8, 1}}, {Min: geom.Vec3{-1, -0.8, -1}, Max: geom.Vec3{-0.8, 0.5, 1}}, {Min: geom.Vec3{0.8, -0.8, -1}, Max: geom.Vec3{1, 0.5, 1}},
		{Min: geom.Vec3{-0.8, -0.8, -1}, Max: geom.Vec3{0.8, 0.5, -0.8}}, {Min: geom.Vec3{-0.8, -0.8, 0.8}, Max: geom.Vec3{0.8, 0.5, 1}},
	}
	tray := &mesh.Mesh{}
	for _, b := range boxes {
		m := (&mesh.Shape{Kind: mesh.BoxShape, Size: b.Size()}).Build()
		by, n := b.Min.Sub(m.Bounds().Min), uint32(len(tray.Positions))
		for _, p := range m.Positions {
			tray.Positions = append(tray.Positions, geom.V3(p).Add(by).F32())
		}
		for _, i := range m.Indices {
			tray.Indices = append(tray.Indices, n+i)
		}
	}
	tray.MakeNormals(mesh.DefaultCrease)
	s := still(material.Material{Name: "m"}, 1)
	s.Parts = append(s.Parts, shot.Part{ID: "c", Name: "C", Kind: shot.Cutter, Rest: shot.AtRest, Cut: &shot.Cut{Shape: "sphere", Radius: 0.1}})
	sc, err := drawn(pose.New(s), 0, NewProps(things{tray}))
	if err != nil {
		t.Fatal(err)
	}
	rng, w := rand.New(rand.NewPCG(2, 4)), new(bvh.Walker)
	for range 20_000 {
		at := geom.Vec3{2.2*rng.Float64() - 1.1, 1.7*rng.Float64() - 1.1, 2.2*rng.Float64() - 1.1}
		d := geom.Vec3{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}.Unit()
		want := slices.ContainsFunc(boxes, func(b geom.Box) bool { return b.Holds(at) })
		if got := sc.inside(&sc.bodies[0], vec(at), vec(d), 0.5, w); got != want {
			t.Fatalf("%v, looked at along %v, is inside: %v, want %v", at, d, got, want)
		}
	}
}
