package check

import (
	"fmt"

	"perigyre/core/edit"
)

// The camera: there is none.
func init() {
	register(0, func(f *Facts) []Finding {
		if f.Pose.Index.Part(f.Pose.Shot.Camera) >= 0 {
			return nil
		}
		return []Finding{{Kind: "camera", Weight: Blocks, Title: "No camera", Why: "There is no camera to render through."}}
	})
}

// Margins: something is cut off, or nearer to the edge than is to be kept clear, or much of the picture is empty.
func init() {
	register(20, func(f *Facts) (out []Finding) {
		s, m := f.Pose.Shot, f.Margins
		cam := f.Pose.Index.Part(s.Camera)
		if cam < 0 {
			return nil
		}
		if m == nil {
			return []Finding{{Kind: "empty", Weight: Blocks, Title: "Nothing to see", Why: "Every part is hidden, or there is none."}}
		}
		lens := s.Parts[cam].Camera
		var fit []Mend
		if !lens.Fitted {
			fit = []Mend{{"Fit the camera", []edit.Edit{{Change: &edit.SetPart{Part: s.Camera, Patch: edit.Patch(`{"camera":{"fitted":true}}`)}}}}}
		}
		switch at := frame(m.Frame); {
		case m.Tightest < 0:
			out = append(out, Finding{
				Kind: "margin", Weight: Blocks, Title: f.name(m.Part) + " is cut off at the " + m.Side, Parts: []string{m.Part}, Frames: at, Value: -m.Tightest, Unit: "%", Mends: fit, Lines: f.outline(m.Part, m.Frame),
				Why: fmt.Sprintf("On frame %.0f it reaches %.1f %% over the %s edge of the picture.", m.Frame, -m.Tightest, m.Side),
			})
		case m.Tightest < lens.Margin-0.05:
			out = append(out, Finding{
				Kind: "margin", Weight: Look, Title: f.name(m.Part) + " is within the margin at the " + m.Side, Parts: []string{m.Part}, Frames: at, Value: lens.Margin - m.Tightest, Unit: "%", Mends: fit, Lines: f.outline(m.Part, m.Frame),
				Why: fmt.Sprintf("On frame %.0f only %.1f %% are left, and %.4g %% are to be kept clear.", m.Frame, m.Tightest, lens.Margin),
			})
		}
		if m.Tightest >= 0 && m.Filled < 40 {
			out = append(out, Finding{
				Kind: "small", Weight: Look, Title: "Much of the picture is empty", Value: 100 - m.Filled, Unit: "%", Mends: fit,
				Why: fmt.Sprintf("Over the whole move the object uses %.0f %% of the picture.", m.Filled),
			})
		}
		return out
	})
}
