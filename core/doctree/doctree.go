// Package doctree takes a document apart into its values, for tests that change each of them in turn.
package doctree

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
)

// Leaf is a number (float64), a word (string), a switch (bool) or a list ([]any) of a document.
type Leaf struct {
	Path  string // such as ".parts.0.rest.position.1"
	Value any
	Put   func(any) // puts another value in its place
}

// Leaves returns a document as decoded JSON, and all its leaves in the order of their paths. Putting something into a leaf changes the
// tree; a list that was replaced has to be put back before a leaf in it is changed.
func Leaves(document any) (tree any, list []Leaf, err error) {
	b, err := json.Marshal(document)
	if err != nil {
		return nil, nil, err
	}
	if err := json.Unmarshal(b, &tree); err != nil {
		return nil, nil, err
	}
	var visit func(path string, at any, put func(any))
	visit = func(path string, at any, put func(any)) {
		switch v := at.(type) {
		case map[string]any:
			for _, k := range slices.Sorted(maps.Keys(v)) {
				visit(path+"."+k, v[k], func(x any) { v[k] = x })
			}
			return
		case []any:
			for k := range v {
				visit(fmt.Sprintf("%s.%d", path, k), v[k], func(x any) { v[k] = x })
			}
		case nil:
			return
		}
		list = append(list, Leaf{path, at, put})
	}
	visit("", tree, func(x any) { tree = x })
	return tree, list, nil
}

// Numbers returns a document as decoded JSON, and its numbers.
func Numbers(document any) (tree any, list []Leaf, err error) {
	tree, list, err = Leaves(document)
	return tree, slices.DeleteFunc(list, func(l Leaf) bool { _, ok := l.Value.(float64); return !ok }), err
}
