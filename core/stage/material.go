package stage

import "perigyre/core/material"

func plinthMaterial(id string) material.Material {
	return material.Material{ID: id, Name: "Plinth", BaseColor: [4]float64{0.75, 0.74, 0.72, 1}, Roughness: 0.45, Alpha: material.Opaque}
}
