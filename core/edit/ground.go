package edit

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/shot"
)

// AddGround adds a ground of blocks under what is there: a grid of boxes with rounded edges, each raised by its own random height, of
// which the highest end where the floor is. It is of the set, which the camera's fit lets go.
type AddGround struct {
	ID string `json:"id,omitempty"` // of its group
}

func init() { Register[AddGround]("addGround") }

// Do implements Change.
func (e *AddGround) Do(w *Work) (string, error) {
	const across = 15
	side := digits(w.usualSize()/3, 2)
	high, rise := 2*side, digits(side*0.4, 2)
	group := shot.Part{ID: e.ID, Name: "Ground of blocks", Kind: shot.Group, Set: true, Rest: shot.AtRest}
	if group.ID == "" {
		group.ID = w.NewID()
	}
	group.Rest.Position = geom.Vec3{0, -high - rise, 0}
	block := shot.Part{ID: w.NewID(), Name: "Block", Parent: group.ID, Kind: shot.Made, Rest: shot.AtRest, Hidden: true,
		Shape: &mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{side * 0.97, high, side * 0.97}, Bevel: digits(math.Min(side/30, 0.005), 1)}}
	grid := shot.Part{ID: w.NewID(), Name: "Blocks", Parent: group.ID, Kind: shot.Copies, Rest: shot.AtRest,
		Copies: &shot.Spread{Of: block.ID, Kind: shot.Grid, Count: [3]int{across, 1, across}, Step: geom.Vec3{side, high, side}, Middle: true, Rise: rise, Seed: 1}}
	words, err := w.added(group)
	for _, p := range []shot.Part{block, grid} {
		if err == nil {
			_, err = w.added(p)
		}
	}
	return words, err
}
