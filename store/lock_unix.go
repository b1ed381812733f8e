//go:build unix

package store

import (
	"errors"
	"os"
	"syscall"
)

// lock takes a file for this process, or returns errTaken.
func lock(f *os.File) error {
	err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB)
	if errors.Is(err, syscall.EWOULDBLOCK) {
		return errTaken
	}
	return err
}
