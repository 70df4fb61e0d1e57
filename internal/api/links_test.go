package api_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/posts"
	"dapper.example/internal/api/rules"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/formats"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// A link item is added, changed and binned; rules share it with where it leads, readers never see it, and a rule that asks for
// link items clears them away.
func TestALinkItemFromAdditionToItsEnd(t *testing.T) {
	c := signedIn(t)
	const path = site + "/link-items"
	for body, field := range map[*map[string]any]string{
		{"link": "https://ridge.example/walk"}:                                 "title",
		{"title": "A walk"}:                                                    "link",
		{"title": "A walk", "link": "ridge.example"}:                           "link",
		{"title": "A walk", "link": "https://ridge.example/", "slug": "walk"}:  "slug",
		{"title": "A walk", "link": "https://ridge.example/", "categoryId": 9}: "categoryId",
	} {
		assert.Equal(t, "body."+field, c.fails("POST", path, *body, 422).Errors[0].Location)
	}
	var item posts.Post
	c.call("POST", path, map[string]any{"title": "A walk", "link": "https://ridge.example/walk", "categoryId": c.world.Category, "tags": []string{"walks"}}, 201, &item)
	assert.Equal(t, []any{"link", "linked", "https://ridge.example/walk", "", ""}, []any{item.Kind, item.Status, item.Link, item.Address, item.Slug})
	assert.Equal(t, []string{"bin"}, item.Can)
	for _, deed := range []string{"/clear", "/publish", "/hold", "/hand-in"} {
		assert.Equal(t, "A link item has no page to publish; rules share it as it is.", c.fails("POST", c.path(item, deed), map[string]int{"version": item.Version}, 422).Errors[0].Message)
	}
	assert.Equal(t, "body.kind", c.fails("PATCH", c.path(item, ""), map[string]any{"version": item.Version, "kind": "post"}, 422).Errors[0].Location)
	plain := c.begin("A post")
	assert.Equal(t, "body.kind", c.fails("PATCH", c.path(plain, ""), map[string]any{"version": plain.Version, "kind": "link"}, 422).Errors[0].Location)
	assert.Equal(t, "body.link", c.fails("PATCH", c.path(plain, ""), map[string]any{"version": plain.Version, "link": "https://ridge.example/"}, 422).Errors[0].Location)
	item = c.put(item, map[string]any{"link": "https://ridge.example/long-walk"})
	assert.Len(t, c.list("stages=linked").Posts, 1)
	assert.Len(t, c.list("").Posts, 1, "the draft alone")

	rule := c.arm(c.make(sharing(c.lantern())), 0)
	c.live(pgtest.Noon.AddDate(0, 0, 4))
	sent, err := c.world.OutingsOf(t.Context(), c.world.Site.ID, rule.ID, 10)
	require.NoError(t, err)
	require.NotEmpty(t, sent)
	assert.Equal(t, "A walk https://ridge.example/long-walk", sent[0].Text)
	require.NoError(t, c.world.InTx(t.Context(), func(tx *store.Tx) error {
		return tx.InsertShortLink(t.Context(), store.ShortLink{Code: "walkwalk", SiteID: c.world.Site.ID, Post: store.ID(item.ID), Outing: &sent[0].ID, Query: "utm_source=lantern"})
	}))
	status, to := c.hop("/s/walkwalk")
	assert.Equal(t, []any{302, "https://ridge.example/long-walk?utm_source=lantern"}, []any{status, to})
	assert.NotContains(t, c.reader("/blog/dome/"), "A walk")
	assert.NotContains(t, c.reader("/blog/dome/sitemap.xml"), "walk")

	c.arm(c.make(rules.RuleBody{Kind: "expire", Name: "Old links", Action: "bin",
		Condition: condition.Node{Group: condition.AllOf, Parts: []condition.Node{{Test: condition.Kind, Match: condition.MatchAny, Values: []string{"link"}}, older(6)}},
		Cadence:   formats.Cadence{By: "every", N: 1, Unit: "days", At: civil.MustClock("04:00")}}), 0)
	c.live(pgtest.Noon.AddDate(0, 0, 8))
	c.call("GET", c.path(item, ""), nil, 200, &item)
	assert.Equal(t, "binned", item.Status)
	item = c.does(item, "restore")
	assert.Equal(t, "linked", item.Status)
}
