package exr

import (
	"container/heap"
	"encoding/binary"
)

// The Huffman code of PIZ: code lengths by six bits, canonical codes whose longest are the least, and a symbol of
// its own for runs of one word (OpenEXR, ImfHuf).
const (
	symbols      = 1<<16 + 1
	longestCode  = 58
	shortZeroRun = 59 // 59 to 62: 2 to 5 symbols without a code
	longZeroRun  = 63 // followed by 8 bits: 6 to 261 of them
	leastLongRun = 2 + longZeroRun - shortZeroRun
	maxLongRun   = 255 + leastLongRun
)

// bitWriter appends bits, the most significant first.
type bitWriter struct {
	out  []byte
	left uint64
	n    int
}

func (b *bitWriter) put(v uint64, n int) {
	for n > 32 {
		n -= 32
		b.put(v>>n, 32)
	}
	b.left = b.left<<n | v&(1<<n-1)
	for b.n += n; b.n >= 8; {
		b.n -= 8
		b.out = append(b.out, byte(b.left>>b.n))
	}
}

// flush ends the last byte with zeroes and returns how many bits there were.
func (b *bitWriter) flush() int {
	total := 8*len(b.out) + b.n
	if b.n > 0 {
		b.put(0, 8-b.n)
	}
	return total
}

// bitReader takes bits, the most significant first; beyond the end it gives zeroes.
type bitReader struct {
	data []byte
	at   int // bit
}

func (b *bitReader) take(n int) (v uint64) {
	for range n {
		v <<= 1
		if i := b.at >> 3; i < len(b.data) {
			v |= uint64(b.data[i] >> (7 - b.at&7) & 1)
		}
		b.at++
	}
	return v
}

// peek returns the next n bits, at most 32, without taking them.
func (b *bitReader) peek(n int) uint32 {
	var v uint64
	i := b.at >> 3
	for k := range 5 {
		v <<= 8
		if i+k < len(b.data) {
			v |= uint64(b.data[i+k])
		}
	}
	return uint32(v >> (40 - n - b.at&7) & (1<<n - 1))
}

// code is the code of one symbol.
type code struct {
	bits   uint64
	length int
}

// canonical gives codes to symbols by their lengths.
func canonical(lengths []int) []code {
	var n [longestCode + 1]uint64
	for _, l := range lengths {
		n[l]++
	}
	c := uint64(0)
	for l := longestCode; l > 0; l-- {
		next := (c + n[l]) >> 1
		n[l] = c
		c = next
	}
	out := make([]code, len(lengths))
	for i, l := range lengths {
		if l > 0 {
			out[i] = code{n[l], l}
			n[l]++
		}
	}
	return out
}

type tree struct {
	weight      uint64
	symbol      int // the least in it, so that the tree does not depend on the heap
	left, right *tree
}

type forest []*tree

func (f forest) Len() int { return len(f) }
func (f forest) Less(i, j int) bool {
	return f[i].weight < f[j].weight || f[i].weight == f[j].weight && f[i].symbol < f[j].symbol
}
func (f forest) Swap(i, j int) { f[i], f[j] = f[j], f[i] }
func (f *forest) Push(t any)   { *f = append(*f, t.(*tree)) }
func (f *forest) Pop() any {
	last := (*f)[len(*f)-1]
	*f = (*f)[:len(*f)-1]
	return last
}

// codeLengths returns the length of every symbol's code, 0 for one that does not occur.
func codeLengths(weights []uint64) []int {
	out := make([]int, len(weights))
	f := new(forest)
	for i, w := range weights {
		if w > 0 {
			*f = append(*f, &tree{weight: w, symbol: i})
		}
	}
	heap.Init(f)
	for f.Len() > 1 {
		a, b := heap.Pop(f).(*tree), heap.Pop(f).(*tree)
		heap.Push(f, &tree{a.weight + b.weight, min(a.symbol, b.symbol), a, b})
	}
	var walk func(t *tree, depth int)
	walk = func(t *tree, depth int) {
		if t.left == nil {
			out[t.symbol] = max(1, depth)
			return
		}
		walk(t.left, depth+1)
		walk(t.right, depth+1)
	}
	walk((*f)[0], 0)
	return out
}

