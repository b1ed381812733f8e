// Package fault turns a fault of the program, a panic, into an error, so that the one job it happened in fails and the
// others go on. It is for the outside of work on foreign data: a frame, an import, a request.
package fault

import (
	"fmt"
	"runtime/debug"

	"github.com/sourcegraph/conc/panics"
)

// Error is a fault of the program.
type Error struct {
	Value any    // that it panicked with
	Stack string // of the goroutine it happened in
}

func (e *Error) Error() string {
	return fmt.Sprintf("the program has a fault there (%v); nothing else is touched, and the log has the details", e.Value)
}

// Catch is deferred with the address of a function's error, which it sets where the function panics.
func Catch(err *error) {
	v := recover()
	if v == nil {
		return
	}
	e := &Error{v, string(debug.Stack())}
	if r, ok := v.(*panics.Recovered); ok { // from a goroutine that conc waited for
		e.Value, e.Stack = r.Value, string(r.Stack)
	}
	*err = e
}
