package server

import (
	"crypto/tls"
	"net"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/gofiber/fiber/v3"
)

// Every address that there is, asked as other sites and strangers would: for another host, from a foreign origin and from
// none that it tells ("null"), without the token and with a wrong one; by HEAD and by OPTIONS. What is refused changes
// nothing and says nothing, every answer has its headers, and none invites other sites.
func TestAllAddresses(t *testing.T) {
	open, locked := newHouse(t, ""), newHouse(t, "secret")
	field := regexp.MustCompile(`:(\w+)(<[^>]*>)?`)
	tried := 0
	for _, routes := range open.app.Stack() {
		for _, r := range routes {
			if r.Path == "/" && r.Method != http.MethodGet || strings.Contains(r.Path, "*") && !strings.HasPrefix(r.Path, "/*") {
				continue
			}
			path := field.ReplaceAllStringFunc(r.Path, func(s string) string {
				if strings.Contains(s, "apng") {
					return "apng"
				}
				return "x"
			})
			path = strings.ReplaceAll(path, "*", "shots/x")
			changes := r.Method != http.MethodGet && r.Method != http.MethodHead
			ask := func(h house, method string, set map[string]string) *http.Response {
				t.Helper()
				req := httptest.NewRequest(method, path, nil)
				req.Host = "here:1"
				for k, v := range set {
					if k == "Host" {
						req.Host = v
						continue
					}
					req.Header.Set(k, v)
				}
				if strings.HasSuffix(path, "/events") && h.app == open.app && set["Host"] == "" { // it does not end
					return nil
				}
				res, err := h.app.Test(req)
				if err != nil {
					t.Fatalf("%s %s: %v", method, path, err)
				}
				res.Body.Close()
				if res.Header.Get("Content-Security-Policy") != policy || res.Header.Get("X-Content-Type-Options") != "nosniff" {
					t.Errorf("%s %s %v: its headers are %v", method, path, set, res.Header)
				}
				for k := range res.Header {
					if strings.HasPrefix(k, "Access-Control-") {
						t.Errorf("%s %s %v invites other sites by %s", method, path, set, k)
					}
				}
				return res
			}
			want := func(h house, status int, set map[string]string) {
				t.Helper()
				if res := ask(h, r.Method, set); res != nil && res.StatusCode != status {
					t.Errorf("%s %s %v: %d, want %d", r.Method, path, set, res.StatusCode, status)
				}
			}
			want(open, 403, map[string]string{"Host": "elsewhere:1"})
			if changes {
				want(open, 403, map[string]string{"Origin": "http://elsewhere:1"})
				want(open, 403, map[string]string{"Origin": "null"})
			}
			want(locked, 401, nil)
			if changes {
				want(locked, 403, map[string]string{"Origin": "http://elsewhere:1", "Authorization": "Bearer secret"})
			}
			if r.Method == http.MethodGet {
				if res := ask(open, http.MethodHead, nil); res != nil && res.StatusCode >= 500 {
					t.Errorf("HEAD %s: %d", path, res.StatusCode)
				}
			}
			if res := ask(open, http.MethodOptions, map[string]string{"Origin": "http://elsewhere:1", "Access-Control-Request-Method": "POST"}); res != nil && res.StatusCode < 400 {
				t.Errorf("OPTIONS %s: %d", path, res.StatusCode)
			}
			tried++
		}
	}
	if tried < 40 {
		t.Errorf("only %d addresses were tried", tried)
	}
}

// Wrong tokens cost time, more each time from one address, and nothing of others'.
func TestWrongTokensAreSlow(t *testing.T) {
	var waited []time.Duration
	d := &doors{pause: func(p time.Duration) { waited = append(waited, p) }}
	for range 8 {
		d.refuse("a")
	}
	d.refuse("b")
	d.welcome("a")
	d.refuse("a")
	want := []time.Duration{firstPause, 2 * firstPause, 4 * firstPause, 8 * firstPause, 16 * firstPause, mostPause, mostPause, mostPause, firstPause, firstPause}
	for i := range want {
		if waited[i] != want[i] {
			t.Fatalf("waits are %v, want %v", waited, want)
		}
	}
}

// Over TLS the cookie of whoever logs in is for TLS alone.
func TestCookieOverTLS(t *testing.T) {
	h := newHouse(t, "")
	app := App(h.studio, fstest.MapFS{"index.html": {Data: []byte("front")}}, nil, "secret")
	model := httptest.NewTLSServer(http.NotFoundHandler()) // for its certificate
	defer model.Close()
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go func() {
		_ = app.Listener(tls.NewListener(ln, model.TLS.Clone()), fiber.ListenConfig{DisableStartupMessage: true})
	}()
	defer func() { _ = app.Shutdown() }()
	res, err := model.Client().Get("https://" + ln.Addr().String() + "/?token=secret")
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	if c := res.Header.Get("Set-Cookie"); !strings.Contains(c, "secure") || !strings.Contains(c, "HttpOnly") || !strings.Contains(c, "SameSite=Strict") {
		t.Errorf("the cookie is %q", c)
	}
}
