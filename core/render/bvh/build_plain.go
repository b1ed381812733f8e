//go:build !(goexperiment.simd && amd64)

package bvh

func reaches(items []item) (bounds, centres box)  { return reachesPlain(items) }
func (h *histogram) add(items []item, lo, by Vec) { h.addPlain(items, lo, by) }
