package shot

import (
	"reflect"
	"slices"
)

// Same reports whether two parts say the same, to the last number.
func (p *Part) Same(q *Part) bool {
	if !slices.EqualFunc(p.Tracks, q.Tracks, sameTrack) {
		return false
	}
	a, b := *p, *q // pins are most of a large document, and are compared without reflection
	a.Tracks, b.Tracks = nil, nil
	return reflect.DeepEqual(a, b)
}

func sameTrack(a, b Track) bool {
	return a.Value == b.Value && a.Before == b.Before && a.After == b.After && slices.EqualFunc(a.Pins, b.Pins, samePin)
}

func samePin(a, b Pin) bool {
	return a.Time == b.Time && a.Value == b.Value && a.Next == b.Next && sameValue(a.Turn, b.Turn) && sameHandle(a.In, b.In) && sameHandle(a.Out, b.Out)
}

func sameHandle(a, b *Handle) bool {
	return a == b || a != nil && b != nil && a.Time == b.Time && a.Value == b.Value && sameValue(a.Turn, b.Turn)
}

func sameValue[T comparable](a, b *T) bool { return a == b || a != nil && b != nil && *a == *b }
