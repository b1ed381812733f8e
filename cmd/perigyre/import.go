package main

import (
	"encoding/json"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"perigyre/library"
)

func importCommand() *cobra.Command {
	c := &cobra.Command{Use: "import MODEL", Short: "Say what is in a model", Args: cobra.ExactArgs(1)}
	asJSON := c.Flags().Bool("json", false, "print the report as JSON")
	unit := c.Flags().String("unit", "", "what one unit of the file is: m, cm, mm, in or ft")
	limits := limitFlags(c)
	c.RunE = func(c *cobra.Command, args []string) error {
		_, r, err := library.BringFile(c.Context(), args[0], *unit, limits(), nil)
		if err != nil {
			return input{err}
		}
		if *asJSON {
			enc := json.NewEncoder(os.Stdout)
			enc.SetIndent("", "  ")
			return enc.Encode(r)
		}
		size := r.Bounds.Size()
		fmt.Printf("%s: %d parts, %d triangles, %d vertices, %d materials, %d textures\n", r.File, r.Parts, r.Triangles, r.Vertices, r.Materials, r.Textures)
		fmt.Printf("%.6g x %.6g x %.6g %s (%s); %s upright (%s)\n", size[0], size[1], size[2], r.Unit, r.UnitWhy, r.Up, r.UpWhy)
		for _, s := range r.Missing {
			fmt.Println("missing:", s)
		}
		for _, s := range r.LeftOut {
			fmt.Println("left out:", s)
		}
		for _, s := range r.Warnings {
			fmt.Println("note:", s)
		}
		return nil
	}
	return c
}
