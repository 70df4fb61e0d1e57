package accounts

import (
	"net/http"
	"time"

	"github.com/alexedwards/scs/v2"
)

const (
	sessionLifetime = 30 * 24 * time.Hour
	SessionCookie   = "dapper_session"
	// browserCookie holds the secret by which a browser is known that somebody has signed in
	// from.
	browserCookie   = "dapper_browser"
	browserLifetime = 365 * 24 * time.Hour
	// hostOnly begins the names of cookies that a browser takes only over https, from this
	// host and for all of it.
	hostOnly = "__Host-"
)

// CookieName is a cookie's name as it is set; secure says that the program is reached by
// https only.
func CookieName(name string, secure bool) string {
	if secure {
		return hostOnly + name
	}
	return name
}

// NewSessions returns the sessions of people who are signed in.
func NewSessions(kept scs.Store, secure bool) *scs.SessionManager {
	m := scs.New()
	m.Store = kept
	m.Lifetime = sessionLifetime
	m.HashTokenInStore = true
	m.Cookie.Name = CookieName(SessionCookie, secure)
	m.Cookie.Path = "/"
	m.Cookie.HttpOnly = true
	m.Cookie.Secure = secure
	m.Cookie.SameSite = http.SameSiteLaxMode
	return m
}
