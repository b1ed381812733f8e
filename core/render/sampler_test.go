package render

import (
	"math/rand/v2"
	"testing"
)

// The processor's lanes draw the numbers that are drawn one by one, to the last bit.
func TestLanesDrawTheSameNumbers(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 2))
	for range 10_000 {
		index, seeds := rng.Uint32N(2000), [sets]uint32{rng.Uint32(), rng.Uint32(), rng.Uint32(), rng.Uint32()}
		var one, all [3]points
		scramblePlain(one[:], index, seeds)
		scrambleVector(all[:], index, seeds)
		if one != all {
			t.Fatalf("%v one by one, %v together", one, all)
		}
	}
}

// Samples whose first numbers are drawn together draw what each draws that begins by itself.
func TestSamplesBegunTogetherDrawTheSame(t *testing.T) {
	for _, random := range []bool{false, true} {
		var drawn [5]points
		var many sampler
		many.random = random
		many.beginAll(11, 6, drawn[:])
		for k := range drawn {
			index := 6 + uint32(k)
			one := newSampler(11, index, nil)
			one.random = random
			many.beginWith(index, &drawn[k])
			for i := range 3 * sets * setSize {
				if a, b := one.next1(), many.next1(); a != b {
					t.Fatalf("number %d of sample %d is %g by itself, %g among others", i, index, a, b)
				}
			}
		}
	}
}

// Another phase has the same numbers up to where it begins and others after, wherever that is among those drawn at once; none of them twice.
func TestPhasesPartWhereTheyBegin(t *testing.T) {
	for first := range 2 * sets * setSize {
		a, b := newSampler(7, 3, nil), newSampler(7, 3, nil)
		seen := map[float32]bool{}
		for range first {
			v := a.next1()
			if w := b.next1(); v != w {
				t.Fatalf("%g and %g before the phase begins", v, w)
			}
			seen[v] = true
		}
		a.shift(0)
		b.shift(1)
		for k := range 2 * sets * setSize {
			v, w := a.next1(), b.next1()
			if v == w {
				t.Fatalf("number %d after %d is %g in both phases", k, first, v)
			}
			if seen[v] || seen[w] {
				t.Fatalf("number %d after %d has been drawn before", k, first)
			}
		}
	}
}
