package siterules

import (
	"fmt"
	"slices"
	"strings"

	"dapper.example/internal/channel"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/reshare"
	"dapper.example/internal/store"
)

// reshares is the kind of rules that share posts on channels.
type reshares struct{}

func (reshares) begin(r *store.Rule, channels []int64) {
	r.Settings = unused()
	r.Settings.Channels = channels[:min(len(channels), 1)]
	r.Settings.Mode, r.Settings.Between = string(reshare.Together), 60
	r.Settings.Wordings = []string{"{title} {link} {hashtags}"}
	r.Settings.Picture, r.Settings.ReplyAfter = message.Picture{From: message.FeaturedPicture}, 5
}

func (reshares) own(s store.RuleSettings) store.RuleSettings {
	s.Action, s.MostARun, s.MostSeconds = "", 0, 0
	if s.Mode != string(reshare.Staggered) {
		s.Between = 0
	}
	if strings.TrimSpace(s.ReplyText) == "" {
		s.ReplyText, s.ReplyAfter = "", 0
	}
	if s.Picture.From != message.ThisPicture {
		s.Picture.ID = 0
	}
	return s
}

// Limits of what a rule says.
const (
	maxChannels = 50
	maxReply    = 7 * 24 * 60 // minutes
	maxBetween  = 7 * 24 * 60 // minutes
)

func (reshares) check(c *checker) {
	c.bringsOut(slices.Contains(reshare.Orders, reshare.Order(c.rule.Settings.Order)))
	s := c.rule.Settings
	c.between("atATime", max(s.AtATime, 1), 1, maxAtATime, "posts at a time")
	c.speaks(s)
	c.wordings("wordings", s.Wordings)
	if len(s.Wordings) == 0 {
		c.say("wordings", "A rule has 1 to %d wordings.", maxWordings)
	}
	for id, texts := range s.ByChannel {
		field := fmt.Sprintf("byChannel.%d", id)
		if !slices.Contains(s.Channels, id) {
			c.say(field, "These wordings are for a channel that the rule does not use. Remove them, or add the channel.")
		}
		c.wordings(field, texts)
	}
	if s.ReplyText != "" {
		c.wordings("replyText", []string{s.ReplyText})
		c.between("replyAfter", s.ReplyAfter, 1, maxReply, "minutes")
		for _, ch := range c.channels {
			if n, known := channel.Of(ch.Kind); known && slices.Contains(s.Channels, ch.ID) && !n.Limits().Replies {
				c.say("replyText", "%s takes no replies. Leave the reply out, or the channel.", ch.Name)
			}
		}
	}
	if !slices.Contains(message.PicturesFrom, s.Picture.From) && s.Picture.From != "" {
		c.say("picture", "There is no choice of picture %q.", s.Picture.From)
	}
	if s.Picture.From == message.ThisPicture && s.Picture.ID == 0 {
		c.say("picture", "Choose a picture.")
	}
	c.hashtags(s.Hashtags)
	if problem := message.CheckParams(s.Params); problem != "" {
		c.say("params", "%s", problem)
	}
	if !s.Oldest.IsZero() && !s.Youngest.IsZero() && s.Oldest.N <= s.Youngest.N && s.Oldest.Unit == s.Youngest.Unit {
		c.say("oldest", "No post can be older than %s and younger than %s. Raise the second age.", s.Youngest, s.Oldest)
	}
	if s.Starts != nil && s.Ends != nil && s.Ends.Before(*s.Starts) {
		c.say("ends", "The rule would end before it begins. Choose a later date.")
	}
}

// speaks checks the channels of a rule.
func (c *checker) speaks(s store.RuleSettings) {
	if len(s.Channels) == 0 || len(s.Channels) > maxChannels {
		c.say("channels", "Choose at least one channel.")
	}
	for i, id := range s.Channels {
		if !slices.ContainsFunc(c.channels, func(ch store.Channel) bool { return ch.ID == id }) {
			c.say("channels", "Choose one of the site's channels.")
		}
		if slices.Contains(s.Channels[:i], id) {
			c.say("channels", "Each channel can be chosen once.")
		}
	}
	if s.Mode != "" && !slices.Contains(reshare.Modes, reshare.Mode(s.Mode)) {
		c.say("mode", "Channels go out together, in turn or staggered; not %q.", s.Mode)
	}
	if s.Mode == string(reshare.Staggered) {
		c.between("between", s.Between, 1, maxBetween, "minutes")
	}
}

// wordings checks wordings of a field.
func (c *checker) wordings(field string, texts []string) {
	if len(texts) > maxWordings {
		c.say(field, "%d wordings are too many; %d are the most.", len(texts), maxWordings)
	}
	for i, text := range texts {
		path := fmt.Sprintf("%s[%d]", field, i)
		if field == "replyText" || field == "say" {
			path = field
		}
		w, err := message.ReadWording(text)
		if err != nil {
			c.say(path, "%s", err)
			continue
		}
		for _, name := range w.Missing(c.lists) {
			c.say(path, "There is no list %q. Make it under Channels, or choose another.", name)
		}
	}
}

func (c *checker) hashtags(h message.Hashtags) {
	for i, source := range h.Sources {
		if !slices.Contains(message.Sources, source) {
			c.say(fmt.Sprintf("hashtags.sources[%d]", i), "There is no source of hashtags %q.", source)
		}
	}
	if h.Style != "" && !slices.Contains(message.Styles, h.Style) {
		c.say("hashtags.style", "There is no style of hashtags %q.", h.Style)
	}
	if slices.Contains(h.Sources, message.FromField) && strings.TrimSpace(h.Field) == "" {
		c.say("hashtags.field", "Name the custom field that holds hashtags.")
	}
	c.between("hashtags.list", len(h.List), 0, maxTags, "hashtags")
}

func (reshares) rule(f *Frame, r store.Rule, base deed.RuleBase) (deed.Rule, error) {
	s := r.Settings
	for _, id := range s.Channels {
		base.Pace.Gap = max(base.Pace.Gap, f.channelOf(id).Apart)
	}
	rule := &reshare.Reshare{RuleBase: base, Channels: s.Channels, Mode: reshare.Mode(s.Mode), Between: s.Between,
		Spoke: r.SpokeOn, Youngest: s.Youngest, Oldest: s.Oldest, Apart: s.Apart, Most: s.Most, AtATime: s.AtATime,
		Once: s.Once, Order: reshare.Order(s.Order), Bounds: f.bounds(s),
		Extras: deed.Extras{Hashtags: s.Hashtags, Params: s.Params, Short: s.Short, Picture: s.Picture}}
	if s.Picked {
		if rule.Picked = f.picked[r.ID]; rule.Picked == nil {
			rule.Picked = map[int64]bool{}
		}
	}
	var err error
	if rule.Wordings, err = readWordings(s.Wordings); err != nil {
		return nil, err
	}
	rule.ByChannel = make(map[int64][]message.Wording, len(s.ByChannel))
	for id, texts := range s.ByChannel {
		if rule.ByChannel[id], err = readWordings(texts); err != nil {
			return nil, err
		}
	}
	rule.Reply, err = replyOf(s.ReplyText, s.ReplyAfter)
	return rule, err
}

func readWordings(texts []string) (wordings []message.Wording, err error) {
	for _, text := range texts {
		w, err := message.ReadWording(text)
		if err != nil {
			return nil, err
		}
		wordings = append(wordings, w)
	}
	return wordings, nil
}
