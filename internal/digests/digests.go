// Package digests writes the mails that sum up what happens on a blog, for each of its people as they wish: it gathers what there
// is to tell, and core says how it reads. Nobody gets any who has not asked. It has no clock.
package digests

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/digest"
	"dapper.example/internal/core/words"
	"dapper.example/internal/people"
	"dapper.example/internal/reports"
	"dapper.example/internal/secrets"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

// WishOf is a kept wish as core knows it.
func WishOf(d store.Digest) (digest.Wish, error) {
	zone, err := civil.LoadZone(d.ZoneName)
	w := digest.Wish{Every: digest.Every(d.Every), Weekday: time.Weekday(d.Weekday), At: civil.Clock(d.At), Zone: zone}
	for _, p := range d.Parts {
		w.Parts = append(w.Parts, digest.Part(p))
	}
	return w, err
}

// Save has somebody told of a site as they wish, from now on. It fails with *act.Invalid for a wish that cannot be.
func Save(ctx context.Context, s *store.Store, site, user int64, w digest.Wish, now time.Time) error {
	if problems := w.Problems(); len(problems) > 0 {
		return &act.Invalid{Field: problems[0].Path, Message: problems[0].Message}
	}
	token, _ := secrets.New()
	d := store.Digest{SiteID: site, User: user, Every: string(w.Every), Weekday: int(w.Weekday), At: int(w.At), ZoneName: w.Zone.String(), Parts: store.Strings{},
		Token: token, NextAt: w.Next(now), SentAt: now}
	for _, p := range w.Parts {
		d.Parts = append(d.Parts, string(p))
	}
	return s.InTx(ctx, func(tx *store.Tx) error { return tx.PutDigest(ctx, d) })
}

// Writer writes digests.
type Writer struct {
	Store  *store.Store
	Public string // where the screens and the blog are reached
}

// Write writes the digest of a site for one of its people, of a moment: of what happened since the last one, of how things stand,
// and of what is to come. It fails with people.ErrNotWanted where there is nothing to tell, or nobody to tell it to.
func (w Writer) Write(ctx context.Context, siteID, user int64, at time.Time) (people.Letter, error) {
	d, err := w.Store.Digest(ctx, siteID, user)
	if errors.Is(err, store.ErrNotFound) {
		return people.Letter{}, people.ErrNotWanted
	}
	if err != nil {
		return people.Letter{}, err
	}
	letter, err := w.write(ctx, d, d.SentAt, at)
	letter.ID = fmt.Sprintf("digest.%d.%d.%d", siteID, user, at.Unix())
	return letter, err
}

// Preview is the digest that somebody would get now, were it due, of the past day or week.
func (w Writer) Preview(ctx context.Context, site, user int64, wish digest.Wish, now time.Time) (people.Letter, error) {
	d := store.Digest{SiteID: site, User: user, Every: string(wish.Every), ZoneName: wish.Zone.String()}
	for _, p := range wish.Parts {
		d.Parts = append(d.Parts, string(p))
	}
	return w.write(ctx, d, now.Add(-wish.Ahead()), now)
}

// EndPath is the screen at which mails are ended; the token stands behind a hash sign, so that no server is sent it in an address.
const EndPath = "/mails#"

// EndOperation is where mail programs end mails with one click (RFC 8058).
func EndOperation(public, token string) string { return public + "/api/v1/digests/" + token + "/end" }

