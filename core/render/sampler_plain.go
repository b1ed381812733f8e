//go:build !(goexperiment.simd && amd64)

package render

func scrambleVector(to *points, mirror uint32, seeds [sets]uint32) { scramblePlain(to, mirror, seeds) }
