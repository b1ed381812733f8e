package svg

import (
	"bytes"
	"compress/gzip"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"

	"perigyre/core/model"
)

// Limits of a drawing.
const (
	maxBytes  = 32 << 20
	deepest   = 200        // elements in each other, and elements that are used by others
	maxAreas  = 20_000     // painted
	maxTries  = 10_000_000 // of a rule of a style sheet with an element
	maxSteps  = 100_000    // elements drawn, with those that are used again
	maxPoints = 2_000_000  // of all lines, once curves are straight
)

// node is an element with what is in it.
type node struct {
	name     string
	attrs    map[string]string
	up       *node
	at       int    // among the elements of the one above
	kin      [2]int // how many of its name come before it there, and after
	children []*node
	text     strings.Builder
	style    declared // as sheets and attributes say, once asked for
}

// Document is a drawing, read and not drawn yet.
type Document struct {
	root  *node
	ids   map[string]*node
	sheet sheet
	left  *model.LeftOut
	view  viewport
	// Size is that of the page, in millimetres.
	Size [2]float64
}

const space = "http://www.w3.org/2000/svg"

// Open reads an SVG file. Errors are sentences.
func Open(data []byte) (*Document, error) {
	if len(data) > maxBytes {
		return nil, fmt.Errorf("a drawing of %d MB is more than the %d that are read", len(data)>>20, maxBytes>>20)
	}
	if bytes.HasPrefix(data, []byte{0x1f, 0x8b}) {
		var err error
		if data, err = unzipped(data); err != nil {
			return nil, err
		}
	}
	root, err := parse(data)
	if err != nil {
		return nil, err
	}
	if root == nil || root.name != "svg" {
		return nil, errors.New("it is no SVG drawing")
	}
	d := &Document{root: root, ids: map[string]*node{}, left: &model.LeftOut{}}
	d.index(root)
	d.sheet.order()
	if d.view, err = d.page(); err != nil {
		return nil, err
	}
	return d, nil
}

// unzipped returns what a drawing that was packed by gzip holds.
func unzipped(data []byte) ([]byte, error) {
	z, err := gzip.NewReader(bytes.NewReader(data))
	if err == nil {
		data, err = io.ReadAll(io.LimitReader(z, maxBytes+1))
	}
	if err != nil {
		return nil, errors.New("it is packed, and its packing is damaged")
	}
	if len(data) > maxBytes {
		return nil, fmt.Errorf("it unpacks to more than the %d MB that are read", maxBytes>>20)
	}
	return data, nil
}

func parse(data []byte) (*node, error) {
	dec := xml.NewDecoder(bytes.NewReader(data))
	dec.Strict = false
	dec.Entity = xml.HTMLEntity
	dec.CharsetReader = func(_ string, in io.Reader) (io.Reader, error) { return in, nil }
	var root, at *node
	depth, foreign := 0, 0 // elements of other name spaces are nobody's drawing
	for {
		tok, err := dec.Token()
		if errors.Is(err, io.EOF) {
			return root, nil
		}
		if err != nil {
			line, _ := dec.InputPos()
			return nil, fmt.Errorf("line %d cannot be read as XML: %s", line, strings.TrimPrefix(err.Error(), "XML syntax error on "))
		}
		switch t := tok.(type) {
		case xml.StartElement:
			if depth++; depth > deepest {
				return nil, fmt.Errorf("its groups lie more than %d deep", deepest)
			}
			if foreign > 0 || t.Name.Space != "" && t.Name.Space != space && t.Name.Space != "svg" {
				foreign++
				continue
			}
			n := &node{name: t.Name.Local, attrs: map[string]string{}, up: at}
			for _, a := range t.Attr {
				if _, ok := n.attrs[a.Name.Local]; !ok || a.Name.Space == "" { // a plain href comes before one of XLink
					n.attrs[a.Name.Local] = a.Value
				}
			}
			if at != nil {
				n.at = len(at.children)
				at.children = append(at.children, n)
			} else if root == nil {
				root = n
			}
			at = n
		case xml.EndElement:
			depth--
			if foreign > 0 {
				foreign--
			} else if at != nil {
				at = at.up
			}
		case xml.CharData:
			if at != nil && foreign == 0 && at.name == "style" {
				at.text.Write(t)
			}
		}
	}
}

// index notes ids and the rules of style sheets.
func (d *Document) index(n *node) {
	if id := n.attrs["id"]; id != "" && d.ids[id] == nil {
		d.ids[id] = n
	}
	if n.name == "style" {
		if t := n.attrs["type"]; t == "" || t == "text/css" {
			d.sheet.read(n.text.String(), d.left)
		} else {
			d.left.Add("style sheets of the type " + t)
		}
	}
	seen := map[string]int{}
	for _, c := range n.children {
		c.kin[0] = seen[c.name]
		seen[c.name]++
	}
	for _, c := range n.children {
		c.kin[1] = seen[c.name] - 1 - c.kin[0]
		d.index(c)
	}
}

// refer returns the element that a reference names, or nil.
func (d *Document) refer(href string) *node {
	id, ok := strings.CutPrefix(strings.TrimSpace(href), "#")
	if !ok {
		return nil
	}
	return d.ids[id]
}
