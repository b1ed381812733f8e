package render

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"runtime"
	"slices"
	"strings"
	"testing"
	"time"

	"perigyre/core/pose"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

// numbersOf returns the numbers in a document's JSON tree by their paths, each with a way to put another there.
func numbersOf(tree any) (paths []string, put []func(any)) {
	var visit func(path string, at any, set func(any))
	visit = func(path string, at any, set func(any)) {
		switch v := at.(type) {
		case map[string]any:
			for _, k := range slices.Sorted(maps.Keys(v)) {
				visit(path+"."+k, v[k], func(x any) { v[k] = x })
			}
		case []any:
			for k := range v {
				visit(fmt.Sprintf("%s.%d", path, k), v[k], func(x any) { v[k] = x })
			}
		case float64:
			paths, put = append(paths, path), append(put, set)
		}
	}
	visit("", tree, nil)
	return paths, put
}

func treeOf(t testing.TB, s *shot.Shot) any {
	t.Helper()
	b, err := json.Marshal(s)
	if err != nil {
		t.Fatal(err)
	}
	var tree any
	if err := json.Unmarshal(b, &tree); err != nil {
		t.Fatal(err)
	}
	return tree
}

// survives takes a document as a server takes a foreign one: what validation lets pass is baked, rendered tiny and proofed,
// within a time and a memory that no such work needs, and without a fault.
func survives(t *testing.T, props *Props, tree any, what string) {
	t.Helper()
	text, err := json.Marshal(tree)
	if err != nil { // a number that JSON has not
		return
	}
	s := new(shot.Shot)
	if json.Unmarshal(text, s) != nil || s.Validate() != nil {
		return
	}
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	ctx, done := context.WithTimeout(context.Background(), 30*time.Second)
	defer done()
	ended := make(chan any, 1)
	go func() {
		defer func() { ended <- recover() }()
		e := pose.New(s)
		for _, at := range []float64{0, 0.5, 7, float64(s.Frames - 1), float64(s.Frames)} {
			e.At(at)
		}
		from, err := scene.Resolve(e, 5, nil, scene.Options{Symmetry: props, Mattes: true, Motion: true})
		if err != nil {
			return
		}
		from.Fingerprint()
		sc, err := NewScene(from, props)
		if err != nil {
			return
		}
		_, _ = sc.Expose(ctx, 6, 6, Options{Quality: Draft, Samples: 2, Passes: Passes})
		_, _ = sc.Expose(ctx, 6, 6, Options{Quality: Proof, Samples: 2, Denoise: true})
	}()
	select {
	case fault := <-ended:
		if fault != nil {
			t.Fatalf("%s: a document that is let pass meets a fault: %v", what, fault)
		}
	case <-time.After(time.Minute):
		t.Fatalf("%s: a document that is let pass hangs", what)
	}
	if ctx.Err() != nil {
		t.Fatalf("%s: a document that is let pass takes longer than half a minute at 6 x 6 pixels", what)
	}
	runtime.ReadMemStats(&after)
	if used := (after.TotalAlloc - before.TotalAlloc) >> 20; used > 4000 {
		t.Fatalf("%s: a document that is let pass takes %d MB", what, used)
	}
}

// Every number of a rich document at its extremes: what is refused is refused, and what is let pass is rendered. It was a
// sky's colour of -93 that once ended the process.
func TestNumbersAtTheirExtremes(t *testing.T) {
	if testing.Short() {
		t.Skip()
	}
	tree := treeOf(t, rich())
	props := NewProps(noisySky(16, 8))
	paths, put := numbersOf(tree)
	let := 0
	for i, path := range paths {
		for _, v := range []float64{-93, 0, 1e-30, 1e6, 1e30} {
			put[i](v)
			survives(t, props, tree, fmt.Sprintf("%s = %g", path, v))
			let++
		}
		fresh := treeOf(t, rich()) // as it was
		tree = fresh
		paths, put = numbersOf(tree)
	}
	if let < 1000 {
		t.Errorf("only %d numbers were tried", let)
	}
}

func FuzzDocument(f *testing.F) {
	f.Add(uint16(3), -93.0, uint16(40), 1e30)
	f.Add(uint16(100), 1e6, uint16(9), 0.0)
	props := NewProps(noisySky(16, 8))
	f.Fuzz(func(t *testing.T, i uint16, a float64, j uint16, b float64) {
		tree := treeOf(t, rich())
		paths, put := numbersOf(tree)
		x, y := int(i)%len(put), int(j)%len(put)
		for _, v := range []float64{a, b} {
			if math.IsNaN(v) || math.IsInf(v, 0) {
				return
			}
		}
		for k, v := range map[int]float64{x: a, y: b} {
			if (strings.HasSuffix(paths[k], ".sides") || strings.Contains(paths[k], ".count.")) && v > 100 {
				return // a million triangles or copies take a fuzzer's patience and show nothing new
			}
			put[k](v)
		}
		survives(t, props, tree, fmt.Sprintf("%s = %g, %s = %g", paths[x], a, paths[y], b))
	})
}
