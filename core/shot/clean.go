package shot

// Clean puts the meshes of parts, and of all in them, in order. Several of its fields may be set; they
// are done in the order in which they stand.
type Clean struct {
	Parts     []string `json:"parts"`
	Split     bool     `json:"split,omitempty"`     // into pieces that hang together, each a part
	Gather    string   `json:"gather,omitempty"`    // parts into groups by touching, name or material
	Share     bool     `json:"share,omitempty"`     // one mesh for parts that are equal but for their place
	Weld      float64  `json:"weld,omitempty"`      // join vertices that are so near, in the mesh's own unit
	Outside   bool     `json:"outside,omitempty"`   // turn faces that look inwards
	Subdivide bool     `json:"subdivide,omitempty"` // once, by Loop's scheme
	Normals   string   `json:"normals,omitempty"`   // smooth or faceted, to make them anew
	Crease    float64  `json:"crease,omitempty"`    // radians above which edges stay hard
}
