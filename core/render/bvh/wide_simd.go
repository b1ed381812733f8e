//go:build goexperiment.simd && amd64

package bvh

import (
	"math/bits"
	"simd/archsimd"
	"unsafe"
)

// vector reports whether the processor runs the kernel for AVX2.
var vector = archsimd.X86.AVX2() && archsimd.X86.FMA()

type lanes = archsimd.Float32x8

func load(p unsafe.Pointer, offset uintptr) lanes {
	return archsimd.LoadFloat32x8((*[8]float32)(unsafe.Add(p, offset)))
}

// intersectVector is intersectPlain with eight boxes or triangles at a time, operation by operation the same,
// so that both find the same hits to the last bit.
func (m *Mesh) intersectVector(p *prepared, hit *Hit, w *Walker) bool {
	nodes, packets := unsafe.Pointer(unsafe.SliceData(m.nodes)), unsafe.Pointer(unsafe.SliceData(m.packets))
	stack := unsafe.Pointer(&w.stack)
	inx, iny, inz := archsimd.BroadcastFloat32x8(p.in.X), archsimd.BroadcastFloat32x8(p.in.Y), archsimd.BroadcastFloat32x8(p.in.Z)
	outx, outy, outz := archsimd.BroadcastFloat32x8(p.out.X), archsimd.BroadcastFloat32x8(p.out.Y), archsimd.BroadcastFloat32x8(p.out.Z)
	ix, iy, iz := archsimd.BroadcastFloat32x8(p.inv.X), archsimd.BroadcastFloat32x8(p.inv.Y), archsimd.BroadcastFloat32x8(p.inv.Z)
	nx, ny, nz := uintptr(p.near[0])*32, uintptr(p.near[1])*32, uintptr(p.near[2])*32
	fx, fy, fz := uintptr(p.away[0])*32, uintptr(p.away[1])*32, uintptr(p.away[2])*32
	closer := archsimd.BroadcastFloat32x8(nearer)
	far := archsimd.BroadcastFloat32x8(hit.T)
	var zero lanes
	var t [8]float32
	top, at, found := 0, uint32(0), false
	for {
		if at&leaf == 0 {
			n := unsafe.Add(nodes, uintptr(at)*wideBytes)
			enter := load(n, nx).MulAdd(ix, inx).Max(load(n, ny).MulAdd(iy, iny)).Max(load(n, nz).MulAdd(iz, inz).Max(zero)).Mul(closer)
			leave := load(n, fx).MulAdd(ix, outx).Min(load(n, fy).MulAdd(iy, outy)).Min(load(n, fz).MulAdd(iz, outz).Min(far))
			if mask := enter.LessEqual(leave).ToBits(); mask != 0 {
				k := bits.TrailingZeros8(mask)
				child := (*[8]uint32)(unsafe.Add(n, 192))
				if mask &= mask - 1; mask == 0 {
					at = child[k&7]
					continue
				}
				enter.Store(&t)
				j := bits.TrailingZeros8(mask)
				near, far := order(waiting(child[k&7], t[k&7]), waiting(child[j&7], t[j&7]))
				if mask &= mask - 1; mask == 0 {
					*(*pending)(unsafe.Add(stack, top*8)) = far
					top++
					at = near.node()
					continue
				}
				k = bits.TrailingZeros8(mask)
				near, middle := order(near, waiting(child[k&7], t[k&7]))
				middle, far = order(middle, far)
				*(*pending)(unsafe.Add(stack, top*8)) = far
				*(*pending)(unsafe.Add(stack, top*8+8)) = middle
				if mask &= mask - 1; mask == 0 {
					top += 2
					at = near.node()
					continue
				}
				*(*pending)(unsafe.Add(stack, top*8+16)) = near
				base := top
				for top += 3; mask != 0; mask &= mask - 1 {
					k = bits.TrailingZeros8(mask)
					one := waiting(child[k&7], t[k&7])
					j := top
					for j > base {
						below := *(*pending)(unsafe.Add(stack, (j-1)*8))
						if below >= one {
							break
						}
						*(*pending)(unsafe.Add(stack, j*8)) = below
						j--
					}
					*(*pending)(unsafe.Add(stack, j*8)) = one
					top++
				}
			}
		} else if nearestVector(unsafe.Add(packets, uintptr(at&^leaf)*packetBytes), p, hit) {
			found, hit.place = true, at<<3|hit.place
			far = archsimd.BroadcastFloat32x8(hit.T)
		}
		for {
			if top == 0 {
				archsimd.ClearAVXUpperBits()
				return found
			}
			top--
			if (*pending)(unsafe.Add(stack, top*8)).within(hit.T) {
				break
			}
		}
		at = (*pending)(unsafe.Add(stack, top*8)).node()
	}
}

