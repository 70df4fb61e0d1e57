package channels

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/words"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

const (
	maxAnnouncements = 50
	maxWordings      = 20
	maxAfter         = 30 * 24 * 60 // minutes
	maxReply         = 7 * 24 * 60  // minutes
)

// Say is what is shared when posts come out: a site's own say, or that of one post.
type Say struct {
	Own  bool // of a post: it does not do as the site does
	All  []store.Announcement
	Post store.Wordings // the post's own wordings, for all its messages
}

// Token stands for exactly this: whoever saves shows what they saw.
func (s Say) Token() string {
	for i := range s.All {
		s.All[i].ID = 0
	}
	return act.TokenOf("say", s.Own, s.All, s.Post)
}

// SayOf reads what a post, or with 0 the site, says is shared.
func (d Editor) SayOf(ctx context.Context, q store.Queries, post int64) (s Say, err error) {
	if s.All, s.Own, err = q.AnnouncementsOf(ctx, d.Site.ID, post); err != nil || post == 0 {
		return s, err
	}
	s.Post, err = q.WordingsOf(ctx, d.Site.ID, post)
	return s, err
}

// SaveSay writes what a post, or with 0 the site, says is shared, over what was seen.
func (d Editor) SaveSay(ctx context.Context, post int64, to Say, token string, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		seen, err := d.SayOf(ctx, tx.Queries, post)
		if err != nil {
			return err
		}
		if seen.Token() != token {
			return act.ErrStale
		}
		if post == 0 {
			to.Own, to.Post = true, nil
		} else if !to.Own {
			to.All = nil
		}
		if err := d.checkSay(ctx, tx.Queries, to); err != nil {
			return err
		}
		if err := d.writeSay(ctx, tx, post, to); err != nil {
			return err
		}
		kept, err := d.SayOf(ctx, tx.Queries, post)
		if err != nil {
			return err
		}
		line := store.LogEntry{At: now, Deed: store.DeedAnnounce, Before: act.JSON(sideOf(post, seen)), After: act.JSON(sideOf(post, kept))}
		switch n := words.Count(len(to.All), "channel"); {
		case post == 0:
			line.Reason = fmt.Sprintf("What is shared when a post comes out was changed: %s.", n)
		case to.Own:
			line.Reason = fmt.Sprintf("What is shared when this post comes out was changed: %s.", n)
		default:
			line.Reason = "When this post comes out, it is shared as the blog’s posts are."
		}
		if post != 0 {
			line.Post = &post
		}
		return d.Log(ctx, tx, line)
	})
}

// writeSay writes what a post, or with 0 the site, says is shared.
func (d Editor) writeSay(ctx context.Context, tx *store.Tx, post int64, to Say) error {
	if err := tx.SaveAnnouncements(ctx, d.Site.ID, post, to.Own, to.All); err != nil || post == 0 {
		return err
	}
	return tx.SaveWordings(ctx, d.Site.ID, post, to.Post)
}

func (d Editor) checkSay(ctx context.Context, q store.Queries, s Say) error {
	if len(s.All) > maxAnnouncements {
		return act.Invalidf("announcements", "%d messages are too many for one post; %d are the most.", len(s.All), maxAnnouncements)
	}
	if len(s.Post) > maxWordings {
		return act.Invalidf("wordings", "%d wordings are too many for one post; %d are the most.", len(s.Post), maxWordings)
	}
	all, err := q.Channels(ctx, d.Site.ID)
	if err != nil {
		return err
	}
	lists, err := siterules.Lists(ctx, q, d.Site.ID)
	if err != nil {
		return err
	}
	for i, a := range s.All {
		if err := checkAnnouncement(a, all, lists); err != nil {
			err.Field = fmt.Sprintf("announcements[%d].%s", i, err.Field)
			return err
		}
	}
	for i, w := range s.Post {
		field := fmt.Sprintf("wordings[%d]", i)
		if w.Channel != 0 && !slices.ContainsFunc(all, func(c store.Channel) bool { return c.ID == w.Channel }) {
			return act.Invalidf(field, "Choose one of the site's channels, or all of them.")
		}
		if bad := checkWording(w.Text, lists); bad != "" {
			return act.Invalidf(field, "%s", bad)
		}
	}
	return nil
}

func checkAnnouncement(a store.Announcement, all []store.Channel, lists message.Lists) *act.Invalid {
	i := slices.IndexFunc(all, func(c store.Channel) bool { return c.ID == a.Channel })
	if i < 0 {
		return act.Invalidf("channelId", "Choose one of the site's channels.")
	}
	network, _ := channel.Of(all[i].Kind)
	if a.After < 0 || a.After > maxAfter {
		return act.Invalidf("after", "A message follows within %d days.", maxAfter/24/60)
	}
	if bad := checkWording(a.Text, lists); bad != "" {
		return act.Invalidf("text", "%s", bad)
	}
	if network.Limits().Image == message.Required && a.Extras.Picture.From == message.NoPicture {
		return act.Invalidf("picture", "%s takes no message without a picture. Choose one.", all[i].Name)
	}
	if a.ReplyText == "" {
		return nil
	}
	if bad := checkWording(a.ReplyText, lists); bad != "" {
		return act.Invalidf("replyText", "%s", bad)
	}
	switch {
	case !network.Limits().Replies:
		return act.Invalidf("replyText", "%s takes no replies. Leave the reply out.", all[i].Name)
	case a.ReplyAfter < 1 || a.ReplyAfter > maxReply:
		return act.Invalidf("replyAfter", "A reply follows after 1 minute to %d days.", maxReply/24/60)
	}
	return nil
}

