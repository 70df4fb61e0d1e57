package channels

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/signed"
	"dapper.example/internal/deliver"
	"dapper.example/internal/outings"
	"dapper.example/internal/reach"
	"dapper.example/internal/store"
	"dapper.example/internal/webhooks"
)

// WebhookBody is what is said of a webhook.
type WebhookBody struct {
	Name    string   `json:"name" maxLength:"200"`
	Address string   `json:"address" maxLength:"4000" doc:"https:// or http://; not in the server’s own network, unless its configuration allows it"`
	Events  []string `json:"events" maxItems:"100"`
}

// Webhook is a webhook as the API shows it.
type Webhook struct {
	ID int64 `json:"id"`
	WebhookBody
	On           bool       `json:"on"`
	OffWhy       string     `json:"offWhy,omitempty" doc:"why it is off"`
	FailingSince *time.Time `json:"failingSince,omitempty" doc:"since when it takes nothing"`
	OldUntil     *time.Time `json:"oldUntil,omitempty" doc:"until when the secret before the present one signs too"`
	Version      int        `json:"version"`
}

// HookEvent is something that a webhook can be told.
type HookEvent struct {
	Name  string `json:"name"`
	About string `json:"about"`
}

// Webhooks are the webhooks of a blog.
type Webhooks struct {
	Webhooks []Webhook   `json:"webhooks"`
	Events   []HookEvent `json:"events" doc:"all that there are"`
}

// HookTold is something that a webhook was told.
type HookTold struct {
	ID     int64            `json:"id"`
	Key    string           `json:"key" doc:"its webhook-id, the same at each try"`
	Event  string           `json:"event"`
	Place  operation.Place  `json:"place" doc:"when it happened, by the clocks of the site"`
	State  string           `json:"state" enum:"waiting,delivered,failed"`
	Tries  int              `json:"tries"`
	Next   *operation.Place `json:"next,omitempty" doc:"when it is tried next"`
	Status int              `json:"status,omitempty" doc:"of the latest answer"`
	Error  string           `json:"error,omitempty"`
	Sample bool             `json:"sample,omitempty"`
	Body   json.RawMessage  `json:"body,omitempty" doc:"what was sent"`
}

// NewSecret is the secret of a webhook, which is told only now.
type NewSecret struct {
	ID     int64  `json:"id"`
	Secret string `json:"secret" doc:"what messages are signed with, by the Standard Webhooks specification"`
}

const (
	webhooksPath = "/api/v1/sites/{site}/webhooks"
	webhookPath  = webhooksPath + "/{id}"
	// toldShown is how much of what a webhook was told is shown.
	toldShown = 100
)

func (s part) webhookOperations(api huma.API) {
	stale := []int{http.StatusConflict}
	huma.Register(api, huma.Operation{
		OperationID: "list-webhooks", Method: http.MethodGet, Path: webhooksPath, Summary: "The webhooks of the site",
	}, s.listWebhooks)
	huma.Register(api, huma.Operation{
		OperationID: "add-webhook", Method: http.MethodPost, Path: webhooksPath, Summary: "Add a webhook", DefaultStatus: http.StatusCreated,
		Description: "The answer has its secret, which is not shown again.",
	}, s.addWebhook)
	huma.Register(api, huma.Operation{
		OperationID: "save-webhook", Method: http.MethodPut, Path: webhookPath, Summary: "Change a webhook, or turn it on or off",
		DefaultStatus: http.StatusNoContent, Errors: stale,
	}, s.saveWebhook)
	huma.Register(api, huma.Operation{
		OperationID: "delete-webhook", Method: http.MethodDelete, Path: webhookPath, Summary: "Delete a webhook",
		DefaultStatus: http.StatusNoContent, Errors: stale,
	}, s.deleteWebhook)
	huma.Register(api, huma.Operation{
		OperationID: "rotate-webhook", Method: http.MethodPost, Path: webhookPath + "/secret", Summary: "Give a webhook a new secret",
		Description: "The old one signs too for a day.", Errors: stale,
	}, s.rotateWebhook)
	huma.Register(api, huma.Operation{
		OperationID: "test-webhook", Method: http.MethodPost, Path: webhookPath + "/samples", Summary: "Tell a webhook a sample now",
		Description: "It is made from the latest such event of the blog, and sent once.",
	}, s.testWebhook)
	huma.Register(api, huma.Operation{
		OperationID: "list-told", Method: http.MethodGet, Path: webhookPath + "/told", Summary: "What a webhook was told, latest first",
	}, s.listTold)
	huma.Register(api, huma.Operation{
		OperationID: "tell-again", Method: http.MethodPost, Path: webhooksPath + "/told/{id}/again", Summary: "Tell a webhook something once more",
		DefaultStatus: http.StatusNoContent,
	}, s.tellAgain)
	huma.Register(api, huma.Operation{
		OperationID: "settle-outing", Method: http.MethodPut, Path: "/api/v1/sites/{site}/outings/{id}/settled",
		Summary: "Say what became of a message that was handed to somebody outside", DefaultStatus: http.StatusNoContent,
	}, s.settleOuting)
	huma.Register(api, huma.Operation{
		OperationID: "settle-signed", Method: http.MethodPost, Path: deliver.DonePath,
		Summary:       "Tell what became of a message that was handed on",
		Description:   "Signed by the Standard Webhooks specification, with the secret of the channel. The same word twice is no harm.",
		DefaultStatus: http.StatusNoContent,
	}, s.settleSigned)
}

