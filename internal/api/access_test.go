package api_test

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/api/rules"
	"dapper.example/internal/people"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// listed is an operation of the OpenAPI document.
type listed struct {
	*huma.Operation
	access operation.Access
}

// operations lists every operation of the OpenAPI document.
func operations(t *testing.T) (all []listed, schemas huma.Registry) {
	t.Helper()
	document := api.New(t.Context(), api.Config{Log: pgtest.Quiet(),
		Version: "1"}).Operations(chi.NewRouter()).OpenAPI()
	for _, item := range document.Paths {
		for _, op := range []*huma.Operation{item.Get, item.Put, item.Post, item.Patch, item.Delete} {
			if op == nil {
				continue
			}
			all = append(all, listed{op, operation.AccessOf(op.OperationID)})
		}
	}
	require.Greater(t, len(all), 50)
	slices.SortFunc(all, func(a, b listed) int { return strings.Compare(a.OperationID, b.OperationID) })
	return all, document.Components.Schemas
}

// sample makes a value that a schema allows: what is required and no more.
func sample(s *huma.Schema, registry huma.Registry) any {
	if s.Ref != "" {
		s = registry.SchemaFromRef(s.Ref)
	}
	if len(s.OneOf) > 0 {
		return sample(s.OneOf[0], registry)
	}
	if len(s.Enum) > 0 {
		return s.Enum[0]
	}
	if len(s.Examples) > 0 {
		return s.Examples[0]
	}
	switch s.Type {
	case huma.TypeObject:
		object := map[string]any{}
		for _, name := range s.Required {
			object[name] = sample(s.Properties[name], registry)
		}
		return object
	case huma.TypeArray:
		list := []any{}
		for range deref(s.MinItems) {
			list = append(list, sample(s.Items, registry))
		}
		return list
	case huma.TypeInteger, huma.TypeNumber:
		if s.Minimum != nil && *s.Minimum > 1 {
			return *s.Minimum
		}
		return 1
	case huma.TypeBoolean:
		return false
	case huma.TypeString:
		switch s.Format {
		case "date-time":
			return "2026-11-25T12:00:00Z"
		case "date":
			return "2026-11-25"
		}
		return strings.Repeat("x", max(1, deref(s.MinLength)))
	}
	return nil
}

func deref(n *int) int {
	if n == nil {
		return 0
	}
	return *n
}

// address fills in the parameters of an operation's path, and what its query must have.
func (th *things) address(t *testing.T, op listed, registry huma.Registry) string {
	path := strings.ReplaceAll(op.Path, "{site}", th.site)
	var parts []string
	for part := range strings.SplitSeq(path, "/") {
		if strings.HasPrefix(part, "{") {
			of := parts[len(parts)-1]
			if part == "{post}" {
				of = "posts"
			}
			require.Contains(t, makers, of, "%s: say which thing of %q to use", op.OperationID, of)
			part = fmt.Sprint(th.id(of))
		}
		parts = append(parts, part)
	}
	path = strings.Join(parts, "/")
	var query []string
	for _, p := range op.Parameters {
		if p.In == "query" && p.Required {
			query = append(query, fmt.Sprintf("%s=%v", p.Name, strings.Trim(fmt.Sprint(sample(p.Schema, registry)),
				"[]")))
		}
	}
	if len(query) > 0 {
		path += "?" + strings.Join(query, "&")
	}
	return path
}

// aTour is a tour as it is saved.
var aTour = map[string]any{"version": 1, "settings": map[string]any{"name": "Round", "lines": []string{"A line."}, "wordings": []string{"{line}"}, "channels": []int64{1},
	"shape": map[string]any{"start": "2026-12-01", "days": 10, "stops": 2, "thinning": 1, "weekdays": []string{"monday"}, "from": "09:00", "to": "18:00"}}}

