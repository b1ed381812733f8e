//go:build goexperiment.simd && amd64

package bvh

import (
	"simd/archsimd"
	"unsafe"
)

// reaches returns the boxes round the items and round twice their centres.
func reaches(items []item) (bounds, centres box) {
	if !vector {
		return reachesPlain(items)
	}
	all := noHull
	hull := archsimd.LoadFloat32x8((*[8]float32)(unsafe.Pointer(&all)))
	lo := hull.GetLo()
	hi := archsimd.BroadcastFloat32x4(-3.4e38)
	for i := range items {
		x := archsimd.LoadFloat32x8((*[8]float32)(unsafe.Pointer(&items[i])))
		hull = hull.Min(x)
		c := x.GetLo().Sub(x.GetHi())
		lo, hi = lo.Min(c), hi.Max(c)
	}
	hull.Store((*[8]float32)(unsafe.Pointer(&all)))
	var a, b [4]float32
	lo.Store(&a)
	hi.Store(&b)
	archsimd.ClearAVXUpperBits()
	return all.box(), box{Vec{a[0], a[1], a[2]}, Vec{b[0], b[1], b[2]}}
}

// add counts the items in the bins.
func (h *histogram) add(items []item, lo, by Vec) {
	if !vector {
		h.addPlain(items, lo, by)
		return
	}
	low := archsimd.LoadFloat32x4(&[4]float32{lo.X, lo.Y, lo.Z})
	scale := archsimd.LoadFloat32x4(&[4]float32{by.X, by.Y, by.Z})
	var at [4]int32
	for i := range items {
		x := archsimd.LoadFloat32x8((*[8]float32)(unsafe.Pointer(&items[i])))
		x.GetLo().Sub(x.GetHi()).Sub(low).Mul(scale).ConvertToInt32().Store(&at)
		for axis := range 3 {
			k := at[axis] & (bins - 1)
			g := (*[8]float32)(unsafe.Pointer(&h.hull[axis][k]))
			archsimd.LoadFloat32x8(g).Min(x).Store(g)
			h.count[axis][k]++
		}
	}
	archsimd.ClearAVXUpperBits()
}
