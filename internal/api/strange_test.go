package api_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/people"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// strange are values that nobody types and somebody sends: raw JSON, put in place of a
// value that fits.
var strange = []string{
	`"\u0000"`, `"a\u0000b"`, "\"\xff\xfe\"", `"\ud800"`, `""`, `" "`, `"` + strings.Repeat("-", 33) + `"`, `"` +
		strings.Repeat("a ", 500) + `"`,
	`"e` + strings.Repeat(`\u0301`, 2000) +
		`"`, `"%' or 1=1 --"`, `"9999-12-31"`, `"0001-01-01"`, `"9999-12-31T23:59:59Z"`, `"0001-01-01T00:00:00Z"`,
	`"-1"`, `0`, `-1`, `2147483648`, `9223372036854775807`, `-9223372036854775808`, `1e308`, `1e400`, `0.5`, `null`, `true`, `[]`, `{}`, `[[[[[[]]]]]]`,
}

// strangeTexts are those of them that fit into an address, where all is text.
var strangeTexts = []string{
	"\x00", "a\x00b", "\xff\xfe", "", " ", "..", strings.Repeat("-", 33), strings.Repeat("a ", 500), "e" +
		strings.Repeat("\u0301", 2000), "%' or 1=1 --", "*", "a/b", "true",
	"9999-12-31", "0001-01-01", "2026-02-30", "9999-12-31T23:59:59Z", "-1", "0", "2147483648", "9223372036854775807", "9223372036854775808", "1e308", "NaN", "{}", "[]", "\u202eabc",
}

// places lists every place of a JSON value, as how to put another value there.
func places(value any, visit func(where string, put func(json.RawMessage) any)) {
	visit("all of it", func(raw json.RawMessage) any { return raw })
	switch v := value.(type) {
	case map[string]any:
		for _, key := range slices.Sorted(maps.Keys(v)) {
			places(v[key], func(where string, put func(json.RawMessage) any) {
				visit(key+"/"+where, func(raw json.RawMessage) any {
					changed := maps.Clone(v)
					changed[key] = put(raw)
					return changed
				})
			})
		}
	case []any:
		if len(v) > 0 {
			places(v[0], func(where string, put func(json.RawMessage) any) {
				visit("0/"+where, func(raw json.RawMessage) any { return append([]any{put(raw)}, v[1:]...) })
			})
		}
	}
}

// whole makes a value with everything a schema allows, to a depth. Texts of no known kind
// are x1, x2 and so on, so that an answer tells which of them it means.
func whole(s *huma.Schema, registry huma.Registry, depth int, texts *int) any {
	if s.Ref != "" {
		s = registry.SchemaFromRef(s.Ref)
	}
	switch {
	case len(s.Examples) > 0 || len(s.Enum) > 0:
	case s.Type == huma.TypeArray && depth > 0:
		return []any{whole(s.Items, registry, depth-1, texts)}
	case s.Type == huma.TypeString && s.Format == "" && deref(s.MinLength) < 3:
		*texts++
		return fmt.Sprintf("x%d", *texts)
	case s.Type == huma.TypeObject && depth > 0:
		object := map[string]any{}
		for name, of := range s.Properties {
			if known, ok := fields[name]; ok && known == nil {
				continue
			} else if ok {
				object[name] = known
			} else if !of.ReadOnly {
				object[name] = whole(of, registry, depth-1, texts)
			}
		}
		return object
	}
	return sample(s, registry)
}

// fields are those whose kind neither the schema nor an answer tells.
var fields = map[string]any{
	"address": "https://dome.example/a.png", "sway": 0, "old": password, "ids": []any{1,
		2}, "to": "23:00", "action": "archive", "next": "four long plain words", "email": "somebody@example.org", "scopes": []any{"read"}, "filter": nil,
	"condition": map[string]any{"group": "all", "parts": []any{map[string]any{"test": "age", "match": "over",
		"n": 1000, "unit": "days"}}},
}

