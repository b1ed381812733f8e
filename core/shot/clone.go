package shot

import (
	"slices"

	"perigyre/core/material"
)

// Clone returns a copy that shares nothing that an edit changes in place. Meshes' outlines, paths and other lists
// that are only ever replaced as a whole stay shared.
func (s *Shot) Clone() *Shot {
	c := *s
	c.Backdrop, c.BackdropLow = cloneValue(s.Backdrop), cloneValue(s.BackdropLow)
	c.Parts = make([]Part, len(s.Parts))
	for i := range s.Parts {
		c.Parts[i] = s.Parts[i].Clone()
	}
	c.Materials = make([]material.Material, len(s.Materials))
	for i := range s.Materials {
		c.Materials[i] = s.Materials[i].Clone()
	}
	c.Sources = slices.Clone(s.Sources)
	c.Finishes = slices.Clone(s.Finishes)
	for i := range c.Finishes {
		c.Finishes[i].Swaps = slices.Clone(c.Finishes[i].Swaps)
	}
	return &c
}

// Clone returns a copy of the part, with its moves and pins.
func (p *Part) Clone() Part {
	c := *p
	c.Moves = make([]Move, len(p.Moves))
	for j := range p.Moves {
		c.Moves[j] = p.Moves[j].Clone()
	}
	c.Tracks = cloneTracks(p.Tracks)
	c.Materials, c.Morphs, c.Clips = slices.Clone(p.Materials), slices.Clone(p.Morphs), slices.Clone(p.Clips)
	if c.Skin = cloneValue(p.Skin); c.Skin != nil {
		c.Skin.Joints = slices.Clone(c.Skin.Joints)
	}
	for i := range c.Clips {
		c.Clips[i].Tracks = slices.Clone(c.Clips[i].Tracks)
	}
	c.Mesh, c.Plinth, c.Camera, c.Light = cloneValue(p.Mesh), cloneValue(p.Plinth), cloneValue(p.Camera), cloneValue(p.Light)
	c.Shape, c.Mark = cloneValue(p.Shape), cloneValue(p.Mark)
	if c.Copies = cloneValue(p.Copies); c.Copies != nil {
		c.Copies.Path = slices.Clone(c.Copies.Path)
	}
	if c.Cut = cloneValue(p.Cut); c.Cut != nil {
		c.Cut.Parts, c.Cut.Color = slices.Clone(c.Cut.Parts), cloneValue(c.Cut.Color)
	}
	return c
}

// Clone returns a copy of the pace.
func (p Pace) Clone() Pace {
	p.Bezier, p.Spring = cloneValue(p.Bezier), cloneValue(p.Spring)
	p.Curve = clonePins(p.Curve)
	return p
}

func cloneTracks(list []Track) []Track {
	out := slices.Clone(list)
	for i := range out {
		out[i].Pins = clonePins(out[i].Pins)
	}
	return out
}

func clonePins(list []Pin) []Pin {
	out := slices.Clone(list)
	for i := range out {
		p := &out[i]
		p.Turn, p.In, p.Out = cloneValue(p.Turn), cloneHandle(p.In), cloneHandle(p.Out)
	}
	return out
}

func cloneHandle(h *Handle) *Handle {
	if h = cloneValue(h); h != nil {
		h.Turn = cloneValue(h.Turn)
	}
	return h
}

func cloneValue[T any](v *T) *T {
	if v == nil {
		return nil
	}
	c := *v
	return &c
}
