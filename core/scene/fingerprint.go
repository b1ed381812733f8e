package scene

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"hash"
	"math"
	"reflect"

	"perigyre/core/geom"
)

// Fingerprint returns the hash of a scene, in hexadecimal digits: everything in it, by its type, with nothing that could be
// forgotten. Places are taken to 1e-10 m, which is above what rounding leaves of turning by the same angle another way
// round, and far below what can be seen; all other numbers to the bit. Scenes with the same fingerprint give the same
// pictures.
func (s *Scene) Fingerprint() string {
	w := writer{h: sha256.New()}
	w.value(reflect.ValueOf(s))
	w.flush()
	return hex.EncodeToString(w.h.Sum(nil))
}

// writer hashes values of any type of this package.
type writer struct {
	h   hash.Hash
	buf []byte
}

func (w *writer) flush() {
	w.h.Write(w.buf)
	w.buf = w.buf[:0]
}

func (w *writer) word(v uint64) {
	if w.buf = binary.LittleEndian.AppendUint64(w.buf, v); len(w.buf) > 1<<14 {
		w.flush()
	}
}

var (
	matrixType = reflect.TypeFor[geom.Mat4]()
	pointType  = reflect.TypeFor[geom.Vec3]()
)

func (w *writer) value(v reflect.Value) {
	switch v.Type() {
	case matrixType:
		m := v.Interface().(geom.Mat4)
		for _, x := range m {
			w.word(rounded(x))
		}
		return
	case pointType:
		for k := range 3 {
			w.word(rounded(v.Index(k).Float()))
		}
		return
	}
	switch v.Kind() {
	case reflect.Pointer:
		if v.IsNil() {
			w.word(0)
			return
		}
		w.word(1)
		w.value(v.Elem())
	case reflect.Struct:
		for i := range v.NumField() {
			w.value(v.Field(i))
		}
	case reflect.Slice:
		w.word(uint64(v.Len()))
		for i := range v.Len() {
			w.value(v.Index(i))
		}
	case reflect.Array:
		for i := range v.Len() {
			w.value(v.Index(i))
		}
	case reflect.String:
		w.word(uint64(v.Len()))
		w.buf = append(w.buf, v.String()...)
	case reflect.Bool:
		w.word(map[bool]uint64{true: 1, false: 0}[v.Bool()])
	case reflect.Int, reflect.Int32, reflect.Int64:
		w.word(uint64(v.Int()))
	case reflect.Float64:
		w.word(math.Float64bits(v.Float() + 0)) // -0 is 0
	default:
		panic(fmt.Sprintf("a scene holds a %s, which has no fingerprint", v.Type())) // a fault of this package
	}
}

// rounded is a place to 1e-10.
func rounded(v float64) uint64 { return math.Float64bits(math.Round(v*1e10) + 0) }