var (
	namedText = regexp.MustCompile(`x\d+`)
	kinds     = []struct{ says, value string }{
		{"not a date", "2026-12-25"}, {"not a time of day", "09:40"}, {"not a moment",
			"2026-12-25T09:40"}, {"time zone", "Europe/Lisbon"}, {"e-mail address", "somebody@example.org"},
		{"not an address", "http://127.0.0.1:9"},
	}
)

// fit puts what an operation wants in place of the texts its answers complain of, one after
// another.
func fit(body any, ask func(any) string) any {
	for range 40 {
		said := ask(body)
		named := namedText.FindString(said)
		at := slices.IndexFunc(kinds, func(k struct{ says, value string }) bool {
			return strings.Contains(said, k.says)
		})
		if named == "" || at < 0 {
			return body
		}
		raw := strings.ReplaceAll(rawOf(body), `"`+named+`"`, `"`+kinds[at].value+`"`)
		if json.Unmarshal([]byte(raw), &body) != nil {
			return body
		}
	}
	return body
}

// rawOf is written by hand: bytes that are no UTF-8 stay as they are.
func rawOf(value any) string {
	switch v := value.(type) {
	case json.RawMessage:
		return string(v)
	case map[string]any:
		var fields []string
		for _, key := range slices.Sorted(maps.Keys(v)) {
			fields = append(fields, fmt.Sprintf("%q:%s", key, rawOf(v[key])))
		}
		return "{" + strings.Join(fields, ",") + "}"
	case []any:
		var items []string
		for _, item := range v {
			items = append(items, rawOf(item))
		}
		return "[" + strings.Join(items, ",") + "]"
	}
	raw, _ := json.Marshal(value)
	return string(raw)
}

