package edit_test

import (
	"encoding/json"
	"fmt"

	"perigyre/core/edit"
	"perigyre/core/shot"
)

func ExampleApply() {
	s := shot.New("Front")
	s.Parts = []shot.Part{{ID: "arm", Name: "Arm", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}}
	var list []edit.Edit
	if err := json.Unmarshal([]byte(`[
		{"addMove": {"part": "arm", "kind": "turn", "id": "m"}},
		{"setMove": {"move": "m", "values": {"turns": 2, "direction": "counterclockwise"}}}
	]`), &list); err != nil {
		fmt.Println(err)
		return
	}
	r, err := edit.Apply(s, list, edit.Env{})
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(r.Words)
	fmt.Println(len(s.Parts[0].Moves), len(r.Shot.Parts[0].Moves))
	// Output:
	// Add turn to Arm, Change turn of Arm
	// 0 1
}
