package mesh

import "fmt"

// Bevel names how the front edge of an extrusion is taken off.
type Bevel string

const (
	NoBevel    Bevel = "none"
	Chamfer    Bevel = "chamfer"
	RoundBevel Bevel = "round"
)

// Extrusion says how a region of a plane is made solid, in the region's own unit.
type Extrusion struct {
	Depth float64 `json:"depth"`
	Bevel Bevel   `json:"bevel"`
	Width float64 `json:"width"` // of the bevel
	Steps int     `json:"steps"` // of a round bevel
	Both  bool    `json:"both"`  // the back edge too
}

// Check returns an error in a sentence for measures that make no solid.
func (s Extrusion) Check() error {
	switch {
	case !(s.Depth > 0 && s.Depth < 1e9):
		return fmt.Errorf("a mark needs a depth of more than 0")
	case s.Bevel != NoBevel && s.Bevel != Chamfer && s.Bevel != RoundBevel:
		return fmt.Errorf("an edge has no bevel, a chamfer or a round one, not %q", s.Bevel)
	case !(s.Width >= 0 && s.Width < 1e9):
		return fmt.Errorf("a bevel is not less than 0 wide")
	case s.Steps < 0 || s.Steps > 32:
		return fmt.Errorf("a round bevel has 1 to 32 segments")
	}
	return nil
}
