package server

import (
	"crypto/subtle"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"
)

// policy is the Content-Security-Policy: everything comes from here. Textures inside models reach the
// views as blobs.
const policy = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; " +
	"connect-src 'self' blob:; worker-src 'self' blob:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

// doors remembers who came with wrong tokens. Each waits longer than the one before from the same address: guessing takes
// time, whoever else is let in meanwhile.
type doors struct {
	mu    sync.Mutex
	wrong map[string]int
	pause func(time.Duration)
}

// The first wrong token costs this long, each further one twice as long, up to the most.
const (
	firstPause = 250 * time.Millisecond
	mostPause  = 8 * time.Second
	maxWrong   = 10_000 // addresses remembered
)

func (d *doors) refuse(address string) {
	d.mu.Lock()
	if d.wrong == nil || len(d.wrong) > maxWrong {
		d.wrong = map[string]int{}
	}
	n := d.wrong[address]
	d.wrong[address]++
	d.mu.Unlock()
	d.pause(min(mostPause, firstPause<<min(n, 10)))
}

func (d *doors) welcome(address string) {
	d.mu.Lock()
	delete(d.wrong, address)
	d.mu.Unlock()
}

// guard refuses requests for other hosts (a name that was made to point here), changes asked for by
// other sites' pages, and requests without the token where one is needed. Whoever has the token's cookie from the address
// that the program prints is let in as whoever sends the token.
func guard(hosts []string, token string) fiber.Handler {
	d := &doors{pause: time.Sleep}
	return func(c fiber.Ctx) error {
		harden(c)
		defer harden(c) // what serves files begins its answer anew
		host := string(c.Request().Host())
		if len(hosts) > 0 && !slices.Contains(hosts, strings.ToLower(host)) {
			return fiber.NewError(fiber.StatusForbidden, "this server does not answer for "+host)
		}
		if m := c.Method(); m != fiber.MethodGet && m != fiber.MethodHead {
			if origin := c.Get("Origin"); origin != "" && origin != "http://"+host && origin != "https://"+host {
				return fiber.NewError(fiber.StatusForbidden, "changes cannot be asked for from "+origin)
			}
		}
		if token == "" {
			return c.Next()
		}
		given, brought := c.Cookies("perigyre"), false
		if q := c.Query("token"); q != "" {
			given, brought = q, true
		} else if h, ok := strings.CutPrefix(c.Get("Authorization"), "Bearer "); ok {
			given = h
		}
		if subtle.ConstantTimeCompare([]byte(given), []byte(token)) != 1 {
			if given != "" { // who brings none has not guessed
				d.refuse(strings.Clone(c.IP()))
			}
			return fiber.NewError(fiber.StatusUnauthorized, "open the address with ?token= and the token that the server was started with")
		}
		if brought {
			d.welcome(c.IP())
		}
		err := c.Next()
		if brought {
			c.Cookie(&fiber.Cookie{Name: "perigyre", Value: token, Path: "/", HTTPOnly: true, Secure: c.Scheme() == "https", SameSite: fiber.CookieSameSiteStrictMode})
		}
		return err
	}
}

// harden tells browsers what an answer may do.
func harden(c fiber.Ctx) {
	c.Set("Content-Security-Policy", policy)
	c.Set("X-Content-Type-Options", "nosniff")
	c.Set("Referrer-Policy", "no-referrer")
}
