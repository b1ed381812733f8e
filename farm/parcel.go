package farm

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/klauspost/compress/zstd"

	"perigyre/core/render"
	"perigyre/runs"
)

// parcel is what a worker hands in: files of a frame, a strip of a large one, or why it could not.
type parcel struct {
	Worker  string `json:"worker"`
	Millis  int64  `json:"millis"`
	Tests   int    `json:"tests"`   // of the worker itself that had been passed when it was done
	Fault   string `json:"fault"`   // a sentence; empty where all went well
	Files   []int  `json:"files"`   // their lengths
	Preview int    `json:"preview"` // likewise, 0 for none
	Strip   int    `json:"strip"`   // likewise

	files   [][]byte
	preview []byte
	strip   *render.Film
	hash    string // of what was drawn
}

// A parcel is a header in JSON, behind its length, and then the contents; compressed where they are a strip.

func (p *parcel) pack() ([]byte, error) {
	var body []byte
	for _, f := range p.files {
		p.Files = append(p.Files, len(f))
		body = append(body, f...)
	}
	p.Preview = len(p.preview)
	body = append(body, p.preview...)
	if p.strip != nil {
		raw, err := p.strip.MarshalBinary()
		if err != nil {
			return nil, err
		}
		enc, err := zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest))
		if err != nil {
			return nil, err
		}
		raw = enc.EncodeAll(raw, nil)
		p.Strip = len(raw)
		body = append(body, raw...)
	}
	head, err := json.Marshal(p)
	if err != nil {
		return nil, err
	}
	return append(append(binary.LittleEndian.AppendUint32(nil, uint32(len(head))), head...), body...), nil
}

// unpack reads a parcel, which comes from another machine: nothing in it is trusted. Most is how many bytes what was drawn can
// have.
func unpack(b []byte, most int) (*parcel, error) {
	damaged := errors.New("what a worker handed in is damaged")
	if len(b) < 4 {
		return nil, damaged
	}
	n := int(binary.LittleEndian.Uint32(b))
	if n > 1<<16 || n > len(b)-4 {
		return nil, damaged
	}
	p := new(parcel)
	if json.Unmarshal(b[4:4+n], p) != nil {
		return nil, damaged
	}
	body := b[4+n:]
	p.hash = hashOf(body)
	take := func(n int) []byte {
		if n < 0 || n > len(body) {
			return nil
		}
		out := body[:n:n]
		body = body[n:]
		return out
	}
	if len(p.Files) > 64 || len(p.Fault) > 2000 || p.Millis < 0 || p.Millis > 1<<40 {
		return nil, damaged
	}
	for _, n := range p.Files {
		f := take(n)
		if f == nil {
			return nil, damaged
		}
		p.files = append(p.files, f)
	}
	if p.Preview != 0 {
		if p.preview = take(p.Preview); p.preview == nil {
			return nil, damaged
		}
	}
	if p.Strip != 0 {
		raw := take(p.Strip)
		dec, err := zstd.NewReader(bytes.NewReader(nil), zstd.WithDecoderMaxMemory(uint64(most)), zstd.WithDecoderConcurrency(1))
		if err != nil || raw == nil {
			return nil, damaged
		}
		defer dec.Close()
		if raw, err = dec.DecodeAll(raw, nil); err != nil {
			return nil, fmt.Errorf("a strip that a worker handed in cannot be unpacked: %w", err)
		}
		p.strip = new(render.Film)
		if err := p.strip.UnmarshalBinary(raw); err != nil {
			return nil, err
		}
	}
	if len(body) > 0 {
		return nil, damaged
	}
	return p, nil
}

// most is how many bytes an order's files, or its strips, can have: what numbers take that nothing packs, and room to spare.
func most(o *runs.Order) int {
	each := 16 + 8
	for _, p := range o.Passes {
		each += 4 * max(1, channels(p, o))
	}
	return o.Width*o.Height*each*5/4 + 4<<20
}

func channels(p render.Pass, o *runs.Order) int {
	if p == render.PartMattes {
		return len(o.Scene.Mattes)
	}
	return render.Channels(p)
}
