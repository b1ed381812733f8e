package shot

import (
	"fmt"
	"math"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/mesh"
)

// Mark is a drawing or a word made solid. It is on a group whose children are its areas or letters;
// changing it makes their meshes anew and leaves their places, moves and materials.
type Mark struct {
	Drawing   string         `json:"drawing,omitempty"` // content hash of an SVG
	Word      *Word          `json:"word,omitempty"`
	Solid     mesh.Extrusion `json:"solid"`     // lengths in metres
	Tolerance float64        `json:"tolerance"` // of curves, metres
	Built     string         `json:"built"`     // what the meshes were made from; the server's
	Places    []geom.Vec3    `json:"places"`    // where each area or letter was put then; the server's
}

// Placed returns where the area or letter with a number was put when the mark was made.
func (m *Mark) Placed(k int) geom.Vec3 {
	if k < len(m.Places) {
		return m.Places[k]
	}
	return geom.Vec3{}
}

// Word is lettering.
type Word struct {
	Text    string  `json:"text"`    // lines are parted by newlines
	Font    string  `json:"font"`    // name of a font that ships along, or content hash of a font file
	Size    float64 `json:"size"`    // of the em, metres
	Spacing float64 `json:"spacing"` // added between letters, in ems
	Leading float64 `json:"leading"` // from line to line, in ems
	Align   string  `json:"align"`   // left, centre or right
}

const longestWord = 2000

func (m *Mark) validate() error {
	if err := m.Solid.Check(); err != nil {
		return err
	}
	if !positive(m.Tolerance) {
		return fmt.Errorf("the tolerance of curves is more than 0")
	}
	if m.Word == nil {
		if m.Drawing == "" {
			return fmt.Errorf("a mark is a drawing or a word")
		}
		return nil
	}
	w := m.Word
	switch {
	case strings.TrimSpace(w.Text) == "" || len(w.Text) > longestWord:
		return fmt.Errorf("a word has 1 to %d letters", longestWord)
	case !positive(w.Size) || w.Size > 1e6:
		return fmt.Errorf("the size of letters is more than 0")
	case !finite(w.Spacing) || math.Abs(w.Spacing) > 100 || !positive(w.Leading) || w.Leading > 100:
		return fmt.Errorf("the spacing of letters and lines is a number of ems")
	case w.Align != "left" && w.Align != "centre" && w.Align != "right":
		return fmt.Errorf("lines are set left, centre or right, not %q", w.Align)
	}
	return nil
}
