package rules

import (
	"cmp"
	"context"
	"math/rand/v2"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/outings"
	"dapper.example/internal/store"
)

// OutingBody is what an editor says of an outing.
type OutingBody struct {
	PostID     int64          `json:"postId" required:"false" minimum:"0" doc:"0: it is of no post"`
	Title      string         `json:"title" required:"false" maxLength:"500" doc:"of no post: what {title} is"`
	Link       string         `json:"link" required:"false" maxLength:"2000" doc:"of no post: what {link} is"`
	ChannelID  int64          `json:"channelId" minimum:"1"`
	At         time.Time      `json:"at" doc:"when it goes out, to the minute"`
	Text       string         `json:"text" maxLength:"10000" doc:"what it says, with placeholders as in wordings"`
	ParentID   int64          `json:"parentId" required:"false" minimum:"0" doc:"the outing that it replies to; 0: none"`
	Pictures   []int64        `json:"pictures" required:"false" maxItems:"20" doc:"of the library, in order"`
	Picture    MessagePicture `json:"picture" required:"false" doc:"where none of the library is chosen: featured, text or none"`
	ReplyText  string         `json:"replyText" required:"false" maxLength:"10000" doc:"what follows under it; empty: nothing"`
	ReplyAfter int            `json:"replyAfter" required:"false" minimum:"0" maximum:"10080" doc:"minutes after it"`
}

func (b OutingBody) wish() outings.Wish {
	w := outings.Wish{Channel: b.ChannelID, Post: b.PostID, Item: deed.Item{Title: b.Title, Link: b.Link}, At: b.At, Text: b.Text,
		Parent: b.ParentID, Pictures: b.Pictures, ReplyText: b.ReplyText, ReplyAfter: b.ReplyAfter}
	w.Extras.Picture = b.Picture.kept()
	return w
}

// MessagePicture says which picture a message brings along.
type MessagePicture struct {
	From string `json:"from" required:"false" doc:"featured (of its post), text (the first in the text), library (with its id) or none"`
	ID   int64  `json:"id" required:"false" minimum:"0"`
}

func (p MessagePicture) kept() message.Picture {
	return message.Picture{From: message.PictureFrom(p.From), ID: p.ID}
}

func viewMessagePicture(p message.Picture) MessagePicture {
	return MessagePicture{cmp.Or(string(p.From), string(message.FeaturedPicture)), p.ID}
}

// PlannedOuting is an outing that waits for its time, or for an editor.
type PlannedOuting struct {
	ID int64 `json:"id"`
	OutingBody
	Place     operation.Place `json:"place" doc:"its time, by the clocks of the site"`
	PostTitle string          `json:"postTitle" doc:"the post's, or the title that it was given"`
	Channel   string          `json:"channel"`
	Origin    string          `json:"origin" enum:"rule,hand,publication,tour"`
	State     string          `json:"state" enum:"planned,set aside,skipped,failed,waiting"`
	Why       string          `json:"why,omitempty" doc:"why it was set aside or left out"`
	Rule      string          `json:"rule,omitempty" doc:"the rule whose it is"`
	Version   int             `json:"version"`
}

// PlannedOutings are all that wait for their time.
type PlannedOutings struct {
	Outings []PlannedOuting `json:"outings" doc:"in order of time"`
	Aside   []PlannedOuting `json:"aside" doc:"those whose time passed, for an editor to deal with"`
	Failed  []PlannedOuting `json:"failed" doc:"those that could not be sent, latest first"`
	Handed  []PlannedOuting `json:"handed" doc:"those that were handed to somebody outside, who has not said yet what became of them; text is the message as it is"`
}

// OutingMessage is what would be sent of an outing, as its post is now.
type OutingMessage struct {
	Text      string `json:"text"`
	Graphemes int    `json:"graphemes"`
	Fit       string `json:"fit,omitempty" doc:"what the composer had to give up"`
}

