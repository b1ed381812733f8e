package shot

import (
	"fmt"
	"math"
)

// Rig is a named arrangement of lights with its surroundings, in proportion to what it lights: lengths are in sizes of that, a
// size being half of its largest measure.
type Rig struct {
	Name        string      `json:"name"`
	Note        string      `json:"note,omitempty"`
	Environment Environment `json:"environment"`
	Lights      []RigLight  `json:"lights"`
}

// RigLight is a light of a rig, aimed at the middle.
type RigLight struct {
	Name     string    `json:"name"`
	Left     float64   `json:"left"` // degrees, see lighting.Bearing
	High     float64   `json:"high"`
	Distance float64   `json:"distance"` // sizes
	Light    LightSpec `json:"light"`    // width, height and radius in sizes
}

func (r *Rig) validate() error {
	if err := CheckName("a rig", r.Name); err != nil {
		return err
	}
	if err := r.Environment.validate(); err != nil {
		return err
	}
	for i := range r.Lights {
		l := &r.Lights[i]
		if !within(-1e6, 1e6, l.Left, l.High) || !within(1e-6, 1e6, l.Distance) {
			return fmt.Errorf("the light %s of the rig %s stands nowhere that it can", l.Name, r.Name)
		}
		if err := l.Light.validate(); err != nil {
			return err
		}
	}
	return nil
}

// Scaled returns the light with lengths multiplied.
func (l LightSpec) Scaled(k float64) LightSpec {
	l.Width, l.Height, l.Radius = l.Width*k, l.Height*k, l.Radius*k
	return l
}

// Degrees are radians.
func Degrees(radians float64) float64 { return radians * 180 / math.Pi }
