package gltf

import (
	"encoding/binary"
	"fmt"
	"math"
)

var componentSize = map[int]int{typeByte: 1, typeUnsignedByte: 1, typeShort: 2, typeUnsignedShort: 2, typeUnsignedInt: 4, typeFloat: 4}

var componentCount = map[string]int{"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}

// view returns the bytes of a buffer view from an offset on.
func (r *reader) view(index, offset int) ([]byte, bufferView, error) {
	if index < 0 || index >= len(r.doc.BufferViews) {
		return nil, bufferView{}, fmt.Errorf("buffer view %d does not exist", index)
	}
	v := r.doc.BufferViews[index]
	if v.Buffer < 0 || v.Buffer >= len(r.buffers) {
		return nil, v, fmt.Errorf("buffer view %d refers to buffer %d, which does not exist", index, v.Buffer)
	}
	b := r.buffers[v.Buffer]
	if v.ByteOffset < 0 || v.ByteLength < 0 || v.ByteOffset > len(b) || v.ByteLength > len(b)-v.ByteOffset {
		return nil, v, fmt.Errorf("buffer view %d runs from byte %d for %d bytes, but its buffer has %d", index, v.ByteOffset, v.ByteLength, len(b))
	}
	if offset < 0 || offset > v.ByteLength {
		return nil, v, fmt.Errorf("an accessor begins at byte %d of buffer view %d, which has %d", offset, index, v.ByteLength)
	}
	return b[v.ByteOffset+offset : v.ByteOffset+v.ByteLength], v, nil
}

// accessor returns the description of an accessor after checking it.
func (r *reader) accessor(index int, types ...string) (*accessor, int, error) {
	if index < 0 || index >= len(r.doc.Accessors) {
		return nil, 0, fmt.Errorf("accessor %d does not exist", index)
	}
	a := &r.doc.Accessors[index]
	ok := false
	for _, t := range types {
		ok = ok || a.Type == t
	}
	if !ok {
		return nil, 0, fmt.Errorf("accessor %d is of type %q where %v is needed", index, a.Type, types)
	}
	if componentSize[a.ComponentType] == 0 {
		return nil, 0, fmt.Errorf("accessor %d has the unknown component type %d", index, a.ComponentType)
	}
	if a.Count < 0 || a.Count > 3*r.limits.Triangles {
		return nil, 0, fmt.Errorf("accessor %d promises %d elements, more than a model of --max-triangles %d can use", index, a.Count, r.limits.Triangles)
	}
	return a, componentCount[a.Type], nil
}

// floats reads an accessor as width floats an element, decoding normalized integers (3.11). An
// element with fewer components than width is filled up with fill.
func (r *reader) floats(index, width int, fill float32, types ...string) ([]float32, error) {
	a, n, err := r.accessor(index, types...)
	if err != nil {
		return nil, err
	}
	raw, stride, err := r.elements(a, index, n)
	if err != nil {
		return nil, err
	}
	out := make([]float32, a.Count*width)
	for i := range a.Count {
		if raw != nil {
			decode(out[i*width:], raw[i*stride:], a, min(n, width))
		}
		for k := n; k < width; k++ {
			out[i*width+k] = fill
		}
	}
	if a.Sparse == nil {
		return out, nil
	}
	at, values, err := r.sparse(a, index, n)
	if err != nil {
		return nil, err
	}
	size := n * componentSize[a.ComponentType]
	for k, i := range at {
		decode(out[int(i)*width:], values[k*size:], a, min(n, width))
	}
	return out, nil
}

// elements returns the bytes of an accessor's elements and the distance from one to the next, or
// nil for an accessor without a buffer view, whose elements are zero.
func (r *reader) elements(a *accessor, index, n int) ([]byte, int, error) {
	if a.BufferView == nil {
		return nil, 0, nil
	}
	raw, v, err := r.view(*a.BufferView, a.ByteOffset)
	if err != nil {
		return nil, 0, err
	}
	size := n * componentSize[a.ComponentType]
	stride := size
	if v.ByteStride != 0 {
		stride = v.ByteStride
	}
	if stride < size || stride > 255 && stride != size {
		return nil, 0, fmt.Errorf("buffer view %d has a stride of %d bytes for elements of %d", *a.BufferView, stride, size)
	}
	if a.Count > 0 && (a.Count-1)*stride+size > len(raw) {
		return nil, 0, fmt.Errorf("accessor %d promises %d elements of %d bytes, but its buffer view has only %d bytes left", index, a.Count, size, len(raw))
	}
	return raw, stride, nil
}

func (r *reader) sparse(a *accessor, index, n int) (at []uint32, values []byte, err error) {
	s := a.Sparse
	if s.Count < 0 || s.Count > a.Count {
		return nil, nil, fmt.Errorf("accessor %d replaces %d of %d elements", index, s.Count, a.Count)
	}
	raw, _, err := r.view(s.Indices.BufferView, s.Indices.ByteOffset)
	if err != nil {
		return nil, nil, err
	}
	size := componentSize[s.Indices.ComponentType]
	if size == 0 || s.Count*size > len(raw) {
		return nil, nil, fmt.Errorf("accessor %d has too few sparse indices", index)
	}
	at = make([]uint32, s.Count)
	for k := range at {
		at[k] = unsigned(raw[k*size:], size)
		if int(at[k]) >= a.Count {
			return nil, nil, fmt.Errorf("accessor %d replaces element %d of %d", index, at[k], a.Count)
		}
	}
	values, _, err = r.view(s.Values.BufferView, s.Values.ByteOffset)
	if err == nil && s.Count*n*componentSize[a.ComponentType] > len(values) {
		err = fmt.Errorf("accessor %d has too few sparse values", index)
	}
	return at, values, err
}

func unsigned(b []byte, size int) uint32 {
	switch size {
	case 1:
		return uint32(b[0])
	case 2:
		return uint32(binary.LittleEndian.Uint16(b))
	}
	return binary.LittleEndian.Uint32(b)
}

func decode(out []float32, b []byte, a *accessor, n int) {
	for k := range n {
		var v float32
		switch a.ComponentType {
		case typeFloat:
			v = math.Float32frombits(binary.LittleEndian.Uint32(b[4*k:]))
		case typeUnsignedByte:
			v = scaled(float32(b[k]), 255, a.Normalized)
		case typeByte:
			v = max(scaled(float32(int8(b[k])), 127, a.Normalized), lowest(a.Normalized))
		case typeUnsignedShort:
			v = scaled(float32(binary.LittleEndian.Uint16(b[2*k:])), 65535, a.Normalized)
		case typeShort:
			v = max(scaled(float32(int16(binary.LittleEndian.Uint16(b[2*k:]))), 32767, a.Normalized), lowest(a.Normalized))
		case typeUnsignedInt:
			v = float32(binary.LittleEndian.Uint32(b[4*k:]))
		}
		out[k] = v
	}
}

func scaled(v, by float32, normalized bool) float32 {
	if normalized {
		return v / by
	}
	return v
}

func lowest(normalized bool) float32 {
	if normalized {
		return -1
	}
	return -math.MaxFloat32
}

// indices reads an accessor of unsigned integers.
func (r *reader) indices(index int) ([]uint32, error) {
	a, n, err := r.accessor(index, "SCALAR")
	if err != nil {
		return nil, err
	}
	if a.ComponentType == typeFloat || a.Sparse != nil {
		return nil, fmt.Errorf("accessor %d cannot hold indices", index)
	}
	raw, stride, err := r.elements(a, index, n)
	if err != nil {
		return nil, err
	}
	out := make([]uint32, a.Count)
	for i := range out {
		if raw != nil {
			out[i] = unsigned(raw[i*stride:], componentSize[a.ComponentType])
		}
	}
	return out, nil
}
