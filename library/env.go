package library

import (
	"fmt"

	"perigyre/core/edit"
	"perigyre/core/shot"
)

// assetsOf returns the library that an edit works with.
func assetsOf(env edit.Env) (*Assets, error) {
	a, ok := env.Assets.(*Assets)
	if !ok || a.Keep == nil {
		return nil, fmt.Errorf("this edit needs the library that meshes and pictures are kept in")
	}
	return a, nil
}

func init() {
	edit.Follow(edit.Meshes, func(s *shot.Shot, env edit.Env) error {
		a, err := assetsOf(env)
		if err != nil {
			return nil // marks stay as they are
		}
		return makeMarks(s, a, env.NewID)
	})
	edit.Follow(edit.Cuts, func(s *shot.Shot, env edit.Env) error {
		a, err := assetsOf(env)
		if err != nil {
			return nil
		}
		return Skims(s, a)
	})
}
