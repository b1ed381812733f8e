package demo

import (
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/formats/gltf"
)

// The carton in millimetres: a hexagon whose six walls, each with a flap, fold open.
const (
	cartonAcross = 112.0 // from wall to wall
	cartonHeight = 236.0
	cartonSheet  = 1.4
)

// Carton returns the carton, closed, as GLB. Each wall has its origin on the edge that it folds about, with
// x along it; each flap has its own on the wall's upper edge.
func Carton() ([]byte, error) {
	b := &builder{names: map[string]int{}}
	b.material(material.Material{Name: "Oat card", BaseColor: [4]float64{0.55, 0.47, 0.35, 1}, Roughness: 0.85})
	b.material(material.Material{Name: "Harbour card", BaseColor: [4]float64{0.05, 0.13, 0.22, 1}, Roughness: 0.8})
	root := b.group("Carton", -1)
	inner := cartonAcross / 2
	side := 2 * inner * math.Tan(math.Pi/6)
	floor := mesh.Lathe([]geom.Vec2{{0, 0}, {side / 1000, 0}, {side / 1000, cartonSheet / 1000}, {0, cartonSheet / 1000}}, 6, 0.1)
	b.part("Base", root, "Oat card", floor)
	wall := b.mesh("Wall", "Oat card", sheet([][2]float64{{-side / 2, 0}, {side / 2, 0}, {side / 2, cartonHeight}, {-side / 2, cartonHeight}}, cartonSheet))
	flap := b.mesh("Flap", "Harbour card", sheet([][2]float64{{-side / 2, 0}, {side / 2, 0}, {0, inner}}, cartonSheet))
	for k := range 6 {
		angle := 2*math.Pi*float64(k)/6 + math.Pi/6
		sin, cos := math.Sincos(angle)
		petal := len(b.m.Nodes)
		b.m.Nodes = append(b.m.Nodes, model.Node{Name: fmt.Sprint("Wall ", k+1), Parent: root, Mesh: wall, Size: geom.Vec3{1, 1, 1},
			Position: geom.Vec3{inner * sin, cartonSheet, inner * cos}.Mul(0.001), Rotation: geom.AxisAngle(geom.Vec3{0, 1, 0}, angle)})
		// The flap lies on the opening: its y points inwards.
		b.m.Nodes = append(b.m.Nodes, model.Node{Name: fmt.Sprint("Flap ", k+1), Parent: petal, Mesh: flap, Size: geom.Vec3{1, 1, 1},
			Position: geom.Vec3{0, cartonHeight / 1000, 0}, Rotation: geom.AxisAngle(geom.Vec3{1, 0, 0}, -math.Pi/2)})
	}
	return gltf.Write(&b.m)
}

// sheet is a flat piece of card in the xy plane, outwards of z = 0, from its outline in millimetres,
// counter-clockwise.
func sheet(outline [][2]float64, thick float64) *mesh.Mesh {
	m := &mesh.Mesh{}
	n := uint32(len(outline))
	for _, z := range []float64{0, thick} {
		for _, p := range outline {
			m.Positions = append(m.Positions, geom.Vec3{p[0], p[1], z}.Mul(0.001).F32())
		}
	}
	for i := uint32(1); i+1 < n; i++ {
		m.Indices = append(m.Indices, 0, i+1, i, n, n+i, n+i+1)
	}
	for i := range n {
		j := (i + 1) % n
		m.Indices = append(m.Indices, i, j, n+j, i, n+j, n+i)
	}
	m.MakeNormals(mesh.DefaultCrease)
	return m
}

// Reel returns a cord reel lying on its rims, its axis along z, as GLB.
func Reel() ([]byte, error) {
	const rim, core, half, flange = 60.0, 22.0, 34.0, 5.0
	b := &builder{names: map[string]int{}}
	b.material(material.Material{Name: "Birch", BaseColor: [4]float64{0.66, 0.50, 0.31, 1}, Roughness: 0.6})
	b.material(material.Material{Name: "Cord", BaseColor: [4]float64{0.55, 0.06, 0.04, 1}, Roughness: 0.75})
	b.material(material.Material{Name: "Brass", BaseColor: [4]float64{0.80, 0.56, 0.22, 1}, Metallic: 1, Roughness: 0.35})
	root := b.group("Cord reel", -1)
	lie := func(m *mesh.Mesh) *mesh.Mesh { // from upright to along z, on its rim
		m.Transform(geom.TRS(geom.Vec3{}, geom.AxisAngle(geom.Vec3{1, 0, 0}, math.Pi/2), geom.Vec3{1, 1, 1}))
		return m
	}
	add := func(name, material string, m *mesh.Mesh) {
		b.place(name, root, b.mesh(name, material, lie(m)), geom.Vec3{0, rim, 0}, 0)
	}
	disc := func(low float64) *mesh.Mesh {
		return turned(stop{8, low, 0}, stop{rim, low, 1.5}, stop{rim, low + flange, 1.5}, stop{8, low + flange, 0}, stop{8, low, 0})
	}
	add("Flange front", "Birch", disc(half-flange))
	add("Flange back", "Birch", disc(-half))
	add("Core", "Birch", turned(stop{8, flange - half, 0}, stop{core, flange - half, 0}, stop{core, half - flange, 0}, stop{8, half - flange, 0}, stop{8, flange - half, 0}))
	add("Bush", "Brass", turned(stop{5, -half - 1, 0}, stop{8, -half - 1, 0.4}, stop{8, half + 1, 0.4}, stop{5, half + 1, 0}, stop{5, -half - 1, 0}))
	cord := []stop{{core, flange - half, 0}}
	const winds = 12
	for i := range winds * 8 { // rounds of cord beside each other
		u := float64(i) / (winds * 8)
		cord = append(cord, stop{46 + 2.2*math.Abs(math.Sin(math.Pi*u*winds)), flange - half + 2*(half-flange)*u, 0})
	}
	cord = append(cord, stop{46, half - flange, 0}, stop{core, half - flange, 0}, stop{core, flange - half, 0})
	add("Cord", "Cord", turned(cord...))
	// A plug in each flange shows the turning.
	plug := b.mesh("Plug", "Brass", lie(turned(stop{0, -half - 0.6, 0}, stop{5, -half - 0.6, 0.5}, stop{5, half + 0.6, 0.5}, stop{0, half + 0.6, 0})))
	b.place("Plug", root, plug, geom.Vec3{0, rim + 40, 0}, 0)
	return gltf.Write(&b.m)
}
