package library

import (
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/model"
)

// While one model is being read others are given: with a lock held over the reading this test would never end.
func TestOneModelHoldsUpNoOther(t *testing.T) {
	kept := map[string][]byte{}
	slow, reading, release := "", make(chan bool), make(chan bool)
	a := &Assets{
		Keep: func(data []byte) (string, error) { h := hashOf(string(data)); kept[h] = data; return h, nil },
		Open: func(hash string) ([]byte, error) {
			if hash == slow {
				close(reading)
				<-release
			}
			return kept[hash], nil
		},
	}
	var hashes []string
	for i := range 2 {
		m := &model.Model{Nodes: []model.Node{{Name: "n", Parent: -1, Mesh: 0, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}},
			Meshes: []model.Mesh{{Name: "m", Primitives: []model.Primitive{{Mesh: mesh.Box(geom.Vec3{1, 1, float64(i + 1)}), Material: -1}}}}}
		h, err := a.KeepModel(m)
		if err != nil {
			t.Fatal(err)
		}
		hashes = append(hashes, h)
	}
	slow = hashes[0]
	fresh := &Assets{Keep: a.Keep, Open: a.Open}
	done := make(chan error)
	go func() {
		_, err := fresh.Model(hashes[0])
		done <- err
	}()
	<-reading
	if _, err := fresh.Primitives(hashes[1], 0); err != nil {
		t.Fatal(err)
	}
	close(release)
	if err := <-done; err != nil {
		t.Fatal(err)
	}
}
