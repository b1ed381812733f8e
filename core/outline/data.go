package outline

import (
	"fmt"
	"math"
	"strconv"

	"perigyre/core/geom"
)

// Parse reads path data (SVG 1.1, 8.3). Where they break off, what came before is returned with an error that says where,
// as the standard asks (SVG 1.1, F.2).
func Parse(data string) (Path, error) {
	r := dataReader{text: data}
	err := r.read()
	return r.path, err
}

type dataReader struct {
	text   string
	at     int
	path   Path
	handle geom.Vec2 // of the curve before, of which a smooth one is the mirror
	before byte
}

// skip goes over space and at most one comma.
func (r *dataReader) skip() {
	comma := false
	for r.at < len(r.text) {
		switch r.text[r.at] {
		case ' ', '\t', '\n', '\r', '\f':
		case ',':
			if comma {
				return
			}
			comma = true
		default:
			return
		}
		r.at++
	}
}

// number reads a number; one ends where another sign or another point begins ("30-5.5.5").
func (r *dataReader) number() (float64, bool) {
	r.skip()
	n := Number(r.text[r.at:])
	v, err := strconv.ParseFloat(r.text[r.at:r.at+n], 64)
	if err != nil || math.Abs(v) > 1e30 {
		return 0, false
	}
	r.at += n
	return v, true
}

// Number returns how many bytes at the beginning of a text are a number.
func Number(s string) int {
	digits := func(k int) int {
		for k < len(s) && s[k] >= '0' && s[k] <= '9' {
			k++
		}
		return k
	}
	k := 0
	if k < len(s) && (s[k] == '+' || s[k] == '-') {
		k++
	}
	end := digits(k)
	some := end > k
	if end < len(s) && s[end] == '.' {
		more := digits(end + 1)
		some = some || more > end+1
		end = more
	}
	if !some {
		return 0
	}
	if end < len(s) && (s[end] == 'e' || s[end] == 'E') {
		e := end + 1
		if e < len(s) && (s[e] == '+' || s[e] == '-') {
			e++
		}
		if more := digits(e); more > e {
			end = more
		}
	}
	return end
}

// flag reads a 0 or a 1, after which nothing need stand.
func (r *dataReader) flag() (bool, bool) {
	r.skip()
	if r.at < len(r.text) && (r.text[r.at] == '0' || r.text[r.at] == '1') {
		r.at++
		return r.text[r.at-1] == '1', true
	}
	return false, false
}

func (r *dataReader) read() error {
	command := byte(0)
	for {
		r.skip()
		if r.at == len(r.text) {
			return nil
		}
		if c := r.text[r.at]; c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z' {
			command = c
			r.at++
		} else if command == 'z' || command == 'Z' || command == 0 {
			return r.broken()
		}
		if len(r.path) == 0 && command|32 != 'm' {
			return r.broken()
		}
		if !r.step(command) {
			return r.broken()
		}
		if r.before = command | 32; command|32 == 'm' { // more points after the first are lines
			command-- // an l, or an L
		}
	}
}

func (r *dataReader) broken() error {
	from := min(r.at, len(r.text))
	return fmt.Errorf("the path data cannot be read from character %d on (%.20q)", from+1, r.text[from:])
}

func (r *dataReader) step(command byte) bool {
	at := r.path.At()
	origin := geom.Vec2{}
	if command >= 'a' {
		origin = at
	}
	ok := true
	num := func() float64 {
		v, good := r.number()
		ok = ok && good
		return v
	}
	point := func() geom.Vec2 {
		x := num()
		return geom.Vec2{origin[0] + x, origin[1] + num()}
	}
	mirrored := func(kinds string) geom.Vec2 {
		if r.before == kinds[0] || r.before == kinds[1] {
			return geom.Vec2{2*at[0] - r.handle[0], 2*at[1] - r.handle[1]}
		}
		return at
	}
	switch command | 32 {
	case 'm':
		if p := point(); ok {
			r.path.MoveTo(p)
		}
	case 'z':
		r.path.Close()
	case 'l':
		if p := point(); ok {
			r.path.LineTo(p)
		}
	case 'h':
		if x := num(); ok {
			r.path.LineTo(geom.Vec2{origin[0] + x, at[1]})
		}
	case 'v':
		if y := num(); ok {
			r.path.LineTo(geom.Vec2{at[0], origin[1] + y})
		}
	case 'c':
		b, c, p := point(), point(), point()
		if ok {
			r.path.CubeTo(b, c, p)
			r.handle = c
		}
	case 's':
		b := mirrored("cs")
		if c, p := point(), point(); ok {
			r.path.CubeTo(b, c, p)
			r.handle = c
		}
	case 'q':
		if b, p := point(), point(); ok {
			r.path.QuadTo(b, p)
			r.handle = b
		}
	case 't':
		b := mirrored("qt")
		if p := point(); ok {
			r.path.QuadTo(b, p)
			r.handle = b
		}
	case 'a':
		rx, ry, phi := num(), num(), num()
		large, ok1 := r.flag()
		sweep, ok2 := r.flag()
		if p := point(); ok && ok1 && ok2 {
			r.path.ArcTo(rx, ry, phi*math.Pi/180, large, sweep, p)
		} else {
			return false
		}
	default:
		return false
	}
	return ok
}
