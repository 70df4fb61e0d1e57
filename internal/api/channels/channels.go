// Package channels has the operations of channels, of what is shared when posts come out, and of the
// lists for alternatives in wordings.
package channels

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/channel"
	"dapper.example/internal/channels"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/letters"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

type part struct{ *operation.Tools }

// Register adds the operations.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	s.channelOperations(api)
	s.announcementOperations(api)
	s.webhookOperations(api)
	s.subscriberOperations(api)
}

// Takes is what a network takes.
type Takes struct {
	Graphemes int     `json:"graphemes" doc:"the longest message; 0: any length"`
	LinkCost  int     `json:"linkCost" doc:"what a link counts; 0: its length"`
	Hashtags  int     `json:"hashtags" doc:"the most hashtags; 0: none"`
	Image     string  `json:"image" enum:"required,allowed,none"`
	Media     int     `json:"media" doc:"the most pictures"`
	Replies   bool    `json:"replies" doc:"whether a reply may follow a message"`
	Crop      float64 `json:"crop" doc:"how it cuts pictures: width over height; 0: not"`
}

// Network is a network that an account can be connected on.
type Network struct {
	Kind string `json:"kind"`
	Name string `json:"name"`
	Takes
}

// Channel is an account on a network that messages go to.
type Channel struct {
	ID      int64  `json:"id"`
	Kind    string `json:"kind"`
	Network string `json:"network" doc:"what its network is called"`
	Name    string `json:"name"`
	Handle  string `json:"handle" doc:"who it is there"`
	Wall    string `json:"wall" doc:"where its messages can be read; empty: that is not known"`
	Outside bool   `json:"outside" doc:"it is no account on a network: a program at an address, or people"`
	Address string `json:"address,omitempty" doc:"of the program"`
	AMinute int    `json:"aMinute,omitempty" doc:"of a mailing list: how many mails a minute it sends"`
	Takes
	Apart     int             `json:"apart" doc:"fewest minutes between two messages"`
	ADay      int             `json:"aDay" doc:"most messages a day; 0: no limit"`
	QuietFrom civil.Clock     `json:"quietFrom" doc:"quiet hours, by the clocks of its zone; the same as quietTo: none"`
	QuietTo   civil.Clock     `json:"quietTo"`
	Zone      string          `json:"zone" doc:"IANA time zone; empty: the site's"`
	Before    string          `json:"before" doc:"a text before each message"`
	After     string          `json:"after" doc:"a text after each message"`
	Params    []message.Param `json:"params" doc:"added to links"`
	Short     bool            `json:"short" doc:"links are short ones, which count clicks"`
	State     string          `json:"state" enum:"well,sign in,resting,limited,paused"`
	StateWhy  string          `json:"stateWhy,omitempty" doc:"the state, in a sentence"`
	Version   int             `json:"version"`
}

func takesOf(n channel.Network) Takes {
	l := n.Limits()
	return Takes{l.Graphemes, l.Links.Cost, l.Hashtags, string(l.Image), n.Media(), l.Replies, n.Crop()}
}

// View is a channel as the API shows it; today is how many messages it sent on the present date of its zone.
func View(site store.Site, c store.Channel, today int, now time.Time) Channel {
	view := Channel{ID: c.ID, Kind: c.Kind, Name: c.Name, Handle: c.Handle, Wall: c.Address + "/", Outside: channel.IsOutside(c.Kind), Apart: c.Apart, ADay: c.ADay,
		QuietFrom: civil.Clock(c.QuietFrom), QuietTo: civil.Clock(c.QuietTo), Before: c.Habits.Before, After: c.Habits.After,
		Params: append([]message.Param{}, c.Habits.Params...), Short: c.Habits.Short, Version: c.Version}
	if c.Home != "" {
		view.Wall = c.Home
	}
	if c.Kind == channel.Mail {
		view.Wall, view.AMinute = site.Home("").Path(letters.Path), c.AMinute
	}
	if view.Outside {
		view.Wall, view.Address = "", c.Address
	}
	if n, known := channel.Of(c.Kind); known {
		view.Network, view.Takes = n.Name(), takesOf(n)
	}
	zone := site.Zone()
	if c.ZoneName != nil {
		view.Zone = *c.ZoneName
		if own, err := civil.LoadZone(view.Zone); err == nil {
			zone = own
		}
	}
	quiet := cadence.Quiet{From: view.QuietFrom, To: view.QuietTo, Zone: zone}
	switch {
	case c.PausedAt != nil:
		view.State, view.StateWhy = "paused", "Paused. Its messages wait until you resume it."
	case c.SignInWhy != "":
		view.State, view.StateWhy = "sign in", "Needs you to sign in again. Its messages wait until then."
	case c.RestsUntil != nil && c.RestsUntil.After(now):
		view.State, view.StateWhy = "limited", view.Network+" asked to wait until "+site.Zone().In(*c.RestsUntil).Format("15:04")+"."
	case c.ADay > 0 && today >= c.ADay:
		view.State, view.StateWhy = "limited", "It has sent as many messages today as it may. It goes on tomorrow."
	case quiet.Holds(now):
		view.State, view.StateWhy = "resting", "Quiet until "+view.QuietTo.String()+"."
	default:
		view.State = "well"
	}
	return view
}