func viewPlanned(zone civil.Zone, o store.Outing) PlannedOuting {
	view := PlannedOuting{ID: o.ID, Place: operation.PlaceAt(zone, o.At), PostTitle: o.Title, Channel: o.Network,
		Origin: o.Origin, State: o.State, Why: o.Error, Rule: o.RuleName, Version: o.Version,
		OutingBody: OutingBody{PostID: int64(o.Post), Title: o.Item.Title, Link: o.Item.Link, ChannelID: o.Channel, At: o.At.UTC(),
			Text: cmp.Or(o.OwnText, message.Escape(o.Text)), Pictures: append([]int64{}, o.Pictures...), Picture: viewMessagePicture(o.Extras.Picture), ReplyText: o.ReplyText,
			ReplyAfter: o.ReplyAfter}}
	if o.Parent != nil {
		view.ParentID = *o.Parent
	}
	return view
}

// failedShown is how many messages that could not be sent are shown.
const failedShown = 100

const (
	outingsPath = "/api/v1/sites/{site}/outings"
	outingPath  = outingsPath + "/{id}"
)

func (s part) outingOperations(api huma.API) {
	stale := []int{http.StatusConflict}
	huma.Register(api, huma.Operation{
		OperationID: "list-outings", Method: http.MethodGet, Path: outingsPath,
		Summary: "The planned outings that wait for their time",
	}, s.listOutings)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "preview-outing", Method: http.MethodPost, Path: outingsPath +
			"/preview", Summary: "What would be sent of an outing",
		Description: "Nothing is saved.",
	}), s.previewOuting)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "compose-message", Method: http.MethodPost, Path: outingsPath +
			"/compose", Summary: "A message as each of some channels would show it",
		Description: "Nothing is saved.",
	}), s.compose)
	huma.Register(api, huma.Operation{
		OperationID: "take-turn", Method: http.MethodPost, Path: rulePath +
			"/turns", Summary: "Change or leave out what a rule does at a turn to come",
		DefaultStatus: http.StatusNoContent,
		Description:   "The rule goes on around it. With no outings the turn passes without one.",
	}, s.takeTurn)
	huma.Register(api, huma.Operation{
		OperationID: "move-turn", Method: http.MethodPost, Path: rulePath + "/turns/move",
		Summary: "Move all messages of a coming turn of a rule", DefaultStatus: http.StatusNoContent,
		Description: "The rule goes on around it.",
	}, s.moveTurn)
	huma.Register(api, huma.Operation{
		OperationID: "swap-turns", Method: http.MethodPost, Path: rulePath + "/turns/swap",
		Summary: "Have messages of two coming turns of a rule change places", DefaultStatus: http.StatusNoContent, Errors: stale,
		Description: "Each goes out when the other would have. The rule goes on around them.",
	}, s.swapTurns)
	huma.Register(api, huma.Operation{
		OperationID: "move-outing", Method: http.MethodPut, Path: outingPath + "/time", Summary: "Give a planned outing another time",
		DefaultStatus: http.StatusNoContent, Errors: stale,
	}, s.moveOuting)
	huma.Register(api, huma.Operation{
		OperationID: "plan-outing", Method: http.MethodPost, Path: outingsPath, Summary: "Plan an outing",
		DefaultStatus: http.StatusCreated,
		Description:   "At its time the message goes out, if its post is out by then; the rules of the channel go on around it.",
	}, s.planOuting)
	huma.Register(api, huma.Operation{
		OperationID: "retry-outing", Method: http.MethodPost, Path: outingPath + "/retry",
		Summary: "Send a message that could not be sent once more", DefaultStatus: http.StatusNoContent, Errors: stale,
	}, s.retryOuting)
	huma.Register(api, huma.Operation{
		OperationID: "save-outing", Method: http.MethodPut, Path: outingPath, Summary: "Change a planned outing",
		Errors: stale,
	}, s.saveOuting)
	huma.Register(api, huma.Operation{
		OperationID: "drop-outing", Method: http.MethodDelete, Path: outingPath, Summary: "Drop a planned outing",
		DefaultStatus: http.StatusNoContent, Errors: stale,
	}, s.dropOuting)
}

