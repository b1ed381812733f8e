//go:build unix

package runs

import "syscall"

// free returns the bytes that may still be written below a folder, or -1 where that cannot be known.
func free(folder string) int64 {
	var s syscall.Statfs_t
	if err := syscall.Statfs(folder, &s); err != nil {
		return -1
	}
	return int64(s.Bavail) * int64(s.Bsize)
}
