package bvh

import (
	"syscall"
	"unsafe"
)

// huge asks for the memory of a slice that has not been written to yet to be made of pages of 2 MB: walks through a
// tree go from page to page, and the processor knows the places of only so many.
func huge[T any](s []T) []T {
	const page = 2 << 20
	s = s[:cap(s)]
	if len(s) == 0 {
		return s
	}
	from := uintptr(unsafe.Pointer(unsafe.SliceData(s)))
	bytes := unsafe.Slice((*byte)(unsafe.Pointer(unsafe.SliceData(s))), uintptr(len(s))*unsafe.Sizeof(s[0]))
	first := (page - from%page) % page
	if whole := (uintptr(len(bytes)) - min(uintptr(len(bytes)), first)) / page * page; whole > 0 {
		_ = syscall.Madvise(bytes[first:first+whole], syscall.MADV_HUGEPAGE) // without it all is as right, and slower
	}
	return s
}