// nearestVector is nearest for the eight triangles of a packet at once.
func nearestVector(k unsafe.Pointer, p *prepared, hit *Hit) bool {
	kx, ky, kz := uintptr(p.kx)*32, uintptr(p.ky)*32, uintptr(p.kz)*32
	o := unsafe.Pointer(&p.o)
	oz := archsimd.BroadcastFloat32x8(*(*float32)(unsafe.Add(o, p.kz*4)))
	az, bz, cz := load(k, kz).Sub(oz), load(k, kz+96).Sub(oz), load(k, kz+192).Sub(oz)
	ox, sx := archsimd.BroadcastFloat32x8(*(*float32)(unsafe.Add(o, p.kx*4))), archsimd.BroadcastFloat32x8(p.sx)
	ax, bx, cx := load(k, kx).Sub(ox).Sub(sx.Mul(az)), load(k, kx+96).Sub(ox).Sub(sx.Mul(bz)), load(k, kx+192).Sub(ox).Sub(sx.Mul(cz))
	oy, sy := archsimd.BroadcastFloat32x8(*(*float32)(unsafe.Add(o, p.ky*4))), archsimd.BroadcastFloat32x8(p.sy)
	ay, by, cy := load(k, ky).Sub(oy).Sub(sy.Mul(az)), load(k, ky+96).Sub(oy).Sub(sy.Mul(bz)), load(k, ky+192).Sub(oy).Sub(sy.Mul(cz))
	e0, e1, e2 := cx.Mul(by).Sub(cy.Mul(bx)), ax.Mul(cy).Sub(ay.Mul(cx)), bx.Mul(ay).Sub(by.Mul(ax))
	var zero lanes
	in := e0.Min(e1).Min(e2).GreaterEqual(zero).ToBits() | e0.Max(e1).Max(e2).LessEqual(zero).ToBits()
	if in == 0 {
		return false
	}
	if in&(e0.Equal(zero).Or(e1.Equal(zero)).Or(e2.Equal(zero)).ToBits()) != 0 {
		return p.nearest((*packet)(k), hit) // ties are settled one by one
	}
	inv := archsimd.BroadcastFloat32x8(1).Div(e0.Add(e1).Add(e2))
	sz := archsimd.BroadcastFloat32x8(p.sz)
	d := e0.Mul(sz).Mul(az).Add(e1.Mul(sz).Mul(bz)).Add(e2.Mul(sz).Mul(cz)).Mul(inv)
	if in &= d.Greater(zero).And(d.Less(archsimd.BroadcastFloat32x8(hit.T))).ToBits(); in == 0 {
		return false
	}
	var t, u, v [8]float32
	d.Store(&t)
	e1.Mul(inv).Store(&u)
	e2.Mul(inv).Store(&v)
	id := &(*packet)(k).id
	for ; in != 0; in &= in - 1 {
		if i := bits.TrailingZeros8(in) & 7; t[i] < hit.T {
			hit.T, hit.U, hit.V, hit.Triangle, hit.place = t[i], u[i], v[i], id[i], uint32(i)
		}
	}
	return true
}

// anyVector is any for the eight triangles of a packet at once.
func anyVector(k unsafe.Pointer, p *prepared, far float32) bool {
	kx, ky, kz := uintptr(p.kx)*32, uintptr(p.ky)*32, uintptr(p.kz)*32
	o := unsafe.Pointer(&p.o)
	oz := archsimd.BroadcastFloat32x8(*(*float32)(unsafe.Add(o, p.kz*4)))
	az, bz, cz := load(k, kz).Sub(oz), load(k, kz+96).Sub(oz), load(k, kz+192).Sub(oz)
	ox, sx := archsimd.BroadcastFloat32x8(*(*float32)(unsafe.Add(o, p.kx*4))), archsimd.BroadcastFloat32x8(p.sx)
	ax, bx, cx := load(k, kx).Sub(ox).Sub(sx.Mul(az)), load(k, kx+96).Sub(ox).Sub(sx.Mul(bz)), load(k, kx+192).Sub(ox).Sub(sx.Mul(cz))
	oy, sy := archsimd.BroadcastFloat32x8(*(*float32)(unsafe.Add(o, p.ky*4))), archsimd.BroadcastFloat32x8(p.sy)
	ay, by, cy := load(k, ky).Sub(oy).Sub(sy.Mul(az)), load(k, ky+96).Sub(oy).Sub(sy.Mul(bz)), load(k, ky+192).Sub(oy).Sub(sy.Mul(cz))
	e0, e1, e2 := cx.Mul(by).Sub(cy.Mul(bx)), ax.Mul(cy).Sub(ay.Mul(cx)), bx.Mul(ay).Sub(by.Mul(ax))
	var zero lanes
	in := e0.Min(e1).Min(e2).GreaterEqual(zero).ToBits() | e0.Max(e1).Max(e2).LessEqual(zero).ToBits()
	if in == 0 {
		return false
	}
	if in&(e0.Equal(zero).Or(e1.Equal(zero)).Or(e2.Equal(zero)).ToBits()) != 0 {
		return p.any((*packet)(k), far) // ties are settled one by one
	}
	inv := archsimd.BroadcastFloat32x8(1).Div(e0.Add(e1).Add(e2))
	sz := archsimd.BroadcastFloat32x8(p.sz)
	d := e0.Mul(sz).Mul(az).Add(e1.Mul(sz).Mul(bz)).Add(e2.Mul(sz).Mul(cz)).Mul(inv)
	return in&d.Greater(zero).And(d.Less(archsimd.BroadcastFloat32x8(far))).ToBits() != 0
}

