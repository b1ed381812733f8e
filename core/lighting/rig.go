package lighting

import (
	"embed"
	"encoding/json"
	"fmt"
	"math"
	"path"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

//go:embed rigs/*.json
var rigFiles embed.FS

// Rigs are those to start from, a file each in rigs, in the order of their files. They are shared and must not be changed.
var Rigs = readRigs()

func readRigs() (out []shot.Rig) {
	names, err := rigFiles.ReadDir("rigs")
	if err != nil {
		panic(err)
	}
	for _, n := range names {
		data, err := rigFiles.ReadFile(path.Join("rigs", n.Name()))
		if err != nil {
			panic(err)
		}
		var r shot.Rig
		d := json.NewDecoder(strings.NewReader(string(data)))
		d.DisallowUnknownFields()
		if err := d.Decode(&r); err != nil {
			panic(fmt.Sprintf("%s: %v", n.Name(), err)) // it came with the program
		}
		out = append(out, r)
	}
	return out
}

// FindRig returns a rig of the shot, or one to start from.
func FindRig(s *shot.Shot, name string) (*shot.Rig, error) {
	for _, list := range [][]shot.Rig{s.Rigs, Rigs} {
		for i := range list {
			if list[i].Name == name {
				return &list[i], nil
			}
		}
	}
	return nil, fmt.Errorf("there is no rig %q", name)
}

// Place returns a light of a rig as it stands round something of a size, half of its largest measure: its place in the room and
// its measures. A sun keeps its own, since it is no nearer to what is small.
func Place(l *shot.RigLight, middle geom.Vec3, size float64) (geom.Mat4, shot.LightSpec) {
	b := Bearing{l.Left * math.Pi / 180, l.High * math.Pi / 180, l.Distance * size}
	spec := l.Light.Scaled(size)
	spec.Settle()
	return Facing(b.From(middle), middle), spec
}

// Taken returns a light of a shot as one of a rig.
func Taken(name string, at geom.Mat4, spec shot.LightSpec, middle geom.Vec3, size float64) shot.RigLight {
	b := BearingOf(middle, at.Column(3))
	if spec.Kind == shot.Sun { // it stands where it shines from
		b = BearingOf(geom.Vec3{}, at.Vector(geom.Vec3{0, 0, 1}).Unit().Mul(math.Max(b.Distance, size)))
	}
	spec.Rig, spec.Aim = "", ""
	return shot.RigLight{Name: name, Left: shot.Degrees(b.Left), High: shot.Degrees(b.High), Distance: math.Max(1e-3, b.Distance/size), Light: spec.Scaled(1 / size)}
}
