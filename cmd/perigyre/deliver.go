package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"perigyre/runs"
	"perigyre/store"
)

// deliverFlags add where a run is delivered to, and return the drive; nil where it is not.
func deliverFlags(c *cobra.Command) func() (runs.Drive, error) {
	f := c.Flags()
	to := f.String("deliver", "", "folder, on another drive perhaps, that runs are brought to, each in one of its own")
	return driveFlags(c, func() string { return *to })
}

// driveFlags add the troubles of a drive that stands in for a real one, and return the drive of a folder.
func driveFlags(c *cobra.Command, folder func() string) func() (runs.Drive, error) {
	f := c.Flags()
	troubles := f.String("stand-in", "", "the drive stands in for one with troubles: late, full, gone")
	every := f.Duration("stand-in-every", 5*time.Second, "longest time between two troubles, and that one lasts")
	seed := f.Uint64("stand-in-seed", 1, "decides when they come")
	for _, name := range []string{"stand-in", "stand-in-every", "stand-in-seed"} {
		_ = f.MarkHidden(name) // it is there
	}
	return func() (runs.Drive, error) {
		at := folder()
		if at == "" {
			return nil, nil
		}
		if info, err := os.Stat(at); err != nil || !info.IsDir() {
			return nil, input{fmt.Errorf("%s is no folder that is there; it is not made, since it would be made where a drive is to be", at)}
		}
		if *troubles == "" {
			return runs.Folder(at), nil
		}
		list := words(*troubles)
		if err := runs.CheckTroubles(list); err != nil {
			return nil, input{err}
		}
		return &runs.StandIn{Over: runs.Folder(at), Troubles: list, Every: *every, Seed: *seed}, nil
	}
}

// bring delivers a run that is in a folder, and tells what holds it up.
func bring(ctx context.Context, to runs.Drive, folder string) error {
	if to == nil {
		return nil
	}
	r := runs.ReadRecord(folder)
	if r == nil {
		return input{fmt.Errorf("%s has no run.json that can be read", folder)}
	}
	full, err := filepath.Abs(folder)
	if err != nil {
		return err
	}
	last := ""
	c := runs.Courier{To: to, Under: filepath.Base(full), Say: func(name, trouble string) {
		if trouble != last && trouble != "" {
			fmt.Fprintf(os.Stderr, "%s waits: %s; it is tried again\n", name, trouble)
		}
		last = trouble
	}}
	n := 0
	err = c.Bring(ctx, folder, r.Frames, func(store.Frame) { n++ })
	if ctx.Err() != nil {
		return fmt.Errorf("stopped after %d frames were delivered; the same command goes on from there", n)
	}
	if err != nil {
		return err
	}
	fmt.Fprintf(os.Stderr, "%d frames are delivered and were read back as they were written\n", n)
	return nil
}

func deliverCommand() *cobra.Command {
	c := &cobra.Command{Use: "deliver RUN FOLDER", Short: "Bring a finished run to another drive", Args: cobra.ExactArgs(2),
		Long: "Bring the frames in the folder RUN to FOLDER, in a folder of the run's name. Each is read back and compared before it has its name there, so that no half file ever has one. Where the drive is full or away it waits and tries again; what is there under the same name and is another is not written over."}
	to := ""
	drive := driveFlags(c, func() string { return to })
	c.RunE = func(c *cobra.Command, args []string) error {
		to = args[1]
		d, err := drive()
		if err != nil {
			return err
		}
		return bring(c.Context(), d, args[0])
	}
	return c
}
