package imports

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/check"
	"dapper.example/internal/core/intake"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/message"
	"dapper.example/internal/intake/articles"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

// made is what a line becomes, as it is kept until it lands.
type made struct {
	Post   intake.Post `json:"post"`
	Digest []byte      `json:"digest"` // of what the line said
}

// judge says what becomes of lines: it puts them through the recipe, and looks whether the blog has such posts.
type judge struct {
	q        store.Queries
	site     store.Site
	i        store.Import
	setup    Setup
	pipeline *intake.Pipeline
	members  []store.Member
	titles   *intake.Titles // of the blog's posts
}

// newJudge makes a judge for an import; src is nil for one without files. It fails with *act.Invalid where the recipe is wrong; with headings, also where it asks
// for columns that there are not.
func newJudge(ctx context.Context, q store.Queries, i store.Import, setup Setup, src *source, headings []string, now time.Time) (*judge, error) {
	j := &judge{q: q, i: i, setup: setup}
	var err error
	if j.site, err = q.Site(ctx, i.SiteID); err != nil {
		return nil, err
	}
	place := intake.Place{Zone: j.site.Zone(), Now: now}
	if src != nil {
		place.Pictures = src.tree.Pictures()
	}
	categories, err := q.Categories(ctx, i.SiteID)
	if err != nil {
		return nil, err
	}
	for _, c := range categories {
		place.Categories = append(place.Categories, c.Name)
	}
	if place.Lists, err = listsOf(ctx, q, i.SiteID); err != nil {
		return nil, err
	}
	if j.members, err = q.MembersNamed(ctx, i.SiteID); err != nil {
		return nil, err
	}
	var problems []check.FieldProblem
	if j.pipeline, problems = intake.Ready(setup.Recipe, place, headings); len(problems) > 0 {
		return nil, act.Invalidf("setup.recipe."+problems[0].Path, "%s", problems[0].Message)
	}
	if headings != nil {
		for _, column := range append([]string{setup.Sheet.Key}, setup.Sheet.Needed...) {
			if column != "" && !hasHeading(headings, column) {
				return nil, act.Invalidf("setup.sheet.key", "There is no column “%s”.", column)
			}
		}
	}
	return j, nil
}

func hasHeading(headings []string, name string) bool {
	l := intake.Line{Columns: make([]intake.Column, len(headings))}
	for i, h := range headings {
		l.Columns[i].Name = h
	}
	_, ok := l.Column(name)
	return ok
}

func listsOf(ctx context.Context, q store.Queries, site int64) (message.Lists, error) {
	all, err := q.WordLists(ctx, site)
	if err != nil {
		return message.Lists{}, err
	}
	texts := make(map[string][]string, len(all))
	for _, l := range all {
		texts[l.Name] = l.Entries
	}
	lists, _ := message.ReadLists(texts) // what is wrong with them was said when they were saved
	return lists, nil
}

// author is the person of the blog that a name or an address of mail means.
func (j *judge) author(name string) (store.Member, bool) { return memberNamed(j.members, name) }

func memberNamed(members []store.Member, name string) (store.Member, bool) {
	for _, m := range members {
		if letters.Equal(m.Name, name) || strings.EqualFold(m.Email, name) {
			return m, true
		}
	}
	return store.Member{}, false
}

// take puts a line through the recipe.
func (j *judge) take(ctx context.Context, nr int, read articles.Read) (store.ImportLine, intake.Post, error) {
	line := store.ImportLine{Import: j.i.ID, Nr: nr, Rank: int64(nr), Key: read.Key, Place: read.Place, State: store.LineReady, Title: read.Title, Notes: store.Strings{}}
	if j.setup.Recipe.Shuffled {
		line.Rank = int64(intake.Rank(j.setup.Recipe.Seed, read.Key) >> 1) //nolint:gosec // the first bit is gone
	}
	if read.Why != "" {
		line.State, line.Reason = store.LineLeft, read.Why
		return line, intake.Post{}, nil
	}
	result, err := j.pipeline.Take(ctx, read.Line)
	if err != nil {
		return line, intake.Post{}, err
	}
	p := result.Post
	line.Notes = append(line.Notes, result.Notes...)
	if line.Title = p.Title; line.Title == "" {
		line.Title = read.Title
	}
	if result.Left != "" {
		line.State, line.Reason = store.LineLeft, result.Left
		return line, p, nil
	}
	if p.Author != "" {
		if _, known := j.author(p.Author); !known {
			line.Notes = append(line.Notes, fmt.Sprintf("Nobody on this blog is called “%s”; you become its author.", clip(p.Author)))
		}
	}
	if p.Slug != "" && address.Slug(p.Slug) == "" {
		line.Notes = append(line.Notes, fmt.Sprintf("“%s” can't be an address; it gets one from its title.", clip(p.Slug)))
		p.Slug = ""
	}
	p.Linked = p.Linked || j.setup.Landing.As == AsLinks
	if p.Linked && !address.IsWeb(p.Link) {
		line.State, line.Reason = store.LineLeft, "A link item needs a link that begins with https:// or http://."
		return line, p, nil
	}
	if p.Linked {
		p.Page, p.Slug = false, ""
	}
	if why := unfit(p); why != "" {
		line.State, line.Reason = store.LineLeft, why
		return line, p, nil
	}
	if j.setup.Landing.As == AsDated && p.At.IsZero() && isOut(p.Status) {
		line.Notes = append(line.Notes, "It has no date, so it becomes a draft.")
	}
	return line, p, nil
}

