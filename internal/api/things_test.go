package api_test

import (
	"fmt"
	"strings"
	"time"

	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// things are one of each thing of a site, each made when it is first asked for.
type things struct {
	pgtest.World
	c    *client
	site string           // the slug that stands in addresses
	ids  map[string]int64 // of what was made, by what stands before {id} in a path
}

// things are those of a site, whose owner is the world's editor.
func (c *client) things(w pgtest.World) *things {
	return &things{World: w, c: c, site: w.Site.Slug, ids: make(map[string]int64)}
}

// id is that of the thing of a kind, which is named as in a path.
func (th *things) id(kind string) int64 {
	th.c.t.Helper()
	if id, made := th.ids[kind]; made {
		return id
	}
	id, err := makers[kind](th)
	require.NoError(th.c.t, err, kind)
	th.ids[kind] = id
	return id
}

// tx makes a thing in a transaction.
func (th *things) tx(do func(tx *store.Tx) (int64, error)) (id int64, err error) {
	return id, th.InTx(th.c.t.Context(), func(tx *store.Tx) (err error) {
		id, err = do(tx)
		return err
	})
}

// alias makes the function that answers with the id of another kind: a path may name a thing in its own way.
func alias(kind string) func(*things) (int64, error) {
	return func(th *things) (int64, error) { return th.id(kind), nil }
}

// always answers with a number that needs no thing.
func always(id int64) func(*things) (int64, error) {
	return func(*things) (int64, error) { return id, nil }
}

// makers make a thing of each kind, by what stands before {id} in a path, and one sign-in of nobody's.
var makers map[string]func(*things) (int64, error)

func init() { // they ask for each other's things
	makers = map[string]func(*things) (int64, error){
		"posts":  func(th *things) (int64, error) { return th.Draft(th.c.t, "Somebody's draft").ID, nil },
		"copies": alias("posts"), "pages": alias("posts"), "exclusions": alias("posts"), "picks": alias("posts"), "read": alias("posts"),
		"categories":      func(th *things) (int64, error) { return th.Category, nil },
		"import-triggers": always(1),
		"guide":           always(1), // no page, which everybody may ask for
		"channels": func(th *things) (int64, error) {
			return th.InsertChannel(th.c.t.Context(), store.Channel{SiteID: th.Site.ID, Kind: "lantern", Name: "Lantern",
				Address: "http://127.0.0.1:9", Token: "t", Apart: 20, ADay: 5})
		},
		"subscribers": func(th *things) (int64, error) {
			channel := th.id("channels")
			return th.AskSubscriber(th.c.t.Context(), store.Subscriber{SiteID: th.Site.ID, Channel: channel, Email: "tam@walkers.example",
				Token: fmt.Sprint("token ", channel), AskedAt: pgtest.Noon}, pgtest.Noon)
		},
		"prepared": func(th *things) (int64, error) {
			return th.tx(func(tx *store.Tx) (int64, error) {
				return tx.InsertPrepared(th.c.t.Context(), store.Prepared{SiteID: th.Site.ID, Text: "Hello", CreatedAt: pgtest.Noon})
			})
		},
		"webhooks": func(th *things) (int64, error) {
			return th.tx(func(tx *store.Tx) (int64, error) {
				return tx.InsertWebhook(th.c.t.Context(), store.Webhook{SiteID: th.Site.ID, Name: "Sheet", Address: "http://127.0.0.1:9/",
					Events: []string{"post.published"}, Secret: pgtest.Box.Seal("whsec_" + strings.Repeat("A", 44)), CreatedAt: pgtest.Noon})
			})
		},
		"told": func(th *things) (int64, error) {
			told, err := th.InsertHookSample(th.c.t.Context(), th.Site.ID, th.id("webhooks"), "post.published", pgtest.Noon)
			return told.ID, err
		},
		"feeds": func(th *things) (int64, error) {
			return th.tx(func(tx *store.Tx) (int64, error) {
				return tx.InsertFeed(th.c.t.Context(), store.Feed{SiteID: th.Site.ID, User: th.Editor.ID, Name: fmt.Sprint("Feed ", fresh.Add(1)),
					Address: "http://127.0.0.1:9/feed", Minutes: 60, Becomes: store.FeedPosts, CreatedAt: pgtest.Noon})
			})
		},
		"imports": func(th *things) (int64, error) {
			return th.tx(func(tx *store.Tx) (int64, error) {
				return tx.InsertImport(th.c.t.Context(), store.Import{SiteID: th.Site.ID, User: th.Editor.ID, Source: "Torches", CreatedAt: pgtest.Noon})
			})
		},
		"edits": func(th *things) (int64, error) {
			post := th.id("posts")
			return th.tx(func(tx *store.Tx) (int64, error) {
				return tx.InsertEdit(th.c.t.Context(), store.TimedEdit{SiteID: th.Site.ID, Post: post, User: &th.Editor.ID,
					DueAt: pgtest.Noon.AddDate(1, 0, 0), CreatedAt: pgtest.Noon})
			})
		},
		"destinations": func(th *things) (int64, error) {
			n := fresh.Add(1)
			return th.tx(func(tx *store.Tx) (int64, error) {
				return tx.InsertDestination(th.c.t.Context(), store.Destination{SiteID: th.Site.ID, Kind: "folder", Name: fmt.Sprint("Static ", n),
					Archived: store.KeepArchived, CreatedAt: pgtest.Noon, Setup: store.DestinationSetup{Folder: fmt.Sprint("folder-", n)}})
			})
		},
		"digests": func(th *things) (int64, error) { // its token
			return th.tx(func(tx *store.Tx) (int64, error) {
				token := fresh.Add(1)
				return token, tx.PutDigest(th.c.t.Context(), store.Digest{SiteID: th.Site.ID, User: th.Editor.ID, Every: "day",
					ZoneName: "Europe/Lisbon", Parts: store.Strings{"held"}, Token: fmt.Sprint(token),
					NextAt: pgtest.Noon.AddDate(1, 0, 0), SentAt: pgtest.Noon})
			})
		},
		"tags": func(th *things) (int64, error) {
			if err := th.SetTags(th.c.t.Context(), th.Site.ID, th.id("posts"), []store.Tag{{Slug: "moon", Name: "Moon"}}); err != nil {
				return 0, err
			}
			tag, err := th.TagBySlug(th.c.t.Context(), th.Site.ID, "moon")
			return tag.ID, err
		},
		"comments": func(th *things) (int64, error) {
			return th.InsertComment(th.c.t.Context(), store.Comment{SiteID: th.Site.ID, Post: th.id("posts"), Name: "Tam", Text: "Hello.",
				Status: "held", At: pgtest.Noon})
		},
		"texts": func(th *things) (int64, error) {
			texts, err := th.Texts(th.c.t.Context(), th.Site.ID, th.id("posts"), 1)
			if err != nil {
				return 0, err
			}
			return texts[0].ID, nil
		},
		"rules": func(th *things) (int64, error) {
			return th.InsertRule(th.c.t.Context(), store.Rule{SiteID: th.Site.ID, Kind: "expire", Name: "Old", Condition: older(1000),
				Cadence:  cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days, At: civil.MustClock("04:00")},
				Settings: store.RuleSettings{Action: "archive"}, CreatedAt: pgtest.Noon})
		},
		"people": func(th *things) (int64, error) {
			person, err := th.InsertUser(th.c.t.Context(), store.User{Email: fmt.Sprintf("person-%d@%s.example", fresh.Add(1), th.Site.Slug),
				Name: "A Person", PasswordHash: "-", CreatedAt: pgtest.Noon})
			if err != nil {
				return 0, err
			}
			return person.ID, th.InsertMembership(th.c.t.Context(), th.Site.ID, person.ID, "editor")
		},
		"invitations": func(th *things) (int64, error) {
			return th.tx(func(tx *store.Tx) (int64, error) {
				return tx.PutInvitation(th.c.t.Context(), store.Invitation{SiteID: th.Site.ID, Email: "new@" + th.Site.Slug + ".example",
					Role: "editor", InvitedBy: th.Editor.ID, CreatedAt: pgtest.Noon, ExpiresAt: pgtest.Noon.Add(time.Hour)})
			})
		},
		"logbook": func(th *things) (int64, error) {
			post := th.id("posts")
			_, err := th.tx(func(tx *store.Tx) (int64, error) {
				return 0, tx.Log(th.c.t.Context(), store.LogEntry{SiteID: th.Site.ID, At: pgtest.Noon, Actor: &th.Editor.ID,
					Deed: store.DeedClear, Post: &post, Reason: "Cleared."})
			})
			if err != nil {
				return 0, err
			}
			lines, err := th.LogOf(th.c.t.Context(), th.Site.ID, post)
			if err != nil {
				return 0, err
			}
			return lines[0].ID, nil
		},
		"calendars": func(th *things) (int64, error) {
			return th.InsertCalendarFeed(th.c.t.Context(), store.CalendarFeed{SiteID: th.Site.ID, User: th.Editor.ID, Name: "The plan",
				Hash: []byte(fmt.Sprintf("c%031d", fresh.Add(1))), CreatedAt: pgtest.Noon})
		},
		"lenses": func(th *things) (int64, error) {
			if err := th.KeepLens(th.c.t.Context(), store.Lens{SiteID: th.Site.ID, User: th.Editor.ID, Screen: store.LensOfPlan,
				Name: "Mine", Shown: []byte("{}"), CreatedAt: pgtest.Noon}); err != nil {
				return 0, err
			}
			lenses, err := th.Lenses(th.c.t.Context(), th.Site.ID, th.Editor.ID)
			if err != nil {
				return 0, err
			}
			return lenses[0].ID, nil
		},
		"tours": func(th *things) (int64, error) {
			post := th.id("posts")
			return th.tx(func(tx *store.Tx) (int64, error) {
				return tx.InsertTour(th.c.t.Context(), store.Tour{SiteID: th.Site.ID, Post: store.ID(post), Name: "Round", CreatedAt: pgtest.Noon})
			})
		},
		"tour-templates": func(th *things) (int64, error) {
			return th.tx(func(tx *store.Tx) (int64, error) {
				if err := tx.PutTourTemplate(th.c.t.Context(), store.TourTemplate{SiteID: th.Site.ID, Name: "Slow", CreatedAt: pgtest.Noon}); err != nil {
					return 0, err
				}
				templates, err := tx.TourTemplates(th.c.t.Context(), th.Site.ID)
				if err != nil {
					return 0, err
				}
				return templates[0].ID, nil
			})
		},
		"remarks": func(th *things) (int64, error) {
			post := th.id("posts")
			return th.tx(func(tx *store.Tx) (int64, error) {
				return tx.InsertRemark(th.c.t.Context(), store.Remark{SiteID: th.Site.ID, Post: post, User: &th.Editor.ID, Body: "Fine.", At: pgtest.Noon})
			})
		},
		"outings": func(th *things) (int64, error) {
			post, channel := th.id("posts"), th.id("channels")
			return th.tx(func(tx *store.Tx) (int64, error) {
				return tx.InsertPlanned(th.c.t.Context(), store.Outing{SiteID: th.Site.ID, Channel: channel, Post: store.ID(post),
					At: pgtest.Noon.AddDate(1, 0, 0), Origin: store.ByHand, OwnText: "{title}", CreatedAt: pgtest.Noon})
			})
		},
		"seasons": func(th *things) (int64, error) {
			return th.tx(func(tx *store.Tx) (int64, error) {
				return tx.InsertSeason(th.c.t.Context(), store.Rhythm{SiteID: th.Site.ID, Name: "Summer", Gap: 60,
					From: civil.MustDate("2027-07-01"), Until: civil.MustDate("2027-07-31")}, pgtest.Noon)
			})
		},
		"tokens": func(th *things) (int64, error) {
			return th.InsertToken(th.c.t.Context(), store.Token{SiteID: th.Site.ID, User: th.Editor.ID, Name: "A script",
				Hash: []byte(fmt.Sprintf("%032d", fresh.Add(1))), Hint: "last", Scopes: store.Strings{"read"},
				CreatedAt: pgtest.Noon, ExpiresAt: pgtest.Noon.Add(time.Hour)})
		},
		"sign-ins": func(th *things) (int64, error) {
			return th.InsertSignIn(th.c.t.Context(), store.SignIn{User: th.Editor.ID, BeganAt: pgtest.Noon})
		},
		"pictures": func(th *things) (int64, error) {
			return th.InsertPicture(th.c.t.Context(), store.Picture{SiteID: th.Site.ID, Key: fmt.Sprintf("%016d", fresh.Add(1)), Name: "a.jpg",
				Type: "jpg", Width: 100, Height: 50, User: &th.Editor.ID, CreatedAt: pgtest.Noon})
		},
		"previews": func(th *things) (int64, error) {
			return th.InsertPreviewLink(th.c.t.Context(), store.PreviewLink{SiteID: th.Site.ID, Post: th.id("posts"),
				Hash: []byte(fmt.Sprintf("%032d", fresh.Add(1))), User: th.Editor.ID, CreatedAt: pgtest.Noon, ExpiresAt: pgtest.Noon.Add(time.Hour)})
		},
	}
}