// bodies are those that a schema does not say all of.
var bodies = map[string]any{
	"save-channel": map[string]any{"name": "Lantern", "version": 1, "apart": 20, "aDay": 5, "quietFrom": "22:00", "quietTo": "06:00"},
	"save-rule": struct {
		Version int `json:"version"`
		rules.RuleBody
	}{1, expiry(older(1000))},
	"save-tour": aTour, "preview-tour": aTour,
	"add-season": map[string]any{"name": "Fair", "starts": "2027-07-01", "ends": "2027-07-03", "priority": 0,
		"seed": 1, "openings": []any{}},
	"save-season": map[string]any{"name": "Fair", "starts": "2027-07-01", "ends": "2027-07-03", "priority": 0,
		"seed": 1, "openings": []any{}, "version": 1},
	"preview-season": map[string]any{"name": "Fair", "starts": "2027-07-01", "ends": "2027-07-03", "priority": 0,
		"seed": 1, "openings": []any{}},
	"compare-rhythms": map[string]any{"weeks": 4, "season": map[string]any{"name": "Fair", "starts": "2027-07-01",
		"ends": "2027-07-03", "priority": 0, "seed": 1, "openings": []any{}}},
	"read-rests":  map[string]any{"calendar": "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nEND:VCALENDAR\r\n"},
	"retime-post": map[string]any{"version": 1, "date": "2026-11-25", "time": "09:40"},
}

func body(op listed, registry huma.Registry) any {
	if given, ok := bodies[op.OperationID]; ok {
		return given
	}
	if op.RequestBody == nil {
		return nil
	}
	for kind, media := range op.RequestBody.Content {
		if kind == "application/json" {
			return sample(media.Schema, registry)
		}
	}
	return nil
}

// caller is somebody, or some script, that asks.
type caller struct {
	*client
	token string
}

// status asks for an operation and returns the answer's status. A stream is not waited
// for.
func (c caller) status(op listed, path string, body any) (int, string) {
	c.t.Helper()
	ctx, cancel := context.WithCancel(c.t.Context())
	defer cancel()
	request, err := http.NewRequestWithContext(ctx, op.Method, c.url+path, reader(c.t, body))
	require.NoError(c.t, err)
	request.Header.Set("Content-Type", "application/json")
	if c.token != "" {
		request.Header.Set("Authorization", "Bearer "+c.token)
	}
	answer, err := c.http.Do(request)
	require.NoError(c.t, err)
	defer answer.Body.Close()
	if strings.HasPrefix(answer.Header.Get("Content-Type"), "text/event-stream") {
		return answer.StatusCode, ""
	}
	raw, err := io.ReadAll(answer.Body)
	require.NoError(c.t, err)
	return answer.StatusCode, string(raw)
}

// as is a browser of its own in which somebody of the role is signed in on the site.
func (c *client) as(role people.Role, site store.Site) caller {
	c.t.Helper()
	email := fmt.Sprintf("%s@%s.example", role, site.Slug)
	user, err := c.world.InsertUser(c.t.Context(), store.User{Email: email, Name: "Some " + string(role),
		PasswordHash: cheapHash(c.t), CreatedAt: pgtest.Noon})
	require.NoError(c.t, err)
	if site.ID != 0 {
		require.NoError(c.t, c.world.InsertMembership(c.t.Context(), site.ID, user.ID, string(role)))
	}
	return c.browser(email)
}

// browser is another browser in which somebody is signed in.
func (c *client) browser(email string) caller {
	c.t.Helper()
	other := c.stranger()
	other.call("POST", "/api/v1/session", map[string]string{"email": email, "password": password}, http.StatusOK, nil)
	return other
}

// stranger is another browser in which nobody is signed in.
func (c *client) stranger() caller {
	jar, err := cookiejar.New(nil)
	require.NoError(c.t, err)
	return caller{client: &client{t: c.t, http: &http.Client{Jar: jar}, url: c.url, world: c.world, clock: c.clock}}
}

// fresh counts the people made so far: each has an address of their own. Tests that run beside each
// other share it.
var fresh atomic.Int64

