package e2e

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/demo"
	"dapper.example/internal/store"
)

// A contributor asks whether a draft may come out at a time; an editor says something about one of its paragraphs, and yes with one click.
func TestAContributorAsksForATime(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	pell := ""
	for _, p := range demo.People() {
		if strings.HasPrefix(p.Name, "Pell") {
			pell = p.Email
		}
	}
	require.NotEmpty(t, pell)
	a.signInAs(pell, demo.Password)
	a.newDraft("Frost on the setting circles")
	a.fill("Text, in Markdown", "Frost grows on brass first.\n\nWe wipe it off with a dry thumb.")
	a.reads("Saved")
	a.press(`//section[@aria-label="Remarks"]/button`)
	a.press(`//*[@aria-label="Ask whether it may come out at a time"]`)
	a.click("Ask")
	a.sees("May this come out then?")
	a.sees("Asks for Wed 25 Nov, 09:00")
	a.signOut()

	a.signIn()
	a.sees("Pell Hanrahan asks: may Frost on the setting circles come out on Wed 25 Nov, 09:00?")
	a.audit("a request")
	a.click("Frost on the setting circles")
	a.press(`//section[@aria-label="Remarks"]/button`)
	a.fill("Remark", "Warm or cold thumb?")
	a.chooses("About", "We wipe it off with a dry thumb.")
	a.click("Add the remark")
	a.reads("Warm or cold thumb?")
	a.audit("remarks about a draft")
	a.press(`(//button[normalize-space(.)="Yes, schedule it"])[1]`)
	a.sees("Answered.")
	a.sees("Comes out Wed 25 Nov, 09:00")
	a.sees("Show 1 resolved")
	p := a.postCalled("Frost on the setting circles")
	assert.Equal(t, store.Scheduled, p.Status)
	assert.Equal(t, "2026-11-25 09:00", a.local(p))
	a.click("Resolve")
	a.sees("Show 2 resolved")

	// What somebody else says meanwhile appears by itself.
	site, err := a.store.SiteBySlug(t.Context(), demo.SiteSlug)
	require.NoError(t, err)
	by := a.person("Tobias Wren")
	require.NoError(t, a.store.InTx(t.Context(), func(tx *store.Tx) error {
		_, err := tx.InsertRemark(t.Context(), store.Remark{SiteID: site.ID, Post: p.ID, User: &by, Body: "Cold, always.", At: a.clock.Now()})
		return err
	}))
	a.reads("Cold, always.")
}
