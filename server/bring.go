package server

import (
	"context"
	"errors"
	"fmt"
	"time"

	"perigyre/store"
)

// bringTime is how long bringing a file in may take, and bringing how many may come at once: each may need memory of its own
// many times its size.
const (
	bringTime = 10 * time.Minute
	bringing  = 2
)

// foreign carries out work on files from outside: not more than a few at once, no longer than its time, and until it is
// stopped by its ticket or the server ends. What ended it is said in a sentence.
func (st *Studio) foreign(ticket string, do func(ctx context.Context) error) error {
	if ticket == "" { // nobody will stop it, nor another in its place
		ticket = store.NewID()
	}
	ctx, end := st.imports.begin(st.ctx, ticket)
	defer end()
	stopped := refused{errors.New("it was stopped; nothing has changed")}
	select {
	case st.room <- struct{}{}:
		defer func() { <-st.room }()
	case <-ctx.Done():
		return stopped
	}
	ctx, done := context.WithTimeoutCause(ctx, bringTime, context.DeadlineExceeded)
	defer done()
	err := do(ctx)
	switch {
	case err == nil:
		return nil
	case errors.Is(ctx.Err(), context.DeadlineExceeded):
		return refused{fmt.Errorf("it took more than %d minutes and was given up; make it simpler before it is exported", int(bringTime.Minutes()))}
	case ctx.Err() != nil:
		return stopped
	}
	return err
}
