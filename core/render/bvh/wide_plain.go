//go:build !(goexperiment.simd && amd64)

package bvh

// vector is false: this build has no kernel for the processor's wide instructions.
const vector = false

func (m *Mesh) intersectVector(p *prepared, hit *Hit, w *Walker) bool {
	return m.intersectPlain(p, hit, w)
}

func (m *Mesh) occludedVector(p *prepared, far float32, w *Walker) bool {
	return m.occludedPlain(p, far, w)
}

func (p *prepared) enterVector(n *wide, far float32, t *[8]float32) uint8 { return p.enter8(n, far, t) }
