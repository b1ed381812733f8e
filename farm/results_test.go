package farm

import (
	"context"
	"sync/atomic"
	"testing"
	"time"

	"perigyre/core/render"
	"perigyre/core/scene"
	"perigyre/library"
	"perigyre/runs"

	"perigyre/core/model"
)

// office is a first program without a queue: what it decides can be looked at by itself.
func office(t *testing.T, workers ...string) *Boss {
	t.Helper()
	b := &Boss{props: render.NewProps(library.InMemory(model.DefaultLimits)), members: map[string]*member{}, wishes: map[string]string{}, waits: map[string]*wait{}, hash: "right", millis: 100}
	b.ctx, b.end = context.WithCancel(context.Background())
	b.give = func(context.Context, *wait, string) error { return nil }
	t.Cleanup(func() { b.end(); b.all.Wait() })
	for _, id := range workers {
		b.hear(beat{ID: id, Name: id, Program: runs.Program(), Hash: "right", Millis: 200, Tests: 1}, time.Now())
	}
	return b
}

// order waits for a small picture; odd ones are drawn twice.
func (b *Boss) waiting(twice bool) *wait {
	key := "00000000"
	for i := range 10_000 {
		if key = string([]byte{'a', 'b', 'c', 'd', byte('0' + i/1000), byte('0' + i/100%10), byte('0' + i/10%10), byte('0' + i%10)}); sampled(key) == twice {
			break
		}
	}
	o := reference()
	o.Width, o.Height = 8, 8
	w := &wait{key: key, order: o, strip: -1, asked: time.Now(), got: make(chan struct{})}
	b.waits[key] = w
	return w
}

func (w *wait) hand(worker, hash string, tests int) {
	w.results = append(w.results, &parcel{Worker: worker, hash: hash, Tests: tests})
}

// What a worker draws is used once it has passed a test that came after it, and not before.
func TestAPictureIsUsedAfterATest(t *testing.T) {
	b := office(t, "left")
	w := b.waiting(false)
	w.hand("left", "x", 1)
	if b.settle(w); w.parcel != nil {
		t.Fatal("it was used before a test")
	}
	b.hear(beat{ID: "left", Name: "left", Program: runs.Program(), Hash: "right", Tests: 2}, time.Now())
	if b.settle(w); w.parcel == nil {
		t.Fatal("it was not used after a test")
	}
}

// A test that is not passed takes back all that was drawn since the last, and the worker is not used any more, however right it is later.
func TestAFailedTestTakesBackWhatWasDrawn(t *testing.T) {
	b := office(t, "left", "right")
	w := b.waiting(false)
	w.hand("left", "x", 1)
	wrong := beat{ID: "left", Name: "left", Program: runs.Program(), Hash: "wrong", Tests: 2}
	if a := b.hear(wrong, time.Now()); a.Wish != "" || a.Why == "" {
		t.Errorf("it is told %+v", a)
	}
	if len(w.results) != 0 || b.hands() != 1 {
		t.Errorf("%d of its pictures are left, and %d workers", len(w.results), b.hands())
	}
	wrong.Hash, wrong.Tests = "right", 3
	if a := b.hear(wrong, time.Now()); a.Wish != "" {
		t.Error("it is used again")
	}
}

// What a worker hands in after it was refused is not waited for: its order is drawn by another, also where it is the second of a sample.
func TestWhatComesLateFromARefusedWorkerIsDrawnAgain(t *testing.T) {
	for _, twice := range []bool{false, true} {
		b := office(t, "left", "right", "third")
		var again atomic.Int32
		b.give = func(context.Context, *wait, string) error { again.Add(1); return nil }
		w := b.waiting(twice)
		b.mu.Lock()
		b.members["left"].refused, b.members["right"].passed = "it drew something else", 5
		if w.twice = twice; twice {
			w.hand("right", "x", 1)
		}
		w.hand("left", "y", 1)
		w.asked = time.Now().Add(-time.Minute)
		b.sift(w, time.Now(), "")
		b.settle(w)
		lost := b.lost(time.Now())
		b.mu.Unlock()
		b.all.Wait()
		if w.parcel != nil || int(again.Load())+len(lost) != 1 {
			t.Errorf("twice %v: used %v, asked again %d times, found lost %d", twice, w.parcel, again.Load(), len(lost))
		}
	}
}

