package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"

	"github.com/spf13/cobra"

	"perigyre/core/edit"
	"perigyre/core/shot"
	"perigyre/library"
	"perigyre/store"
)

func editCommand() *cobra.Command {
	c := &cobra.Command{Use: "edit PROJECT.zip EDITS.json", Short: "Change a shot of a saved project", Args: cobra.ExactArgs(2),
		Long: `Carry out edits on a shot of a project's zip: those that buttons and fields make, all of them or none. EDITS.json is a
list such as [{"rename": {"name": "Front"}}, {"flag": {"parts": ["..."], "hidden": true}}], or - for standard input; docs/schema.json
has all kinds under Edit, and bake tells the ids of parts.`}
	name := c.Flags().String("shot", "", "name of the shot; needed where there are several")
	out := c.Flags().String("out", "", "file to write; the project itself is changed without it")
	limits := limitFlags(c)
	c.RunE = func(cmd *cobra.Command, args []string) error {
		data, err := os.ReadFile(args[0])
		if err != nil {
			return input{fmt.Errorf("there is no file %s", args[0])}
		}
		if !library.IsProject(data) {
			return input{fmt.Errorf("%s is no saved project", args[0])}
		}
		p, err := library.ReadProject(data, limits())
		if err != nil {
			return input{fmt.Errorf("%s: %w", filepath.Base(args[0]), err)}
		}
		at := slices.IndexFunc(p.Shots, func(s *shot.Shot) bool { return s.Name == *name })
		if *name == "" && len(p.Shots) == 1 {
			at = 0
		}
		if at < 0 {
			return input{fmt.Errorf("name one of its %d shots with --shot; it has none that is called %q", len(p.Shots), *name)}
		}
		text, err := readAll(args[1], cmd.InOrStdin())
		if err != nil {
			return err
		}
		var list []edit.Edit
		if err := json.Unmarshal(text, &list); err != nil {
			return input{fmt.Errorf("%s is no list of edits: %w", args[1], err)}
		}
		assets := over(p.Blob, limits())
		r, err := edit.Apply(p.Shots[at], list, edit.Env{Assets: assets, NewID: store.NewID})
		if err != nil {
			return input{err}
		}
		p.Shots[at], p.Blob = r.Shot, assets.Open
		var b bytes.Buffer
		if err := p.Write(&b); err != nil {
			return err
		}
		to := *out
		if to == "" {
			to = args[0]
		}
		if err := replaceFile(to, b.Bytes()); err != nil {
			return err
		}
		fmt.Fprintln(cmd.OutOrStdout(), r.Words)
		return nil
	}
	return c
}

// readAll reads a file, or standard input for -.
func readAll(name string, stdin io.Reader) ([]byte, error) {
	if name == "-" {
		return io.ReadAll(stdin)
	}
	b, err := os.ReadFile(name)
	if err != nil {
		return nil, input{fmt.Errorf("there is no file %s", name)}
	}
	return b, nil
}

// replaceFile writes a file as a whole: what is there stays until the new one is complete.
func replaceFile(name string, data []byte) error {
	f, err := os.CreateTemp(filepath.Dir(name), ".perigyre-*")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	_, err = f.Write(data)
	if err == nil {
		err = f.Sync()
	}
	if after := f.Close(); err == nil {
		err = after
	}
	if err != nil {
		return err
	}
	if err := os.Chmod(f.Name(), 0o644); err != nil {
		return err
	}
	return os.Rename(f.Name(), name)
}
