// Package demo makes the demonstration product, the Brindlewick No. 3 camping lantern, from
// dimensions in one place, as an ordinary GLB that goes through the ordinary importer.
package demo

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/formats/gltf"
)

// Dimensions of the lantern in millimetres, heights from the floor.
const (
	footRadius, footHeight  = 42.0, 7.0
	cupRadius, cupTop       = 40.0, 47.0
	windingRadius           = 43.0
	windingTop              = 58.0
	collarRadius, collarTop = 37.0, 64.0
	boardTop                = 66.6
	chimneyWaist            = 39.0 // largest radius of the glass
	chimneyEnds             = 31.0
	chimneyTop              = 142.0
	rodRadius, rodAt        = 1.9, 41.0
	capRadius, capLow       = 45.0, 144.0
	ventTop, domeTop        = 163.0, 180.0
	bailHalf, bailTop       = 47.0, 222.0
	bailPivot               = 152.0
	lampCount, lampRing     = 12, 24.0
	rodCount                = 4
	plateLow, plateHigh     = 15.0, 38.0
	plateHalfAngle          = 0.62
	labelWidth, labelHeight = 1024, 512
)

// builder gathers the model.
type builder struct {
	m     model.Model
	names map[string]int // materials
}

func (b *builder) material(m material.Material) {
	b.names[m.Name] = len(b.m.Materials)
	m.Alpha = orOpaque(m.Alpha)
	b.m.Materials = append(b.m.Materials, m)
}

func orOpaque(a material.AlphaMode) material.AlphaMode {
	if a == "" {
		return material.Opaque
	}
	return a
}

func (b *builder) group(name string, parent int) int {
	b.m.Nodes = append(b.m.Nodes, model.Node{Name: name, Parent: parent, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: -1})
	return len(b.m.Nodes) - 1
}

func (b *builder) mesh(name, material string, m *mesh.Mesh) int {
	if !b.m.Materials[b.names[material]].Textured() { // coordinates that nothing uses
		m.UV = nil
	}
	b.m.Meshes = append(b.m.Meshes, model.Mesh{Name: name, Primitives: []model.Primitive{{Mesh: m, Material: b.names[material]}}})
	return len(b.m.Meshes) - 1
}

// place puts a mesh into a group, at a place in millimetres, turned about the upright axis.
func (b *builder) place(name string, group, mesh int, at geom.Vec3, angle float64) {
	b.m.Nodes = append(b.m.Nodes, model.Node{
		Name: name, Parent: group, Position: at.Mul(0.001), Rotation: geom.AxisAngle(geom.Vec3{0, 1, 0}, angle), Size: geom.Vec3{1, 1, 1}, Mesh: mesh,
	})
}

func (b *builder) part(name string, group int, material string, m *mesh.Mesh) {
	b.place(name, group, b.mesh(name, material, m), geom.Vec3{}, 0)
}

// workshop returns a builder with the lantern's materials.
func workshop() (*builder, error) {
	plateImage, err := label(labelWidth, labelHeight)
	if err != nil {
		return nil, err
	}
	brush, err := brushed(256)
	if err != nil {
		return nil, err
	}
	b := &builder{names: map[string]int{}}
	b.m.Images = []model.Image{{Name: "name-plate.png", MIME: "image/png", Data: plateImage}, {Name: "brushed.png", MIME: "image/png", Data: brush}}
	texture := func(image int) *material.Texture {
		return &material.Texture{Image: image, WrapS: material.Repeat, WrapT: material.Repeat}
	}
	b.material(material.Material{Name: "Harbour blue", BaseColor: [4]float64{0.030, 0.095, 0.17, 1}, Roughness: 0.32})
	b.material(material.Material{Name: "Brass", BaseColor: [4]float64{0.80, 0.56, 0.22, 1}, Metallic: 1, Roughness: 0.45, MetallicRoughness: texture(1)})
	b.material(material.Material{Name: "Bronze", BaseColor: [4]float64{0.70, 0.45, 0.20, 1}, Metallic: 1, Roughness: 0.35})
	b.material(material.Material{Name: "Steel", BaseColor: [4]float64{0.72, 0.72, 0.70, 1}, Metallic: 1, Roughness: 0.22})
	b.material(material.Material{Name: "Rubber", BaseColor: [4]float64{0.022, 0.022, 0.024, 1}, Roughness: 0.8})
	b.material(material.Material{Name: "Frosted glass", BaseColor: [4]float64{0.96, 0.95, 0.91, 1}, Roughness: 0.35, Transmission: 0.9})
	b.material(material.Material{Name: "Circuit", BaseColor: [4]float64{0.02, 0.09, 0.05, 1}, Roughness: 0.5})
	b.material(material.Material{Name: "Lamp", BaseColor: [4]float64{0.9, 0.85, 0.7, 1}, Roughness: 0.5, Emissive: [3]float64{4, 2.9, 1.5}})
	b.material(material.Material{Name: "Cell", BaseColor: [4]float64{0.36, 0.30, 0.05, 1}, Metallic: 0.4, Roughness: 0.4})
	b.material(material.Material{Name: "Name plate", BaseColor: [4]float64{1, 1, 1, 1}, BaseColorTexture: texture(0), Metallic: 0.6, Roughness: 0.42})

	return b, nil
}

