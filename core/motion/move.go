package motion

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

var up = geom.Vec3{0, 1, 0}

// Apply changes a part's pose by one move at time t. Poses are in the parent's frame.
func Apply(m *shot.Move, t Time, p *shot.Rest) {
	if m.Muted {
		return
	}
	switch m.Kind {
	case shot.KindTurntable:
		if m.Turntable.Moves == shot.ObjectMoves {
			p.Rotation = geom.AxisAngle(up, TurntableAngle(m.Turntable, t)).Mul(p.Rotation)
		}
	case shot.KindTurn:
		turn := m.Turn
		angle := turn.Direction.Sign() * 2 * math.Pi * turn.Turns * Progress(t, turn.Span, turn.Pace, turn.After)
		q := geom.AxisAngle(turn.Axis, angle)
		if turn.Frame == shot.OwnFrame {
			p.Rotation = p.Rotation.Mul(q)
		} else {
			p.Rotation = q.Mul(p.Rotation)
		}
	case shot.KindFloat:
		f := m.Float
		sin, cos := math.Sincos(2 * math.Pi * t.T / f.Period)
		p.Position[1] += f.Height / 2 * (1 - cos)
		p.Rotation = geom.AxisAngle(geom.Vec3{0, 0, 1}, f.Tilt*sin).Mul(p.Rotation)
	}
}

// TurntableAngle returns the angle of a turntable in radians: angle(t) = 2 pi k t / N in a loop, so
// that frame N - 1 is one step short of frame 0.
func TurntableAngle(m *shot.Turntable, t Time) float64 {
	return m.Direction.Sign() * 2 * math.Pi * float64(m.Turns) * t.whole()
}
