package server

import (
	"bufio"
	"errors"
	"log/slog"

	"github.com/gofiber/fiber/v3"

	"perigyre/core/fault"
)

// stream answers with what write writes, as it writes it. Streams are written beside the handlers, where nothing recovers:
// a fault of the program ends the answer short, which its reader notices, and nothing else. What ended it is logged.
func stream(c fiber.Ctx, what string, write func(w *bufio.Writer) error) error {
	subject := c.Path()
	return c.SendStreamWriter(func(w *bufio.Writer) {
		err := func() (err error) {
			defer fault.Catch(&err)
			return write(w)
		}()
		if f := (*fault.Error)(nil); errors.As(err, &f) {
			slog.Error("A stream met a fault of the program.", "of", what, "at", subject, "error", f, "stack", f.Stack)
		} else if err != nil {
			slog.Error("A stream was cut short.", "of", what, "at", subject, "error", err)
		}
		_ = w.Flush()
	})
}
