package main

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"perigyre/core/check"
	"perigyre/core/framing"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/library"
	"perigyre/runs"
)

func checkCommand() *cobra.Command {
	c := &cobra.Command{Use: "check PROJECT", Short: "Say what would ruin a render, before its first frame", Args: cobra.ExactArgs(1),
		Long: "Say what would ruin a render, before its first frame. PROJECT is a project's zip or a data folder. It ends with 0 where nothing blocks, with 1 where something does, with 2 where there is nothing to check."}
	name := c.Flags().String("shot", "", "name of the shot")
	camera := c.Flags().String("camera", "", "name of the camera; that of the shot where it is left out")
	rehearse := c.Flags().Bool("rehearse", false, "render the whole shot very small as well, and look at the pictures")
	asJSON := c.Flags().Bool("json", false, "print what was found as JSON")
	limits := limitFlags(c)
	c.RunE = func(_ *cobra.Command, args []string) error {
		d, assets, done, err := openShot(args[0], *name, limits())
		defer done()
		if err != nil {
			return err
		}
		if err := through(d, *camera); err != nil {
			return input{err}
		}
		if err := stage.FitCamera(d, assets, nil); err != nil {
			return err
		}
		facts, found, err := checked(c.Context(), d, assets)
		if err != nil {
			return err
		}
		if *rehearse {
			more, err := runs.Rehearse(c.Context(), d, facts, stockOf(assets), nil)
			if err != nil {
				return err
			}
			found = append(found, more...)
		}
		told := check.Report(facts, found)
		if *asJSON {
			if err := json.NewEncoder(os.Stdout).Encode(told); err != nil {
				return err
			}
		} else {
			fmt.Println(check.Judge(facts).Words)
			for _, t := range told {
				fmt.Println(line(t))
			}
		}
		return blocked(told)
	}
	return c
}

// checked finds what is wrong with a shot.
func checked(ctx context.Context, d *shot.Shot, assets *library.Assets) (*check.Facts, []check.Finding, error) {
	u, err := framing.NewSubject(d, assets, nil)
	if err != nil {
		return nil, nil, err
	}
	facts, err := check.Measure(u, assets, render.NewProps(assets))
	if err != nil {
		return nil, nil, err
	}
	facts.Textures = assets
	found, err := check.Find(ctx, facts, check.Watch{})
	return facts, found, err
}

// line is a finding as people read it.
func line(t check.Told) string {
	weight := "look"
	switch {
	case t.Blocks:
		weight = "blocks"
	case t.Accepted != "":
		return fmt.Sprintf("%-8s%s Accepted: %s.", "stays", t.Text, strings.TrimSuffix(t.Accepted, "."))
	}
	out := fmt.Sprintf("%-8s%s", weight, t.Text)
	if len(t.Mends) > 0 {
		out += " Mends: " + strings.Join(t.Mends, "; ") + "."
	}
	return out
}

// blocked is an error where something that was found blocks.
func blocked(told []check.Told) error {
	n := 0
	for _, t := range told {
		if t.Blocks {
			n++
		}
	}
	switch n {
	case 0:
		return nil
	case 1:
		return fmt.Errorf("one thing would ruin the render")
	}
	return fmt.Errorf("%d things would ruin the render", n)
}
