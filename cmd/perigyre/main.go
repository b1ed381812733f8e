// Command perigyre serves the application and does its work from the command line.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"

	"perigyre/core/model"
)

// Exit codes: 0 done, 1 failed while working, 2 bad usage or bad input.
const (
	failed   = 1
	badInput = 2
)

// input is an error in what was asked for, rather than in the work.
type input struct{ error }

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	context.AfterFunc(ctx, stop) // whoever asks it to end a second time is not made to wait
	root := &cobra.Command{
		Use: "perigyre", Short: "Presentation animation of products, models and logos",
		SilenceUsage: true, SilenceErrors: true, Args: cobra.NoArgs,
	}
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return input{err} })
	root.CompletionOptions.HiddenDefaultCmd = true
	root.AddCommand(serveCommand(), demoCommand(), turntableCommand(), importCommand(), bakeCommand(), exportCommand(), editCommand(), checkCommand(), renderCommand(), workerCommand(), farmCommand(), queueCommand(), deliverCommand(), verifyCommand(), tracksCommand(), benchCommand(), doctorCommand(), backupCommand(), restoreCommand())
	for _, c := range root.Commands() {
		if args := c.Args; args != nil {
			c.Args = func(c *cobra.Command, given []string) error {
				if err := args(c, given); err != nil {
					return input{fmt.Errorf("%w; perigyre %s --help tells how it is used", err, c.Name())}
				}
				return nil
			}
		}
	}
	known := root.Commands()
	if len(os.Args) > 1 && len(os.Args[1]) > 0 && os.Args[1][0] != '-' && os.Args[1] != "help" {
		found := false
		for _, c := range known {
			found = found || c.Name() == os.Args[1]
		}
		if !found {
			exit(input{fmt.Errorf("there is no command %q; perigyre --help lists them", os.Args[1])})
		}
	}
	exit(root.ExecuteContext(ctx))
}

func exit(err error) {
	if err == nil {
		os.Exit(0)
	}
	fmt.Fprintln(os.Stderr, "perigyre:", err)
	var in input
	if errors.As(err, &in) {
		os.Exit(badInput)
	}
	os.Exit(failed)
}

// limitFlags adds the flags that bound what files may ask for.
func limitFlags(c *cobra.Command) func() model.Limits {
	d := model.DefaultLimits
	upload := c.Flags().Int64("max-upload", d.Bytes>>20, "largest upload, and largest content of a zip, in MB")
	triangles := c.Flags().Int("max-triangles", d.Triangles, "most triangles of a model")
	side := c.Flags().Int("max-texture", d.TextureSide, "largest side of a texture in pixels")
	memory := c.Flags().Int64("max-memory", d.Memory>>20, "most memory that bringing a file in may take, in MB, 0 for any")
	return func() model.Limits {
		return model.Limits{Bytes: *upload << 20, Triangles: *triangles, TextureSide: *side, Memory: *memory << 20}
	}
}

// terminal reports whether progress can be shown.
func terminal() bool {
	info, err := os.Stderr.Stat()
	return err == nil && info.Mode()&os.ModeCharDevice != 0
}
