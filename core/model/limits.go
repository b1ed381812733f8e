package model

import "fmt"

// Limits bound what a file may ask for. Each is a setting; messages name it.
type Limits struct {
	Bytes       int64 // size of an upload, and of what a zip in it unpacks to: --max-upload
	Triangles   int   // in all placed parts: --max-triangles
	TextureSide int   // pixels: --max-texture
	Memory      int64 // bytes that bringing it in may take beyond what is held already, 0 for any: --max-memory
}

// MaxPixels is how many pixels a picture may have, whatever its sides: decoded they take four to eight bytes each.
const MaxPixels = 1 << 27

// CheckPicture returns an error where a picture is larger than the limits.
func (l Limits) CheckPicture(name string, width, height int) error {
	switch {
	case width <= 0 || height <= 0:
		return fmt.Errorf("the picture %s has no pixels", name)
	case width > l.TextureSide || height > l.TextureSide:
		return fmt.Errorf("the picture %s has %d x %d pixels, more than the %d that --max-texture allows", name, width, height, l.TextureSide)
	case width*height > MaxPixels:
		return fmt.Errorf("the picture %s has %d x %d pixels, together more than %d million", name, width, height, MaxPixels>>20)
	}
	return nil
}

// DefaultLimits are 512 MB, 50 million triangles, textures of 16,384 pixels and 8 GB of memory.
var DefaultLimits = Limits{Bytes: 512 << 20, Triangles: 50_000_000, TextureSide: 16_384, Memory: 8 << 30}

// CheckTriangles returns an error where n is over the limit.
func (l Limits) CheckTriangles(n int) error {
	if n > l.Triangles {
		return fmt.Errorf("the model has %d triangles, more than the %d that --max-triangles allows", n, l.Triangles)
	}
	return nil
}

// maxParts and maxMaterials bound what small text can ask for; a shot has no more parts either.
const maxParts, maxMaterials = 100_000, 100_000

// CheckParts returns an error where there are more parts or materials than a shot can hold.
func (l Limits) CheckParts(parts, materials int) error {
	if parts > maxParts {
		return fmt.Errorf("the model has more than %d parts; join some of them before it is exported", maxParts)
	}
	if materials > maxMaterials {
		return fmt.Errorf("the model has more than %d materials; join some of them before it is exported", maxMaterials)
	}
	return nil
}

// Files gives the content of a file that a model refers to by a relative path, or false.
type Files func(path string) ([]byte, bool)