// occludedVector is occludedPlain with eight boxes or triangles at a time.
func (m *Mesh) occludedVector(p *prepared, most float32, w *Walker) bool {
	nodes, packets := unsafe.Pointer(unsafe.SliceData(m.nodes)), unsafe.Pointer(unsafe.SliceData(m.packets))
	stack := unsafe.Pointer(&w.stack)
	inx, iny, inz := archsimd.BroadcastFloat32x8(p.in.X), archsimd.BroadcastFloat32x8(p.in.Y), archsimd.BroadcastFloat32x8(p.in.Z)
	outx, outy, outz := archsimd.BroadcastFloat32x8(p.out.X), archsimd.BroadcastFloat32x8(p.out.Y), archsimd.BroadcastFloat32x8(p.out.Z)
	ix, iy, iz := archsimd.BroadcastFloat32x8(p.inv.X), archsimd.BroadcastFloat32x8(p.inv.Y), archsimd.BroadcastFloat32x8(p.inv.Z)
	nx, ny, nz := uintptr(p.near[0])*32, uintptr(p.near[1])*32, uintptr(p.near[2])*32
	fx, fy, fz := uintptr(p.away[0])*32, uintptr(p.away[1])*32, uintptr(p.away[2])*32
	closer := archsimd.BroadcastFloat32x8(nearer)
	far := archsimd.BroadcastFloat32x8(most)
	var zero lanes
	top, at := 0, uint32(0)
	for {
		if at&leaf == 0 {
			n := unsafe.Add(nodes, uintptr(at)*wideBytes)
			enter := load(n, nx).MulAdd(ix, inx).Max(load(n, ny).MulAdd(iy, iny)).Max(load(n, nz).MulAdd(iz, inz).Max(zero)).Mul(closer)
			leave := load(n, fx).MulAdd(ix, outx).Min(load(n, fy).MulAdd(iy, outy)).Min(load(n, fz).MulAdd(iz, outz).Min(far))
			if mask := enter.LessEqual(leave).ToBits(); mask != 0 {
				child := (*[8]uint32)(unsafe.Add(n, 192))
				at = child[bits.TrailingZeros8(mask)&7]
				for mask &= mask - 1; mask != 0; mask &= mask - 1 {
					*(*pending)(unsafe.Add(stack, top*8)) = pending(child[bits.TrailingZeros8(mask)&7])
					top++
				}
				continue
			}
		} else if anyVector(unsafe.Add(packets, uintptr(at&^leaf)*packetBytes), p, most) {
			archsimd.ClearAVXUpperBits()
			return true
		}
		if top == 0 {
			archsimd.ClearAVXUpperBits()
			return false
		}
		top--
		at = (*pending)(unsafe.Add(stack, top*8)).node()
	}
}

// enterVector is enter8 for all children at once.
func (p *prepared) enterVector(node *wide, most float32, t *[8]float32) uint8 {
	n := unsafe.Pointer(node)
	inx, iny, inz := archsimd.BroadcastFloat32x8(p.in.X), archsimd.BroadcastFloat32x8(p.in.Y), archsimd.BroadcastFloat32x8(p.in.Z)
	outx, outy, outz := archsimd.BroadcastFloat32x8(p.out.X), archsimd.BroadcastFloat32x8(p.out.Y), archsimd.BroadcastFloat32x8(p.out.Z)
	ix, iy, iz := archsimd.BroadcastFloat32x8(p.inv.X), archsimd.BroadcastFloat32x8(p.inv.Y), archsimd.BroadcastFloat32x8(p.inv.Z)
	nx, ny, nz := uintptr(p.near[0])*32, uintptr(p.near[1])*32, uintptr(p.near[2])*32
	fx, fy, fz := uintptr(p.away[0])*32, uintptr(p.away[1])*32, uintptr(p.away[2])*32
	var zero lanes
	enter := load(n, nx).MulAdd(ix, inx).Max(load(n, ny).MulAdd(iy, iny)).Max(load(n, nz).MulAdd(iz, inz).Max(zero)).Mul(archsimd.BroadcastFloat32x8(nearer))
	leave := load(n, fx).MulAdd(ix, outx).Min(load(n, fy).MulAdd(iy, outy)).Min(load(n, fz).MulAdd(iz, outz).Min(archsimd.BroadcastFloat32x8(most)))
	enter.Store(t)
	mask := enter.LessEqual(leave).ToBits()
	archsimd.ClearAVXUpperBits()
	return mask
}
