package server

import (
	"crypto/subtle"
	"slices"
	"strings"

	"github.com/gofiber/fiber/v3"
)

// policy is the Content-Security-Policy: everything comes from here. Textures inside models reach the
// views as blobs.
const policy = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; " +
	"connect-src 'self' blob:; worker-src 'self' blob:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

// guard refuses requests for other hosts (a name that was made to point here), changes asked for by
// other sites' pages, and requests without the token where one is needed.
func guard(hosts []string, token string) fiber.Handler {
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
		given := c.Cookies("perigyre")
		if q := c.Query("token"); q != "" {
			given = q
		} else if h, ok := strings.CutPrefix(c.Get("Authorization"), "Bearer "); ok {
			given = h
		}
		if subtle.ConstantTimeCompare([]byte(given), []byte(token)) != 1 {
			return fiber.NewError(fiber.StatusUnauthorized, "open the address with ?token= and the token that the server was started with")
		}
		err := c.Next()
		if c.Query("token") != "" {
			c.Cookie(&fiber.Cookie{Name: "perigyre", Value: token, Path: "/", HTTPOnly: true, SameSite: fiber.CookieSameSiteStrictMode})
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
