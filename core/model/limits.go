package model

import "fmt"

// Limits bound what a file may ask for. Each is a setting; messages name it.
type Limits struct {
	Bytes       int64 // size of an upload, and of what a zip in it unpacks to: --max-upload
	Triangles   int   // in all placed parts: --max-triangles
	TextureSide int   // pixels: --max-texture
}

// DefaultLimits are 512 MB, 50 million triangles and textures of 16,384 pixels.
var DefaultLimits = Limits{Bytes: 512 << 20, Triangles: 50_000_000, TextureSide: 16_384}

// CheckTriangles returns an error where n is over the limit.
func (l Limits) CheckTriangles(n int) error {
	if n > l.Triangles {
		return fmt.Errorf("the model has %d triangles, more than the %d that --max-triangles allows", n, l.Triangles)
	}
	return nil
}

// Files gives the content of a file that a model refers to by a relative path, or false.
type Files func(path string) ([]byte, bool)
