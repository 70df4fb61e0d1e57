package siterules

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/upkeep"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

// expire is the kind of rules that take posts away, or mark them as past.
type expire struct{}

// carefulRun is how many posts a new expiry rule takes a run.
const carefulRun = 20

// maxTellDays is the longest notice that authors get.
const maxTellDays = 90

func (expire) begin(r *store.Rule, _ []int64) {
	r.Cadence.At, r.Cadence.Sway = civil.MustClock("04:00"), 0 // while nobody reads
	r.Settings = unused()
	r.Settings.Youngest = condition.Span{Unit: condition.Months}
}

func (expire) own(s store.RuleSettings) store.RuleSettings {
	own := store.RuleSettings{Action: s.Action, MostARun: s.MostARun, MostSeconds: s.MostSeconds, TellDays: s.TellDays, Only: s.Only}
	switch upkeep.Action(s.Action) {
	case upkeep.Archive:
		own.Notice, own.Answer = strings.TrimSpace(s.Notice), s.Answer
		if post.Answer(s.Answer) == post.Elsewhere {
			own.LeadsTo = s.LeadsTo
		}
	case upkeep.PutNotice:
		own.Notice = strings.TrimSpace(s.Notice)
	case upkeep.ToCategory:
		own.Category = s.Category
	case upkeep.AddTag:
		own.Tag = strings.TrimSpace(s.Tag)
	case upkeep.Delete:
		own.TellDays = 0 // whose it is was told when it came into the bin
	}
	return own
}

func (expire) check(c *checker) {
	s := c.rule.Settings
	switch upkeep.Action(s.Action) {
	case upkeep.ToCategory:
		if s.Category == 0 {
			c.say("category", "Choose the category that posts are moved to.")
		}
	case upkeep.AddTag:
		if address.Slug(s.Tag) == "" || letters.Length(s.Tag, writing.MaxTag) > writing.MaxTag {
			c.say("tag", "Enter a tag of 1 to %d characters with a letter or digit in it.", writing.MaxTag)
		}
	case upkeep.Archive:
		if !slices.Contains(post.Answers, post.Answer(s.Answer)) {
			c.say("answer", "Readers get the page, another post (redirect) or word that it is gone (gone); not %q.", s.Answer)
		}
		if post.Answer(s.Answer) == post.Elsewhere && s.LeadsTo == 0 {
			c.say("leadsTo", "Choose the post that readers are sent on to.")
		}
	}
	if !slices.Contains(upkeep.Actions, upkeep.Action(s.Action)) {
		c.say("action", "There is no action %q; it is archive, draft, bin, category, tag, notice, comments or delete.", s.Action)
	}
	if n := letters.Length(s.Notice, upkeep.MaxNotice); n > upkeep.MaxNotice {
		c.say("notice", "The notice has %d characters; at most %d fit.", n, upkeep.MaxNotice)
	}
	c.between("mostARun", s.MostARun, 0, maxARun, "posts a run")
	c.between("mostSeconds", s.MostSeconds, 0, maxSeconds, "seconds a run")
	c.between("tellDays", s.TellDays, 0, maxTellDays, "days")
	if by := c.rule.Cadence; by.By == cadence.Openings || by.By == cadence.Every && by.Unit == cadence.Minutes {
		c.say("cadence.by", "An expiry rule runs hourly, daily or weekly, or by hand only.")
	}
	if s.TellDays > 0 && c.rule.Cadence.By == cadence.Hand {
		c.say("tellDays", "A rule that runs by hand only can’t tell authors in time. Let it run by itself, or tell nobody.")
	}
}

func (expire) rule(f *Frame, r store.Rule, base deed.RuleBase) (deed.Rule, error) {
	s := r.Settings
	return &upkeep.Expire{RuleBase: base, Action: upkeep.Action(s.Action), MostARun: s.MostARun, TellDays: s.TellDays,
		With: upkeep.Extras{Category: s.Category, CategoryName: f.categories[s.Category], Tag: f.tagNamed(s.Tag), Notice: s.Notice,
			Answer: post.Answer(s.Answer), LeadsTo: f.there[s.LeadsTo]},
		Took: f.takes[r.ID], Allowed: r.Allowed, Only: setOf(s.Only)}, nil
}

// setOf has posts that were chosen; nil of none.
func setOf(ids []int64) map[int64]bool {
	if ids == nil {
		return nil
	}
	set := make(map[int64]bool, len(ids))
	for _, id := range ids {
		set[id] = true
	}
	return set
}

// tagNamed is a tag as the site writes it already, or as it was given.
func (f *Frame) tagNamed(tag string) string {
	for _, name := range f.tags {
		if address.Slug(name) == address.Slug(tag) {
			return name
		}
	}
	return tag
}

// readExtras reads what the actions of expiry rules need beside posts, where a rule has such an action, and what is in the
// bin, where that is emptied.
func (f *Frame) readExtras(ctx context.Context, q store.Queries, site store.Site, limit int) error {
	f.categories, f.there = map[int64]string{}, map[int64]int64{}
	var leads []int64
	for _, r := range f.Rules {
		switch s := r.Settings; {
		case s.Category != 0 && len(f.categories) == 0:
			all, err := q.Categories(ctx, site.ID)
			if err != nil {
				return fmt.Errorf("reading the categories: %w", err)
			}
			for _, c := range all {
				f.categories[c.ID] = c.Name
			}
		case s.Tag != "" && f.tags == nil:
			v, err := q.Vocabulary(ctx, site.ID)
			if err != nil {
				return fmt.Errorf("reading the tags: %w", err)
			}
			f.tags = v.Tags
		case s.LeadsTo != 0:
			leads = append(leads, s.LeadsTo)
		}
	}
	if len(leads) > 0 {
		owners, err := q.Owners(ctx, site.ID, leads)
		if err != nil {
			return err
		}
		for id := range owners {
			f.there[id] = id
		}
	}
	return f.readBin(ctx, q, site, limit)
}

// binned is how many posts in the bin the engine looks at: the first to go.
const binned = 500

// readBin reads what is in the bin, where it is emptied; limit 0 is none.
func (f *Frame) readBin(ctx context.Context, q store.Queries, site store.Site, limit int) error {
	f.Scene.BinDays, f.Scene.Binned = site.BinDays, nil
	if site.BinDays == 0 {
		return nil
	}
	all, err := q.InBin(ctx, site.ID, limit)
	if err != nil {
		return fmt.Errorf("reading the bin: %w", err)
	}
	for _, b := range all {
		f.Scene.Binned = append(f.Scene.Binned, deed.Binned{Post: b.Post, At: b.At.UTC()})
	}
	return nil
}
