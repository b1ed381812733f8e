package render

import (
	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// shutter is where parts are while the shutter is open.
type shutter struct {
	worlds [][]geom.Mat4
	times  []float64 // frames, in the middle of equal parts of its time
}

// mostBends are how many of what bends while the shutter is open are made.
const mostBends = 8

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
	open := func(share float64) float64 {
		at := t + long*(share-0.5)
		if e.Shot.Ending == shot.Once {
			at = min(max(at, 0), float64(e.Shot.Frames-1))
		}
		return at
	}
	for k := range mostKeys {
		out.worlds = append(out.worlds, e.At(open(float64(k)/(mostKeys-1))))
	}
	for k := range mostBends {
		out.times = append(out.times, open((float64(k)+0.5)/mostBends))
	}
	return out
}

// bends returns the times at which a part has to be bent, none where it stays as it is.
func (s shutter) bends(e *pose.Evaluator, part int) []float64 {
	for _, f := range e.Flexes(part) {
		for _, t := range s.times {
			if motion.FlexAngle(f.Move, motion.At(e.Shot, t)) != motion.FlexAngle(f.Move, motion.At(e.Shot, s.times[0])) {
				return s.times
			}
		}
	}
	return nil
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