func (w Writer) write(ctx context.Context, d store.Digest, from, at time.Time) (people.Letter, error) {
	member, err := w.Store.Member(ctx, d.SiteID, d.User)
	if errors.Is(err, store.ErrNotFound) {
		return people.Letter{}, people.ErrNotWanted
	}
	if err != nil {
		return people.Letter{}, err
	}
	site, err := w.Store.Site(ctx, d.SiteID)
	if err != nil {
		return people.Letter{}, err
	}
	wish, err := WishOf(d)
	if err != nil {
		return people.Letter{}, err
	}
	home := w.Public + "/" + site.Slug
	g := gatherer{q: w.Store.Queries, book: siterules.Book{Site: site, Public: w.Public}, wish: wish, home: home, from: from, at: at, user: d.User, plans: people.Role(member.Role).Covers(people.Editor)}
	change, end := home+"/account", w.Public+EndPath+d.Token
	if d.Token == "" { // nothing to end yet
		end = change
	}
	mail := digest.Digest{Blog: site.Title, Name: member.Name, Every: wish.Every, Home: home, Change: change, End: end}
	for _, part := range digest.Parts {
		lines, err := g.lines(ctx, part)
		if err != nil {
			return people.Letter{}, fmt.Errorf("gathering what is %s: %w", part, err)
		}
		if section, any := digest.Cut(part, lines); any {
			mail.Sections = append(mail.Sections, section)
		}
	}
	if len(mail.Sections) == 0 {
		return people.Letter{}, people.ErrNotWanted
	}
	made := mail.Mail()
	letter := people.Letter{To: member.Email, Subject: made.Subject, Text: made.Text, HTML: made.HTML}
	if d.Token != "" {
		letter.End = EndOperation(w.Public, d.Token)
	}
	return letter, nil
}

// gatherer gathers what a digest tells.
type gatherer struct {
	q        store.Queries
	book     siterules.Book
	wish     digest.Wish
	home     string
	from, at time.Time
	told     *siterules.Foretold
	user     int64 // who is told
	plans    bool  // whether they may answer requests
}

// lines are what there is to tell of a part; none of one that is not wished for.
func (g *gatherer) lines(ctx context.Context, part digest.Part) ([]digest.Line, error) {
	if !slices.Contains(g.wish.Parts, part) {
		return nil, nil
	}
	switch part {
	case digest.Held:
		return g.held(ctx)
	case digest.Remarks:
		return g.remarks(ctx)
	case digest.Failed:
		return g.failed(ctx)
	case digest.Coming:
		return g.coming(ctx)
	case digest.Expiring:
		return g.expiring(ctx)
	case digest.WentOut:
		return g.wentOut(ctx)
	case digest.Results:
		return g.results(ctx)
	}
	return g.runs(ctx)
}

func (g *gatherer) post(id int64) string { return fmt.Sprintf("%s/write/%d", g.home, id) }

// when says a moment by the site's clocks.
func (g *gatherer) when(t time.Time) string {
	zone := g.book.Site.Zone()
	return zone.DateWords(t, g.at) + ", " + zone.In(t).Format("15:04")
}

func named(title string) string { return "“" + cmp.Or(title, "Untitled") + "”" }

func (g *gatherer) held(ctx context.Context) (lines []digest.Line, err error) {
	posts, err := g.q.Waiting(ctx, g.book.Site.ID, g.at.Add(-deed.Late))
	if err != nil {
		return nil, err
	}
	for _, p := range posts {
		lines = append(lines, digest.Line{Text: named(p.Title) + " was due on " + g.when(*p.DueAt), Link: g.home + "/overdue"})
	}
	rules, err := g.q.Rules(ctx, g.book.Site.ID)
	if err != nil {
		return nil, err
	}
	for _, r := range rules {
		if r.HeldAt != nil && r.ArmedAt != nil {
			lines = append(lines, digest.Line{Text: "The rule " + named(r.Name) + " waits", More: r.HeldWhy, Link: fmt.Sprintf("%s/rules/%d", g.home, r.ID)})
		}
	}
	edits, err := g.q.Edits(ctx, g.book.Site.ID, store.EditHeld)
	for _, e := range edits {
		lines = append(lines, digest.Line{Text: "A change of " + named(e.Title) + " is on hold", More: e.HeldWhy, Link: fmt.Sprintf("%s/edits/%d", g.home, e.ID)})
	}
	if err != nil {
		return nil, err
	}
	notices, err := g.q.Notices(ctx, g.book.Site.ID)
	if err != nil {
		return nil, err
	}
	waiting, err := g.book.Told(ctx, g.q, notices, g.at)
	for i, n := range notices {
		if waiting[i] && n.Kind == store.Republish && (n.ReadAt == nil || n.ReadAt.Before(n.At)) {
			lines = append(lines, digest.Line{Text: named(n.Title) + " is to be read before it comes out again", Link: fmt.Sprintf("%s/notice/%d/%d", g.home, n.Post, n.Rule)})
		}
	}
	return lines, err
}

