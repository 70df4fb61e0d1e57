package rules

import (
	"cmp"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/reshare"
	"dapper.example/internal/formats"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

// RuleBody is what an editor says of a rule. Each kind uses some of the fields.
type RuleBody struct {
	Kind      string          `json:"kind" enum:"expire,republish,reshare"`
	Name      string          `json:"name" maxLength:"200"`
	Condition condition.Node  `json:"condition" doc:"which posts; see /api/v1/condition.schema.json"`
	Cadence   formats.Cadence `json:"cadence"`

	Action      string `json:"action" required:"false" doc:"of expiry rules: archive, draft, bin, category, tag, notice, comments or delete"`
	CategoryID  int64  `json:"categoryId" required:"false" doc:"with category: where posts are moved"`
	Tag         string `json:"tag" required:"false" maxLength:"500" doc:"with tag: what is added"`
	Notice      string `json:"notice" required:"false" maxLength:"5000" doc:"with archive and notice: what readers see, with {date} and {published}; empty: the usual one"`
	Answer      string `json:"answer" required:"false" doc:"with archive: what readers get of the page: empty for the page with its notice, redirect or gone"`
	LeadsTo     int64  `json:"leadsTo" required:"false" doc:"with redirect: the post that they are sent on to"`
	TellDays    int    `json:"tellDays" required:"false" doc:"of expiry rules: authors are told so many days before; 0: they are not"`
	ReadDays    int    `json:"readDays" required:"false" doc:"of republish rules: somebody is asked to read a post so many days before; 0: nobody is"`
	Unread      bool   `json:"unread" required:"false" doc:"of republish rules: a post that nobody read comes out all the same"`
	SayAfter    int    `json:"sayAfter" required:"false" doc:"of republish rules with channels: minutes until what comes out again is shared there"`
	Say         string `json:"say" required:"false" doc:"of republish rules with channels: the wording"`
	MostARun    int    `json:"mostARun" required:"false" doc:"most posts a run; 0: no limit"`
	MostSeconds int    `json:"mostSeconds" required:"false" doc:"a run stops after so many seconds and goes on at the next; 0: no limit"`

	Youngest condition.Span `json:"youngest,omitzero" required:"false" doc:"least age since publication; n 0: any"`
	Oldest   condition.Span `json:"oldest,omitzero" required:"false" doc:"of reshare rules: greatest age; n 0: any"`
	Apart    int            `json:"apart" required:"false" doc:"fewest days between two outings, or republications, of one post"`
	Most     int            `json:"most" required:"false" doc:"of reshare rules: most outings of one post; 0: any number"`
	AtATime  int            `json:"atATime" required:"false" doc:"posts a turn"`
	Order    string         `json:"order" required:"false" doc:"longest, oldest, newest, shuffled or weighted"`
	Weekdays []string       `json:"weekdays" required:"false" enum:"monday,tuesday,wednesday,thursday,friday,saturday,sunday" doc:"on which it may act; none: all"`
	From     civil.Clock    `json:"from" required:"false" doc:"the hours it keeps; from and to 00:00: all"`
	To       civil.Clock    `json:"to" required:"false"`

	Channels   []int64         `json:"channels" required:"false" maxItems:"50" doc:"of reshare rules: where it shares, in its order; of republish rules: where it shares what comes out again"`
	Mode       string          `json:"mode" required:"false" doc:"together, in turn or staggered: how several channels share its turns"`
	Between    int             `json:"between" required:"false" doc:"minutes between channels that are staggered"`
	Once       bool            `json:"once" required:"false" doc:"each post once, then it is off"`
	Picked     bool            `json:"picked" required:"false" doc:"only posts that were picked by hand"`
	Starts     string          `json:"starts" required:"false" maxLength:"10" doc:"no turn before that date; empty: any"`
	Ends       string          `json:"ends" required:"false" maxLength:"10" doc:"no turn after that date; empty: any"`
	Picture    MessagePicture  `json:"picture" required:"false" doc:"which picture goes along: featured, text, library (with its id) or none"`
	ByChannel  []ChannelWords  `json:"byChannel" required:"false" maxItems:"50" doc:"wordings for one channel, in the place of the others"`
	ReplyText  string          `json:"replyText" required:"false" doc:"what follows under each message; empty: nothing"`
	ReplyAfter int             `json:"replyAfter" required:"false" doc:"minutes after the message"`
	Wordings   []string        `json:"wordings" required:"false"`
	Hashtags   RuleHashtags    `json:"hashtags" required:"false"`
	Params     []message.Param `json:"params" required:"false" doc:"added to links"`
	Short      bool            `json:"short" required:"false" doc:"use short links, which count clicks"`
	Version    int             `json:"version" required:"false" doc:"the version that was seen; 0 of a new rule"`
}

// ChannelWords are wordings for one channel.
type ChannelWords struct {
	ChannelID int64    `json:"channelId"`
	Wordings  []string `json:"wordings" maxItems:"50"`
}

// RuleHashtags says how a rule makes hashtags.
type RuleHashtags struct {
	Sources []string `json:"sources" required:"false" doc:"category, tags, list, field; in that order"`
	List    []string `json:"list" required:"false"`
	Field   string   `json:"field" required:"false"`
	Style   string   `json:"style" required:"false" doc:"joined, lower or underlined"`
}

// Rule is a rule of a site and how it stands.
type Rule struct {
	ID int64 `json:"id"`
	RuleBody
	State    string           `json:"state" enum:"off,armed,held"`
	HeldWhy  string           `json:"heldWhy,omitempty" doc:"why it waits for an editor"`
	Sentence string           `json:"sentence" doc:"its condition, read aloud"`
	Often    string           `json:"often" doc:"its cadence, read aloud"`
	Channel  string           `json:"channel,omitempty" doc:"the names of its channels"`
	Next     *operation.Place `json:"next,omitempty" doc:"when it acts next"`
	Last     *RuleRun         `json:"last,omitempty" doc:"its latest turn"`
	// What follows is for those who compare with the server's own log.
	NextOnServer string `json:"nextOnServer,omitempty" doc:"when it acts next by the server's clock, such as 08:00 UTC"`
	LastOnServer string `json:"lastOnServer,omitempty" doc:"when it acted last by the server's clock"`
	LeadsToTitle string `json:"leadsToTitle,omitempty" doc:"the title of the post that readers are sent on to"`
}

// RuleRun is one turn that a rule took.
type RuleRun struct {
	operation.Place
	Caught int    `json:"caught"`
	Took   int    `json:"took"`
	Note   string `json:"note,omitempty" doc:"why it did nothing, asked or stopped"`
	ByHand bool   `json:"byHand"`
	LogID  int64  `json:"logId,omitempty" doc:"a line of the logbook by which the run can be undone"`
}

func (h RuleHashtags) kept() message.Hashtags {
	kept := message.Hashtags{List: h.List, Field: h.Field, Style: message.Style(h.Style)}
	for _, source := range h.Sources {
		kept.Sources = append(kept.Sources, message.Source(source))
	}
	return kept
}

// keptCadence is a cadence as it is kept, and what cannot be read of it, by its field.
func keptCadence(c formats.Cadence) (cadence.Cadence, []*act.Invalid) {
	kept, found := c.Read()
	var problems []*act.Invalid
	for _, p := range found {
		problems = append(problems, &act.Invalid{Field: "cadence." + p.Path, Message: p.Message})
	}
	return kept, problems
}

func (b RuleBody) kept(id int64) (store.Rule, []*act.Invalid) {
	c, problems := keptCadence(b.Cadence)
	r := store.Rule{ID: id, Kind: store.RuleKind(b.Kind), Name: b.Name, Condition: b.Condition, Cadence: c,
		Version: b.Version}
	s := &r.Settings
	s.Channels, s.Mode, s.Between, s.Once, s.Picked, s.Picture = b.Channels, b.Mode, b.Between, b.Once, b.Picked, b.Picture.kept()
	s.ReplyText, s.ReplyAfter = strings.TrimSpace(b.ReplyText), b.ReplyAfter
	for _, c := range b.ByChannel {
		if len(c.Wordings) == 0 {
			continue
		}
		if s.ByChannel == nil {
			s.ByChannel = make(map[int64][]string)
		}
		s.ByChannel[c.ChannelID] = c.Wordings
	}
	for _, one := range []struct {
		field, text string
		to          **civil.Date
	}{{"starts", b.Starts, &s.Starts}, {"ends", b.Ends, &s.Ends}} {
		if one.text == "" {
			continue
		}
		d, err := civil.ParseDate(one.text)
		if err != nil {
			problems = append(problems, act.Invalidf(one.field, "Enter a date such as 2026-12-24."))
			continue
		}
		*one.to = &d
	}
	s.Action, s.MostARun, s.MostSeconds = b.Action, b.MostARun, b.MostSeconds
	s.Category, s.Tag, s.Notice, s.Answer, s.LeadsTo, s.TellDays = b.CategoryID, b.Tag, b.Notice, b.Answer, b.LeadsTo, b.TellDays
	s.ReadDays, s.Unread, s.SayAfter, s.Say = b.ReadDays, b.Unread, b.SayAfter, b.Say
	s.Youngest, s.Oldest, s.Apart, s.Most, s.AtATime, s.Order = b.Youngest, b.Oldest, b.Apart, b.Most, b.AtATime,
		b.Order
	s.Weekdays, s.From, s.To = formats.ReadWeekdays(b.Weekdays), b.From, b.To
	s.Wordings, s.Params, s.Short = b.Wordings, b.Params, b.Short
	s.Hashtags = b.Hashtags.kept()
	return siterules.Own(r), problems
}

// withUnit gives a span that is none a unit to begin with.
func withUnit(s condition.Span) condition.Span {
	if s.Unit == "" {
		s.Unit = condition.Days
	}
	return s
}

func viewRuleBody(r store.Rule) RuleBody {
	s := r.Settings
	body := RuleBody{Kind: string(r.Kind), Name: r.Name, Condition: r.Condition,
		Cadence: formats.ViewCadence(r.Cadence),
		Action:  s.Action, MostARun: s.MostARun, MostSeconds: s.MostSeconds, Youngest: withUnit(s.Youngest),
		Oldest: withUnit(s.Oldest), Apart: s.Apart,
		Most: s.Most, AtATime: max(s.AtATime,
			1), Order: s.Order, Weekdays: formats.ViewWeekdays(s.Weekdays), From: s.From, To: s.To,
		Channels: append([]int64{}, s.Channels...), Mode: cmp.Or(s.Mode, string(reshare.Together)),
		Between: cmp.Or(s.Between, 60), Once: s.Once, Picked: s.Picked, Starts: dateWritten(s.Starts), Ends: dateWritten(s.Ends),
		Picture:   viewMessagePicture(s.Picture),
		ByChannel: []ChannelWords{}, ReplyText: s.ReplyText, ReplyAfter: cmp.Or(s.ReplyAfter, 5), Wordings: append([]string{}, s.Wordings...), Params: append([]message.Param{},
			s.Params...), Short: s.Short,
		Hashtags: RuleHashtags{Sources: []string{}, List: append([]string{}, s.Hashtags.List...),
			Field: s.Hashtags.Field, Style: string(s.Hashtags.Style)},
		CategoryID: s.Category, Tag: s.Tag, Notice: s.Notice, Answer: s.Answer, LeadsTo: s.LeadsTo, TellDays: s.TellDays,
		ReadDays: s.ReadDays, Unread: s.Unread, SayAfter: s.SayAfter, Say: cmp.Or(s.Say, againText),
		Version: r.Version}
	for _, id := range s.Channels {
		if texts := s.ByChannel[id]; len(texts) > 0 {
			body.ByChannel = append(body.ByChannel, ChannelWords{id, texts})
		}
	}
	for _, source := range s.Hashtags.Sources {
		body.Hashtags.Sources = append(body.Hashtags.Sources, string(source))
	}
	return body
}

// againText is how what comes out again is shared, to begin with.
const againText = "{title} {link}"

// onServer is a moment by the server's own clock, such as "08:00 UTC".
func onServer(t time.Time) string { return t.Local().Format("15:04 MST") }

// dateWritten is a date as forms write it; "" of none.
func dateWritten(d *civil.Date) string {
	if d == nil {
		return ""
	}
	return d.String()
}

func viewRule(zone civil.Zone, r store.Rule, channels []store.Channel, next time.Time) Rule {
	view := Rule{ID: r.ID, RuleBody: viewRuleBody(r), State: "off", HeldWhy: r.HeldWhy,
		Sentence: condition.Sentence(r.Condition), Often: r.Cadence.String()}
	switch {
	case r.ArmedAt != nil && r.HeldAt != nil:
		view.State = "held"
	case r.ArmedAt != nil:
		view.State = "armed"
	}
	var names []string
	for _, id := range r.Settings.Channels {
		for _, c := range channels {
			if c.ID == id {
				names = append(names, c.Name)
			}
		}
	}
	view.Channel = strings.Join(names, ", ")
	if !next.IsZero() {
		place := operation.PlaceAt(zone, next)
		view.Next, view.NextOnServer = &place, onServer(next)
	}
	return view
}

func viewRun(zone civil.Zone, r store.RuleRun) RuleRun {
	view := RuleRun{Place: operation.PlaceAt(zone, r.At), Caught: r.Caught, Took: r.Took, Note: r.Note,
		ByHand: r.Actor != nil}
	if r.LogID != nil {
		view.LogID = *r.LogID
	}
	return view
}
