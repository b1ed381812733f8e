package main

import (
	"fmt"
	"math"
	"os/exec"
	"strconv"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

func nothing(int, []geom.Mat4) error { return nil }

const movingParts, bakedFrames = 1000, 240

// bake measures the motion of many parts, and the same keys in three's animation mixer where Node and the
// packages of the browser tests are there.
func bake() {
	turning := shot.New("bench")
	turning.Frames = bakedFrames
	for i := range movingParts {
		turning.Parts = append(turning.Parts, shot.Part{ID: fmt.Sprint(i), Name: "p", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{{ID: fmt.Sprint("m", i), Kind: "turn", After: shot.Stays, Data: &move.Turn{
			Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: 1, Direction: shot.Clockwise,
		}}}})
	}
	check(turning.Validate())
	row("baking 1,000 turning parts x 240 frames", fastest(5, func() { check(pose.New(turning).Bake(nothing)) })*1000, "ms")
	kinds := []shot.Between{shot.Straight, shot.Smooth}
	ours, baked, theirs := []float64{math.Inf(1), math.Inf(1)}, []float64{math.Inf(1), math.Inf(1)}, []float64{math.Inf(1), math.Inf(1)}
	for range 5 { // by turns, since a machine is faster at one time than at another
		for k, how := range kinds {
			e := pose.New(pinned(how))
			at := e.Some(0) // one memory for all frames, as the mixer's objects are
			ours[k] = min(ours[k], fastest(2, func() {
				for f := range bakedFrames {
					at.Go(float64(f))
					for i := range movingParts {
						at.Of(i)
					}
				}
			}))
			baked[k] = min(baked[k], fastest(2, func() { check(e.Bake(nothing)) }))
		}
		for k, seconds := range mixer() {
			theirs[k] = min(theirs[k], seconds)
		}
	}
	for k, name := range []string{"linear", "cubic"} {
		row(fmt.Sprintf("%s pins of 1,000 parts, a part and frame, one core", name), ours[k]/movingParts/bakedFrames*1e9, "ns")
		if !math.IsInf(theirs[k], 1) {
			row("  over three's animation mixer", ours[k]/theirs[k], "")
		}
		row("  baked on all cores, a part and frame", baked[k]/movingParts/bakedFrames*1e9, "ns")
	}
}

// pinned is a shot of parts with the same five keys as e2e/mixer.mjs: a place in three tracks and a turn.
func pinned(how shot.Between) *shot.Shot {
	s := shot.New("bench")
	s.Frames = bakedFrames
	for i := range movingParts {
		p := shot.Part{ID: fmt.Sprint(i), Name: "p", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}
		tracks := []shot.Track{{Value: shot.TrackX}, {Value: shot.TrackY}, {Value: shot.TrackZ}, {Value: shot.TrackOrientation}}
		for _, t := range []float64{0, 1, 2.5, 6, 10} {
			at := t * bakedFrames / 10
			for k, v := range []float64{t + float64(i), math.Sin(t), -t} {
				tracks[k].Pins = append(tracks[k].Pins, shot.Pin{Time: at, Value: v, Next: how})
			}
			tracks[3].Pins = append(tracks[3].Pins, shot.Pin{Time: at, Turn: &geom.Quat{0, math.Sin(t / 4), 0, math.Cos(t / 4)}})
		}
		p.Tracks = tracks
		s.Parts = append(s.Parts, p)
	}
	check(s.Validate())
	return s
}

// mixer returns the seconds that three takes for linear and cubic keys, nothing where it cannot be run.
func mixer() (seconds []float64) {
	c := exec.Command("node", "mixer.mjs", strconv.Itoa(movingParts), strconv.Itoa(bakedFrames))
	c.Dir = "e2e"
	out, err := c.Output()
	if err != nil {
		fmt.Println("three's animation mixer cannot be run here; make test installs what it needs")
		return nil
	}
	for _, line := range strings.Fields(string(out)) {
		v, err := strconv.ParseFloat(line, 64)
		check(err)
		seconds = append(seconds, v)
	}
	return seconds
}