// checkWording says what is wrong with a wording, or "".
func checkWording(text string, lists message.Lists) string {
	w, err := message.ReadWording(text)
	if err != nil {
		return err.Error()
	}
	if missing := w.Missing(lists); len(missing) > 0 {
		return fmt.Sprintf("There is no list %q. Make it under Channels, or choose another.", missing[0])
	}
	return ""
}

// SaveList writes a list of words and sentences for alternatives, a new one or over one of its name.
func (d Editor) SaveList(ctx context.Context, l store.WordList, now time.Time) error {
	l.SiteID, l.Name = d.Site.ID, strings.TrimSpace(l.Name)
	return d.Change(ctx, func(tx *store.Tx) error {
		before, err := d.list(ctx, tx.Queries, l.Name)
		if err != nil {
			return err
		}
		if err := d.writeList(ctx, tx, l); err != nil {
			return err
		}
		return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedAnnounce,
			Before: act.JSON(announced{Name: l.Name, List: before}), After: act.JSON(announced{Name: l.Name, List: &l}),
			Reason: fmt.Sprintf("The list “%s” was saved: %s.", l.Name, words.Count(len(l.Entries), "item"))})
	})
}

// writeList writes a list, if all lists are good with it.
func (d Editor) writeList(ctx context.Context, tx *store.Tx, l store.WordList) error {
	texts, err := d.lists(ctx, tx.Queries)
	if err != nil {
		return err
	}
	texts[l.Name] = l.Entries
	if len(texts) > message.MaxLists {
		return act.Invalidf("name", "A blog has %d lists at most.", message.MaxLists)
	}
	if _, found := message.ReadLists(texts); len(found) > 0 {
		return act.Invalidf("entries", "%s", found[0].Message)
	}
	return tx.SaveWordList(ctx, l)
}

func (d Editor) lists(ctx context.Context, q store.Queries) (map[string][]string, error) {
	kept, err := q.WordLists(ctx, d.Site.ID)
	texts := make(map[string][]string, len(kept)+1)
	for _, one := range kept {
		texts[one.Name] = one.Entries
	}
	return texts, err
}

// DropList deletes a list that nothing asks for. It fails with *act.Invalid where something does.
func (d Editor) DropList(ctx context.Context, name string, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		before, err := d.list(ctx, tx.Queries, name)
		if err != nil {
			return err
		}
		if err := d.dropList(ctx, tx, name); err != nil {
			return err
		}
		return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedAnnounce, Reason: fmt.Sprintf("The list “%s” was deleted.", name),
			Before: act.JSON(announced{Name: name, List: before}), After: act.JSON(announced{Name: name})})
	})
}

func (d Editor) dropList(ctx context.Context, tx *store.Tx, name string) error {
	user, err := d.usesList(ctx, tx.Queries, name)
	if err != nil {
		return err
	}
	if user != "" {
		return act.Invalidf("name", "%s uses {one-of:%s}. Change that first.", user, name)
	}
	return tx.DropWordList(ctx, d.Site.ID, name)
}

// usesList names what asks for a list, or is "".
func (d Editor) usesList(ctx context.Context, q store.Queries, name string) (string, error) {
	texts, err := d.lists(ctx, q)
	if err != nil {
		return "", err
	}
	if _, there := texts[name]; !there {
		return "", store.ErrNotFound
	}
	asks := func(text string) bool { return strings.Contains(text, "{"+string(message.OneOf)+":"+name+"}") }
	for other, entries := range texts {
		if other != name && slices.ContainsFunc(entries, asks) {
			return fmt.Sprintf("The list “%s”", other), nil
		}
	}
	rules, err := q.Rules(ctx, d.Site.ID)
	if err != nil {
		return "", err
	}
	for _, r := range rules {
		all := append(slices.Clone(r.Settings.Wordings), r.Settings.ReplyText)
		for _, own := range r.Settings.ByChannel {
			all = append(all, own...)
		}
		if slices.ContainsFunc(all, asks) {
			return fmt.Sprintf("The rule “%s”", r.Name), nil
		}
	}
	said, err := q.Announcements(ctx, d.Site.ID)
	if err != nil {
		return "", err
	}
	for _, a := range said {
		if asks(a.Text) || asks(a.ReplyText) {
			return "What is shared when posts come out", nil
		}
	}
	planned, err := q.Planned(ctx, d.Site.ID)
	if err != nil {
		return "", err
	}
	for _, o := range planned {
		if asks(o.OwnText) || asks(o.ReplyText) {
			return "A planned outing", nil
		}
	}
	return "", nil
}

// WordingsOf makes wordings of a post's own of texts.
func WordingsOf(own []condition.OwnWording) store.Wordings {
	kept := store.Wordings{}
	for _, w := range own {
		if strings.TrimSpace(w.Text) != "" {
			kept = append(kept, w)
		}
	}
	return kept
}
