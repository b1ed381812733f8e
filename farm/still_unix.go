//go:build unix

package farm

import (
	"os"
	"syscall"
)

// still stops a process, or lets it go on.
func still(p *os.Process, on bool) {
	sig := syscall.SIGCONT
	if on {
		sig = syscall.SIGSTOP
	}
	_ = p.Signal(sig) // it may have ended
}
