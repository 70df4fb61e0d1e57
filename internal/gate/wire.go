package gate

import (
	"io"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/klauspost/compress/gzip"
	"github.com/segmentio/encoding/json"
)

// JSON writes answers as encoding/json does, in a third of its time: an Almanac of
// thousands of entries is half a megabyte. What is sent to us is read by encoding/json.
var JSON = huma.Format{
	Marshal: func(w io.Writer, v any) error {
		e := json.NewEncoder(w)
		e.SetEscapeHTML(false)
		return e.Encode(v)
	},
	Unmarshal: readJSON,
}

// Compressed packs answers of these kinds where the asker understands gzip (RFC 1952).
func Compressed() func(http.Handler) http.Handler {
	c := middleware.NewCompressor(gzip.BestSpeed, "text/html", "text/css", "text/javascript", "application/json",
		"application/atom+xml",
		"application/rss+xml", "application/feed+json", "application/xml", "image/svg+xml", "text/calendar")
	c.SetEncoder("gzip", func(w io.Writer, level int) io.Writer {
		z, err := gzip.NewWriterLevel(w, level)
		if err != nil {
			panic(err) // the level is a constant
		}
		return z
	})
	return func(next http.Handler) http.Handler {
		packed := c.Handler(next)
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			// a range counts the bytes of what is not packed (RFC 9110, section 14.1.2)
			if r.Header.Get("Range") != "" {
				next.ServeHTTP(w, r)
				return
			}
			packed.ServeHTTP(w, r)
		})
	}
}