func (g *gatherer) remarks(ctx context.Context) (lines []digest.Line, err error) {
	if g.plans {
		requests, err := g.q.OpenRequests(ctx, g.book.Site.ID, digest.MostLines)
		if err != nil {
			return nil, err
		}
		for _, r := range requests {
			lines = append(lines, digest.Line{Text: fmt.Sprintf("%s asks whether %s may come out on %s", cmp.Or(r.By, "Somebody"), named(r.Title), g.when(*r.Wish)), More: r.Body, Link: g.post(r.Post)})
		}
	}
	said, err := g.q.OpenRemarks(ctx, g.book.Site.ID, g.user, g.from)
	for _, r := range said {
		if r.Wish == nil {
			lines = append(lines, digest.Line{Text: fmt.Sprintf("%s about %s", cmp.Or(r.By, "Somebody"), named(r.Title)), More: r.Body, Link: g.post(r.Post)})
		}
	}
	return lines, err
}

func (g *gatherer) failed(ctx context.Context) (lines []digest.Line, err error) {
	all, err := g.q.OutingsBetween(ctx, g.book.Site.ID, g.from, g.at)
	if err != nil {
		return nil, err
	}
	titles, err := g.titles(ctx, all)
	for _, o := range all {
		if o.State == store.Failed {
			lines = append(lines, digest.Line{Text: fmt.Sprintf("A message about %s to %s, on %s", named(titles[int64(o.Post)]), o.Network, g.when(o.At)), More: o.Error, Link: g.home + "/channels"})
		}
	}
	return lines, err
}

func (g *gatherer) titles(ctx context.Context, all []store.Outing) (map[int64]string, error) {
	var ids []int64
	for _, o := range all {
		ids = append(ids, int64(o.Post))
	}
	return g.q.Titles(ctx, g.book.Site.ID, ids)
}

// expiringAhead is how far ahead it is said what expires.
const expiringAhead = 7 * 24 * time.Hour

func (g *gatherer) foretold(ctx context.Context) (siterules.Foretold, error) {
	if g.told == nil {
		told, err := g.book.Coming(ctx, g.q, g.at, g.at.Add(max(g.wish.Ahead(), expiringAhead)))
		if err != nil {
			return told, err
		}
		g.told = &told
	}
	return *g.told, nil
}

func (g *gatherer) coming(ctx context.Context) (lines []digest.Line, err error) {
	told, err := g.foretold(ctx)
	if err != nil {
		return nil, err
	}
	messages := 0
	for _, e := range told.Events {
		if e.At.After(g.at.Add(g.wish.Ahead())) {
			break
		}
		switch e.Effect {
		case deed.ComesOut:
			lines = append(lines, digest.Line{Text: g.when(e.At) + ": " + named(told.Titles[e.Post]), Link: g.post(e.Post)})
		case deed.ComesBack:
			lines = append(lines, digest.Line{Text: g.when(e.At) + ": " + named(told.Titles[e.Post]) + ", again", Link: g.post(e.Post)})
		case deed.Said:
			messages++
		}
	}
	if messages > 0 {
		lines = append(lines, digest.Line{Text: words.Count(messages, "message") + " on your channels", Link: g.home + "/forecast"})
	}
	return lines, nil
}

func (g *gatherer) expiring(ctx context.Context) (lines []digest.Line, err error) {
	told, err := g.foretold(ctx)
	if err != nil {
		return nil, err
	}
	for _, e := range told.Events {
		if e.Effect != deed.TakenAway && e.Effect != deed.Erased || e.At.After(g.at.Add(expiringAhead)) {
			continue
		}
		what := map[deed.Kind]string{deed.KindToDraft: " goes back to draft", deed.KindBin: " goes to the bin", deed.KindDelete: " is deleted for good"}[e.Kind]
		title := told.Titles[e.Post]
		if title == "" {
			titles, err := g.q.Titles(ctx, g.book.Site.ID, []int64{e.Post})
			if err != nil {
				return nil, err
			}
			title = titles[e.Post]
		}
		lines = append(lines, digest.Line{Text: g.when(e.At) + ": " + named(title) + cmp.Or(what, " is archived"), More: told.Rules[e.Rule], Link: g.post(e.Post)})
	}
	return lines, nil
}

