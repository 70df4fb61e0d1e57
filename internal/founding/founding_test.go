package founding_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/founding"
	"dapper.example/internal/people"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

var (
	from  = people.Caller{Address: "203.0.113.7", Agent: "A browser"}
	owner = founding.Owner{Name: "Ines Abara", Email: "Ines@garden.example", Password: "seventeen brass snails"}
)

func garden() founding.Blog {
	return founding.Blog{Title: "  Garden   Notes ", Tagline: "What grows", Slug: "garden-notes", Zone: "Europe/Lisbon", Language: "pt-pt", Start: "steady"}
}

func isField(t *testing.T, err error, field, says string) {
	t.Helper()
	bad, ok := errors.AsType[*act.Invalid](err)
	require.True(t, ok, "%v", err)
	assert.Equal(t, field, bad.Field)
	assert.Contains(t, bad.Message, says)
}

func TestTheProgramIsSetUpOnce(t *testing.T) {
	s, ctx, now := pgtest.New(t), t.Context(), pgtest.Noon
	is, err := s.IsSetUp(ctx)
	require.NoError(t, err)
	require.False(t, is)
	_, _, err = founding.SetUp(ctx, s, "", owner, garden(), from, now)
	require.ErrorIs(t, err, founding.ErrWrongCode, "without a code nobody has the right one")

	code, err := founding.FirstCode(ctx, s.Queries)
	require.NoError(t, err)
	require.Regexp(t, `^([2-9A-HJ-NP-Z]{4}-){3}[2-9A-HJ-NP-Z]{4}$`, code)
	again, err := founding.FirstCode(ctx, s.Queries)
	require.NoError(t, err)
	assert.Empty(t, again, "a code is shown once")
	for _, wrong := range []string{"", "AAAA-AAAA-AAAA-AAAA", code[:18], code + "A"} {
		require.ErrorIs(t, founding.CheckCode(ctx, s.Queries, wrong, from, now), founding.ErrWrongCode, wrong)
	}
	typed := " " + strings.ToLower(strings.ReplaceAll(code, "-", " "))
	require.NoError(t, founding.CheckCode(ctx, s.Queries, typed, from, now))

	user, signIn, err := founding.SetUp(ctx, s, typed, owner, garden(), from, now)
	require.NoError(t, err)
	assert.Equal(t, "ines@garden.example", user.Email)
	signed, err := s.UserSignedIn(ctx, signIn, now)
	require.NoError(t, err)
	assert.Equal(t, user.ID, signed.ID)
	m, err := s.MembershipOf(ctx, user.ID, "garden-notes")
	require.NoError(t, err)
	assert.Equal(t, "owner", m.Role)
	assert.Equal(t, "Garden Notes", m.Title)
	assert.Equal(t, "What grows", m.Tagline)
	assert.Equal(t, "Europe/Lisbon", m.ZoneName)
	assert.Equal(t, "pt-PT", m.Language)
	r, err := s.RhythmOf(ctx, m.ID)
	require.NoError(t, err)
	assert.Equal(t, "Three a week", r.Name)
	assert.Len(t, r.Openings, 1)
	assert.Empty(t, r.In(m.Zone()).Problems())

	is, err = s.IsSetUp(ctx)
	require.NoError(t, err)
	assert.True(t, is)
	_, _, err = founding.SetUp(ctx, s, code, founding.Owner{Name: "Pell", Email: "pell@garden.example", Password: owner.Password}, founding.Blog{
		Title: "Second", Slug: "second", Zone: "UTC", Language: "en"}, from, now)
	require.ErrorIs(t, err, founding.ErrSetUp)
	_, err = founding.AnotherCode(ctx, s.Queries)
	require.ErrorIs(t, err, founding.ErrSetUp)
	none, err := founding.FirstCode(ctx, s.Queries)
	require.NoError(t, err)
	assert.Empty(t, none)
}

// Even where the owner and all that is theirs is gone.
func TestTheDoorStaysClosed(t *testing.T) {
	s := pgtest.New(t)
	_, err := s.InsertUser(t.Context(), store.User{Email: "a@b.example", Name: "A", PasswordHash: "-", CreatedAt: pgtest.Noon})
	require.NoError(t, err)
	_, err = s.DB().Exec(`delete from users`)
	require.NoError(t, err)
	is, err := s.IsSetUp(t.Context())
	require.NoError(t, err)
	assert.True(t, is)
}

