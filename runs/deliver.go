package runs

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"syscall"
	"time"

	"perigyre/store"
)

// Courier brings the frames of a run to a drive. A file is written under another name, read back, compared, and only then given
// its own, so that none that has a final name is ever half there or damaged. Where the drive is full, or away, or has not yet got what it
// was given, it waits and tries again.
type Courier struct {
	To    Drive
	Under string                     // folder on the drive, of the run's name
	Say   func(name, trouble string) // told what holds a file up, and "" when it goes on; may be nil
	Wait  time.Duration              // before the second try, and twice as long before each further one; a second for 0
	Most  time.Duration              // that is waited at most between two tries; a minute for 0
}

// ErrOther is returned where a file of the same name and other contents is on the drive: it is not written over.
var ErrOther = errors.New("another file of this name is there already, and is not written over")

// arriving is what comes before the name of a file that is not yet verified.
const arriving = ".arriving-"

// Deliver brings one file, named below the run's folder. It tries until it is there or the context ends.
func (c *Courier) Deliver(ctx context.Context, folder, name string) error {
	data, err := os.ReadFile(filepath.Join(folder, name))
	if err != nil {
		return err
	}
	wait, most := c.Wait, c.Most
	if wait == 0 {
		wait = time.Second
	}
	if most == 0 {
		most = time.Minute
	}
	told := false
	for {
		err := c.try(filepath.Join(c.Under, name), data)
		if err == nil && told && c.Say != nil {
			c.Say(name, "")
		}
		if err == nil || errors.Is(err, ErrOther) {
			return err
		}
		if c.Say != nil {
			told = true
			c.Say(name, trouble(err))
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(wait):
		}
		wait = min(2*wait, most)
	}
}

// try brings a file if it is not there. What it was given is compared with what it gives back, before it has its name and after.
func (c *Courier) try(name string, data []byte) error {
	dir, base := filepath.Split(name)
	half := filepath.Join(dir, arriving+base)
	switch there, err := c.To.Read(name); {
	case err == nil && bytes.Equal(there, data):
		return c.To.Remove(half) // of a try that was not seen to have come through
	case err == nil && filepath.Base(name) != recordFile: // the record is of the run as it is now
		return ErrOther
	case err != nil && !errors.Is(err, fs.ErrNotExist):
		return err
	}
	if there, err := c.To.Read(half); err != nil || !bytes.Equal(there, data) { // of a try before this, it may have arrived by now
		if err := c.To.Write(half, data); err != nil {
			return errors.Join(err, c.To.Remove(half)) // room for others
		}
		there, err := c.To.Read(half)
		if err == nil && !bytes.Equal(there, data) {
			err = errLate
		}
		if err != nil {
			return err
		}
	}
	if err := c.To.Rename(half, name); err != nil {
		return err
	}
	there, err := c.To.Read(name)
	if err == nil && !bytes.Equal(there, data) {
		err = errLate
	}
	return err
}

var errLate = errors.New("what is read back is not what was written yet")

// trouble says in words what is wrong with a drive.
func trouble(err error) string {
	switch {
	case store.Full(err):
		return "the drive is full"
	case errors.Is(err, errLate), errors.Is(err, fs.ErrNotExist):
		return "the drive is away, or has not got it yet"
	case errors.Is(err, fs.ErrPermission):
		return "the drive may not be written to"
	case errors.Is(err, syscall.EIO):
		return "the drive does not answer"
	}
	return err.Error()
}

// Bring delivers the files of frames that are done, and then the record of the run.
func (c *Courier) Bring(ctx context.Context, folder string, frames []store.Frame, done func(f store.Frame)) error {
	for _, f := range frames {
		if f.State != store.FrameDone {
			continue
		}
		if !Intact(folder, f) {
			return fmt.Errorf("frame %d is not in %s as it was written; perigyre verify says more", f.Number, folder)
		}
		for _, name := range append(append([]string{}, f.Also...), f.File) {
			if err := c.Deliver(ctx, folder, name); err != nil {
				return fmt.Errorf("%s: %w", name, err)
			}
		}
		if done != nil {
			done(f)
		}
	}
	if _, err := os.Stat(filepath.Join(folder, recordFile)); err != nil {
		return nil // there is none yet
	}
	return c.Deliver(ctx, folder, recordFile)
}