func (g *gatherer) wentOut(ctx context.Context) (lines []digest.Line, err error) {
	all, err := g.q.Happened(ctx, g.book.Site.ID, g.from, g.at, deed.Kinds(deed.ComesOut, deed.ComesBack))
	if err != nil {
		return nil, err
	}
	for _, h := range all {
		text := g.when(h.At) + ": " + named(h.Title)
		if deed.Kind(h.Deed).Effect() == deed.ComesBack {
			text += ", again"
		}
		line := digest.Line{Text: text}
		if h.Post != nil {
			line.Link = g.post(*h.Post)
		}
		lines = append(lines, line)
	}
	sent := 0
	outings, err := g.q.OutingsBetween(ctx, g.book.Site.ID, g.from, g.at)
	for _, o := range outings {
		if o.State == store.Sent {
			sent++
		}
	}
	if sent > 0 {
		lines = append(lines, digest.Line{Text: words.Count(sent, "message") + " on your channels", Link: g.home + "/channels"})
	}
	return lines, err
}

func (g *gatherer) runs(ctx context.Context) (lines []digest.Line, err error) {
	all, err := g.q.RunsBetween(ctx, g.book.Site.ID, g.from, g.at)
	for _, r := range all {
		text := fmt.Sprintf("%s, on %s", r.Name, g.when(r.At))
		if r.Took > 0 {
			text += ": " + words.Count(r.Took, "post") + fmt.Sprintf(" of %d", r.Caught)
		}
		lines = append(lines, digest.Line{Text: text, More: r.Note, Link: fmt.Sprintf("%s/rules/%d", g.home, r.Rule)})
	}
	return lines, err
}

const (
	// namedPosts is how many posts are named that brought most, and that are worn out.
	namedPosts = 3
	// mostResults is among how many posts those are looked for.
	mostResults = 2000
)

func (g *gatherer) results(ctx context.Context) (lines []digest.Line, err error) {
	month, ended := g.wish.Ended(g.from, g.at)
	if !ended {
		return nil, nil
	}
	site := g.book.Site
	r, err := reports.Read(ctx, g.q, site, reports.Asked{By: store.ResultsByPost, From: month, Until: month.AddMonths(1).Add(-1), Zone: site.Zone(), Most: mostResults})
	if err != nil || r.Total.Outings == 0 {
		return nil, err
	}
	page := g.home + "/results?month=" + month.Format("2006-01")
	all := digest.Line{Text: fmt.Sprintf("%s: %s brought %s, %.1f each", month.Format("January 2006"), words.Count(int(r.Total.Outings), "message"), words.Count(int(r.Total.Clicks), "click"),
		r.Total.Mean()), Link: page}
	if r.Before.Outings > 0 {
		all.More = fmt.Sprintf("In the %s before, %s brought %s, %.1f each.", words.Count(r.Asked.Days(), "day"), words.Count(int(r.Before.Outings), "message"),
			words.Count(int(r.Before.Clicks), "click"), r.Before.Mean())
	}
	lines = append(lines, all)
	for _, row := range r.Rows[:min(len(r.Rows), namedPosts)] {
		if row.Now.Clicks > 0 {
			lines = append(lines, digest.Line{Text: fmt.Sprintf("%s: %s from %s", named(row.Name), words.Count(int(row.Now.Clicks), "click"), words.Count(int(row.Now.Outings), "message")),
				More: row.Said(), Link: g.post(row.ID)})
		}
	}
	worn := 0
	for _, row := range r.Rows {
		if row.Worn && worn < namedPosts {
			worn++
			lines = append(lines, digest.Line{Text: named(row.Name) + " brings less than your posts usually do", More: "Give it a rest, or another wording.", Link: g.post(row.ID)})
		}
	}
	for _, b := range r.Best {
		if b.Sure {
			lines = append(lines, digest.Line{Text: fmt.Sprintf("Best hours: %s, %d:00 to %d:00, about %.1f times the usual clicks", reports.Weekdays(b.Days), b.From, b.To, b.Times), Link: page})
			break
		}
	}
	if r.Nevers > 0 {
		lines = append(lines, digest.Line{Text: words.Count(r.Nevers, "post") + " never shared", Link: page})
	}
	return lines, nil
}
