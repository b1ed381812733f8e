package shot

import "perigyre/core/material"

// PlaceTexture moves the texture of one slot to another, of the same material or not; what is in the way
// goes the other way. Without a place to go it is taken out.
type PlaceTexture struct {
	Material string        `json:"material"`
	Slot     material.Slot `json:"slot"`
	To       string        `json:"to,omitempty"` // material
	ToSlot   material.Slot `json:"toSlot,omitempty"`
}
