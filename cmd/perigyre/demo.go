package main

import (
	"context"

	"perigyre/core/edit"
	"perigyre/demo"
	"perigyre/library"
	"perigyre/server"
	"perigyre/store"
)

// demoName is the project of the demonstration.
const demoName = "Brindlewick No. 3"

// prepareDemo brings the lantern in as anyone would, unless it is there already, and returns its first shot.
func prepareDemo(ctx context.Context, st *server.Studio, s *store.Store) (string, error) {
	list, err := s.Projects()
	if err != nil {
		return "", err
	}
	for _, p := range list {
		if p.Name == demoName && len(p.Shots) > 0 {
			return p.Shots[0].ID, nil
		}
	}
	glb, err := demo.Lantern()
	if err != nil {
		return "", err
	}
	quiet := func(string, float64) {}
	got, err := st.Import(ctx, []library.File{{Name: "brindlewick-no-3.glb", Data: glb}}, "", "", quiet)
	if err != nil {
		return "", err
	}
	if err := s.RenameProject(got.Project, demoName); err != nil {
		return "", err
	}
	for _, more := range []struct {
		file, name string
		make       func() ([]byte, error)
		move       edit.Change
		rig        string
	}{
		{"gear-set.glb", "Wind-up", demo.Winding, &demo.Motion{Name: "Wind-up", Move: demo.WindUp}, "window left"},
		{"cord-reel.glb", "Reel", demo.Reel, &demo.Motion{Name: "Reel", Move: demo.Rolling}, "low sun"},
		{"carton.glb", "Cartons", demo.Carton, &demo.Marching{}, "low sun"},
	} {
		glb, err := more.make()
		if err != nil {
			return "", err
		}
		made, err := st.Import(ctx, []library.File{{Name: more.file, Data: glb}}, "", got.Project, quiet)
		if err != nil {
			return "", err
		}
		if err := st.Change(made.Shot, more.move, &edit.UseRig{Rig: more.rig}); err != nil {
			return "", err
		}
	}
	mark, err := st.Import(ctx, []library.File{{Name: "Mark.svg", Data: demo.Mark}}, "", got.Project, quiet)
	if err != nil {
		return "", err
	}
	if err := st.Change(mark.Shot, &edit.AddPart{Part: demo.Word(store.NewID())}, &demo.Motion{Move: demo.Arriving}, &edit.UseRig{Rig: "three lights"}, &demo.Flown{}); err != nil {
		return "", err
	}
	apart, err := st.Duplicate(got.Shot)
	if err != nil {
		return "", err
	}
	if err := st.Change(apart, &demo.TakenApart{}); err != nil {
		return "", err
	}
	inside, err := st.Duplicate(got.Shot)
	if err != nil {
		return "", err
	}
	if err := st.Change(inside, &demo.Inside{}); err != nil {
		return "", err
	}
	four, err := st.Duplicate(got.Shot)
	if err != nil {
		return "", err
	}
	broken, err := st.Duplicate(got.Shot)
	if err != nil {
		return "", err
	}
	if err := st.Change(broken, &demo.Broken{}); err != nil {
		return "", err
	}
	return got.Shot, st.Change(four, &demo.Finishes{}, &edit.UseRig{Rig: "strip lights"})
}