func (s part) outingEditor(ctx context.Context) outings.Editor {
	return outings.Editor{Desk: operation.DeskOf(ctx), Public: s.Public}
}

func (s part) listOutings(ctx context.Context, in *operation.SitePath) (*struct{ Body PlannedOutings }, error) {
	desk := operation.DeskOf(ctx)
	planned, err := s.Store.Planned(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	aside, err := s.Store.AsideOutings(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	failed, err := s.Store.FailedOutings(ctx, desk.Site.ID, failedShown)
	if err != nil {
		return nil, s.Problem(err)
	}
	handed, err := s.Store.HandedOutings(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := PlannedOutings{Outings: []PlannedOuting{}, Aside: []PlannedOuting{}, Failed: []PlannedOuting{}, Handed: []PlannedOuting{}}
	for _, o := range handed {
		view := viewPlanned(desk.Site.Zone(), o)
		view.Text = o.Text
		body.Handed = append(body.Handed, view)
	}
	for _, o := range failed {
		body.Failed = append(body.Failed, viewPlanned(desk.Site.Zone(), o))
	}
	for _, o := range planned {
		body.Outings = append(body.Outings, viewPlanned(desk.Site.Zone(), o))
	}
	for _, o := range aside {
		body.Aside = append(body.Aside, viewPlanned(desk.Site.Zone(), o))
	}
	return &struct{ Body PlannedOutings }{body}, nil
}

type outingInput struct {
	operation.SitePath
	Body OutingBody
}

func (s part) previewOuting(ctx context.Context, in *outingInput) (*struct{ Body OutingMessage }, error) {
	m, err := s.outingEditor(ctx).Look(ctx, s.Store.Queries, in.Body.wish(), s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body OutingMessage }{OutingMessage{m.Text, m.Graphemes, m.Fit}}, nil
}

type plannedOutput struct {
	Body PlannedOuting
}

func (s part) planOuting(ctx context.Context, in *planOutingInput) (*plannedOutput, error) {
	desk := s.outingEditor(ctx)
	now := s.Clock.Now()
	first := in.Body.wish()
	if in.Body.Now {
		first.At = deed.Minute(now).Add(time.Minute)
	}
	posts := in.Body.Posts
	if len(posts) == 0 {
		posts = []int64{first.Post}
	}
	n := len(posts) * max(in.Body.Times, 1)
	times := cadence.Over(first.At, n, max(in.Body.Days, 1), desk.Site.Zone(), rand.Uint64())
	atOnce := in.Body.Days == 0 && in.Body.Times <= 1
	switch {
	case atOnce:
		times = slices.Repeat(times[:1], n)
	case len(times) < n:
		return nil, operation.Invalid(act.Invalidf("days", "So many outings do not fit into that time. Choose more days."))
	}
	var wishes []outings.Wish
	for i, at := range times {
		for _, id := range append([]int64{first.Channel}, in.Body.Also...) {
			one := first
			one.At, one.Channel, one.Post = at, id, posts[i%len(posts)]
			// Of several at the same minute, the others go out as soon as the channel allows.
			one.Unplaced = atOnce && i > 0
			wishes = append(wishes, one)
		}
	}
	ids, err := desk.Plan(ctx, wishes, now)
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.planned(ctx, desk.Site, ids[0])
}

// planOutingInput is an outing, and on which other channels it goes out too.
type planOutingInput struct {
	operation.SitePath
	Body struct {
		OutingBody
		Also  []int64 `json:"also" required:"false" maxItems:"50" doc:"channels that it goes out on too, each as an outing of its own"`
		Now   bool    `json:"now" required:"false" doc:"it goes out in the coming minute, whatever at says"`
		Times int     `json:"times" required:"false" minimum:"0" maximum:"50" doc:"how often it goes out, the first time at its time; 0: once"`
		Days  int     `json:"days" required:"false" minimum:"0" maximum:"365" doc:"over how many days; the other times are drawn by day, apart from one another"`
		Posts []int64 `json:"posts" required:"false" maxItems:"200" doc:"instead of postId: posts that take turns, each going out as often as times says"`
	}
}

type takeTurnInput struct {
	operation.ItemPath
	Body struct {
		Turn    time.Time    `json:"turn" doc:"as it was foretold"`
		Outings []OutingBody `json:"outings" maxItems:"200" doc:"what goes out in its place; none: nothing"`
	}
}

func (s part) takeTurn(ctx context.Context, in *takeTurnInput) (*struct{}, error) {
	wishes := make([]outings.Wish, len(in.Body.Outings))
	for i, b := range in.Body.Outings {
		wishes[i] = b.wish()
	}
	return nil, s.Problem(s.outingEditor(ctx).Take(ctx, in.ID, in.Body.Turn, wishes, s.Clock.Now()))
}

func (s part) moveTurn(ctx context.Context, in *struct {
	operation.ItemPath
	Body struct {
		Turn time.Time `json:"turn" doc:"as it was foretold"`
		By   int       `json:"by" minimum:"-100000" maximum:"100000" doc:"minutes; below 0: earlier"`
	}
}) (*struct{}, error) {
	return nil, s.Problem(s.outingEditor(ctx).MoveTurn(ctx, in.ID, in.Body.Turn, time.Duration(in.Body.By)*time.Minute, s.Clock.Now()))
}

// TurnPlace is where a message of a rule goes out.
type TurnPlace struct {
	Turn     *time.Time `json:"turn,omitempty" doc:"as it was foretold"`
	OutingID int64      `json:"outingId" required:"false" minimum:"0" doc:"instead of turn: a message that an editor has in hand"`
	Version  int        `json:"version" required:"false" doc:"of that outing, as it was seen"`
}

func (p TurnPlace) place() outings.Place {
	place := outings.Place{Outing: p.OutingID, Version: p.Version}
	if p.Turn != nil {
		place.Turn = *p.Turn
	}
	return place
}

func (s part) swapTurns(ctx context.Context, in *struct {
	operation.ItemPath
	Body struct {
		One  TurnPlace `json:"one"`
		With TurnPlace `json:"with"`
	}
}) (*struct{}, error) {
	return nil, s.Problem(s.outingEditor(ctx).Swap(ctx, in.ID, in.Body.One.place(), in.Body.With.place(), s.Clock.Now()))
}

func (s part) moveOuting(ctx context.Context, in *struct {
	operation.ItemPath
	Body struct {
		At      time.Time `json:"at" doc:"when it goes out, to the minute"`
		Version int       `json:"version" doc:"the version that was seen"`
	}
}) (*struct{}, error) {
	return nil, s.Problem(s.outingEditor(ctx).Retime(ctx, in.ID, in.Body.Version, in.Body.At, s.Clock.Now()))
}

// ComposeBody is a message that is being written, for some channels.
type ComposeBody struct {
	PostID   int64           `json:"postId" required:"false" minimum:"0"`
	Title    string          `json:"title" required:"false" maxLength:"500"`
	Link     string          `json:"link" required:"false" maxLength:"2000"`
	Text     string          `json:"text" maxLength:"10000"`
	Channels []int64         `json:"channels" maxItems:"50"`
	Picture  MessagePicture  `json:"picture" required:"false"`
	Hashtags RuleHashtags    `json:"hashtags" required:"false"`
	Params   []message.Param `json:"params" required:"false" maxItems:"20"`
	Short    bool            `json:"short" required:"false"`
	RuleID   int64           `json:"ruleId" required:"false"`
	AsRule   bool            `json:"asRule" required:"false" doc:"with the hashtags, parameters and picture of the rule, as it is kept"`
	IsReply  bool            `json:"isReply" required:"false"`
}

// ComposedMessage is a message as one channel would show it.
type ComposedMessage struct {
	ChannelID int64         `json:"channelId"`
	Channel   string        `json:"channel"`
	Network   string        `json:"network" doc:"its kind"`
	Text      string        `json:"text" doc:"what would be sent; empty where it can’t be"`
	Graphemes int           `json:"graphemes" doc:"as the network counts"`
	Limit     int           `json:"limit" doc:"the longest that it takes; 0: any length"`
	Fit       string        `json:"fit,omitempty" doc:"what was left out to make it fit"`
	Over      int           `json:"over,omitempty" doc:"by how many characters it is too long"`
	Problem   string        `json:"problem,omitempty" doc:"why it can’t be sent"`
	Link      string        `json:"link,omitempty"`
	Picture   *ShownPicture `json:"picture,omitempty" doc:"what goes along"`
	Wants     string        `json:"wants" enum:"required,allowed,none" doc:"what the channel says of pictures"`
	Crop      float64       `json:"crop" doc:"how it cuts pictures: width over height; 0: not"`
}

// ShownPicture is a picture of the library, as a message shows it.
type ShownPicture struct {
	ID  int64  `json:"id"`
	URL string `json:"url"`
	Alt string `json:"alt" doc:"what it shows"`
}

func (s part) compose(ctx context.Context, in *struct {
	operation.SitePath
	Body ComposeBody
}) (*struct{ Body []ComposedMessage }, error) {
	desk, b, now := s.outingEditor(ctx), in.Body, s.Clock.Now()
	extras := deed.Extras{Hashtags: b.Hashtags.kept(), Params: b.Params, Short: b.Short, Picture: b.Picture.kept()}
	if b.AsRule {
		r, err := s.Store.Rule(ctx, desk.Site.ID, b.RuleID)
		if err != nil {
			return nil, s.Problem(err)
		}
		extras = outings.ExtrasOf(r)
	}
	messages, err := desk.Compose(ctx, s.Store.Queries, outings.Draft{Post: b.PostID, Item: deed.Item{Title: b.Title, Link: b.Link},
		Text: b.Text, Channels: b.Channels, Rule: b.RuleID, Due: now, IsReply: b.IsReply,
		Extras: extras}, now)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := make([]ComposedMessage, len(messages))
	for i, m := range messages {
		body[i] = ComposedMessage{ChannelID: m.Channel, Channel: m.Name, Network: m.Kind, Text: m.Text, Graphemes: m.Graphemes, Limit: m.Limit,
			Fit: m.Fit, Over: m.Over, Problem: m.Problem, Link: m.Link, Wants: string(m.Wants), Crop: m.Crop}
		if p := m.Picture; p != nil {
			body[i].Picture = showPicture(desk.Site, *p)
		}
	}
	return &struct{ Body []ComposedMessage }{body}, nil
}

func (s part) planned(ctx context.Context, site store.Site, id int64) (*plannedOutput, error) {
	o, err := s.Store.Outing(ctx, id)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &plannedOutput{viewPlanned(site.Zone(), o)}, nil
}

type saveOutingInput struct {
	operation.ItemPath
	Body struct {
		OutingBody
		Version int `json:"version" doc:"the version that was seen"`
	}
}

func (s part) saveOuting(ctx context.Context, in *saveOutingInput) (*plannedOutput, error) {
	desk := s.outingEditor(ctx)
	if err := desk.Save(ctx, in.ID, in.Body.Version, in.Body.wish(), s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.planned(ctx, desk.Site, in.ID)
}

func (s part) retryOuting(ctx context.Context, in *versionInput) (*struct{}, error) {
	return nil, s.Problem(s.outingEditor(ctx).TryAgain(ctx, in.ID, in.Body.Version, s.Queue, s.Clock.Now()))
}

type dropOutingInput struct {
	operation.ItemPath
	Version int `query:"version" required:"true" doc:"the version that was seen"`
}

func (s part) dropOuting(ctx context.Context, in *dropOutingInput) (*struct{}, error) {
	return nil, s.Problem(s.outingEditor(ctx).Drop(ctx, in.ID, in.Version, s.Clock.Now()))
}
