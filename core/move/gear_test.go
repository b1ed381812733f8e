package move

import (
	"encoding/json"
	"testing"
)

// A ratio that is typed as a decimal is kept as an exact fraction; wheels keep their teeth; what cannot be kept is refused, and nothing
// of it stays.
func TestRatiosAreExact(t *testing.T) {
	for _, c := range []struct {
		driver           bool
		to               string
		wantNum, wantDen int
	}{
		{true, "0.62", 31, 1000}, {true, "16", 16, 20}, {false, "0.75", 16, 1}, {false, "2.5e1", 12, 25}, {true, "-1", 0, 0}, {true, "0.0000001", 0, 0},
		{true, "\"x\"", 0, 0}, {true, "1e400000000", 0, 0}, {false, "0.123456789", 0, 0},
	} {
		m := &Gear{Num: 12, Den: 20}
		err := m.set(json.RawMessage(c.to), c.driver)
		if (err == nil) != (c.wantNum > 0) || err == nil && (m.Num != c.wantNum || m.Den != c.wantDen) {
			t.Errorf("%s: %d to %d, %v", c.to, m.Num, m.Den, err)
		}
	}
}
