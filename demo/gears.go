package demo

import (
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/formats/gltf"
)

// The epicyclic set in the winding ring: (sun + ring) / planets is whole, so that the planets stand evenly.
const (
	sunTeeth, planetTeeth, ringTeeth = 16, 20, 56
	planets                          = 3
	module                           = 1.3 // mm
	gearLow, gearWidth               = 49.2, 6.0
	plateTop                         = 48.6
)

func gear(teeth int, bore float64, inside bool) *mesh.Mesh {
	return mesh.Gear{Module: module / 1000, Teeth: teeth, Pressure: 20 * math.Pi / 180, Width: gearWidth / 1000, Bore: bore / 1000, Inside: inside}.Build()
}

// winding is the ring that the lantern is wound by, with the gear set in it, its plate and the rotor that
// it drives. Every wheel has its own middle as its origin.
func (b *builder) winding(root int) {
	g := b.group("Winding", root)
	b.part("Winding ring", g, "Brass", knurled(72, 1.6, windingRadius-2.5,
		stop{39.6, cupTop, 0}, stop{windingRadius - 2.6, cupTop, 0}, stop{windingRadius, cupTop + 2, 1}, stop{windingRadius, windingTop - 2, 1}, stop{windingRadius - 2.6, windingTop, 0}, stop{39.6, windingTop, 0}, stop{39.6, cupTop, 0}))
	at := func(name, material string, m *mesh.Mesh, x, y, z, angle float64) {
		b.place(name, g, b.mesh(name, material, m), geom.Vec3{x, y, z}, angle)
	}
	// Angles in the plane are from x towards z, which is a negative turn about the upright. A planet in
	// the direction phi has a gap where the sun has a tooth; the ring is turned by half of its pitch.
	at("Ring gear", "Steel", gear(ringTeeth, 39.5, true), 0, gearLow, 0, -math.Pi/ringTeeth)
	at("Sun", "Bronze", gear(sunTeeth, 3, false), 0, gearLow, 0, 0)
	planet := b.mesh("Planet", "Bronze", gear(planetTeeth, 4, false))
	pin := b.mesh("Planet pin", "Steel", turned(stop{0, 0, 0}, stop{3.8, 0, 0.3}, stop{3.8, gearWidth + 0.6, 0.4}, stop{0, gearWidth + 0.6, 0}))
	out := float64(sunTeeth+planetTeeth) * module / 2
	for k := range planets {
		phi := 2 * math.Pi * float64(k) / planets
		turn := phi + math.Pi + (phi*sunTeeth/(2*math.Pi)-0.5)*2*math.Pi/planetTeeth
		sin, cos := math.Sincos(phi)
		b.place(fmt.Sprint("Planet ", k+1), g, planet, geom.Vec3{out * cos, gearLow, out * sin}, -turn)
		b.place(fmt.Sprint("Planet pin ", k+1), g, pin, geom.Vec3{out * cos, plateTop, out * sin}, 0)
	}
	at("Gear plate", "Steel", turned(stop{3, 0, 0}, stop{39, 0, 0.2}, stop{39, 1.2, 0.2}, stop{3, 1.2, 0}, stop{3, 0, 0}), 0, plateTop-1.2, 0, 0)
	at("Arbor", "Steel", turned(stop{0, 0, 0}, stop{2.8, 0, 0.3}, stop{2.8, 20, 0.3}, stop{0, 20, 0}), 0, windingTop-21, 0, 0)
	at("Rotor", "Circuit", knurled(12, 2.2, 6, stop{2.9, 0, 0}, stop{13, 0, 0.5}, stop{13, 6, 0.5}, stop{2.9, 6, 0}, stop{2.9, 0, 0}), 0, 39.5, 0, 0)
}

// power is what is in the base cup: two cells in a tray.
func (b *builder) power(group int) {
	b.part("Cell tray", group, "Rubber", turned(stop{0, 10.2, 0}, stop{35, 10.2, 0.6}, stop{35, 16, 0.6}, stop{33.6, 16, 0}, stop{33.6, 11.6, 0}, stop{0, 11.6, 0}))
	cell := b.mesh("Cell", "Cell", turned(stop{0, 0, 0}, stop{14, 0, 0.8}, stop{14, 24, 0.8}, stop{5, 24, 0}, stop{5, 25.6, 0.5}, stop{0, 25.6, 0}))
	b.place("Cell left", group, cell, geom.Vec3{-16.5, 11.8, 0}, 0)
	b.place("Cell right", group, cell, geom.Vec3{16.5, 11.8, 0}, 0)
}

// Winding returns the gear set with its ring alone, as GLB.
func Winding() ([]byte, error) {
	b, err := workshop()
	if err != nil {
		return nil, err
	}
	root := b.group("Gear set", -1)
	b.winding(root)
	return gltf.Write(&b.m)
}