// Views are the channels of a site as the API shows them.
func Views(ctx context.Context, q store.Queries, site store.Site, now time.Time) ([]Channel, error) {
	all, err := q.Channels(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	recent, err := q.RecentMessages(ctx, site.ID, now.Add(-deed.CrowdReach))
	if err != nil {
		return nil, err
	}
	views := []Channel{}
	for _, c := range all {
		zone := site.Zone()
		if c.ZoneName != nil {
			if own, err := civil.LoadZone(*c.ZoneName); err == nil {
				zone = own
			}
		}
		today := 0
		for _, at := range recent[c.ID] {
			if zone.DateOf(at) == zone.DateOf(now) {
				today++
			}
		}
		views = append(views, View(site, c, today, now))
	}
	return views, nil
}

// Channels is what the screen of channels works with.
type Channels struct {
	Channels     []Channel   `json:"channels"`
	Networks     []Network   `json:"networks" doc:"that an account can be connected on"`
	Others       []Network   `json:"others" doc:"what else a channel can be: a program at an address, or people"`
	Lists        []List      `json:"lists" doc:"for alternatives in wordings"`
	Say          Say         `json:"say" doc:"what is shared when a post comes out"`
	Placeholders []string    `json:"placeholders" doc:"of wordings"`
	Blogs        []NamedBlog `json:"blogs" doc:"other blogs that a channel may be copied to"`
}

// NamedBlog is a blog by its name.
type NamedBlog struct {
	Slug  string `json:"slug"`
	Title string `json:"title"`
}

const (
	channelsPath = "/api/v1/sites/{site}/channels"
	channelPath  = channelsPath + "/{id}"
	// BackPath is where networks lead back to who signed in there.
	BackPath = "/api/v1/connections/back"
)

func (s part) channelOperations(api huma.API) {
	stale := []int{http.StatusConflict}
	huma.Register(api, huma.Operation{
		OperationID: "list-channels", Method: http.MethodGet, Path: channelsPath, Summary: "The site's channels and what they share",
	}, s.listChannels)
	huma.Register(api, huma.Operation{
		OperationID: "connect-channel", Method: http.MethodPost, Path: channelsPath + "/connect",
		Summary:     "Begin to connect an account on a network, or to sign one in again",
		Description: "The answer is the network's page, on which the person allows it; from there they are led back.",
	}, s.connect)
	huma.Register(api, huma.Operation{
		OperationID: "add-channel", Method: http.MethodPost, Path: channelsPath,
		Summary: "Add a channel that is no account on a network", DefaultStatus: http.StatusCreated,
		Description: "Messages are handed, signed, to a program at an address; or to people, with outside hands and no address.",
	}, s.addChannel)
	huma.Register(api, huma.Operation{
		OperationID: "finish-connection", Method: http.MethodGet, Path: BackPath,
		Summary: "Where a network leads back to, after somebody allowed it", DefaultStatus: http.StatusSeeOther,
	}, s.finish)
	huma.Register(api, huma.Operation{
		OperationID: "save-channel", Method: http.MethodPut, Path: channelPath, Summary: "Save a channel's name, pace and habits",
		Errors: stale,
	}, s.saveChannel)
	huma.Register(api, huma.Operation{
		OperationID: "pause-channel", Method: http.MethodPut, Path: channelPath + "/pause", Summary: "Pause a channel, or resume it",
		Errors: stale,
	}, s.pauseChannel)
	huma.Register(api, huma.Operation{
		OperationID: "get-channel-deletion", Method: http.MethodGet, Path: channelPath + "/deletion",
		Summary: "What deleting a channel does",
	}, s.getDeletion)
	huma.Register(api, operation.Conflict[StaleDeletion](api, huma.Operation{
		OperationID: "delete-channel", Method: http.MethodDelete, Path: channelPath, Summary: "Delete a channel with its outings",
		DefaultStatus: http.StatusNoContent,
	}), s.deleteChannel)
	huma.Register(api, huma.Operation{
		OperationID: "copy-channel", Method: http.MethodPost, Path: channelPath + "/copy",
		Summary: "Connect a channel's account to another blog too",
	}, s.copyChannel)
}

func (s part) editor(ctx context.Context) channels.Editor {
	return channels.Editor{Desk: operation.DeskOf(ctx), Box: s.Box, Networks: s.Networks, Back: s.Public + BackPath, Inside: s.Inside, Public: s.Public}
}

func (s part) listChannels(ctx context.Context, in *operation.SitePath) (*struct{ Body Channels }, error) {
	desk := s.editor(ctx)
	body := Channels{Networks: []Network{}, Lists: []List{}, Blogs: []NamedBlog{}}
	var err error
	if body.Channels, err = Views(ctx, s.Store.Queries, desk.Site, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	for _, n := range channel.All() {
		body.Networks = append(body.Networks, Network{n.Kind(), n.Name(), takesOf(n)})
	}
	body.Others = []Network{}
	for _, n := range channel.Others() {
		body.Others = append(body.Others, Network{n.Kind(), n.Name(), takesOf(n)})
	}
	lists, err := s.Store.WordLists(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	for _, l := range lists {
		body.Lists = append(body.Lists, List{l.Name, append([]string{}, l.Entries...)})
	}
	say, err := desk.SayOf(ctx, s.Store.Queries, 0)
	if err != nil {
		return nil, s.Problem(err)
	}
	body.Say = viewSay(say)
	for _, p := range message.Placeholders {
		body.Placeholders = append(body.Placeholders, string(p))
	}
	others, err := s.Store.Memberships(ctx, operation.SeatOf(ctx).User.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	for _, m := range others {
		if m.ID != desk.Site.ID && people.Role(m.Role).Covers(people.Editor) {
			body.Blogs = append(body.Blogs, NamedBlog{m.Slug, m.Title})
		}
	}
	return &struct{ Body Channels }{body}, nil
}

type connectInput struct {
	operation.SitePath
	Body struct {
		Kind      string `json:"kind" required:"false" doc:"of the network; of a new channel"`
		Address   string `json:"address" required:"false" maxLength:"4000" doc:"of a site of one’s own (kind micropub)"`
		ChannelID int64  `json:"channelId" required:"false" doc:"a channel that is to be signed in again"`
	}
}

// SignInPage is the page of a network on which an account is connected.
type SignInPage struct {
	URL string `json:"url"`
}

func (s part) connect(ctx context.Context, in *connectInput) (*struct{ Body SignInPage }, error) {
	page, err := s.editor(ctx).Begin(ctx, in.Body.Kind, in.Body.Address, in.Body.ChannelID, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body SignInPage }{SignInPage{page}}, nil
}

// AddedChannel is a channel that was added, with its secret, which is told only now.
type AddedChannel struct {
	ChannelID int64  `json:"channelId"`
	Secret    string `json:"secret,omitempty" doc:"what messages are signed with; none where they go to people"`
}

func (s part) addChannel(ctx context.Context, in *struct {
	operation.SitePath
	Body struct {
		Kind    string `json:"kind" enum:"webhook,hands,mail"`
		Name    string `json:"name" maxLength:"200"`
		Address string `json:"address" required:"false" maxLength:"4000"`
	}
}) (*struct{ Body AddedChannel }, error) {
	id, secret, err := s.editor(ctx).Add(ctx, in.Body.Kind, in.Body.Name, in.Body.Address, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body AddedChannel }{AddedChannel{id, secret}}, nil
}

type finishInput struct {
	State string `query:"state" maxLength:"200"`
	Code  string `query:"code" maxLength:"2000"`
	Error string `query:"error" maxLength:"200"`
}

// ledBack is a redirect to a screen.
type ledBack struct {
	Status   int
	Location string `header:"Location"`
}

// finish leads back to the screen of channels, which says what came of it.
func (s part) finish(ctx context.Context, in *finishInput) (*ledBack, error) {
	seat, now := operation.SeatOf(ctx), s.Clock.Now()
	said := channels.Answer{State: in.State, Code: in.Code, Problem: in.Error}
	id, err := channels.SiteOf(ctx, s.Store, said, seat.User.ID, now)
	if errors.Is(err, channels.ErrUnknown) {
		return &ledBack{http.StatusSeeOther, "/?" + url.Values{"failed": {"That sign-in was not begun here, or took too long. Try again."}}.Encode()}, nil
	}
	if err != nil {
		return nil, s.Problem(err)
	}
	desk, err := s.deskAt(ctx, id, seat.User.ID)
	if err != nil {
		return nil, err
	}
	screen := "/" + desk.Site.Slug + "/channels?"
	done, err := desk.Finish(ctx, said, now)
	var bad *act.Invalid
	switch {
	case errors.As(err, &bad):
		return &ledBack{http.StatusSeeOther, screen + url.Values{"failed": {bad.Message}}.Encode()}, nil
	case errors.Is(err, channels.ErrUnknown):
		return &ledBack{http.StatusSeeOther, screen + url.Values{"failed": {"That sign-in took too long. Try again."}}.Encode()}, nil
	case err != nil:
		return nil, s.Problem(err)
	}
	c, err := s.Store.Channel(ctx, done.SiteID, done.Channel)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &ledBack{http.StatusSeeOther, screen + url.Values{"connected": {c.Name}}.Encode()}, nil
}

// deskAt is the desk of somebody at a site where they are an editor.
func (s part) deskAt(ctx context.Context, site, user int64) (channels.Editor, error) {
	desk := channels.Editor{Box: s.Box, Networks: s.Networks, Back: s.Public + BackPath, Inside: s.Inside, Public: s.Public}
	kept, err := s.Store.Site(ctx, site)
	if err != nil {
		return desk, s.Problem(err)
	}
	m, err := s.Store.MembershipOf(ctx, user, kept.Slug)
	if err != nil {
		return desk, s.Problem(err)
	}
	if !people.Role(m.Role).Covers(people.Editor) {
		return desk, huma.Error403Forbidden("Only editors and owners of this site do that. Ask one of them.")
	}
	desk.Desk = act.Desk{Store: s.Store, Site: m.Site, Actor: user}
	return desk, nil
}

type saveChannelInput struct {
	operation.ItemPath
	Body struct {
		Name      string          `json:"name" maxLength:"200"`
		Apart     int             `json:"apart" minimum:"1" maximum:"2880"`
		ADay      int             `json:"aDay" minimum:"0" maximum:"1000"`
		QuietFrom civil.Clock     `json:"quietFrom"`
		QuietTo   civil.Clock     `json:"quietTo"`
		Zone      string          `json:"zone" required:"false" maxLength:"100"`
		Before    string          `json:"before" required:"false" maxLength:"4000"`
		After     string          `json:"after" required:"false" maxLength:"4000"`
		Params    []message.Param `json:"params" required:"false" maxItems:"20"`
		Short     bool            `json:"short" required:"false"`
		Version   int             `json:"version" doc:"the version that was seen"`
	}
}

type channelOutput struct{ Body Channel }

func (s part) saveChannel(ctx context.Context, in *saveChannelInput) (*channelOutput, error) {
	desk, b := s.editor(ctx), in.Body
	c := store.Channel{ID: in.ID, Name: b.Name, Apart: b.Apart, ADay: b.ADay, QuietFrom: int(b.QuietFrom), QuietTo: int(b.QuietTo),
		Habits: store.Habits{Habits: message.Habits{Before: b.Before, After: b.After, Params: b.Params, Short: b.Short}}, Version: b.Version}
	if b.Zone != "" {
		c.ZoneName = &b.Zone
	}
	if err := desk.Save(ctx, c, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.channel(ctx, desk.Site, in.ID)
}

func (s part) channel(ctx context.Context, site store.Site, id int64) (*channelOutput, error) {
	all, err := Views(ctx, s.Store.Queries, site, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	for _, c := range all {
		if c.ID == id {
			return &channelOutput{c}, nil
		}
	}
	return nil, s.Problem(store.ErrNotFound)
}

type pauseInput struct {
	operation.ItemPath
	Body struct {
		Paused  bool `json:"paused"`
		Version int  `json:"version" doc:"the version that was seen"`
	}
}

func (s part) pauseChannel(ctx context.Context, in *pauseInput) (*channelOutput, error) {
	desk := s.editor(ctx)
	if err := desk.Pause(ctx, in.ID, in.Body.Version, in.Body.Paused, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.channel(ctx, desk.Site, in.ID)
}

// ChannelDeletion is what deleting a channel does.
type ChannelDeletion struct {
	Name          string   `json:"name"`
	Planned       int      `json:"planned" doc:"outings that have not gone out and are dropped"`
	Sent          int      `json:"sent" doc:"messages of the past that are forgotten here; they stay on the network"`
	Rules         []string `json:"rules" doc:"that lose the channel and go on with their others"`
	Off           []string `json:"off" doc:"that have no other channel and are turned off"`
	Announcements int      `json:"announcements" doc:"of what is shared when posts come out"`
	Token         string   `json:"token" doc:"stands for exactly this"`
}

func viewDeletion(p channels.Deletion) ChannelDeletion {
	return ChannelDeletion{Name: p.Channel.Name, Planned: p.Count.Planned, Sent: p.Count.Sent, Rules: append([]string{}, p.Rules...),
		Off: append([]string{}, p.Off...), Announcements: p.Announcements, Token: p.Token()}
}

func (s part) getDeletion(ctx context.Context, in *operation.ItemPath) (*struct{ Body ChannelDeletion }, error) {
	p, err := s.editor(ctx).ProposeDeletion(ctx, s.Store.Queries, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body ChannelDeletion }{viewDeletion(p)}, nil
}

// StaleDeletion answers who deletes a channel that is no longer as it was shown.
type StaleDeletion struct {
	operation.Problem
	Deletion *ChannelDeletion `json:"deletion,omitempty" doc:"what deleting it does now"`
}

type deleteChannelInput struct {
	operation.ItemPath
	Token string `query:"token" required:"true" maxLength:"100" doc:"of what was shown"`
}

func (s part) deleteChannel(ctx context.Context, in *deleteChannelInput) (*struct{}, error) {
	err := s.editor(ctx).Delete(ctx, in.ID, in.Token, s.Clock.Now())
	return nil, operation.Outdated(s.Tools, err, func(p operation.Problem, now channels.Deletion) error {
		view := viewDeletion(now)
		return &StaleDeletion{p, &view}
	})
}

type copyInput struct {
	operation.ItemPath
	Body struct {
		Blog  string `json:"blog" maxLength:"200" doc:"the address name of the other blog"`
		Rules bool   `json:"rules" required:"false" doc:"with its rules, turned off"`
	}
}

// CopiedChannel is what became of a copy.
type CopiedChannel struct {
	ChannelID int64  `json:"channelId"`
	Blog      string `json:"blog"`
	Rules     int    `json:"rules" doc:"how many rules were copied, turned off"`
}

func (s part) copyChannel(ctx context.Context, in *copyInput) (*struct{ Body CopiedChannel }, error) {
	desk := s.editor(ctx)
	if _, err := s.Store.Channel(ctx, desk.Site.ID, in.ID); err != nil {
		return nil, s.Problem(err)
	}
	there, err := s.OtherBlog(ctx, in.Body.Blog)
	if err != nil {
		return nil, err
	}
	done, err := desk.Copy(ctx, in.ID, there, in.Body.Rules, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body CopiedChannel }{CopiedChannel{done.Channel, there.Slug, done.Rules}}, nil
}
