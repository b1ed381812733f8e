package farm

import (
	"cmp"
	"container/heap"
	"math/rand/v2"
	"slices"
)

// Simulation says how long a run takes on many machines, from what was measured on one: frames, and what goes to and fro. All that
// is shared is served one after the other: the first program, which resolves a frame and gives it out and later writes it, and its
// network.
type Simulation struct {
	Frames   int
	Times    []float64 // seconds that frames take on a machine of speed 1, drawn from at random
	Speeds   []float64 // of machines, in turn; all 1 for none
	Order    float64   // seconds that the first program takes to resolve a frame and give it out
	Write    float64   // seconds that it takes to check and write one
	Latency  float64   // seconds until an order is there, and until what was drawn is
	Assets   float64   // bytes that a machine fetches once
	Result   float64   // bytes of a frame
	Network  float64   // bytes a second of the first program's
	Tests    float64   // share of its time that a machine draws the reference picture in
	Machines int
	Seed     uint64
}

// Outcome is how a simulated run went.
type Outcome struct {
	Seconds    float64
	Efficiency float64 // what frames take together over what all machines had time for, in multiples of speed 1
	Busy       float64 // share of the time in which the first program works
	Network    float64 // share of the time in which its network is full
}

// line serves one after the other.
type line struct{ free, used float64 }

// serve returns when something that comes at a time and takes so long is done.
func (l *line) serve(at, takes float64) float64 {
	l.free = max(l.free, at) + takes
	l.used += takes
	return l.free
}

// event is something that happens at a time.
type event struct {
	at float64
	n  int // of events that are at the same time, which came first
	do func()
}

type events []event

func (e events) Len() int { return len(e) }
func (e events) Less(i, j int) bool {
	return e[i].at < e[j].at || e[i].at == e[j].at && e[i].n < e[j].n
}
func (e events) Swap(i, j int) { e[i], e[j] = e[j], e[i] }
func (e *events) Push(x any)   { *e = append(*e, x.(event)) }
func (e *events) Pop() any     { last := (*e)[len(*e)-1]; *e = (*e)[:len(*e)-1]; return last }

// Run simulates it, event by event.
func (s Simulation) Run() Outcome {
	rng := rand.New(rand.NewPCG(s.Seed, 1))
	var coming events
	now, count := 0.0, 0
	then := func(at float64, do func()) {
		count++
		heap.Push(&coming, event{at, count, do})
	}
	type machine struct {
		speed   float64
		fetched bool
	}
	var idle []*machine // the fastest first: they ask more often
	total := 0.0
	for i := range s.Machines {
		m := &machine{speed: 1}
		if len(s.Speeds) > 0 {
			m.speed = s.Speeds[i%len(s.Speeds)]
		}
		total += m.speed
		idle = append(idle, m)
	}
	slices.SortStableFunc(idle, func(a, b *machine) int { return cmp.Compare(b.speed, a.speed) })
	var first, network line
	left, ready := s.Frames, 0 // frames that are not given out, and orders that wait for a machine
	work, end := 0.0, 0.0
	var give func()
	var start func()
	draw := func(m *machine) {
		takes := s.Times[rng.IntN(len(s.Times))]
		work += takes
		then(now+takes/m.speed*(1+s.Tests)+s.Latency, func() {
			then(network.serve(now, s.Result/s.Network), func() {
				then(first.serve(now, s.Write), func() {
					end = now
					give()
				})
				idle = append(idle, m)
				start()
			})
		})
	}
	start = func() {
		if ready == 0 || len(idle) == 0 {
			return
		}
		m := idle[0]
		idle = idle[1:]
		ready--
		if m.fetched {
			draw(m)
			return
		}
		m.fetched = true
		then(network.serve(now, s.Assets/s.Network), func() { draw(m) })
	}
	give = func() {
		if left == 0 {
			return
		}
		left--
		then(first.serve(now, s.Order)+s.Latency, func() {
			ready++
			start()
		})
	}
	for range min(s.Frames, 2*s.Machines) { // no more are out than two a machine
		give()
	}
	for len(coming) > 0 {
		e := heap.Pop(&coming).(event)
		now = e.at
		e.do()
	}
	return Outcome{Seconds: end, Efficiency: work / (end * total), Busy: first.used / end, Network: network.used / end}
}
