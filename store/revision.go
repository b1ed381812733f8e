package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/klauspost/compress/zstd"

	"perigyre/core/shot"
	"perigyre/core/upgrade"
)

// A history keeps what changed: most revisions are compressed with the document of an earlier one as the dictionary, so
// that an edit takes a few hundred bytes whatever the size of the shot. Whole documents stand every now and then: a whole
// one (level 0), others told against it (level 1) every stretch revisions, and the rest against the nearest of those
// (level 2). Reading any revision decodes at most three documents.
const stretch = 32

// largestDocument is the most bytes of a document's text.
const largestDocument = 1 << 30

// Encode returns a document as it is kept.
func Encode(d *shot.Shot) ([]byte, error) { return json.Marshal(d) }

// packed is a document as a row of a history has it.
type packed struct {
	data        []byte
	base, level int
}

// pack compresses the text of a new revision of a shot. Last is the number of the newest one, 0 for none.
func (s *Store) pack(tx *sql.Tx, shotID string, text []byte, last int) (packed, error) {
	whole := func() packed { return packed{data: s.enc.EncodeAll(text, nil)} }
	if last == 0 {
		return whole(), nil
	}
	// The newest revision that others are told against, and the newest whole one.
	var near, nearLevel, root, rootSize int
	err := tx.QueryRow(`SELECT number, level FROM revision WHERE shot = ? AND level < 2 ORDER BY number DESC LIMIT 1`, shotID).Scan(&near, &nearLevel)
	if err == nil {
		err = tx.QueryRow(`SELECT number, length(document) FROM revision WHERE shot = ? AND level = 0 ORDER BY number DESC LIMIT 1`, shotID).Scan(&root, &rootSize)
	}
	if err != nil {
		return packed{}, err
	}
	p := packed{base: near, level: 2}
	if last+1-near >= stretch {
		p = packed{base: root, level: 1}
	}
	dict, err := s.text(tx, shotID, p.base)
	if err != nil {
		return whole(), nil // what cannot be read is no ground to build on
	}
	enc, err := zstd.NewWriter(nil, zstd.WithEncoderDictRaw(1, dict), zstd.WithWindowSize(window(len(dict)+len(text))), zstd.WithEncoderConcurrency(1))
	if err != nil {
		return packed{}, err
	}
	defer enc.Close()
	if p.data = enc.EncodeAll(text, nil); 2*len(p.data) > rootSize {
		return whole(), nil // little is left of what was there
	}
	return p, nil
}

// window returns a window that reaches over so many bytes.
func window(n int) int {
	w := 1 << 20
	for w < n && w < zstd.MaxWindowSize {
		w *= 2
	}
	return w
}

// text returns the text of a revision.
func (s *Store) text(q interface {
	QueryRow(query string, args ...any) *sql.Row
}, shotID string, number int) ([]byte, error) {
	if t := s.texts.get(shotID, number); t != nil {
		return t, nil
	}
	var data []byte
	var base int
	if err := q.QueryRow(`SELECT document, base FROM revision WHERE shot = ? AND number = ?`, shotID, number).Scan(&data, &base); err != nil {
		return nil, missing(err)
	}
	if base >= number {
		return nil, errDamaged
	}
	options := []zstd.DOption{zstd.WithDecoderConcurrency(1), zstd.WithDecoderMaxMemory(largestDocument), zstd.WithDecoderMaxWindow(zstd.MaxWindowSize)}
	if base > 0 {
		dict, err := s.text(q, shotID, base)
		if err != nil {
			return nil, err
		}
		options = append(options, zstd.WithDecoderDictRaw(1, dict))
	}
	dec, err := zstd.NewReader(nil, options...)
	if err != nil {
		return nil, err
	}
	defer dec.Close()
	t, err := dec.DecodeAll(data, nil)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", errDamaged, err)
	}
	s.texts.put(shotID, number, t)
	return t, nil
}

var errDamaged = errors.New("a stored document is damaged")

// read decodes the text of a document, of any version that there has been.
func read(text []byte) (*shot.Shot, error) {
	d, err := upgrade.Read(text)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", errDamaged, err)
	}
	return d, nil
}
