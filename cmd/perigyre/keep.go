package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"perigyre/store"
)

// folderAt refuses what is no data folder, so that none is made by looking.
func folderAt(name string) error {
	if info, err := os.Stat(filepath.Join(name, "blobs")); err != nil || !info.IsDir() {
		return input{fmt.Errorf("%s is no data folder: there are no stored files in it", name)}
	}
	return nil
}

func doctorCommand() *cobra.Command {
	c := &cobra.Command{Use: "doctor DIR", Short: "Look a data folder over, and mend it", Args: cobra.ExactArgs(1),
		Long: `Look at everything in a data folder that no server uses: the database, every revision of every shot, every stored file by its
hash, the runs. It says what is damaged and what hangs on it, and ends with 1 if there is anything. With --mend it copies the
database away and mends what can be mended.`}
	mend := c.Flags().Bool("mend", false, "mend what can be mended, after the database has been copied away")
	asJSON := c.Flags().Bool("json", false, "print what was found as JSON")
	c.RunE = func(c *cobra.Command, args []string) error {
		if err := folderAt(args[0]); err != nil {
			return err
		}
		release, err := store.Own(args[0], fmt.Sprintf("perigyre doctor (process %d)", os.Getpid()))
		if err != nil {
			return err
		}
		defer release()
		h, err := store.Examine(c.Context(), args[0], *mend)
		if err != nil {
			return err
		}
		if *asJSON {
			if err := json.NewEncoder(os.Stdout).Encode(h); err != nil {
				return err
			}
		} else {
			fmt.Printf("%d projects, %d shots with %d revisions, %d stored files, %d runs\n", h.Projects, h.Shots, h.Revisions, h.Files, h.Runs)
			for _, f := range h.Findings {
				fmt.Println(f.What)
				if len(f.Uses) > 0 {
					fmt.Println("  used by:", strings.Join(f.Uses, "; "))
				}
				if f.Mended != "" {
					fmt.Println("  mended:", f.Mended)
				}
			}
			if h.Copy != "" {
				fmt.Println("The database as it was is kept in", h.Copy)
			}
		}
		left := 0
		for _, f := range h.Findings {
			if f.Mended == "" {
				left++
			}
		}
		if left > 0 {
			return fmt.Errorf("%d of %d findings are not mended", left, len(h.Findings))
		}
		if len(h.Findings) == 0 && !*asJSON {
			fmt.Println("all is as it was written")
		}
		return nil
	}
	return c
}

func backupCommand() *cobra.Command {
	c := &cobra.Command{Use: "backup DIR --out FILE", Short: "Copy a data folder into one file", Args: cobra.ExactArgs(1),
		Long: "Copy the database of a data folder, as it is at one moment, and all stored files into a zip. A server may be at work in the folder. Rendered frames are not in it. perigyre restore makes a folder of it again."}
	out := c.Flags().String("out", "", "file to write")
	c.RunE = func(c *cobra.Command, args []string) error {
		if *out == "" {
			return input{errors.New("--out says where the backup goes; it is missing")}
		}
		if err := folderAt(args[0]); err != nil {
			return err
		}
		if _, err := os.Stat(*out); err == nil {
			return input{fmt.Errorf("%s is there already; a backup goes into a new file", *out)}
		}
		return backUp(c.Context(), args[0], *out)
	}
	return c
}

// backUp writes a backup under a temporary name first, so that its name never stands for half of one.
func backUp(ctx context.Context, folder, out string) error {
	s, err := store.Open(folder)
	if err != nil {
		return err
	}
	defer s.Close()
	var damaged []string
	err = store.WriteWith(out, func(w io.Writer) (err error) {
		damaged, err = s.Backup(ctx, w)
		return err
	})
	if err != nil {
		return fmt.Errorf("the backup could not be made: %w", err)
	}
	if len(damaged) > 0 {
		return fmt.Errorf("the backup is written, without %d stored files that are damaged; perigyre doctor says which, and what uses them", len(damaged))
	}
	return nil
}

func restoreCommand() *cobra.Command {
	return &cobra.Command{Use: "restore FILE DIR", Short: "Make a data folder of a backup", Args: cobra.ExactArgs(2),
		Long: "Make a new data folder of what perigyre backup wrote. Every stored file is checked; what cannot be restored whole leaves nothing.",
		RunE: func(c *cobra.Command, args []string) error {
			without, err := store.Restore(c.Context(), args[0], args[1])
			if err == nil && len(without) > 0 {
				return fmt.Errorf("it is restored, but %d stored files were damaged when the backup was made and are not in it; perigyre doctor %s says what uses them", len(without), args[1])
			}
			return err
		},
	}
}