// No value that a field of any operation can be given makes the program fail: it is taken,
// or turned away with an answer of a bounded length.
func TestNoStrangeValueIsMoreThanTheProgramCanAnswer(t *testing.T) {
	c := newClient(t)
	all, registry := operations(t)
	asked, share, least := 0, 1, 5000
	if testing.Short() { // each place has a share of the values, the next place another
		share, least = 24, 350
	}
	for i, op := range all {
		if op.OperationID == "sign-out" || op.OperationID == "end-other-sign-ins" {
			continue // they take nothing, and end the test's session
		}
		t.Run(op.OperationID, func(t *testing.T) {
			world := c.world
			world.Editor = c.freshEditor()
			th := c.things(world)
			email := fmt.Sprintf("strange-%d@example.org", i)
			owner := c.owner(email)
			path := th.address(t, op, registry)
			fresh := func(code int) { // what was saved must not be in the way of what is asked next
				if op.Method == http.MethodGet || code >= 400 {
					return
				}
				_, err := c.world.DB().ExecContext(t.Context(), `
					with posts as (update posts set version = 1 where version > 1), rules as (update rules set version = 1 where version > 1),
						channels as (update channels set version = 1 where version > 1), rhythms as (update rhythms set version = 1 where version > 1)
					update sites set version = 1 where version > 1`)
				require.NoError(t, err)
			}
			ask := func(where, path string, body any) {
				asked++
				started := time.Now()
				code, said := owner.status(op, path, body)
				fresh(code)
				if code == http.StatusUnauthorized && !strings.Contains(op.Path, "/session") {
					// the account was ended, or its password changed
					owner = c.owner(fmt.Sprintf("again-%d@example.org", asked))
				}
				assert.Less(t, code, 500, "%s %s with a strange %s: %.300s", op.Method, path, where, said)
				if code >= 400 {
					assert.Less(t, len(said), 16<<10, "%s %s with a strange %s", op.Method, path, where)
				}
				if took := time.Since(started); took > 5*time.Second {
					t.Logf("%s %s with a strange %s took %s", op.Method, path, where, took)
				}
			}
			for _, p := range op.Parameters {
				if p.In == "query" {
					plain, query, _ := strings.Cut(path, "?")
					turn := asked
					for n, text := range strangeTexts {
						if n%share != turn%share {
							continue
						}
						given, err := url.ParseQuery(query)
						require.NoError(t, err)
						given.Set(p.Name, text)
						ask(p.Name, plain+"?"+given.Encode(), body(op, registry))
					}
				}
			}
			for n, part := range strings.Split(op.Path, "/") {
				if strings.HasPrefix(part, "{") {
					for i, text := range strangeTexts {
						if i%share != n%share {
							continue
						}
						parts := strings.Split(path, "/")
						parts[n] = url.PathEscape(text)
						ask(part, strings.Join(parts, "/"), body(op, registry))
					}
				}
			}
			if op.RequestBody == nil || op.RequestBody.Content["application/json"] == nil {
				return
			}
			filled := whole(op.RequestBody.Content["application/json"].Schema, registry, 4, new(int))
			if known, ok := bodies[op.OperationID].(map[string]any); ok {
				maps.Copy(filled.(map[string]any), known)
			}
			filled = fit(filled, func(body any) string {
				code, said := owner.status(op, path, rawOf(body))
				fresh(code)
				return said
			})
			place := 0
			places(filled, func(where string, put func(json.RawMessage) any) {
				place++
				for i, raw := range strange {
					among := share
					if strings.Count(where, "/") > 0 {
						among = max(share, 4) // places within others share the values among them
					}
					if i%among != place%among {
						continue
					}
					ask(where, path, rawOf(put(json.RawMessage(raw))))
				}
			})
			var unknown strings.Builder
			for n := range 5000 {
				fmt.Fprintf(&unknown, "%q:%d,", fmt.Sprint("k", n), n)
			}
			ask("5,000 unknown keys", path, "{"+strings.TrimSuffix(unknown.String(), ",")+"}")
			ask("depth", path, strings.Repeat("[", 100_000))
			ask("depth in a key", path, strings.Repeat(`{"a":`, 100_000))
		})
	}
	assert.Greater(t, asked, least)
}

// owner is the browser of a new owner of the site.
func (c *client) owner(email string) caller {
	c.t.Helper()
	user, err := c.world.InsertUser(c.t.Context(), store.User{Email: email, Name: "An Owner",
		PasswordHash: cheapHash(c.t), CreatedAt: pgtest.Noon})
	require.NoError(c.t, err)
	require.NoError(c.t, c.world.InsertMembership(c.t.Context(), c.world.Site.ID, user.ID, string(people.Owner)))
	return c.browser(email)
}

// The addresses of the public blog and of all else that is not the API are text from
// outside too.
func TestNoStrangeAddressIsMoreThanTheProgramCanAnswer(t *testing.T) {
	c := signedIn(t)
	for _, pattern := range []string{
		"/blog/dome/%s", "/blog/dome/tag/%s", "/blog/dome/category/%s", "/blog/dome/author/%s", "/blog/dome/page/%s", "/blog/dome/?page=%s", "/blog/dome/archive?page=%s",
		"/blog/dome/archive/%s", "/blog/%s/feed.xml", "/blog/%s/", "/blog/dome/search?q=%s", "/blog/dome/preview/%s", "/media/%s", "/media/dome/%s", "/calendar/%s", "/%s", "/blog/dome/feed.xml?%s",
		"/invitation?secret=%s", "/readyz?%s", "/healthz?%s",
	} {
		for _, text := range strangeTexts {
			for _, written := range []string{url.PathEscape(text), url.QueryEscape(text)} {
				answer, err := c.http.Get(c.url + fmt.Sprintf(pattern, written))
				require.NoError(t, err)
				answer.Body.Close()
				assert.Less(t, answer.StatusCode, 500, pattern, written)
			}
		}
	}
}
