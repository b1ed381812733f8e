package stage

import "perigyre/core/material"

func plinthMaterial(id string) material.Material {
	return material.Material{ID: id, Name: "Plinth", BaseColor: [4]float64{0.56, 0.555, 0.54, 1}, Roughness: 0.45, Alpha: material.Opaque}
}
