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
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
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

// things are the ids of one of each thing of a site.
type things struct {
	site string
	ids  map[string]int64 // by what stands before {id} in a path
}

// address fills in the parameters of an operation's path, and what its query must have.
func (th things) address(t *testing.T, op listed, registry huma.Registry) string {
	path := strings.ReplaceAll(op.Path, "{site}", th.site)
	var parts []string
	for part := range strings.SplitSeq(path, "/") {
		if strings.HasPrefix(part, "{") {
			of := parts[len(parts)-1]
			if part == "{post}" {
				of = "posts"
			}
			id, known := th.ids[of]
			require.True(t, known, "%s: say which thing of %q to use", op.OperationID, of)
			part = fmt.Sprint(id)
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

// isOfAThing tells whether an operation's path names one of a site's things.
func (op listed) isOfAThing() bool {
	return strings.Contains(strings.ReplaceAll(op.Path, "{site}", ""), "{")
}

// thingsFor are the things that an operation may be about: none, which takes no time, where its path names none.
func (c *client) thingsFor(op listed, w pgtest.World) things {
	c.t.Helper()
	if !op.isOfAThing() {
		return things{site: w.Site.Slug}
	}
	return c.things(w)
}

// things makes one of each thing on a site, and one sign-in of nobody's.
func (c *client) things(w pgtest.World) things {
	c.t.Helper()
	ctx := c.t.Context()
	made := things{w.Site.Slug, map[string]int64{"posts": w.Draft(c.t, "Somebody's draft").ID}}
	var err error
	channel, err := w.InsertChannel(ctx, store.Channel{SiteID: w.Site.ID, Kind: "lantern", Name: "Lantern",
		Address: "http://127.0.0.1:9", Token: "t", Apart: 20, ADay: 5})
	require.NoError(c.t, err)
	made.ids["channels"] = channel
	made.ids["subscribers"], err = w.AskSubscriber(ctx, store.Subscriber{SiteID: w.Site.ID, Channel: channel, Email: "tam@walkers.example", Token: fmt.Sprint("token ", channel), AskedAt: pgtest.Noon}, pgtest.Noon)
	require.NoError(c.t, err)
	require.NoError(c.t, w.InTx(ctx, func(tx *store.Tx) error {
		made.ids["prepared"], err = tx.InsertPrepared(ctx, store.Prepared{SiteID: w.Site.ID, Text: "Hello", CreatedAt: pgtest.Noon})
		return err
	}))
	require.NoError(c.t, w.InTx(ctx, func(tx *store.Tx) error {
		made.ids["webhooks"], err = tx.InsertWebhook(ctx, store.Webhook{SiteID: w.Site.ID, Name: "Sheet", Address: "http://127.0.0.1:9/", Events: []string{"post.published"},
			Secret: pgtest.Box.Seal("whsec_" + strings.Repeat("A", 44)), CreatedAt: pgtest.Noon})
		return err
	}))
	told, err := w.InsertHookSample(ctx, w.Site.ID, made.ids["webhooks"], "post.published", pgtest.Noon)
	require.NoError(c.t, err)
	made.ids["told"] = told.ID
	made.ids["categories"], made.ids["import-triggers"] = w.Category, 1
	require.NoError(c.t, w.InTx(ctx, func(tx *store.Tx) error {
		if made.ids["feeds"], err = tx.InsertFeed(ctx, store.Feed{SiteID: w.Site.ID, User: w.Editor.ID, Name: fmt.Sprint("Feed ", made.ids["posts"]), Address: "http://127.0.0.1:9/feed", Minutes: 60, Becomes: store.FeedPosts, CreatedAt: pgtest.Noon}); err != nil {
			return err
		}
		made.ids["imports"], err = tx.InsertImport(ctx, store.Import{SiteID: w.Site.ID, User: w.Editor.ID, Source: "Torches", CreatedAt: pgtest.Noon})
		return err
	}))
	require.NoError(c.t, w.InTx(ctx, func(tx *store.Tx) error {
		if made.ids["edits"], err = tx.InsertEdit(ctx, store.TimedEdit{SiteID: w.Site.ID, Post: made.ids["posts"], User: &w.Editor.ID, DueAt: pgtest.Noon.AddDate(1, 0, 0), CreatedAt: pgtest.Noon}); err != nil {
			return err
		}
		made.ids["destinations"], err = tx.InsertDestination(ctx, store.Destination{SiteID: w.Site.ID, Kind: "folder", Name: fmt.Sprint("Static ", made.ids["posts"]), Archived: store.KeepArchived, CreatedAt: pgtest.Noon,
			Setup: store.DestinationSetup{Folder: fmt.Sprint("folder-", made.ids["posts"])}})
		return err
	}))
	made.ids["digests"] = made.ids["posts"] // its token
	require.NoError(c.t, w.InTx(ctx, func(tx *store.Tx) error {
		return tx.PutDigest(ctx, store.Digest{SiteID: w.Site.ID, User: w.Editor.ID, Every: "day", ZoneName: "Europe/Lisbon", Parts: store.Strings{"held"}, Token: fmt.Sprint(made.ids["digests"]),
			NextAt: pgtest.Noon.AddDate(1, 0, 0), SentAt: pgtest.Noon})
	}))
	made.ids["copies"], made.ids["pages"] = made.ids["posts"], made.ids["posts"]
	require.NoError(c.t, w.SetTags(ctx, w.Site.ID, made.ids["posts"], []store.Tag{{Slug: "moon", Name: "Moon"}}))
	tag, err := w.TagBySlug(ctx, w.Site.ID, "moon")
	require.NoError(c.t, err)
	made.ids["tags"] = tag.ID
	made.ids["comments"], err = w.InsertComment(ctx, store.Comment{SiteID: w.Site.ID, Post: made.ids["posts"], Name: "Tam", Text: "Hello.", Status: "held", At: pgtest.Noon})
	require.NoError(c.t, err)
	made.ids["guide"] = 1 // no page, which everybody may ask for
	texts, err := w.Texts(ctx, w.Site.ID, made.ids["posts"], 1)
	require.NoError(c.t, err)
	made.ids["texts"] = texts[0].ID
	rule, err := w.InsertRule(ctx, store.Rule{SiteID: w.Site.ID, Kind: "expire", Name: "Old", Condition: older(1000),
		Cadence: cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days,
			At: civil.MustClock("04:00")}, Settings: store.RuleSettings{Action: "archive"}, CreatedAt: pgtest.Noon})
	require.NoError(c.t, err)
	made.ids["rules"], made.ids["exclusions"], made.ids["picks"], made.ids["read"] = rule, made.ids["posts"], made.ids["posts"], made.ids["posts"]
	person, err := w.InsertUser(ctx, store.User{Email: fmt.Sprintf("person-%d@%s.example", fresh.Add(1), w.Site.Slug),
		Name: "A Person", PasswordHash: "-", CreatedAt: pgtest.Noon})
	require.NoError(c.t, err)
	require.NoError(c.t, w.InsertMembership(ctx, w.Site.ID, person.ID, "editor"))
	made.ids["people"] = person.ID
	post := made.ids["posts"]
	require.NoError(c.t, w.InTx(ctx, func(tx *store.Tx) error {
		made.ids["invitations"], err = tx.PutInvitation(ctx, store.Invitation{SiteID: w.Site.ID, Email: "new@" +
			w.Site.Slug + ".example", Role: "editor",
			InvitedBy: w.Editor.ID, CreatedAt: pgtest.Noon, ExpiresAt: pgtest.Noon.Add(time.Hour)})
		if err != nil {
			return err
		}
		return tx.Log(ctx, store.LogEntry{SiteID: w.Site.ID, At: pgtest.Noon, Actor: &w.Editor.ID,
			Deed: store.DeedClear, Post: &post, Reason: "Cleared."})
	}))
	lines, err := w.LogOf(ctx, w.Site.ID, post)
	require.NoError(c.t, err)
	made.ids["logbook"] = lines[0].ID
	made.ids["calendars"], err = w.InsertCalendarFeed(ctx, store.CalendarFeed{SiteID: w.Site.ID, User: w.Editor.ID,
		Name: "The plan",
		Hash: []byte(fmt.Sprintf("c%031d", made.ids["rules"])), CreatedAt: pgtest.Noon})
	require.NoError(c.t, err)
	require.NoError(c.t, w.KeepLens(ctx, store.Lens{SiteID: w.Site.ID, User: w.Editor.ID, Screen: store.LensOfPlan,
		Name: "Mine", Shown: []byte("{}"), CreatedAt: pgtest.Noon}))
	lenses, err := w.Lenses(ctx, w.Site.ID, w.Editor.ID)
	require.NoError(c.t, err)
	made.ids["lenses"] = lenses[0].ID
	require.NoError(c.t, w.InTx(ctx, func(tx *store.Tx) error {
		made.ids["tours"], err = tx.InsertTour(ctx, store.Tour{SiteID: w.Site.ID, Post: store.ID(post), Name: "Round", CreatedAt: pgtest.Noon})
		if err != nil {
			return err
		}
		if err := tx.PutTourTemplate(ctx, store.TourTemplate{SiteID: w.Site.ID, Name: "Slow", CreatedAt: pgtest.Noon}); err != nil {
			return err
		}
		templates, err := tx.TourTemplates(ctx, w.Site.ID)
		if err != nil {
			return err
		}
		if made.ids["remarks"], err = tx.InsertRemark(ctx, store.Remark{SiteID: w.Site.ID, Post: post, User: &w.Editor.ID, Body: "Fine.", At: pgtest.Noon}); err != nil {
			return err
		}
		made.ids["tour-templates"] = templates[0].ID
		made.ids["outings"], err = tx.InsertPlanned(ctx, store.Outing{SiteID: w.Site.ID, Channel: channel, Post: store.ID(post),
			At:     pgtest.Noon.AddDate(1, 0, 0),
			Origin: store.ByHand, OwnText: "{title}", CreatedAt: pgtest.Noon})
		return err
	}))
	require.NoError(c.t, w.InTx(ctx, func(tx *store.Tx) error {
		made.ids["seasons"], err = tx.InsertSeason(ctx, store.Rhythm{SiteID: w.Site.ID, Name: "Summer", Gap: 60,
			From: civil.MustDate("2027-07-01"), Until: civil.MustDate("2027-07-31")}, pgtest.Noon)
		return err
	}))
	made.ids["tokens"], err = w.InsertToken(ctx, store.Token{SiteID: w.Site.ID, User: w.Editor.ID, Name: "A script",
		Hash: []byte(fmt.Sprintf("%032d", made.ids["rules"])),
		Hint: "last", Scopes: store.Strings{"read"}, CreatedAt: pgtest.Noon, ExpiresAt: pgtest.Noon.Add(time.Hour)})
	require.NoError(c.t, err)
	made.ids["sign-ins"], err = w.InsertSignIn(ctx, store.SignIn{User: w.Editor.ID, BeganAt: pgtest.Noon})
	require.NoError(c.t, err)
	made.ids["pictures"], err = w.InsertPicture(ctx, store.Picture{SiteID: w.Site.ID,
		Key: fmt.Sprintf("%016d",
			made.ids["rules"]), Name: "a.jpg", Type: "jpg", Width: 100, Height: 50, User: &w.Editor.ID, CreatedAt: pgtest.Noon})
	require.NoError(c.t, err)
	made.ids["previews"], err = w.InsertPreviewLink(ctx, store.PreviewLink{SiteID: w.Site.ID, Post: post,
		Hash: []byte(fmt.Sprintf("%032d", made.ids["rules"])),
		User: w.Editor.ID, CreatedAt: pgtest.Noon, ExpiresAt: pgtest.Noon.Add(time.Hour)})
	require.NoError(c.t, err)
	return made
}

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
			th := c.thingsFor(op, pgtest.World{Store: c.world.Store, Site: c.world.Site, Editor: c.freshEditor(),
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
			path = c.thingsFor(op, pgtest.World{Store: c.world.Store, Site: c.world.Site, Editor: c.freshEditor(),
				Category: c.world.Category}).address(t, op, registry)
			for _, r := range ranks {
				code := status(r.by)
				assert.Equal(t, !r.role.Covers(least), code == 403, "on somebody else's, as %s: %d", r.role, code)
			}
			if op.access.Others == "" {
				return
			}
			for _, r := range ranks {
				own := c.thingsFor(op, pgtest.World{Store: c.world.Store, Site: c.world.Site,
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
	theirs := c.things(elsewhere)
	ours := things{"dome", theirs.ids} // our site's address, their things
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