// Lantern returns the lantern as GLB.
func Lantern() ([]byte, error) {
	b, err := workshop()
	if err != nil {
		return nil, err
	}
	root := b.group("Lantern", -1)
	b.base(root)
	b.winding(root)
	b.part("Collar", root, "Harbour blue", turned(stop{0, windingTop, 0}, stop{collarRadius + 4, windingTop, 1}, stop{collarRadius, collarTop, 2}, stop{0, collarTop, 0}))
	b.light(root)
	b.cage(root)
	b.head(root)
	b.bail(root)
	return gltf.Write(&b.m)
}

func (b *builder) base(root int) {
	g := b.group("Base", root)
	b.part("Foot ring", g, "Rubber", turned(stop{0, 0, 0}, stop{footRadius, 0, 2}, stop{footRadius, footHeight, 2}, stop{cupRadius - 3, footHeight, 0}, stop{0, footHeight, 0}))
	b.part("Base cup", g, "Harbour blue", turned(stop{0, footHeight, 0}, stop{cupRadius, footHeight, 3}, stop{cupRadius, cupTop, 2}, stop{cupRadius - 3, cupTop, 0}, stop{cupRadius - 3, footHeight + 3, 2}, stop{0, footHeight + 3, 0}))
	b.power(g)
	b.part("Name plate", g, "Name plate", plate(cupRadius, 0.7, plateLow, plateHigh, plateHalfAngle))
	screw := b.mesh("Plate screw", "Brass", mesh.Tube([]geom.Vec3{{0, 0, 0}, {0, 0, 0.0016}}, 0.0016, 24, false))
	for i, side := range []float64{-1, 1} {
		angle := side * (plateHalfAngle + 0.07)
		sin, cos := math.Sincos(angle)
		b.place([]string{"Plate screw left", "Plate screw right"}[i], g, screw, geom.Vec3{cupRadius * sin, (plateLow + plateHigh) / 2, cupRadius * cos}, angle)
	}
}

// light is the lamp board with its lamps, the reflector and the glass round them.
func (b *builder) light(root int) {
	g := b.group("Lamp board", root)
	b.part("Circuit disc", g, "Circuit", turned(stop{0, collarTop, 0}, stop{28, collarTop, 0}, stop{28, boardTop, 0.3}, stop{0, boardTop, 0}))
	lamp := b.mesh("Lamp", "Lamp", turned(stop{0, 0, 0}, stop{1.9, 0, 0}, stop{1.9, 3.2, 1.8}, stop{0, 3.2, 0}))
	for i := range lampCount {
		angle := 2 * math.Pi * float64(i) / lampCount
		sin, cos := math.Sincos(angle)
		b.place("Lamp "+string(rune('A'+i)), g, lamp, geom.Vec3{lampRing * sin, boardTop, lampRing * cos}, angle)
	}
	b.part("Reflector cone", g, "Steel", turned(stop{0, boardTop, 0}, stop{19, boardTop, 0.6}, stop{8, boardTop + 18, 30}, stop{3, boardTop + 46, 1.5}, stop{0, boardTop + 46, 0}))

	b.part("Lower gasket", root, "Rubber", ring(chimneyEnds+1, collarTop+1.4, 1.6))
	b.part("Upper gasket", root, "Rubber", ring(chimneyEnds+1, chimneyTop-1, 1.6))
	var wall []stop
	const steps, thick = 24, 2.0
	for i := range steps + 1 {
		wall = append(wall, chimney(float64(i)/steps, 0))
	}
	for i := steps; i >= 0; i-- {
		wall = append(wall, chimney(float64(i)/steps, thick))
	}
	b.part("Chimney", root, "Frosted glass", turned(append(wall, wall[0])...))
}

// chimney returns a point of the glass at a share of its height, inset by its thickness.
func chimney(share, inset float64) stop {
	bulge := math.Sin(math.Pi * share)
	return stop{chimneyEnds + (chimneyWaist-chimneyEnds)*bulge - inset, collarTop + 0.4 + (chimneyTop-collarTop-0.6)*share, 0}
}

