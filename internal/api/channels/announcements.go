package channels

import (
	"cmp"
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/channels"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/store"
)

// List is a named list of words and sentences.
type List struct {
	Name    string   `json:"name" maxLength:"60"`
	Entries []string `json:"entries" maxItems:"1000"`
}

// Announcement is a message that follows when a post comes out.
type Announcement struct {
	ChannelID  int64    `json:"channelId" minimum:"1"`
	After      int      `json:"after" required:"false" minimum:"0" maximum:"43200" doc:"minutes after the publication"`
	Text       string   `json:"text" maxLength:"10000" doc:"with placeholders as in wordings"`
	Hashtags   []string `json:"hashtags" required:"false" maxItems:"4" doc:"where they come from: category, tags"`
	Picture    string   `json:"picture" required:"false" doc:"featured, text or none"`
	ReplyText  string   `json:"replyText" required:"false" maxLength:"10000" doc:"what follows under it; empty: nothing"`
	ReplyAfter int      `json:"replyAfter" required:"false" minimum:"0" maximum:"10080" doc:"minutes after it"`
}

// OwnWording is a wording that a post itself has.
type OwnWording struct {
	ChannelID int64  `json:"channelId" required:"false" minimum:"0" doc:"that it is for; 0: any"`
	Text      string `json:"text" maxLength:"10000"`
}

// SayBody is what is shared when a post comes out.
type SayBody struct {
	Own           bool           `json:"own" required:"false" doc:"of a post: it does not do as the blog does"`
	Announcements []Announcement `json:"announcements" maxItems:"50"`
	Wordings      []OwnWording   `json:"wordings" required:"false" maxItems:"20" doc:"of a post: what its messages say, whoever sends them"`
}

// Say is what is shared when a post comes out, and what stands for it.
type Say struct {
	SayBody
	Token string `json:"token" doc:"stands for exactly this; to be sent along when saving"`
}

func viewSay(s channels.Say) Say {
	view := Say{SayBody: SayBody{Own: s.Own, Announcements: []Announcement{}, Wordings: []OwnWording{}}, Token: s.Token()}
	for _, a := range s.All {
		one := Announcement{ChannelID: a.Channel, After: a.After, Text: a.Text, Hashtags: []string{}, ReplyText: a.ReplyText,
			ReplyAfter: cmp.Or(a.ReplyAfter, 5), Picture: cmp.Or(string(a.Extras.Picture.From), string(message.FeaturedPicture))}
		for _, source := range a.Extras.Hashtags.Sources {
			one.Hashtags = append(one.Hashtags, string(source))
		}
		view.Announcements = append(view.Announcements, one)
	}
	for _, w := range s.Post {
		view.Wordings = append(view.Wordings, OwnWording{w.Channel, w.Text})
	}
	return view
}

func (b SayBody) kept() channels.Say {
	s := channels.Say{Own: b.Own}
	for _, a := range b.Announcements {
		one := store.Announcement{Channel: a.ChannelID, After: a.After, Text: a.Text, ReplyText: strings.TrimSpace(a.ReplyText),
			ReplyAfter: a.ReplyAfter, Extras: store.Extras{Extras: deed.Extras{Picture: message.Picture{From: message.PictureFrom(a.Picture)}}}}
		if one.ReplyText == "" {
			one.ReplyAfter = 0
		}
		for _, source := range a.Hashtags {
			one.Extras.Hashtags.Sources = append(one.Extras.Hashtags.Sources, message.Source(source))
		}
		s.All = append(s.All, one)
	}
	own := make([]condition.OwnWording, len(b.Wordings))
	for i, w := range b.Wordings {
		own[i] = condition.OwnWording{Channel: w.ChannelID, Text: w.Text}
	}
	s.Post = channels.WordingsOf(own)
	return s
}

const (
	sayPath     = "/api/v1/sites/{site}/announcements"
	postSayPath = "/api/v1/sites/{site}/posts/{id}/announcements"
	listPath    = "/api/v1/sites/{site}/word-lists"
)

func (s part) announcementOperations(api huma.API) {
	stale := []int{http.StatusConflict}
	huma.Register(api, huma.Operation{
		OperationID: "save-announcements", Method: http.MethodPut, Path: sayPath, Summary: "Save what is shared when a post comes out",
		Errors: stale,
	}, s.saveSay)
	huma.Register(api, huma.Operation{
		OperationID: "get-post-announcements", Method: http.MethodGet, Path: postSayPath,
		Summary: "What is shared when one post comes out, and its own wordings",
	}, s.getPostSay)
	huma.Register(api, huma.Operation{
		OperationID: "save-post-announcements", Method: http.MethodPut, Path: postSayPath,
		Summary: "Save what is shared when one post comes out, and its own wordings", Errors: stale,
	}, s.savePostSay)
	huma.Register(api, huma.Operation{
		OperationID: "save-word-list", Method: http.MethodPut, Path: listPath, Summary: "Save a list for alternatives in wordings",
		DefaultStatus: http.StatusNoContent,
	}, s.saveList)
	huma.Register(api, huma.Operation{
		OperationID: "delete-word-list", Method: http.MethodDelete, Path: listPath, Summary: "Delete a list that nothing uses",
		DefaultStatus: http.StatusNoContent,
	}, s.dropList)
}

type saySaved struct {
	SayBody
	Token string `json:"token" maxLength:"100" doc:"of what was seen"`
}

type sayOutput struct{ Body Say }

func (s part) say(ctx context.Context, desk channels.Editor, post int64) (*sayOutput, error) {
	say, err := desk.SayOf(ctx, s.Store.Queries, post)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &sayOutput{viewSay(say)}, nil
}

func (s part) saveSay(ctx context.Context, in *struct {
	operation.SitePath
	Body saySaved
}) (*sayOutput, error) {
	desk := s.editor(ctx)
	if err := desk.SaveSay(ctx, 0, in.Body.kept(), in.Body.Token, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.say(ctx, desk, 0)
}

func (s part) getPostSay(ctx context.Context, in *operation.ItemPath) (*sayOutput, error) {
	return s.say(ctx, s.editor(ctx), in.ID)
}

func (s part) savePostSay(ctx context.Context, in *struct {
	operation.ItemPath
	Body saySaved
}) (*sayOutput, error) {
	desk := s.editor(ctx)
	if err := desk.SaveSay(ctx, in.ID, in.Body.kept(), in.Body.Token, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.say(ctx, desk, in.ID)
}

// ListPath is in the address of every operation on one list.
type ListPath struct {
	operation.SitePath
	Name string `query:"name" required:"true" minLength:"1" maxLength:"200" doc:"of the list"`
}

func (s part) saveList(ctx context.Context, in *struct {
	ListPath
	Body struct {
		Entries []string `json:"entries" maxItems:"1000"`
	}
}) (*struct{}, error) {
	return nil, s.Problem(s.editor(ctx).SaveList(ctx, store.WordList{Name: in.Name, Entries: in.Body.Entries}, s.Clock.Now()))
}

func (s part) dropList(ctx context.Context, in *ListPath) (*struct{}, error) {
	return nil, s.Problem(s.editor(ctx).DropList(ctx, in.Name, s.Clock.Now()))
}
