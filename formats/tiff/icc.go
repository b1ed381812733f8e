package tiff

import (
	"encoding/binary"
	"math"
	"unicode/utf16"
)

// SRGB is a profile of the sRGB colour space (IEC 61966-2-1) as ICC.1:2010 (version 4.3) has it: a display's, by matrix and
// parametric curves, its primaries adapted to D50.
var SRGB = profile()

func profile() []byte {
	fixed := func(v float64) []byte { // s15Fixed16Number
		return binary.BigEndian.AppendUint32(nil, uint32(int32(math.Round(v*65536))))
	}
	numbers := func(kind string, values ...float64) []byte {
		out := append([]byte(kind), 0, 0, 0, 0)
		for _, v := range values {
			out = append(out, fixed(v)...)
		}
		return out
	}
	words := func(text string) []byte { // multiLocalizedUnicodeType, one record
		out := append([]byte("mluc"), 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 12, 'e', 'n', 'U', 'S')
		units := utf16.Encode([]rune(text))
		out = binary.BigEndian.AppendUint32(out, uint32(2*len(units)))
		out = binary.BigEndian.AppendUint32(out, 28)
		for _, u := range units {
			out = binary.BigEndian.AppendUint16(out, u)
		}
		return out
	}
	// Y = (aX + b)^g for X >= d, and cX below (10.18, function type 3).
	curve := append([]byte("para"), 0, 0, 0, 0, 0, 3, 0, 0)
	for _, v := range []float64{2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045} {
		curve = append(curve, fixed(v)...)
	}
	tags := []struct {
		name string
		data []byte
	}{
		{"desc", words("sRGB")}, {"cprt", words("No copyright, use freely")},
		{"wtpt", numbers("XYZ ", 0.9642, 1, 0.8249)},
		// The adaptation from D65 to D50 by the Bradford transform, and the primaries so adapted (ICC, "How to interpret the
		// sRGB color space in an ICC profile").
		{"chad", numbers("sf32", 1.04788208, 0.02291870, -0.05021667, 0.02957153, 0.99047852, -0.01707458, -0.00924683, 0.01507568, 0.75167847)},
		{"rXYZ", numbers("XYZ ", 0.43606567, 0.22248840, 0.01391602)},
		{"gXYZ", numbers("XYZ ", 0.38514709, 0.71687317, 0.09707642)},
		{"bXYZ", numbers("XYZ ", 0.14306641, 0.06060791, 0.71409607)},
		{"rTRC", curve}, {"gTRC", curve}, {"bTRC", curve},
	}
	head := make([]byte, 128)
	binary.BigEndian.PutUint32(head[8:], 0x04300000)
	copy(head[12:], "mntrRGB XYZ ")
	copy(head[24:], []byte{0x07, 0xe4, 0, 1, 0, 1, 0, 0, 0, 0, 0, 0}) // a date it needs
	copy(head[36:], "acsp")
	copy(head[68:], numbers("", 0.9642, 1, 0.8249)[4:])
	table := binary.BigEndian.AppendUint32(nil, uint32(len(tags)))
	var body []byte
	at := len(head) + 4 + 12*len(tags)
	for i, t := range tags {
		if i >= len(tags)-2 { // the three curves are one
			table = append(table, t.name...)
			table = append(table, table[4+12*(len(tags)-3)+4:4+12*(len(tags)-3)+12]...)
			continue
		}
		table = append(table, t.name...)
		table = binary.BigEndian.AppendUint32(table, uint32(at+len(body)))
		table = binary.BigEndian.AppendUint32(table, uint32(len(t.data)))
		body = append(body, t.data...)
		for len(body)%4 != 0 {
			body = append(body, 0)
		}
	}
	out := append(append(head, table...), body...)
	binary.BigEndian.PutUint32(out, uint32(len(out)))
	return out
}
