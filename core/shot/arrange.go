package shot

import "perigyre/core/geom"

// Arrange is a change of the tree or of places. Exactly one of its fields is set. Parts are named by
// their ids; where several are, those inside others of them are moved along once.
type Arrange struct {
	Add        *AddPart    `json:"add,omitempty"`
	Group      *GroupParts `json:"group,omitempty"`
	Ungroup    *OnePart    `json:"ungroup,omitempty"`
	PutIn      *PutIn      `json:"putIn,omitempty"`
	Duplicate  *Duplicate  `json:"duplicate,omitempty"`
	Rename     *RenameMany `json:"rename,omitempty"`
	Flag       *SetFlags   `json:"flag,omitempty"`
	Stand      *StandParts `json:"stand,omitempty"`
	Centre     *SomeParts  `json:"centre,omitempty"`
	Align      *Align      `json:"align,omitempty"`
	Distribute *Distribute `json:"distribute,omitempty"`
	Pivot      *SetPivot   `json:"pivot,omitempty"`
	Resize     *Resize     `json:"resize,omitempty"`
	Transform  *Transform  `json:"transform,omitempty"`
	FaceTo     *FaceTo     `json:"faceTo,omitempty"`
	FaceCamera *SomeParts  `json:"faceCamera,omitempty"` // turns parts about the upright through their pivots until their fronts look at the camera
	Reset      *SomeParts  `json:"reset,omitempty"`
	RestHere   *RestHere   `json:"restHere,omitempty"`
	Remove     *SomeParts  `json:"remove,omitempty"`
	Stage      *OnePart    `json:"stage,omitempty"` // sizes plinth and lights to an import and stands it on its plinth
}

type (
	// OnePart names a part.
	OnePart struct {
		Part string `json:"part"`
	}
	// SomeParts names parts.
	SomeParts struct {
		Parts []string `json:"parts"`
	}
	// AddPart adds a part at the end of its parent's children.
	AddPart struct {
		Part Part `json:"part"`
	}
	// GroupParts puts parts that have one parent into a new group, where they are.
	GroupParts struct {
		Parts []string `json:"parts"`
		ID    string   `json:"id"` // of the group
		Name  string   `json:"name"`
	}
	// PutIn moves parts to another parent, or to another place among their siblings.
	PutIn struct {
		Parts  []string `json:"parts"`
		Parent string   `json:"parent"` // or empty for the room
		Before string   `json:"before"` // the sibling that follows, or empty for the end
		Keep   bool     `json:"keep"`   // where they are in the room, rather than in their parent
	}
	// Duplicate makes copies of parts with all in them, beside them.
	Duplicate struct {
		Parts []string `json:"parts"`
		ID    string   `json:"id"` // beginning of the new ids
	}
	// RenameMany names parts by a pattern with {name} and {n}, counted from 1.
	RenameMany struct {
		Parts   []string `json:"parts"`
		Pattern string   `json:"pattern"`
	}
	// SetFlags sets the flags that are given.
	SetFlags struct {
		Parts  []string `json:"parts"`
		Hidden *bool    `json:"hidden,omitempty"`
		Away   *bool    `json:"away,omitempty"`
		Locked *bool    `json:"locked,omitempty"`
		Tag    *string  `json:"tag,omitempty"`
	}
	// StandParts lowers or lifts parts so that their lowest point is on the floor, or on the plinth of
	// the turntable they are on, less what they sink.
	StandParts struct {
		Parts []string `json:"parts"`
		Sink  float64  `json:"sink"` // metres
	}
	// Align brings one side or the middle of each part to that of all of them together.
	Align struct {
		Parts []string `json:"parts"`
		Axis  int      `json:"axis"` // 0 to 2 for x to z of the room
		To    string   `json:"to"`   // low, middle or high
	}
	// Distribute spaces the middles of parts evenly between the two outermost.
	Distribute struct {
		Parts []string `json:"parts"`
		Axis  int      `json:"axis"`
	}
	// SetPivot moves a part's pivot and leaves the part where it is.
	SetPivot struct {
		Part  string    `json:"part"`
		To    string    `json:"to"`    // base, middle, origin, parent or point
		Point geom.Vec3 `json:"point"` // in the room, for point
	}
	// Resize makes a part as high as is said, standing where it stands.
	Resize struct {
		Part   string  `json:"part"`
		Height float64 `json:"height"` // metres
	}
	// Transform moves, turns and resizes parts in the room about a point.
	Transform struct {
		Parts []string  `json:"parts"`
		About geom.Vec3 `json:"about"`
		Move  geom.Vec3 `json:"move"`
		Turn  geom.Quat `json:"turn"`
		Size  float64   `json:"size"`         // factor
		At    *float64  `json:"at,omitempty"` // the frame on which they are pinned there, rather than resting there
	}
	// FaceTo lays a face of a part on another face: the points meet and the normals are opposite.
	FaceTo struct {
		Part   string    `json:"part"`
		From   geom.Vec3 `json:"from"` // in the room, on the part
		Normal geom.Vec3 `json:"normal"`
		To     geom.Vec3 `json:"to"` // in the room, on something else
		Facing geom.Vec3 `json:"facing"`
	}
	// RestHere makes the pose that parts have on a frame their rest pose.
	RestHere struct {
		Parts []string `json:"parts"`
		Frame float64  `json:"frame"`
	}
)
