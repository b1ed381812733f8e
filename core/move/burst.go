package move

import (
	"fmt"
	"math"
	"math/rand/v2"

	"encoding/json"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Burst throws the parts of a group to random places and orientations. The same seed gives the same.
type Burst struct {
	Spread float64 `json:"spread"` // metres
	Turn   float64 `json:"turn"`   // most turn, radians
	Seed   uint64  `json:"seed"`
}

var _ = define(Spec[Burst]{
	Kind: "burst", Note: "its parts fly apart and come back", Find: "explode scatter random pieces",
	Suits: (*Subject).holdsMany,
	First: func(s *Subject) (Burst, Timing) { return Burst{Spread: s.Step(), Turn: math.Pi, Seed: 1}, gently() },
	Words: []Value[Burst]{
		{Name: "spread", Label: "Spread", Unit: Length, Pins: true, At: func(m *Burst) *float64 { return &m.Spread }},
		{Name: "turn", Label: "Turn", Unit: Angle, Pins: true, At: func(m *Burst) *float64 { return &m.Turn }},
		{Name: "seed", Label: "Seed", Whole: true, In: &Range{0, 1e9}, Get: func(m *Burst, _ *shot.Part) any { return m.Seed },
			Set: func(m *Burst, raw json.RawMessage, _ *Subject) error {
				if json.Unmarshal(raw, &m.Seed) != nil {
					return fmt.Errorf("a seed is a whole number from 0, not %s", raw)
				}
				return nil
			}},
	},
	Sentence: say("The parts of ", part, " burst apart by up to ", val("spread"), ", turning by up to ", val("turn"), ", by the seed ", val("seed"), timing),
	Check:    func(m *Burst, on *shot.Part) error { return onMany("a burst")(on) },
	Members: &Members[Burst]{
		Each: true,
		Apply: func(m *Burst, c *Context, p *shot.Rest) {
			rng := rand.New(rand.NewPCG(m.Seed, uint64(c.Place.Rank)+1))
			e := c.Progress()
			way := randomWay(rng).Mul(m.Spread * math.Cbrt(rng.Float64()))
			p.Position = p.Position.Add(way.Mul(e * c.Metre))
			p.Rotation = geom.AxisAngle(randomWay(rng), m.Turn*(2*rng.Float64()-1)*e).Mul(p.Rotation)
		},
	},
	Bar: func(m *Burst) string { return fmt.Sprintf("%.4g mm", m.Spread*1000) },
})

// randomWay returns a direction, evenly over the sphere.
func randomWay(rng *rand.Rand) geom.Vec3 {
	z := 2*rng.Float64() - 1
	sin, cos := math.Sincos(2 * math.Pi * rng.Float64())
	r := math.Sqrt(1 - z*z)
	return geom.Vec3{r * cos, z, r * sin}
}
