package library

import (
	"context"
	"strings"
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

// What a glTF says comes before what the names of pictures beside it may mean: its pictures by whatever names it has for
// them are its own, and of others nothing is guessed. Broken ones are said when they come.
func TestPicturesOfAFileThatSays(t *testing.T) {
	file := `{"asset":{"version":"2.0"},"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0}],"meshes":[{"primitives":[{"attributes":{"POSITION":0},"material":0}]}],
		"materials":[{"pbrMetallicRoughness":{"roughnessFactor":0.03,"baseColorTexture":{"index":0}}}],"textures":[{"source":0},{"source":1}],
		"images":[{"name":"Wood","uri":"tex/oak_basecolor.png"},{"uri":"broken.png"}],"accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3","min":[0,0,0],"max":[1,1,0]}],
		"bufferViews":[{"buffer":0,"byteLength":36}],"buffers":[{"byteLength":36,"uri":"data:application/octet-stream;base64,AAAAAAAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAgD8AAAAA"}]}`
	whole := pictureOf(64, 64)
	m, r, err := Bring(context.Background(), []File{{"a.gltf", []byte(file)}, {"tex/oak_basecolor.png", pictureOf(4, 4)}, {"oak_roughness.png", pictureOf(4, 4)}, {"broken.png", whole[:len(whole)-40]}}, "m", model.DefaultLimits, nil)
	if err != nil {
		t.Fatal(err)
	}
	if len(m.Spare) != 1 || m.Spare[0].Name != "oak_roughness.png" || !Says(r.File) {
		t.Errorf("spare are %+v", m.Spare)
	}
	if len(r.Missing) != 1 || !strings.Contains(r.Missing[0], "broken.png (it is damaged)") {
		t.Errorf("missing are %q", r.Missing)
	}
}
