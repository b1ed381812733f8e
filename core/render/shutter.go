package render

import (
	"perigyre/core/geom"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// shutter is where parts are while the shutter is open.
type shutter struct{ worlds [][]geom.Mat4 }

// mostKeys of the shutter's time are evaluated.
const mostKeys = 9

// exposure evaluates the shot at times even over the shutter's: open about the frame for its angle's share of
// the time of a frame (a shutter of 180 degrees for half of it). A camera without one sees an instant.
func exposure(e *pose.Evaluator, t float64) shutter {
	cam := e.Shot.Part(e.Shot.Camera)
	if cam == nil || !(cam.Camera.Shutter > 0) {
		return shutter{}
	}
	long := cam.Camera.Shutter / 360
	var out shutter
	for k := range mostKeys {
		at := t + long*(float64(k)/(mostKeys-1)-0.5)
		if e.Shot.Ending == shot.Once {
			at = min(max(at, 0), float64(e.Shot.Frames-1))
		}
		out.worlds = append(out.worlds, e.At(at))
	}
	return out
}

// moves reports whether a part of some kind moves while the shutter is open.
func (s shutter) moves(of func(i int) bool) bool {
	for _, w := range s.worlds {
		for i := range w {
			if of(i) && w[i] != s.worlds[0][i] {
				return true
			}
		}
	}
	return false
}

// keys returns where a part is, none where it stands still.
func (s shutter) keys(i int) []geom.Mat4 {
	var out []geom.Mat4
	still := true
	for _, w := range s.worlds {
		out = append(out, w[i])
		still = still && w[i] == s.worlds[0][i]
	}
	if still {
		return nil
	}
	return out
}