func (s part) hookEditor(ctx context.Context) webhooks.Editor {
	return webhooks.Editor{Desk: operation.DeskOf(ctx), Box: s.Box, Allowed: s.Inside}
}

func viewWebhook(w store.Webhook, now time.Time) Webhook {
	view := Webhook{ID: w.ID, WebhookBody: WebhookBody{w.Name, w.Address, append([]string{}, w.Events...)}, On: w.OffAt == nil, OffWhy: w.OffWhy,
		FailingSince: w.FailingSince, Version: w.Version}
	if w.OldEnds != nil && now.Before(*w.OldEnds) {
		view.OldUntil = w.OldEnds
	}
	return view
}

func (s part) listWebhooks(ctx context.Context, in *operation.SitePath) (*struct{ Body Webhooks }, error) {
	all, err := s.Store.Webhooks(ctx, operation.DeskOf(ctx).Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := Webhooks{Webhooks: []Webhook{}, Events: []HookEvent{}}
	for _, w := range all {
		body.Webhooks = append(body.Webhooks, viewWebhook(w, s.Clock.Now()))
	}
	for _, e := range webhooks.Events {
		body.Events = append(body.Events, HookEvent(e))
	}
	return &struct{ Body Webhooks }{body}, nil
}

func (b WebhookBody) kept() store.Webhook {
	return store.Webhook{Name: b.Name, Address: b.Address, Events: b.Events}
}

func (s part) addWebhook(ctx context.Context, in *struct {
	operation.SitePath
	Body WebhookBody
}) (*struct{ Body NewSecret }, error) {
	id, secret, err := s.hookEditor(ctx).Add(ctx, in.Body.kept(), s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body NewSecret }{NewSecret{id, secret}}, nil
}

func (s part) saveWebhook(ctx context.Context, in *struct {
	operation.ItemPath
	Body struct {
		WebhookBody
		On      bool `json:"on"`
		Version int  `json:"version" doc:"the version that was seen"`
	}
}) (*struct{}, error) {
	w := in.Body.kept()
	w.ID, w.Version = in.ID, in.Body.Version
	return nil, s.Problem(s.hookEditor(ctx).Save(ctx, w, in.Body.On, s.Clock.Now()))
}

type hookVersionPath struct {
	operation.ItemPath
	Version int `query:"version" required:"true" doc:"the version that was seen"`
}

func (s part) deleteWebhook(ctx context.Context, in *hookVersionPath) (*struct{}, error) {
	return nil, s.Problem(s.hookEditor(ctx).Delete(ctx, in.ID, in.Version, s.Clock.Now()))
}

func (s part) rotateWebhook(ctx context.Context, in *hookVersionPath) (*struct{ Body NewSecret }, error) {
	secret, err := s.hookEditor(ctx).Rotate(ctx, in.ID, in.Version, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body NewSecret }{NewSecret{in.ID, secret}}, nil
}

func viewTold(site store.Site, d store.HookDelivery) HookTold {
	view := HookTold{ID: d.ID, Key: d.Key, Event: d.Event, Place: operation.PlaceAt(site.Zone(), d.At), State: d.State, Tries: d.Tries, Status: d.Status,
		Error: d.Error, Sample: d.Sample, Body: json.RawMessage(d.Body)}
	if d.State == store.HookWaiting {
		next := operation.PlaceAt(site.Zone(), d.NextAt)
		view.Next = &next
	}
	return view
}

func (s part) testWebhook(ctx context.Context, in *struct {
	operation.ItemPath
	Body struct {
		Event string `json:"event" maxLength:"100"`
	}
}) (*struct{ Body HookTold }, error) {
	desk, now := operation.DeskOf(ctx), s.Clock.Now()
	if _, err := s.Store.Webhook(ctx, desk.Site.ID, in.ID); err != nil {
		return nil, s.Problem(err)
	}
	if !webhooks.IsEvent(in.Body.Event) {
		return nil, operation.Invalid(act.Invalidf("event", "There is no such event. Choose one of those listed."))
	}
	d, err := s.Store.InsertHookSample(ctx, desk.Site.ID, in.ID, in.Body.Event, now)
	if err != nil {
		return nil, s.Problem(err)
	}
	sender := webhooks.Sender{Store: s.Store, Clock: s.Clock, Box: s.Box, Client: reach.Client(s.Inside), Public: s.Public, Log: s.Log}
	if d, err = sender.Send(ctx, d); err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body HookTold }{viewTold(desk.Site, d)}, nil
}