func (b *builder) cage(root int) {
	g := b.group("Cage", root)
	var path []geom.Vec3
	const steps = 32
	for i := range steps + 1 {
		share := float64(i) / steps
		out := rodAt + 3.5*math.Sin(math.Pi*share) - 1.5*math.Pow(2*share-1, 6)
		path = append(path, geom.Vec3{0, windingTop + 3 + (capLow-windingTop-2)*share, out}.Mul(0.001))
	}
	rod := b.mesh("Cage rod", "Brass", mesh.Tube(path, rodRadius/1000, 24, false))
	nut := b.mesh("Thumb nut", "Brass", knurled(20, 0.5, 3, stop{0, 0, 0}, stop{3.6, 0, 0.4}, stop{3.6, 4, 0.4}, stop{1.8, 5, 0.8}, stop{0, 5.4, 0}))
	for i := range rodCount {
		angle := math.Pi/4 + 2*math.Pi*float64(i)/rodCount
		b.place("Cage rod "+string(rune('1'+i)), g, rod, geom.Vec3{}, angle)
	}
	for i := range rodCount {
		angle := math.Pi/4 + 2*math.Pi*float64(i)/rodCount
		sin, cos := math.Sincos(angle)
		b.place("Thumb nut "+string(rune('1'+i)), g, nut, geom.Vec3{(rodAt - 1.5) * sin, capLow + 4.6, (rodAt - 1.5) * cos}, angle)
	}
}

func (b *builder) head(root int) {
	g := b.group("Head", root)
	b.part("Cap plate", g, "Harbour blue", turned(stop{0, chimneyTop, 0}, stop{capRadius - 4, chimneyTop, 0}, stop{capRadius, capLow, 1.2}, stop{capRadius, capLow + 2.4, 1.2}, stop{capRadius - 7, capLow + 5, 3}, stop{0, capLow + 6, 0}))
	vent := turned(stop{0, capLow + 5, 0}, stop{24, capLow + 5, 0}, stop{24, ventTop, 0}, stop{0, ventTop, 0})
	const fins = 28
	for i := range fins {
		fin := mesh.Box(geom.Vec3{0.0016, 0.001 * (ventTop - capLow - 6), 0.006})
		angle := 2 * math.Pi * float64(i) / fins
		sin, cos := math.Sincos(angle)
		fin.Transform(geom.TRS(geom.Vec3{26 * sin, (ventTop + capLow + 5) / 2, 26 * cos}.Mul(0.001), geom.AxisAngle(geom.Vec3{0, 1, 0}, angle), geom.Vec3{1, 1, 1}))
		vent.Append(fin)
	}
	b.part("Vent ring", g, "Steel", vent)
	b.part("Cap dome", g, "Harbour blue", turned(stop{0, ventTop - 1, 0}, stop{36, ventTop - 3, 0.8}, stop{37, ventTop - 1.6, 0.8}, stop{30, ventTop + 6, 24}, stop{12, domeTop - 4, 10}, stop{8, domeTop, 2}, stop{0, domeTop, 0}))
	b.part("Finial", g, "Brass", turned(stop{0, domeTop, 0}, stop{6.5, domeTop, 1}, stop{6.5, domeTop + 2.5, 1}, stop{3, domeTop + 3.5, 1.4}, stop{6, domeTop + 8, 3}, stop{4.5, domeTop + 12, 3}, stop{0, domeTop + 13, 0}))
}

func (b *builder) bail(root int) {
	g := b.group("Bail", root)
	var path []geom.Vec3
	const steps = 72
	for i := range steps + 1 {
		sin, cos := math.Sincos(math.Pi * float64(i) / steps)
		// A superellipse: upright sides and a round top.
		x := math.Copysign(math.Pow(math.Abs(cos), 0.75), cos)
		path = append(path, geom.Vec3{bailHalf * x, bailPivot + (bailTop-bailPivot)*math.Pow(sin, 0.75), 0}.Mul(0.001))
	}
	b.part("Bail handle", g, "Brass", mesh.Tube(path, 0.0022, 24, false))
	pin := b.mesh("Bail pin", "Brass", mesh.Tube([]geom.Vec3{{-0.006, 0, 0}, {0.006, 0, 0}}, 0.0034, 32, false))
	for i, x := range []float64{-bailHalf, bailHalf} {
		b.place([]string{"Bail pin left", "Bail pin right"}[i], g, pin, geom.Vec3{x, bailPivot, 0}, 0)
	}
	lug := b.mesh("Bail lug", "Harbour blue", mesh.Box(geom.Vec3{0.004, 0.016, 0.010}))
	for i, x := range []float64{-bailHalf + 5, bailHalf - 5} {
		b.place([]string{"Bail lug left", "Bail lug right"}[i], g, lug, geom.Vec3{x, bailPivot - 3, 0}, 0)
	}
}
