package server

import (
	"bufio"
	"io"
	"net/http"
	"testing"

	"github.com/gofiber/fiber/v3"
)

// A fault in the middle of a stream ends that stream and not the server: streams are written beside the handlers.
func TestAFaultEndsItsStreamAlone(t *testing.T) {
	app := fiber.New()
	app.Get("/faulty", func(c fiber.Ctx) error {
		return stream(c, "a test", func(w *bufio.Writer) error {
			_, _ = w.WriteString("so far")
			panic("a fault")
		})
	})
	for range 2 {
		req, _ := http.NewRequest("GET", "http://x/faulty", nil)
		got, err := app.Test(req)
		if err != nil {
			t.Fatal(err)
		}
		if body, _ := io.ReadAll(got.Body); string(body) != "so far" {
			t.Errorf("it sent %q", body)
		}
	}
}
