// Package text brings text files to UTF-8, whatever byte order mark they begin with.
package text

import (
	"bytes"

	"golang.org/x/text/encoding/unicode"
)

// UTF8 returns data without their byte order mark, and as UTF-8 where that says UTF-16 (The Unicode Standard, 23.8). What
// has none is returned as it is.
func UTF8(data []byte) []byte {
	var order unicode.Endianness
	switch {
	case bytes.HasPrefix(data, []byte{0xef, 0xbb, 0xbf}):
		return data[3:]
	case bytes.HasPrefix(data, []byte{0xff, 0xfe}):
		order = unicode.LittleEndian
	case bytes.HasPrefix(data, []byte{0xfe, 0xff}):
		order = unicode.BigEndian
	default:
		return data
	}
	out, err := unicode.UTF16(order, unicode.UseBOM).NewDecoder().Bytes(data)
	if err != nil {
		return data
	}
	return out
}