func TestAnotherCodeReplacesTheFirst(t *testing.T) {
	s, ctx := pgtest.New(t), t.Context()
	first, err := founding.FirstCode(ctx, s.Queries)
	require.NoError(t, err)
	second, err := founding.AnotherCode(ctx, s.Queries)
	require.NoError(t, err)
	assert.NotEqual(t, first, second)
	require.ErrorIs(t, founding.CheckCode(ctx, s.Queries, first, from, pgtest.Noon), founding.ErrWrongCode)
	require.NoError(t, founding.CheckCode(ctx, s.Queries, second, from, pgtest.Noon))
}

func TestAThousandWrongCodes(t *testing.T) {
	s, ctx, now := pgtest.New(t), t.Context(), pgtest.Noon
	code, err := founding.FirstCode(ctx, s.Queries)
	require.NoError(t, err)
	wrong, slowed := 0, 0
	for range 1000 {
		err := founding.CheckCode(ctx, s.Queries, "AAAA-AAAA-AAAA-AAAA", from, now)
		var throttled *people.Throttled
		switch {
		case errors.Is(err, founding.ErrWrongCode):
			wrong++
		case errors.As(err, &throttled):
			slowed++
			assert.Positive(t, throttled.After)
		default:
			t.Fatal(err)
		}
	}
	assert.Equal(t, 10, wrong)
	assert.Equal(t, 990, slowed)
	require.NoError(t, founding.CheckCode(ctx, s.Queries, code, people.Caller{Address: "198.51.100.1"}, now), "others are not kept out")
	require.NoError(t, founding.CheckCode(ctx, s.Queries, code, from, now.Add(20*time.Minute)), "nor is anybody for good")
}

func TestOfManyFirstOwnersThereIsOne(t *testing.T) {
	s, now := pgtest.New(t), pgtest.Noon
	code, err := founding.FirstCode(t.Context(), s.Queries)
	require.NoError(t, err)
	const many = 8
	errs := make([]error, many)
	var group sync.WaitGroup
	for i := range many {
		group.Go(func() {
			o, b := owner, garden()
			o.Email, b.Slug = fmt.Sprintf("owner%d@garden.example", i), fmt.Sprintf("garden-%d", i)
			_, _, errs[i] = founding.SetUp(context.Background(), s, code, o, b, from, now)
		})
	}
	group.Wait()
	made := 0
	for _, err := range errs {
		if err == nil {
			made++
		} else {
			assert.ErrorIs(t, err, founding.ErrSetUp)
		}
	}
	assert.Equal(t, 1, made)
	var users, sites int
	require.NoError(t, s.DB().Get(&users, `select count(*) from users`))
	require.NoError(t, s.DB().Get(&sites, `select count(*) from sites`))
	assert.Equal(t, 1, users)
	assert.Equal(t, 1, sites)
}

func TestWhatIsWrongWithABlogIsSaidByField(t *testing.T) {
	s := pgtest.New(t)
	world := pgtest.NewWorld(t, s, "dome")
	for name, c := range map[string]struct {
		change      func(*founding.Blog)
		field, says string
	}{
		"no title":          {func(b *founding.Blog) { b.Title = " \t " }, "title", "Give the blog a title"},
		"an unseen title":   {func(b *founding.Blog) { b.Title = "\u200b\u2060" }, "title", "Give the blog a title"},
		"a long title":      {func(b *founding.Blog) { b.Title = strings.Repeat("x", 400) }, "title", "more than 120"},
		"a control":         {func(b *founding.Blog) { b.Title = "a\u0007b" }, "title", "control"},
		"a long tagline":    {func(b *founding.Blog) { b.Tagline = strings.Repeat("x", 201) }, "tagline", "more than 200"},
		"no name":           {func(b *founding.Blog) { b.Slug, b.Title = "", "🌱🌱" }, "slug", "Enter the name"},
		"a bad name":        {func(b *founding.Blog) { b.Slug = "Garden Notes" }, "slug", "such as garden-notes"},
		"a name of ours":    {func(b *founding.Blog) { b.Slug = "api" }, "slug", "program’s own"},
		"a name that is":    {func(b *founding.Blog) { b.Slug = "dome" }, "slug", "Another blog has, or had"},
		"no zone":           {func(b *founding.Blog) { b.Zone = "" }, "zone", "Choose one"},
		"an unknown zone":   {func(b *founding.Blog) { b.Zone = "Mars/Olympus" }, "zone", `no time zone "Mars/Olympus"`},
		"no language":       {func(b *founding.Blog) { b.Language = "" }, "language", "Choose one"},
		"a made-up one":     {func(b *founding.Blog) { b.Language = "not a language" }, "language", "Choose one"},
		"an unknown rhythm": {func(b *founding.Blog) { b.Start = "polka" }, "start", "polka"},
	} {
		blog := garden()
		c.change(&blog)
		_, err := founding.Add(t.Context(), s, world.Editor.ID, blog, pgtest.Noon)
		require.Error(t, err, name)
		isField(t, err, c.field, c.says)
	}
	var sites int
	require.NoError(t, s.DB().Get(&sites, `select count(*) from sites`))
	assert.Equal(t, 1, sites)
}

