//go:build !(goexperiment.simd && amd64)

package render

func scrambleVector(to []points, index uint32, seeds [sets]uint32) { scramblePlain(to, index, seeds) }
