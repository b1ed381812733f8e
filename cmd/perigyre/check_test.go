package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"perigyre/core/check"
)

// What would ruin a render is told, with 1, and stops a render unless one renders anyway; a sound shot is let through.
func TestCheckCommand(t *testing.T) {
	project, dir := projectZip(t), t.TempDir()
	if code, out, errs := run(t, "check", project, "--json"); code != 0 || strings.TrimSpace(out) != "[]" {
		t.Fatalf("of a sound shot: %d %s %s", code, out, errs)
	}
	edits := filepath.Join(dir, "edits.json")
	if err := os.WriteFile(edits, []byte(`[{"addMove": {"part": "p1", "kind": "turn", "id": "third"}}, {"setMove": {"move": "third", "values": {"turns": 0.3}}}]`), 0o600); err != nil {
		t.Fatal(err)
	}
	if code, _, errs := run(t, "edit", project, edits); code != 0 {
		t.Fatal(errs)
	}
	code, out, errs := run(t, "check", project, "--shot", "Spin", "--json")
	var told []check.Told
	if err := json.Unmarshal([]byte(out), &told); err != nil || code != failed || !strings.Contains(errs, "would ruin the render") {
		t.Fatalf("%d %s %s %v", code, out, errs, err)
	}
	if x := told[0]; x.Kind != "seam" || !x.Blocks || len(x.Parts) != 1 || x.Frames != [2]float64{23, 0} || !(x.Value > 1) || x.Unit != "px" || len(x.Mends) == 0 {
		t.Errorf("%+v", x)
	}
	code, out, _ = run(t, "check", project, "--shot", "Spin", "--json", "--rehearse")
	var pictures []check.Told
	if err := json.Unmarshal([]byte(out), &pictures); err != nil || code != failed || len(pictures) < len(told) {
		t.Errorf("rehearsed: %d %s %v", code, out, err)
	}
	frames := filepath.Join(dir, "frames")
	render := []string{"render", project, "--frames", "0", "--quality", "draft", "--out", frames}
	if code, _, errs := run(t, render...); code != failed || !strings.Contains(errs, "--anyway") {
		t.Errorf("a render of it: %d %s", code, errs)
	}
	if _, err := os.Stat(frames); err == nil {
		t.Error("it left a folder")
	}
	if code, _, errs := run(t, append(render, "--anyway")...); code != 0 {
		t.Errorf("anyway: %d %s", code, errs)
	}
	if code, _, errs := run(t, "check", "nowhere.zip"); code != badInput || errs == "" {
		t.Errorf("of nothing: %d %s", code, errs)
	}
}
