package exploded_test

import (
	"context"
	"fmt"
	"testing"

	"perigyre/core/exploded"
	"perigyre/core/model"
	"perigyre/core/pose"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/demo"
	"perigyre/library"
)

// lantern is the demo's lantern as it comes in from its file.
func lantern(t testing.TB) (*shot.Shot, *library.Assets, string) {
	t.Helper()
	data, err := demo.Lantern()
	if err != nil {
		t.Fatal(err)
	}
	a := library.InMemory(model.DefaultLimits)
	m, _, err := library.Bring(context.Background(), []library.File{{Name: "lantern.glb", Data: data}}, "", model.DefaultLimits, func(string, float64) {})
	if err != nil {
		t.Fatal(err)
	}
	hash, err := a.KeepModel(m)
	if err != nil {
		t.Fatal(err)
	}
	s, n := shot.New("t"), 0
	o := stage.Defaults()
	o.Asset, o.Name, o.Unit, o.Up, o.NewID = hash, "Lantern", "m", "y", func() string { n++; return fmt.Sprintf("p%03d", n) }
	if err := stage.Put(s, m, o, a); err != nil {
		t.Fatal(err)
	}
	return s, a, s.Sources[0].Root
}

func BenchmarkTakeApartTheLantern(b *testing.B) {
	s, a, root := lantern(b)
	for b.Loop() {
		if _, err := exploded.Find(context.Background(), pose.New(s), a, exploded.Wish{Part: root}, func(float64) {}); err != nil {
			b.Fatal(err)
		}
	}
}
