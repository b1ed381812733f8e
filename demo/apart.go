package demo

import (
	"context"
	"fmt"

	"perigyre/core/edit"
	"perigyre/core/exploded"
	"perigyre/core/move"
	"perigyre/core/pose"
)

// TakenApart takes the lantern apart, holds it and puts it together again, while all of it makes a quarter of a turn.
type TakenApart struct{}

// Do implements edit.Change.
func (*TakenApart) Do(w *edit.Work) (string, error) {
	w.Shot.Name = "Taken apart"
	if err := Play(w.Shot, "taken-apart", w.NewID); err != nil {
		return "", err
	}
	lantern := named(w.Shot, "Lantern")
	if lantern == nil {
		return "", fmt.Errorf("there is no lantern")
	}
	plan, err := exploded.Find(context.Background(), pose.New(w.Shot), w.Assets, exploded.Wish{Part: lantern.ID, Gap: 0.018}, func(float64) {})
	if err != nil {
		return "", err
	}
	plan.Move.ID = w.NewID()
	apart := plan.Move.Data.(*move.Apart)
	apart.Lines, apart.Labels = true, move.LightNames
	lantern.Moves = append(lantern.Moves, plan.Move)
	w.Changed()
	return "Take the lantern apart", nil
}