func isOut(status string) bool {
	return status == "published" || status == "archived" || status == "scheduled"
}

func clip(text string) string {
	if r := []rune(text); len(r) > 60 {
		return string(r[:59]) + "…"
	}
	return text
}

// unfit says why a post could not be saved; "" where it can.
func unfit(p intake.Post) string {
	text := writing.Text{Title: &p.Title, Body: &p.Body, Excerpt: &p.Excerpt, Tags: &p.Tags}
	if p.Fields != nil {
		text.Fields = &p.Fields
	}
	if p.Picture != "" && !strings.HasPrefix(p.Picture, "intake:") {
		text.Featured = &writing.Featured{Address: p.Picture, Alt: p.Alt}
	} else if letters.Length(p.Alt, writing.MaxAlt) > writing.MaxAlt {
		return fmt.Sprintf("What the image shows is said in at most %d characters.", writing.MaxAlt)
	}
	if problems := text.Problems(); len(problems) > 0 {
		return problems[0].Message
	}
	return ""
}

// digest is of what a line says, pictures by their names.
func digest(p intake.Post) ([]byte, error) {
	raw, err := json.Marshal(p)
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256(raw)
	return sum[:], nil
}

// batch says what becomes of lines that follow one another, beside those before them and the blog's posts.
func (j *judge) batch(ctx context.Context, first int, reads []articles.Read) ([]store.ImportLine, error) {
	lines := make([]store.ImportLine, len(reads))
	posts := make([]intake.Post, len(reads))
	var err error
	keys := make([]string, len(reads))
	var slugs []string
	for n, read := range reads {
		if lines[n], posts[n], err = j.take(ctx, first+n, read); err != nil {
			return nil, err
		}
		keys[n] = read.Key
		if s := address.Slug(posts[n].Slug); s != "" {
			slugs = append(slugs, s)
		}
	}
	before, err := j.q.KeysOfLines(ctx, j.i.ID, keys)
	if err != nil {
		return nil, err
	}
	imported, err := j.q.Imported(ctx, j.i.SiteID, j.i.Source, keys)
	if err != nil {
		return nil, err
	}
	taken, err := j.q.PostsWithSlugs(ctx, j.i.SiteID, slugs)
	if err != nil {
		return nil, err
	}
	for n := range lines {
		line, p := &lines[n], posts[n]
		if place, again := before[line.Key]; again {
			line.State, line.Reason = store.LineLeft, fmt.Sprintf("It has the same key, “%s”, as %s.", clip(line.Key), place)
		}
		before[line.Key] = line.Place
		if line.State != store.LineReady {
			continue
		}
		sum, err := digest(p)
		if err != nil {
			return nil, err
		}
		if known, again := imported[line.Key]; again {
			knownAgain(line, known, sum)
		} else if !j.setup.Landing.Doubles {
			j.double(line, p, taken)
		}
		if line.State != store.LineReady && line.State != store.LineUpdate {
			continue
		}
		if line.Post, err = json.Marshal(made{p, sum}); err != nil {
			return nil, err
		}
	}
	return lines, nil
}

// knownAgain says what becomes of a line that became a post before.
func knownAgain(line *store.ImportLine, known store.ImportPost, sum []byte) {
	line.PostID = &known.Post
	switch {
	case bytes.Equal(known.Digest, sum):
		line.State, line.Reason = store.LineSame, "It was brought in before, and says the same."
	case known.Status == string(store.Binned):
		line.State, line.Reason = store.LineLeft, "Its post is in the bin. Delete that for good to bring it in anew."
	case known.Live == known.Text:
		line.State, line.Reason = store.LineUpdate, "It changes the post that it became before."
	default:
		line.State, line.Reason = store.LineClash, fmt.Sprintf("Both it and its post, “%s”, have changed since. The post stays as it is.", clip(known.Title))
	}
}

// double leaves a line out that looks like a post of the blog.
func (j *judge) double(line *store.ImportLine, p intake.Post, taken map[string]string) {
	if title, there := taken[address.Slug(p.Slug)]; there && p.Slug != "" {
		line.State, line.Reason = store.LineLeft, fmt.Sprintf("“%s” has its address, %s.", clip(title), address.Slug(p.Slug))
		return
	}
	if j.titles == nil {
		return
	}
	if other, near := j.titles.Near(p.Title); near && (j.i.Kind != KindFeed || letters.Equal(other, p.Title)) {
		line.State, line.Reason = store.LineLeft, fmt.Sprintf("There is a post with nearly the same title: “%s”.", clip(other))
		if letters.Equal(other, p.Title) {
			line.Reason = "There is a post with the same title."
		}
	}
}

// knowTitles reads the titles of the blog's posts.
func (j *judge) knowTitles(ctx context.Context) error {
	if j.setup.Landing.Doubles {
		return nil
	}
	j.titles = intake.NewTitles()
	return j.q.EachTitle(ctx, j.i.SiteID, func(title string) error {
		j.titles.Add(title)
		return nil
	})
}
