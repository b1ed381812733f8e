package check

import "math"

// Told is a finding for other programs: with the names of parts, and its numbers in the open. docs/formats.md has its form.
type Told struct {
	Kind   string     `json:"kind"`
	Blocks bool       `json:"blocks"`
	Parts  []string   `json:"parts"`
	Frames [2]float64 `json:"frames"`
	Value  float64    `json:"value"`
	Unit   string     `json:"unit"`
	Text   string     `json:"text"`
	Mends  []string   `json:"mends"`

	Accepted string `json:"accepted,omitempty"` // the reason why it stays; it does not block then
}

// Report tells what was found about a shot.
func Report(f *Facts, found []Finding) []Told {
	out := []Told{}
	for _, x := range found {
		t := Told{Kind: x.Kind, Blocks: x.Weight == Blocks, Parts: []string{}, Frames: [2]float64{0, float64(f.Pose.Shot.Frames - 1)},
			Value: math.Min(x.Value, math.MaxFloat64), Unit: x.Unit, Text: x.Title + ". " + x.Why, Mends: []string{}}
		if x.Accepted != nil {
			if t.Accepted = *x.Accepted; t.Accepted == "" {
				t.Accepted = "no reason given"
			}
		}
		for _, id := range x.Parts {
			t.Parts = append(t.Parts, f.name(id))
		}
		if x.Frames != nil {
			t.Frames = *x.Frames
		}
		for _, m := range x.Mends {
			t.Mends = append(t.Mends, m.Words)
		}
		out = append(out, t)
	}
	return out
}
