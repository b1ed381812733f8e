package server

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
)

// Bodies end at their limits: those that say how long they are before a byte is read, those that do not when they are there.
// What is refused unread is never looked at as another request.
func TestBodiesHaveLimits(t *testing.T) {
	app := fiber.New(fiber.Config{StreamRequestBody: true, DisablePreParseMultipartForm: true, BodyLimit: 1 << 30})
	app.Use(bound(3 << 20))
	app.Post("/json", func(c fiber.Ctx) error {
		var v any
		if err := read(c, &v); err != nil {
			return fiber.NewError(400, err.Error())
		}
		return c.SendString("read")
	})
	app.Post("/form", func(c fiber.Ctx) error {
		if _, err := c.MultipartForm(); err != nil {
			return fiber.NewError(400, err.Error())
		}
		return c.SendString("read")
	})
	app.Post("/unread", func(c fiber.Ctx) error { return fiber.NewError(403, "no") })
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go func() { _ = app.Listener(ln, fiber.ListenConfig{DisableStartupMessage: true}) }()
	defer func() { _ = app.Shutdown() }()
	form := func(n int) string {
		return "--b\r\nContent-Disposition: form-data; name=\"file\"; filename=\"a\"\r\n\r\n" + strings.Repeat("x", n) + "\r\n--b--\r\n"
	}
	for name, c := range map[string]struct {
		path, kind, body string
		chunked          bool
		status           int
	}{
		"small JSON":         {"/json", "application/json", `{"a": 1}`, false, 200},
		"large JSON":         {"/json", "application/json", `["` + strings.Repeat("x", maxJSON) + `"]`, false, 413},
		"large JSON, chunks": {"/json", "application/json", `["` + strings.Repeat("x", maxJSON) + `"]`, true, 413},
		"small form":         {"/form", "multipart/form-data; boundary=b", form(1 << 20), false, 200},
		"small form, chunks": {"/form", "multipart/form-data; boundary=b", form(1 << 20), true, 200},
		"large form":         {"/form", "multipart/form-data; boundary=b", form(5 << 20), false, 413},
		"large form, chunks": {"/form", "multipart/form-data; boundary=b", form(5 << 20), true, 413},
		"unread":             {"/unread", "application/json", strings.Repeat("GET /json HTTP/1.1\r\n\r\n", 10_000), false, 403},
	} {
		var body io.Reader = strings.NewReader(c.body)
		if c.chunked {
			body = io.MultiReader(body) // whose length is not known
		}
		req, err := http.NewRequestWithContext(t.Context(), http.MethodPost, "http://"+ln.Addr().String()+c.path, body)
		if err != nil {
			t.Fatal(err)
		}
		req.Header.Set("Content-Type", c.kind)
		res, err := (&http.Client{Transport: &http.Transport{}}).Do(req)
		if err != nil { // it may hear of the end before it has sent all
			if c.status == 200 {
				t.Errorf("%s: %v", name, err)
			}
			continue
		}
		text, _ := io.ReadAll(res.Body)
		res.Body.Close()
		if res.StatusCode != c.status {
			t.Errorf("%s: %d %.80s, want %d", name, res.StatusCode, text, c.status)
		}
	}
	// Two requests in one: the first is refused without its body being read, and what follows is no request.
	conn, err := net.Dial("tcp", ln.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close()
	inner := "POST /json HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nContent-Length: 2\r\n\r\n{}"
	fmt.Fprintf(conn, "POST /unread HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nContent-Length: %d\r\n\r\n%s", len(inner), inner)
	_ = conn.SetReadDeadline(time.Now().Add(20 * time.Second))
	all, _ := io.ReadAll(bufio.NewReader(conn))
	if bytes.Count(all, []byte("HTTP/1.1 ")) != 1 {
		t.Errorf("one request is answered with\n%s", all)
	}
}

// Work on files from outside ends when it is stopped, when its time is over, and when the server closes; few are at once.
func TestForeignWorkEnds(t *testing.T) {
	ctx, end := context.WithCancel(context.Background())
	st := &Studio{ctx: ctx, end: end, room: make(chan struct{}, bringing)}
	begun := make(chan bool)
	wait := func(ctx context.Context) error {
		begun <- true
		<-ctx.Done()
		return ctx.Err()
	}
	ended := make(chan error, 3)
	for _, ticket := range []string{"", ""} { // those without a ticket do not end each other
		go func() { ended <- st.foreign(ticket, wait) }()
		<-begun
	}
	select {
	case err := <-ended:
		t.Errorf("one of two without tickets ended: %v", err)
	case <-time.After(50 * time.Millisecond):
	}
	end()
	for range 2 {
		<-ended
	}
	ctx, end = context.WithCancel(context.Background())
	st.ctx, st.end = ctx, end
	for _, ticket := range []string{"a", "b"} {
		go func() { ended <- st.foreign(ticket, wait) }()
		<-begun
	}
	go func() { ended <- st.foreign("c", wait) }()
	select {
	case <-begun:
		t.Error("three are at work at once")
	case <-time.After(50 * time.Millisecond):
	}
	st.imports.cancel("a")
	if err := <-ended; !errors.As(err, new(refused)) || !strings.Contains(err.Error(), "stopped") {
		t.Errorf("stopped: %v", err)
	}
	<-begun // the third has its turn
	st.imports.refuse("d")
	if err := st.foreign("d", wait); !errors.As(err, new(refused)) || !strings.Contains(err.Error(), "stopped") {
		t.Errorf("stopped on its way: %v", err)
	}
	end()
	for range 2 {
		if err := <-ended; !errors.As(err, new(refused)) {
			t.Errorf("closed: %v", err)
		}
	}
}
