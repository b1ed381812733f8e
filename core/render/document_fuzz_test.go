package render

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"runtime"
	"strings"
	"testing"
	"time"

	"perigyre/core/doctree"
	"perigyre/core/pose"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

func numbersOf(t testing.TB, s *shot.Shot) (any, []doctree.Leaf) {
	t.Helper()
	tree, list, err := doctree.Numbers(s)
	if err != nil {
		t.Fatal(err)
	}
	return tree, list
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
	tree, list := numbersOf(t, rich())
	props := NewProps(noisySky(16, 8))
	let := 0
	for _, one := range list {
		for _, v := range []float64{-93, 0, 1e-30, 1e6, 1e30} {
			one.Put(v)
			survives(t, props, tree, fmt.Sprintf("%s = %g", one.Path, v))
			let++
		}
		one.Put(one.Value)
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
		tree, list := numbersOf(t, rich())
		x, y := int(i)%len(list), int(j)%len(list)
		for _, v := range []float64{a, b} {
			if math.IsNaN(v) || math.IsInf(v, 0) {
				return
			}
		}
		for k, v := range map[int]float64{x: a, y: b} {
			if (strings.HasSuffix(list[k].Path, ".sides") || strings.Contains(list[k].Path, ".count.")) && v > 100 {
				return // a million triangles or copies take a fuzzer's patience and show nothing new
			}
			list[k].Put(v)
		}
		survives(t, props, tree, fmt.Sprintf("%s = %g, %s = %g", list[x].Path, a, list[y].Path, b))
	})
}
