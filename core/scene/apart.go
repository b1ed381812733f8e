package scene

import (
	"math"
	"reflect"
)

// Apart returns the largest difference between the numbers of two values of one type of this package: as a share of the larger
// one, or of 1 where both are smaller. It is infinite where they differ in anything that is no number.
func Apart[T any](a, b T) float64 {
	return apart(reflect.ValueOf(&a).Elem(), reflect.ValueOf(&b).Elem())
}

func apart(a, b reflect.Value) (most float64) {
	switch a.Kind() {
	case reflect.Float64:
		x, y := a.Float(), b.Float()
		if x == y {
			return 0
		}
		return math.Abs(x-y) / math.Max(1, math.Max(math.Abs(x), math.Abs(y)))
	case reflect.Pointer:
		if a.IsNil() || b.IsNil() {
			if a.IsNil() == b.IsNil() {
				return 0
			}
			return math.Inf(1)
		}
		return apart(a.Elem(), b.Elem())
	case reflect.Struct:
		for i := range a.NumField() {
			most = math.Max(most, apart(a.Field(i), b.Field(i)))
		}
		return most
	case reflect.Slice, reflect.Array:
		if a.Len() != b.Len() {
			return math.Inf(1)
		}
		for i := range a.Len() {
			most = math.Max(most, apart(a.Index(i), b.Index(i)))
		}
		return most
	}
	if a.Equal(b) {
		return 0
	}
	return math.Inf(1)
}
