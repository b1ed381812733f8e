package server

import (
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/gofiber/fiber/v3"
)

// maxJSON is how large a request may be that is no form with files.
const maxJSON = 32 << 20

var errTooLarge = errors.New("the request is larger than the limit")

// limited ends a body that is longer than was allowed, however long it says it is.
type limited struct {
	from io.Reader
	left int64
}

func (l *limited) Read(p []byte) (int, error) {
	if l.left <= 0 {
		return 0, errTooLarge
	}
	if int64(len(p)) > l.left {
		p = p[:l.left]
	}
	n, err := l.from.Read(p)
	l.left -= int64(n)
	return n, err
}

// bound refuses bodies that are longer than the limits before they are read, and ends those that turn out to be while they
// are. What is refused is not read to its end: the connection closes.
func bound(upload int64) fiber.Handler {
	return func(c fiber.Ctx) error {
		most, what := int64(maxJSON), "a request that brings no files"
		if strings.HasPrefix(c.Get("Content-Type"), "multipart/form-data") {
			most, what = upload+1<<20, "an upload, by --max-upload,"
		}
		tooLarge := fiber.NewError(fiber.StatusRequestEntityTooLarge, fmt.Sprintf("%s may have %d MB", what, most>>20))
		if int64(c.Request().Header.ContentLength()) > most {
			c.RequestCtx().SetConnectionClose()
			return tooLarge
		}
		body := &limited{left: most + 1}
		if s := c.Request().BodyStream(); s != nil {
			body.from = s
			c.Request().SetBodyStream(body, -1)
		}
		err := c.Next()
		if body.from != nil && body.left <= 0 {
			c.RequestCtx().SetConnectionClose()
			return tooLarge
		}
		if err != nil && c.Request().BodyStream() != nil {
			c.RequestCtx().SetConnectionClose() // what was not read is not looked at as another request
		}
		return err
	}
}
