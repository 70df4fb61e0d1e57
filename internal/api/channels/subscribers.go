package channels

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/channel"
	"dapper.example/internal/letters"
	"dapper.example/internal/store"
)

// Subscriber is somebody who asked for the mails of a mailing list.
type Subscriber struct {
	ID    int64     `json:"id"`
	Email string    `json:"email"`
	State string    `json:"state" enum:"asked,on,off" doc:"asked: they have not confirmed it; off: they ended it"`
	Since time.Time `json:"since"`
}

// Subscribers are those of a mailing list.
type Subscribers struct {
	Subscribers []Subscriber   `json:"subscribers" doc:"the latest first"`
	Counts      map[string]int `json:"counts" doc:"how many of each state"`
	AMinute     int            `json:"aMinute" doc:"how many mails a minute the list sends"`
	Page        string         `json:"page" doc:"where readers ask for mails"`
}

const (
	subscribersPath = channelPath + "/subscribers"
	// subscribersShown is how many subscribers are listed.
	subscribersShown = 1000
	// mostAsked is how many people are asked in one go.
	mostAsked = 200
)

func (s part) subscriberOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "list-subscribers", Method: http.MethodGet, Path: subscribersPath, Summary: "Who gets the mails of a mailing list",
	}, s.listSubscribers)
	huma.Register(api, huma.Operation{
		OperationID: "ask-subscribers", Method: http.MethodPost, Path: subscribersPath, Summary: "Ask people whether they want the mails",
		Description: "Each is sent a mail in which they confirm it; before that they get nothing.", DefaultStatus: http.StatusNoContent,
	}, s.askSubscribers)
	huma.Register(api, huma.Operation{
		OperationID: "delete-subscriber", Method: http.MethodDelete, Path: "/api/v1/sites/{site}/subscribers/{id}", Summary: "Forget a subscriber",
		DefaultStatus: http.StatusNoContent,
	}, s.deleteSubscriber)
	huma.Register(api, huma.Operation{
		OperationID: "save-mail-rate", Method: http.MethodPut, Path: channelPath + "/rate", Summary: "Change how many mails a minute a mailing list sends",
		DefaultStatus: http.StatusNoContent,
	}, s.saveRate)
}

// list is the mailing list of an address.
func (s part) list(ctx context.Context, id int64) (store.Channel, error) {
	c, err := s.Store.Channel(ctx, operation.DeskOf(ctx).Site.ID, id)
	if err == nil && c.Kind != channel.Mail {
		err = store.ErrNotFound
	}
	return c, err
}

func (s part) listSubscribers(ctx context.Context, in *operation.ItemPath) (*struct{ Body Subscribers }, error) {
	c, err := s.list(ctx, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	all, err := s.Store.Subscribers(ctx, c.SiteID, c.ID, subscribersShown)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := Subscribers{Subscribers: []Subscriber{}, AMinute: c.AMinute, Page: operation.DeskOf(ctx).Site.Home(s.Public).Full(letters.Path)}
	for _, one := range all {
		view := Subscriber{one.ID, one.Email, one.State, one.AskedAt.UTC()}
		if one.OnAt != nil {
			view.Since = one.OnAt.UTC()
		}
		if one.State == "off" && one.OffAt != nil {
			view.Since = one.OffAt.UTC()
		}
		body.Subscribers = append(body.Subscribers, view)
	}
	if body.Counts, err = s.Store.CountSubscribers(ctx, c.ID); err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Subscribers }{body}, nil
}

func (s part) askSubscribers(ctx context.Context, in *struct {
	operation.ItemPath
	Body struct {
		Emails []string `json:"emails" minItems:"1" maxItems:"200"`
	}
}) (*struct{}, error) {
	c, err := s.list(ctx, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	var problems []*act.Invalid
	for _, email := range in.Body.Emails {
		if _, ok := letters.Address(email); !ok {
			problems = append(problems, act.Invalidf("emails", "“%s” is no mail address.", email))
		}
	}
	if len(problems) > 0 || len(in.Body.Emails) > mostAsked {
		if len(problems) == 0 {
			problems = append(problems, act.Invalidf("emails", "Ask at most %d people at once.", mostAsked))
		}
		return nil, operation.Invalid(problems...)
	}
	for _, email := range in.Body.Emails {
		err = errors.Join(err, letters.Ask(ctx, s.Store, s.Mail, c, email, s.Clock.Now()))
	}
	return nil, s.Problem(err)
}

func (s part) deleteSubscriber(ctx context.Context, in *operation.ItemPath) (*struct{}, error) {
	return nil, s.Problem(s.Store.DeleteSubscriber(ctx, operation.DeskOf(ctx).Site.ID, in.ID))
}

func (s part) saveRate(ctx context.Context, in *struct {
	operation.ItemPath
	Body struct {
		AMinute int `json:"aMinute" minimum:"1" maximum:"1000"`
	}
}) (*struct{}, error) {
	c, err := s.list(ctx, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	return nil, s.Problem(s.Store.SetRate(ctx, c.SiteID, c.ID, in.Body.AMinute))
}
