package runs

import (
	"bytes"
	"encoding/json"
	"image"
	"image/color"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"perigyre/formats/png"
)

// An APNG is played by other programs: pngcheck finds nothing wrong, ffprobe as many frames at the rate.
func TestAnimatedPNG(t *testing.T) {
	var files [][]byte
	for k := range 5 {
		img := image.NewNRGBA(image.Rect(0, 0, 20, 10))
		for x := range 20 {
			img.Set(x, k, color.NRGBA{uint8(40 * k), 200, uint8(10 * x), uint8(12 * x)})
		}
		var b bytes.Buffer
		if err := png.Encode(&b, img, png.Options{Alpha: true}); err != nil {
			t.Fatal(err)
		}
		files = append(files, b.Bytes())
	}
	var b bytes.Buffer
	if err := png.Animate(&b, files, 24, 1); err != nil {
		t.Fatal(err)
	}
	name := filepath.Join(t.TempDir(), "a.png")
	if err := os.WriteFile(name, b.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := exec.LookPath("pngcheck"); err == nil {
		if out, err := exec.Command("pngcheck", name).CombinedOutput(); err != nil {
			t.Errorf("pngcheck: %s", out)
		}
	}
	if _, err := exec.LookPath("ffprobe"); err == nil {
		out, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-show_entries", "stream=nb_read_frames,r_frame_rate,width", "-of", "json", "-f", "apng", name).Output()
		if err != nil {
			t.Fatal(err)
		}
		var got struct {
			Streams []struct {
				Frames string `json:"nb_read_frames"`
				Rate   string `json:"r_frame_rate"`
				Width  int    `json:"width"`
			} `json:"streams"`
		}
		if err := json.Unmarshal(out, &got); err != nil || len(got.Streams) != 1 || got.Streams[0].Frames != "5" || got.Streams[0].Width != 20 || !strings.HasPrefix(got.Streams[0].Rate, "24") {
			t.Errorf("ffprobe says %s", out)
		}
	}
	if err := png.Animate(&b, append(files, files[0][:40]), 24, 1); err == nil {
		t.Error("a cut file was taken into an animation")
	}
}
