//go:build !unix

package farm

import "os"

// still does nothing where processes cannot be stopped.
func still(*os.Process, bool) {}
