package move

import (
	"embed"
	"encoding/json"
	"fmt"
	"math"
	"path"
	"slices"
	"strconv"
	"strings"

	"perigyre/core/shot"
)

// Combination is several moves on one part or on several, ready to be added: a file in combinations. In it lengths and
// times may be shares of what they are put on: "0.5 loop", "0.08 size", "0.5 height", "4 each" (for each part before);
// "first" and "before" are the first part and the one before.
type Combination struct {
	Name  string `json:"name"`
	Note  string `json:"note"`
	Group bool   `json:"group,omitempty"` // for groups alone
	Parts int    `json:"parts,omitempty"` // how many are to be selected, at least

	moves []map[string]any
}

//go:embed combinations/*.json
var files embed.FS

var combinations = read()

func read() (out []Combination) {
	names, err := files.ReadDir("combinations")
	if err != nil {
		panic(err)
	}
	for _, n := range names {
		data, err := files.ReadFile(path.Join("combinations", n.Name()))
		if err != nil {
			panic(err)
		}
		var c struct {
			Combination
			Moves []map[string]any `json:"moves"`
		}
		if err := json.Unmarshal(data, &c); err != nil {
			panic(fmt.Sprintf("%s: %v", n.Name(), err)) // it came with the program
		}
		c.moves = c.Moves
		out = append(out, c.Combination)
		out[len(out)-1].moves = c.Moves
	}
	slices.SortFunc(out, func(a, b Combination) int { return strings.Compare(a.Name, b.Name) })
	return out
}

// Combinations returns those that parts can be given.
func Combinations(on []*Subject) []Combination {
	out := []Combination{}
	for _, c := range combinations {
		if len(on) >= max(1, c.Parts) && (!c.Group || on[0].Part().Kind == shot.Group) {
			out = append(out, c)
		}
	}
	return out
}

// Combined returns the moves of a combination for each of several parts, the first selected first. Their ids are the
// caller's to give.
func Combined(name string, on []*Subject) ([][]shot.Move, error) {
	at := slices.IndexFunc(combinations, func(c Combination) bool { return c.Name == name })
	if at < 0 {
		return nil, fmt.Errorf("there is no combination %q", name)
	}
	c := combinations[at]
	if len(on) < max(1, c.Parts) || c.Group && on[0].Part().Kind != shot.Group {
		return nil, fmt.Errorf("%s needs %d parts or more%s", name, max(1, c.Parts), map[bool]string{true: ", and a group", false: ""}[c.Group])
	}
	out := make([][]shot.Move, len(on))
	for _, m := range c.moves {
		for i, s := range on {
			switch which := m["on"].(type) {
			case string: // "others"
				if i == 0 {
					continue
				}
			case float64:
				if i != int(which) {
					continue
				}
			default:
				if i != 0 {
					continue
				}
			}
			one, err := resolved(m, s, on, i)
			if err != nil {
				return nil, fmt.Errorf("%s: %w", name, err)
			}
			out[i] = append(out[i], one)
		}
	}
	return out, nil
}

// resolved is a move of a combination on a part: a JSON tree with its words replaced by what they stand for.
func resolved(m map[string]any, s *Subject, on []*Subject, i int) (out shot.Move, err error) {
	room, _, _ := s.Box()
	size := room.Size()
	measures := map[string]float64{
		"size": math.Max(size[0], math.Max(size[1], size[2])), "height": math.Max(size[1], 1e-5), "loop": s.Frames(), "each": float64(i),
	}
	names := map[string]string{"first": on[0].Part().ID, "before": on[max(0, i-1)].Part().ID}
	var visit func(v any) any
	visit = func(v any) any {
		switch v := v.(type) {
		case string:
			if id, ok := names[v]; ok {
				return id
			}
			share, word, ok := strings.Cut(v, " ")
			if k, err := strconv.ParseFloat(share, 64); ok && err == nil {
				if measure, ok := measures[word]; ok {
					return k * measure
				}
			}
		case []any:
			list := make([]any, len(v))
			for k := range v {
				list[k] = visit(v[k])
			}
			return list
		case map[string]any:
			tree := map[string]any{}
			for k, x := range v {
				tree[k] = visit(x)
			}
			return tree
		}
		return v
	}
	tree := map[string]any{"pace": map[string]any{"kind": "constant"}, "after": "stays", "muted": false}
	for k, v := range m {
		if k != "on" {
			tree[k] = visit(v)
		}
	}
	b, err := json.Marshal(tree)
	if err != nil {
		return out, err
	}
	return out, json.Unmarshal(b, &out)
}