func TestWhatIsWrongWhenSettingUpIsSaidByField(t *testing.T) {
	s, now := pgtest.New(t), pgtest.Noon
	code, err := founding.FirstCode(t.Context(), s.Queries)
	require.NoError(t, err)
	for _, c := range []struct {
		owner founding.Owner
		blog  founding.Blog
		field string
	}{
		{founding.Owner{Name: "Ines", Email: "nobody", Password: owner.Password}, garden(), "owner.email"},
		{founding.Owner{Name: " ", Email: owner.Email, Password: owner.Password}, garden(), "owner.name"},
		{founding.Owner{Name: "Ines", Email: owner.Email, Password: "short"}, garden(), "owner.password"},
		{founding.Owner{Name: "Ines", Email: owner.Email, Password: "Garden Notes 1"}, garden(), "owner.password"},
		{owner, founding.Blog{}, "blog.title"},
	} {
		_, _, err := founding.SetUp(t.Context(), s, code, c.owner, c.blog, from, now)
		require.Error(t, err, c.field)
		isField(t, err, c.field, "")
	}
	is, err := s.IsSetUp(t.Context())
	require.NoError(t, err)
	assert.False(t, is, "nothing was made")
}

func TestTitlesFromRightToLeftAndNoRhythm(t *testing.T) {
	s := pgtest.New(t)
	world := pgtest.NewWorld(t, s, "dome")
	site, err := founding.Add(t.Context(), s, world.Editor.ID, founding.Blog{Title: "حديقة المساء", Slug: "evening", Zone: "Africa/Cairo", Language: "ar"},
		pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, "حديقة المساء", site.Title)
	r, err := s.RhythmOf(t.Context(), site.ID)
	require.NoError(t, err)
	assert.Empty(t, r.Openings)
	m, err := s.MembershipOf(t.Context(), world.Editor.ID, "evening")
	require.NoError(t, err)
	assert.Equal(t, "owner", m.Role)
}

func TestAnArchivedBlogComesBackPaused(t *testing.T) {
	s, ctx, now := pgtest.New(t), t.Context(), pgtest.Noon
	w := pgtest.NewWorld(t, s, "dome")
	w.Scheduled(t, "Due", now.Add(time.Minute))
	require.NoError(t, founding.Archive(ctx, s, w.Site, w.Editor.ID, now))
	archived, err := s.Site(ctx, w.Site.ID)
	require.NoError(t, err)
	require.NotNil(t, archived.ArchivedAt)
	require.NotNil(t, archived.PausedAt, "nothing comes out")
	require.NoError(t, founding.Archive(ctx, s, w.Site, w.Editor.ID, now.Add(time.Hour)), "twice is once")
	again, err := s.Site(ctx, w.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, archived.ArchivedAt, again.ArchivedAt)
	assert.Equal(t, archived.Version, again.Version)

	require.NoError(t, founding.Unarchive(ctx, s, again, w.Editor.ID, now.Add(2*time.Hour)))
	back, err := s.Site(ctx, w.Site.ID)
	require.NoError(t, err)
	assert.Nil(t, back.ArchivedAt)
	assert.NotNil(t, back.PausedAt, "nothing that was missed comes out by surprise")
	lines, err := s.Logbook(ctx, w.Site.ID, store.LogFilter{}, 10)
	require.NoError(t, err)
	require.Len(t, lines, 2)
	assert.Contains(t, lines[0].Reason, "brought back")
	assert.Contains(t, lines[1].Reason, "archived")
}

func TestABlogIsDeletedByItsTitle(t *testing.T) {
	s, ctx := pgtest.New(t), t.Context()
	w, other := pgtest.NewWorld(t, s, "dome"), pgtest.NewWorld(t, s, "lanes")
	w.Draft(t, "A draft")
	other.Draft(t, "Another's")
	isField(t, founding.Delete(ctx, s, w.Site, "Notes"), "confirm", "Notes from dome")
	require.NoError(t, founding.Delete(ctx, s, w.Site, " Notes  from dome "))
	_, err := s.Site(ctx, w.Site.ID)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = s.User(ctx, w.Editor.ID)
	require.NoError(t, err, "people stay")
	var posts int
	require.NoError(t, s.DB().Get(&posts, `select count(*) from posts`))
	assert.Equal(t, 1, posts, "another blog's stay")
}

