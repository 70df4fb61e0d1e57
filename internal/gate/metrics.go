package gate

import (
	"crypto/subtle"
	"net"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/prometheus/client_golang/prometheus"
)

func newTook() *prometheus.HistogramVec {
	return prometheus.NewHistogramVec(prometheus.HistogramOpts{
		Name: "dapper_http_request_seconds", Help: "How long requests took, by route, method and status.",
		Buckets: []float64{.002, .005, .01, .02, .05, .1, .25, .5, 1, 5}}, []string{"route", "method", "status"})
}

// Collectors are the metrics of the requests that passed, for a registry.
func (g *Gate) Collectors() []prometheus.Collector { return []prometheus.Collector{g.took} }

// ServeMetrics shows the metrics to who may see them: whoever has the token. Where there is none
// and the program is reached on this machine only, a program on it may see them; a proxy
// that says nothing of itself cannot be told from one, so with readers elsewhere it takes
// the token.
func (g *Gate) ServeMetrics(w http.ResponseWriter, r *http.Request) {
	if g.MetricsToken != "" {
		given, _ := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer ")
		if subtle.ConstantTimeCompare([]byte(given), []byte(g.MetricsToken)) != 1 {
			w.Header().Set("WWW-Authenticate", "Bearer")
			http.Error(w, "Metrics are for whoever has the token of DAPPER_METRICS_TOKEN.", http.StatusUnauthorized)
			return
		}
	} else if g.Proxied || !isHere(g.Public) || !fromHere(r) {
		http.Error(w, "Metrics are for whoever has the token of DAPPER_METRICS_TOKEN; without one they are shown on this machine only, while the program is reached on it alone.", http.StatusForbidden)
		return
	}
	g.Metrics.ServeHTTP(w, r)
}

// isHere says whether an address of the program is one of this machine alone.
func isHere(public string) bool {
	u, err := url.Parse(public)
	if err != nil || public == "" {
		return err == nil
	}
	return u.Hostname() == "localhost" || net.ParseIP(u.Hostname()).IsLoopback()
}

// fromHere says whether a request came from this machine, and not through a proxy.
func fromHere(r *http.Request) bool {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	proxied := r.Header.Get("X-Forwarded-For") != "" || r.Header.Get("Forwarded") != ""
	return err == nil && net.ParseIP(host).IsLoopback() && !proxied
}

// measured notes how long a request took. A route that is not known has no name of its
// own, and unusual methods share one: what is asked must not make up new series.
func (g *Gate) measured(route, method string, status int, seconds float64) {
	if g.staysOpen(route) {
		return // it takes as long as somebody looks
	}
	if route == "" {
		route = "none"
	}
	switch method {
	case http.MethodGet, http.MethodHead, http.MethodPost, http.MethodPut, http.MethodPatch, http.MethodDelete:
	default:
		method = "other"
	}
	g.took.WithLabelValues(route, method, strconv.Itoa(status)).Observe(seconds)
}