// Of a sample two workers draw each picture; where they differ, this machine says who is wrong.
func TestTwoThatDifferAreJudged(t *testing.T) {
	b := office(t, "left", "right")
	w := b.waiting(true)
	right := draw(t.Context(), w.order, -1, b.props, 0, nil)
	right.Worker = "left"
	data, err := right.pack()
	if err != nil {
		t.Fatal(err)
	}
	if right, err = unpack(data, most(w.order)); err != nil {
		t.Fatal(err)
	}
	b.members["left"].passed, b.members["right"].passed = 5, 5
	w.twice = true // as when the second was asked
	w.results = append(w.results, right)
	b.mu.Lock()
	b.settle(w)
	if w.parcel != nil {
		t.Error("one of a sample is enough")
	}
	w.hand("right", "another", 1)
	b.settle(w)
	b.mu.Unlock()
	<-w.got
	b.mu.Lock()
	defer b.mu.Unlock()
	if w.parcel.hash != right.hash || b.members["right"].refused == "" || b.members["left"].refused != "" {
		t.Errorf("%+v, %+v", b.members["left"], b.members["right"])
	}
}

// An order that cannot be drawn ends with the reason, though there is but one worker to fail at it.
func TestAFaultOfAnOrderIsTold(t *testing.T) {
	b := office(t, "left")
	w := b.waiting(false)
	w.order.Scene = &scene.Scene{} // without a camera
	w.results = append(w.results, &parcel{Worker: "left", Fault: "it went wrong there"})
	b.mu.Lock()
	b.settle(w)
	b.mu.Unlock()
	select {
	case <-w.got:
	case <-time.After(20 * time.Second):
		t.Fatal("it waits for ever")
	}
	if w.err == nil || w.err.Error() != "the shot has no camera to render through" {
		t.Errorf("the reason is %v", w.err)
	}
}

// A worker of another build is refused, one whose name hides characters is shown without them, and one that gives itself the name of the
// judge, or none, is not heard.
func TestWhoIsNotHeard(t *testing.T) {
	b := office(t)
	if a := b.hear(beat{ID: "abcd", Program: "another"}, time.Now()); a.Wish != "" || a.Why == "" {
		t.Errorf("another build is told %+v", a)
	}
	for _, id := range []string{judge, "", "a.b.c.d", "ABCD"} {
		if b.hear(beat{ID: id, Program: runs.Program()}, time.Now()); b.members[id] != nil {
			t.Errorf("%q is a worker", id)
		}
	}
	b.hear(beat{ID: "efgh", Name: "a\u202eb\n" + string(make([]byte, 500)), Program: runs.Program(), Share: 7, Processors: -3}, time.Now())
	if m := b.members["efgh"]; m.Name != "ab" || m.Share != 1 || m.Processors != 0 {
		t.Errorf("it is %+v", m.beat)
	}
}

// A worker is as fast as its frames say, beside this machine's of the same run; before there are any, as its reference picture says.
func TestSpeedIsOfTheFramesOfARun(t *testing.T) {
	b := office(t, "here", "left")
	b.local = &Worker{id: "here"}
	left := b.members["left"]
	draw := func(worker string, width int, millis ...int64) {
		for _, ms := range millis {
			w := b.waiting(false)
			w.order.Width = width
			b.decide(w, &parcel{Worker: worker, Millis: ms})
		}
	}
	expect := func(want float64) {
		t.Helper()
		if got := b.speed(left); got != want {
			t.Errorf("it is taken to be %g times as fast, not %g", got, want)
		}
	}
	draw("here", 8, 1000, 1100, 900)
	draw("left", 8, 10, 9000)
	expect(0.5) // 100 ms of 200
	draw("left", 8, 250)
	expect(4)
	draw("left", 8, 100, 100, 100, 100, 100, 100, 100, 100)
	expect(10)
	draw("left", 16, 500, 500, 500) // of another run
	expect(0.5)
	draw("left", 8, 0, 0, 0) // it says
	expect(fastest)
}