func TestABlogIsRenamed(t *testing.T) {
	s, ctx, now := pgtest.New(t), t.Context(), pgtest.Noon
	w, other := pgtest.NewWorld(t, s, "dome"), pgtest.NewWorld(t, s, "lanes")
	desk := act.Desk{Store: s, Site: w.Site, Actor: w.Editor.ID}
	logo, elsewhere, page := w.Picture(t, "logo").ID, other.Picture(t, "another’s").ID, w.Page(t, "About us")
	const public = "https://blog.example"
	next := founding.Own{Title: "The Observatory", Tagline: "On a hill", Slug: "observatory", Language: "en-ca",
		Reading: store.Reading{PostsAPage: 5, Footer: "  Run by   volunteers ", Host: "Notes.Example.", Logo: &logo, FrontPage: &page.ID}}
	require.NoError(t, s.InTx(ctx, func(tx *store.Tx) error {
		lanes := other.Site
		lanes.Host = "lanes.example"
		return tx.SaveSite(ctx, lanes)
	}))
	for name, c := range map[string]struct {
		change      func(*founding.Own)
		field, says string
	}{
		"no title":          {func(o *founding.Own) { o.Title = " " }, "title", "Give the blog a title"},
		"another's name":    {func(o *founding.Own) { o.Slug = "lanes" }, "slug", "Another blog has, or had"},
		"no posts":          {func(o *founding.Own) { o.PostsAPage = 0 }, "postsAPage", "1 to 50 posts, not 0"},
		"too many":          {func(o *founding.Own) { o.PostsAPage = 51 }, "postsAPage", "not 51"},
		"a long line":       {func(o *founding.Own) { o.Footer = strings.Repeat("x", 301) }, "footer", "more than 300"},
		"another's host":    {func(o *founding.Own) { o.Host = "lanes.example" }, "host", "Another blog has the host"},
		"the program's":     {func(o *founding.Own) { o.Host = "blog.example" }, "host", "the program itself"},
		"no host":           {func(o *founding.Own) { o.Host = "https://x.example/" }, "host", "without https"},
		"dates as no other": {func(o *founding.Own) { o.DateStyle = "roman" }, "dateStyle", "no such way"},
		"another's picture": {func(o *founding.Own) { o.Icon = &elsewhere }, "icon", "deleted meanwhile"},
		"a post in front":   {func(o *founding.Own) { o.FrontPage = new(w.Draft(t, "A post").ID) }, "frontPage", "deleted meanwhile"},
	} {
		own := next
		c.change(&own)
		err := founding.Save(ctx, desk, own, public, w.Site.Version, now)
		require.Error(t, err, name)
		isField(t, err, c.field, c.says)
	}
	require.NoError(t, founding.Save(ctx, desk, next, public, w.Site.Version, now))
	saved, err := s.Site(ctx, w.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, "The Observatory", saved.Title)
	assert.Equal(t, "en-CA", saved.Language)
	assert.Equal(t, w.Site.ZoneName, saved.ZoneName)
	assert.Equal(t, store.Reading{PostsAPage: 5, Footer: "Run by volunteers", Host: "notes.example", DateStyle: "long", Logo: &logo, FrontPage: &page.ID}, saved.Reading)
	found, err := s.SiteByHost(ctx, "notes.example")
	require.NoError(t, err)
	assert.Equal(t, saved.ID, found.ID)
	_, err = s.SiteByHost(ctx, "")
	require.ErrorIs(t, err, store.ErrNotFound)
	assert.Equal(t, "dome", saved.LastingName, "feeds know its posts as before")
	require.ErrorIs(t, founding.Save(ctx, desk, next, public, w.Site.Version, now), act.ErrStale)

	// Nobody else gets a name that leads on; the blog itself may take it back.
	lanes, err := s.Site(ctx, other.Site.ID)
	require.NoError(t, err)
	isField(t, founding.Save(ctx, act.Desk{Store: s, Site: lanes, Actor: other.Editor.ID}, founding.Own{Title: "T", Slug: "dome", Language: "en",
		Reading: store.Reading{PostsAPage: 5}}, public, lanes.Version, now), "slug", "or had")
	_, err = founding.Add(ctx, s, w.Editor.ID, founding.Blog{Title: "T", Slug: "dome", Zone: "UTC", Language: "en"}, now)
	isField(t, err, "slug", "or had")
	desk.Site, next.Slug = saved, "dome"
	require.NoError(t, founding.Save(ctx, desk, next, public, saved.Version, now))
	_, err = s.SiteByOldSlug(ctx, "dome")
	require.ErrorIs(t, err, store.ErrNotFound)
	led, err := s.SiteByOldSlug(ctx, "observatory")
	require.NoError(t, err)
	assert.Equal(t, w.Site.ID, led.ID)
}