// Who may do what: every operation of the document, for every kind of caller.
func TestEveryOperationLetsInWhomItShould(t *testing.T) {
	c := newClient(t)
	all, registry := operations(t)
	nobody := c.stranger()
	elsewhere := pgtest.NewWorld(t, c.world.Store, "elsewhere")
	contributor, editor, owner := c.as(people.Contributor, c.world.Site), c.as(people.Editor,
		c.world.Site), c.as(people.Owner, c.world.Site)
	foreign := c.as(people.Owner, elsewhere.Site)
	tokens := map[people.Scope]caller{}
	house := people.House{Store: c.world.Store}
	ownerID := c.userID("owner@dome.example")
	for _, scope := range people.Scopes() {
		_, secret, err := house.MakeToken(t.Context(), c.world.Site, ownerID, "A script", []people.Scope{scope},
			time.Hour, pgtest.Noon)
		require.NoError(t, err)
		with := c.stranger()
		with.token = secret
		tokens[scope] = with
	}
	_, secret, err := house.MakeToken(t.Context(), elsewhere.Site, c.userID("owner@elsewhere.example"), "A script",
		people.Scopes(), time.Hour, pgtest.Noon)
	require.NoError(t, err)
	foreignToken := c.stranger()
	foreignToken.token = secret

	refused := func(status int) bool { return status == 401 || status == 403 }
	for _, op := range all {
		if op.OperationID == "sign-out" || op.OperationID == "end-other-sign-ins" {
			continue // they would end the sessions of this test; TestSessions and TestAccount do them
		}
		t.Run(op.OperationID, func(t *testing.T) {
			th := c.things(pgtest.World{Store: c.world.Store, Site: c.world.Site, Editor: c.freshEditor(),
				Category: c.world.Category})
			path, sent := th.address(t, op, registry), body(op, registry)
			status := func(by caller) int {
				code, said := by.status(op, path, sent)
				assert.Less(t, code, 500, "%s", said)
				return code
			}
			if op.access.Role == "" {
				assert.NotEqual(t, 403, status(nobody), "anyone may")
				return
			}
			assert.Equal(t, 401, status(nobody), "not signed in")
			ranks := []struct {
				role people.Role
				by   caller
			}{{people.Contributor, contributor}, {people.Editor, editor}, {people.Owner, owner}}
			if !strings.Contains(op.Path, "{site}") {
				for _, r := range ranks {
					may := op.access.Role != operation.OwnsABlog || r.role == people.Owner
					assert.Equal(t, !may, refused(status(r.by)), "as %s", r.role)
				}
				for _, by := range tokens {
					assert.Equal(t, 403, status(by), "what is one's own is not for scripts")
				}
				return
			}
			assert.Equal(t, 404, status(foreign), "an owner of another site")
			assert.Contains(t, []int{403, 404}, status(foreignToken), "a token of another site")
			for scope, by := range tokens {
				code := status(by)
				assert.Equal(t, scope != op.access.Scope, refused(code), "with a token for %s: %d", scope, code)
			}
			least := op.access.Role
			if op.access.Others != "" { // these things are the fresh editor's, nobody's of these
				least = op.access.Others
			}
			// The tokens may have used up what they are the owner's for.
			path = c.things(pgtest.World{Store: c.world.Store, Site: c.world.Site, Editor: c.freshEditor(),
				Category: c.world.Category}).address(t, op, registry)
			for _, r := range ranks {
				code := status(r.by)
				assert.Equal(t, !r.role.Covers(least), code == 403, "on somebody else's, as %s: %d", r.role, code)
			}
			if op.access.Others == "" {
				return
			}
			for _, r := range ranks {
				own := c.things(pgtest.World{Store: c.world.Store, Site: c.world.Site,
					Editor: c.userOf(string(r.role) + "@dome.example"), Category: c.world.Category})
				code, said := r.by.status(op, own.address(t, op, registry), sent)
				assert.False(t, refused(code), "on their own, as %s: %d %s", r.role, code, said)
			}
		})
	}
}

func (c *client) userOf(email string) store.User {
	c.t.Helper()
	u, err := c.world.UserByEmail(c.t.Context(), email)
	require.NoError(c.t, err)
	return u
}

func (c *client) userID(email string) int64 { return c.userOf(email).ID }

// freshEditor is a person whose things a test may use up.
func (c *client) freshEditor() store.User {
	c.t.Helper()
	u, err := c.world.InsertUser(c.t.Context(), store.User{Email: fmt.Sprintf("fresh-%d@example.org", fresh.Add(1)),
		Name: "Fresh", PasswordHash: "-", CreatedAt: pgtest.Noon})
	require.NoError(c.t, err)
	return u
}

// Whatever has an id in its address is not there for the owner of another site.
func TestAnotherSitesThingsAreNotThere(t *testing.T) {
	c := newClient(t)
	all, registry := operations(t)
	elsewhere := pgtest.NewWorld(t, c.world.Store, "elsewhere")
	ours := c.things(elsewhere)
	ours.site = "dome" // our site's address, their things
	owner := c.as(people.Owner, c.world.Site)
	seen := 0
	for _, op := range all {
		if strings.Count(op.Path, "{") < 2 && op.OperationID != "end-sign-in" {
			continue
		}
		seen++
		path := ours.address(t, op, registry)
		code, said := owner.status(op, path, body(op, registry))
		assert.Equal(t, 404, code, "%s %s: %s", op.Method, path, said)
	}
	assert.Greater(t, seen, 20)
}
