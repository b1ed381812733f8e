package hdr

import (
	"bytes"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
)

// A picture that OpenImageIO writes is read as it is: a ramp over a wide range, packed by runs.
func TestAgainstOpenImageIO(t *testing.T) {
	if _, err := exec.LookPath("oiiotool"); err != nil {
		t.Skip("oiiotool (openimageio-tools) is not installed")
	}
	file := filepath.Join(t.TempDir(), "a.hdr")
	out, err := exec.Command("oiiotool", "--pattern", "fill:left=0.01,2,300:right=5,2,0.5", "64x20", "3", "-d", "float", "-o", file).CombinedOutput()
	if err != nil {
		t.Fatalf("%v %s", err, out)
	}
	data, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	p, err := Read(data)
	if err != nil || p.Width != 64 || p.Height != 20 {
		t.Fatal(err, p)
	}
	for x := range 64 {
		f := float64(x) / 63
		want := [3]float64{0.01 + f*4.99, 2, 300 - f*299.5}
		most := math.Max(want[0], math.Max(want[1], want[2]))
		for c := range 3 {
			if got := float64(p.Pix[3*x+c]); math.Abs(got-want[c]) > most/128 { // eight bits of the largest
				t.Fatalf("component %d of column %d is %g, not %g", c, x, got, want[c])
			}
		}
	}
	for n := 0; n < len(data); n += 5 {
		if _, err := Read(data[:n]); err == nil {
			t.Fatalf("%d of %d bytes are taken for a whole picture", n, len(data))
		}
	}
}

func TestPlainAndOlderRuns(t *testing.T) {
	head := "#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 1 +X 4\n"
	for _, body := range [][]byte{
		{128, 64, 0, 129, 128, 64, 0, 129, 128, 64, 0, 129, 128, 64, 0, 129},
		{128, 64, 0, 129, 1, 1, 1, 3},
	} {
		p, err := Read(append([]byte(head), body...))
		if err != nil {
			t.Fatal(err)
		}
		if want := []float32{1.00390625, 0.50390625}; p.Pix[9] != want[0] || p.Pix[10] != want[1] {
			t.Errorf("the last pixel is %v", p.Pix[9:])
		}
	}
}

func FuzzRead(f *testing.F) {
	for _, w := range []int{3, 9} {
		var b bytes.Buffer
		fmt.Fprintf(&b, "#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 2 +X %d\n", w)
		if w >= 8 {
			for range 2 {
				b.Write([]byte{2, 2, 0, byte(w)})
				for range 4 {
					b.Write([]byte{128 + byte(w), 130})
				}
			}
		} else {
			b.Write(bytes.Repeat([]byte{128, 1, 9, 130}, 2*w))
		}
		f.Add(b.Bytes())
	}
	f.Fuzz(func(t *testing.T, data []byte) { _, _ = Read(data) })
}
