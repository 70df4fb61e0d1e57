package gate

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"mime"
	"net/http"
	"net/url"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"
	"golang.org/x/sync/semaphore"

	"dapper.example/internal/budget"
	"dapper.example/internal/picture"
)

// What comes from outside has a budget whatever its content: this file turns away, for
// every operation and page alike, text that is none and bodies that cost more to look at
// than they say.

const (
	// maxBody is the largest body of any request, in bytes: a picture with its form.
	maxBody = picture.MaxBytes + 1<<20
	// maxJSONDepth is how deep lists and objects of a body may lie in one another. The
	// deepest that means anything is a condition, whose own limit is well below.
	maxJSONDepth = 64
	// maxJSONValues is how many values a body may have in all.
	maxJSONValues = 100_000
	// maxJSONKeys is how many keys one object may have: a post has 50 custom fields at most,
	// and no object of another kind has as many.
	maxJSONKeys = 200
	// MaxOpenBody is the largest body of what anyone may ask, signed in or not, in bytes.
	MaxOpenBody = 16 << 10
)

// Bodies beyond smallBody bytes take a share of the memory while they are worked on: what a
// body of JSON becomes, at most, or a file's own bytes. All such bodies together take no
// more than largeBodies megabytes, so that the work they ask for finds room beside them.
const (
	smallBody   = 64 << 10
	largeBodies = 128
	bodyWait    = 10 * time.Second
)

var bodies = semaphore.NewWeighted(largeBodies)

// MakeRoom waits for room for the body of a request of an operation; leave gives it back. It fails with
// budget.ErrBusy.
func MakeRoom(r *http.Request, op *huma.Operation) (leave func(), err error) {
	size, most := r.ContentLength, int64(maxBody)
	if op.MaxBodyBytes > 0 {
		most = op.MaxBodyBytes
	}
	if size < 0 || size > most {
		size = most // more than that is not read
	}
	if r.Body == nil || size <= smallBody {
		return func() {}, nil
	}
	share := 2 + size*12>>20
	if kind, _, _ := mime.ParseMediaType(r.Header.Get("Content-Type")); kind == "multipart/form-data" || kind == "application/octet-stream" {
		share = 2 + size>>20
	}
	share = min(share, largeBodies)
	waiting, cancel := context.WithTimeout(r.Context(), bodyWait)
	defer cancel()
	if bodies.Acquire(waiting, share) != nil {
		return nil, budget.ErrBusy
	}
	release, err := budget.Take(r.Context(), share, bodyWait)
	if err != nil {
		bodies.Release(share)
		return nil, err
	}
	return func() {
		release()
		bodies.Release(share)
	}, nil
}

// Sane bounds every request's body and answers those at once whose address holds what is no
// text: NUL, or bytes that are not UTF-8 (RFC 3629).
func (g *Gate) Sane(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if !IsText(r.URL.Path) || !isTextQuery(r.URL.RawQuery) {
			http.Error(w, "The address contains characters that are not text. Check it and try again.",
				http.StatusBadRequest)
			return
		}
		if r.Body != nil {
			r.Body = http.MaxBytesReader(w, r.Body, maxBody)
		}
		next.ServeHTTP(w, r)
	})
}

// patience is how long a request may take where the gate says nothing else, those aside that stay open.
const patience = 30 * time.Second

// Timely ends what a request has begun once it takes too long.
func (g *Gate) Timely(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if g.staysOpen(r.URL.Path) {
			next.ServeHTTP(w, r)
			return
		}
		ctx, cancel := context.WithTimeout(r.Context(), cmp.Or(g.Patience, patience))
		defer cancel()
		next.ServeHTTP(w, r.WithContext(ctx))
	})
}

// IsText tells whether a text is one: UTF-8 without NUL.
func IsText(text string) bool { return utf8.ValidString(text) && strings.IndexByte(text, 0) < 0 }

func isTextQuery(raw string) bool {
	if !strings.Contains(raw, "%") {
		return IsText(raw)
	}
	for part := range strings.FieldsFuncSeq(raw, func(r rune) bool { return r == '&' || r == ';' || r == '=' }) {
		if text, err := url.QueryUnescape(part); err == nil && !IsText(text) {
			return false
		}
	}
	return true
}

// readJSON reads a body as huma does, once it is known what it costs.
func readJSON(data []byte, v any) error {
	if err := checkJSON(data); err != nil {
		return err
	}
	return huma.DefaultJSONFormat.Unmarshal(data, v)
}

// checkJSON looks through a JSON text (RFC 8259) without building anything: it must be
// UTF-8, hold no NUL in any string, and be neither too deep nor of too many values. What
// is wrong is told with the last key before it. Whether it is JSON at all is for the
// reading to find.
func checkJSON(data []byte) error {
	if !utf8.Valid(data) {
		return errors.New("this is not text in UTF-8")
	}
	key, last := "", ""
	depth, values := 0, 0
	var keys [maxJSONDepth + 1]int // of the object at each depth
	for i := 0; i < len(data); i++ {
		switch data[i] {
		case '{', '[':
			if depth++; depth > maxJSONDepth {
				return fmt.Errorf("%slists and objects lie more than %d deep in one another", of(key), maxJSONDepth)
			}
			keys[depth] = 0
		case '}', ']':
			depth = max(depth-1, 0) // more ends than beginnings are for the reading to find
		case ',':
			if values++; values > maxJSONValues {
				return fmt.Errorf("there are more than %d values; send it in smaller parts", maxJSONValues)
			}
		case ':':
			key = last
			if keys[depth]++; keys[depth] > maxJSONKeys {
				return fmt.Errorf("%san object has more than %d keys", of(key), maxJSONKeys)
			}
		case '"':
			end, nul := stringEnd(data, i+1)
			if nul {
				return errors.New(of(key) + NULSays)
			}
			last, i = string(data[i+1:min(end, i+1+longestKey)]), end
		}
	}
	return nil
}

// NULSays is what is said of text that holds NUL.
const NULSays = "It contains a character that is not text (NUL). Remove it."

// longestKey is how much of a key is repeated in an error, in bytes.
const longestKey = 60

func of(key string) string {
	if key == "" {
		return ""
	}
	return strings.ToValidUTF8(key, "") + ": "
}

// stringEnd is where the string ends that begins at a place, and whether it holds NUL.
func stringEnd(data []byte, at int) (end int, nul bool) {
	for ; at < len(data); at++ {
		switch data[at] {
		case '"':
			return at, nul
		case 0:
			nul = true
		case '\\':
			if bytes.HasPrefix(data[at+1:], []byte("u0000")) {
				nul = true
			}
			at++
		}
	}
	return at, nul
}
