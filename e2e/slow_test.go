package e2e

import (
	"math/rand/v2"
	"net/http"
	"os"
	"strings"
	"time"
)

// slowed answers the screens as a far and busy server would where E2E_SLOW says how long one may take at most, such as "1s": each request
// comes late, and each answer after what it tells of has been told by events. So journeys find what only a slow machine shows.
func slowed(h http.Handler) http.Handler {
	most, err := time.ParseDuration(os.Getenv("E2E_SLOW"))
	if err != nil || most <= 0 {
		return h
	}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		late := strings.HasPrefix(r.URL.Path, "/api/") && !strings.HasSuffix(r.URL.Path, "/events")
		if late {
			time.Sleep(rand.N(most))
		}
		h.ServeHTTP(w, r)
		if late {
			time.Sleep(rand.N(most) / 3)
		}
	})
}