func (s part) listTold(ctx context.Context, in *operation.ItemPath) (*struct{ Body []HookTold }, error) {
	site := operation.DeskOf(ctx).Site
	if _, err := s.Store.Webhook(ctx, site.ID, in.ID); err != nil {
		return nil, s.Problem(err)
	}
	all, err := s.Store.HookDeliveries(ctx, site.ID, in.ID, toldShown)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := make([]HookTold, len(all))
	for i, d := range all {
		body[i] = viewTold(site, d)
	}
	return &struct{ Body []HookTold }{body}, nil
}

func (s part) tellAgain(ctx context.Context, in *operation.ItemPath) (*struct{}, error) {
	return nil, s.Problem(s.Store.AgainHookDelivery(ctx, operation.DeskOf(ctx).Site.ID, in.ID, s.Clock.Now()))
}

func (s part) settleOuting(ctx context.Context, in *struct {
	operation.ItemPath
	Body struct {
		Sent bool   `json:"sent"`
		URL  string `json:"url" required:"false" maxLength:"4000" doc:"where it can be read"`
		Why  string `json:"why" required:"false" maxLength:"2000" doc:"why it was not sent"`
	}
}) (*struct{}, error) {
	b := in.Body
	return nil, s.Problem(outings.Editor{Desk: operation.DeskOf(ctx), Public: s.Public}.Settle(ctx, in.ID, outings.Settlement{Sent: b.Sent, URL: b.URL, Why: b.Why}, s.Clock.Now()))
}

type signedInput struct {
	ID        string `header:"webhook-id" maxLength:"200"`
	Timestamp string `header:"webhook-timestamp" maxLength:"40"`
	Signature string `header:"webhook-signature" maxLength:"2000"`
	RawBody   []byte
	Body      struct {
		Key   string `json:"key" maxLength:"100" doc:"of the message, as it was handed on"`
		State string `json:"state" enum:"sent,failed"`
		URL   string `json:"url" required:"false" maxLength:"4000" doc:"where it can be read"`
		Why   string `json:"why" required:"false" maxLength:"2000" doc:"why it was not sent"`
	}
}

func (s part) settleSigned(ctx context.Context, in *signedInput) (*struct{}, error) {
	b := in.Body
	err := outings.SettleSigned(ctx, s.Store, s.Box, b.Key, outings.Settlement{Sent: b.State == "sent", URL: b.URL, Why: b.Why},
		signed.Message{ID: in.ID, Timestamp: in.Timestamp, Signature: in.Signature, Body: in.RawBody}, s.Clock.Now())
	switch {
	case errors.Is(err, outings.ErrNotTheirs):
		return nil, huma.Error404NotFound("No message was handed on with that key, or the signature is not that of its channel’s secret.")
	case errors.Is(err, signed.ErrStale):
		return nil, huma.Error422UnprocessableEntity("The timestamp is more than 5 minutes away from the present moment.")
	}
	return nil, s.Problem(err)
}