// huffmanPack packs words.
func huffmanPack(words []uint16) []byte {
	weights := make([]uint64, symbols)
	least, most := symbols, 0
	for _, w := range words {
		weights[w]++
		least, most = min(least, int(w)), max(most, int(w))
	}
	run := most + 1 // the symbol of runs
	weights[run] = 1
	codes := canonical(codeLengths(weights))
	var table bitWriter
	for i := least; i <= run; i++ {
		zeroes := 0
		for i+zeroes <= run && zeroes < maxLongRun && codes[i+zeroes].length == 0 {
			zeroes++
		}
		switch {
		case zeroes >= leastLongRun:
			table.put(longZeroRun, 6)
			table.put(uint64(zeroes-leastLongRun), 8)
			i += zeroes - 1
		case zeroes >= 2:
			table.put(uint64(shortZeroRun+zeroes-2), 6)
			i += zeroes - 1
		default:
			table.put(uint64(codes[i].length), 6)
		}
	}
	table.flush()
	var body bitWriter
	for i := 0; i < len(words); {
		again := 0 // times that the word follows itself
		for i+1+again < len(words) && again < 255 && words[i+1+again] == words[i] {
			again++
		}
		c := codes[words[i]]
		body.put(c.bits, c.length)
		if c.length+codes[run].length+8 < c.length*again {
			body.put(codes[run].bits, codes[run].length)
			body.put(uint64(again), 8)
		} else {
			for range again {
				body.put(c.bits, c.length)
			}
		}
		i += 1 + again
	}
	n := body.flush()
	var out []byte
	for _, v := range []int{least, run, len(table.out), n, 0} {
		out = binary.LittleEndian.AppendUint32(out, uint32(v))
	}
	return append(append(out, table.out...), body.out...)
}

// huffmanUnpack undoes huffmanPack into as many words as there were.
func huffmanUnpack(packed []byte, words []uint16) error {
	if len(packed) < 20 {
		return errPIZ
	}
	at := func(i int) int { return int(binary.LittleEndian.Uint32(packed[4*i:])) }
	least, run, n := at(0), at(1), at(3)
	body := packed[20:]
	if least > run || run >= symbols || n > 8*len(body) {
		return errPIZ
	}
	lengths := make([]int, symbols)
	table := bitReader{data: body}
	for i := least; i <= run; i++ {
		l := int(table.take(6))
		switch {
		case l == longZeroRun:
			i += int(table.take(8)) + leastLongRun - 1
		case l >= shortZeroRun:
			i += l - shortZeroRun + 1
		default:
			lengths[i] = l
		}
		if table.at > 8*len(body) || i > run {
			return errPIZ
		}
	}
	// By length: the first code, and the symbols in order.
	var first [longestCode + 1]uint64
	var by [longestCode + 1][]int
	const quick = 12
	type entry struct{ symbol, length int32 }
	var fast [1 << quick]entry
	for i, c := range canonical(lengths) {
		if c.length == 0 {
			continue
		}
		if c.bits>>c.length != 0 {
			return errPIZ // more codes than there can be
		}
		if by[c.length] == nil {
			first[c.length] = c.bits
		}
		by[c.length] = append(by[c.length], i)
		if c.length <= quick {
			from := c.bits << (quick - c.length)
			for k := range uint64(1) << (quick - c.length) {
				fast[from+k] = entry{int32(i), int32(c.length)}
			}
		}
	}
	body = body[(table.at+7)/8:]
	if n > 8*len(body) {
		return errPIZ
	}
	in := bitReader{data: body}
	out := 0
	for in.at < n {
		symbol := -1
		if e := fast[in.peek(quick)]; e.length > 0 {
			symbol = int(e.symbol)
			in.at += int(e.length)
		} else {
			c := uint64(0)
			for l := 1; l <= longestCode; l++ {
				c = c<<1 | in.take(1)
				if k := c - first[l]; by[l] != nil && c >= first[l] && k < uint64(len(by[l])) {
					symbol = by[l][k]
					break
				}
			}
		}
		switch {
		case symbol < 0:
			return errPIZ
		case symbol == run:
			k := int(in.take(8))
			if out == 0 || out+k > len(words) {
				return errPIZ
			}
			for range k {
				words[out] = words[out-1]
				out++
			}
		case out >= len(words):
			return errPIZ
		default:
			words[out] = uint16(symbol)
			out++
		}
	}
	if out != len(words) {
		return errPIZ
	}
	return nil
}
