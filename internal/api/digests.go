package api

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/digest"
	"dapper.example/internal/digests"
	"dapper.example/internal/gate"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

func (s *Server) digestOperations(api huma.API) {
	const path, end = "/api/v1/sites/{site}/digest", "/api/v1/digests/{token}/end"
	huma.Register(api, huma.Operation{OperationID: "get-digest", Method: http.MethodGet, Path: path, Summary: "What you are told of a blog by mail"}, s.getDigest)
	huma.Register(api, huma.Operation{OperationID: "save-digest", Method: http.MethodPut, Path: path, Summary: "Say what you want to be told of a blog by mail"}, s.saveDigest)
	huma.Register(api, operation.Question(huma.Operation{OperationID: "preview-digest", Method: http.MethodPost, Path: path + "/preview",
		Summary: "What such a mail would say now"}), s.previewDigest)
	huma.Register(api, huma.Operation{OperationID: "end-digest", Method: http.MethodPost, Path: end, DefaultStatus: http.StatusNoContent, MaxBodyBytes: gate.MaxOpenBody,
		Summary: "End mails by their link", Description: "Mail programs ask for it by one click (RFC 8058)."}, s.endDigest)
	huma.Register(api, huma.Operation{OperationID: "resume-digest", Method: http.MethodDelete, Path: end, DefaultStatus: http.StatusNoContent,
		Summary: "Have mails that were ended by their link come again"}, s.resumeDigest)
}

// Digest is what somebody is told of a blog by mail.
type Digest struct {
	Every   string      `json:"every" enum:"never,day,week,month"`
	Weekday int         `json:"weekday" minimum:"0" maximum:"6" doc:"of weekly mails; 0 is Sunday"`
	At      civil.Clock `json:"at" example:"07:30" doc:"by the clocks of the zone"`
	Zone    string      `json:"zone" example:"Europe/Lisbon" maxLength:"100"`
	Parts   []string    `json:"parts" enum:"held,remarks,failed,coming,expiring,went out,runs,results" maxItems:"10"`
	NextAt  *time.Time  `json:"nextAt,omitempty" readOnly:"true" doc:"when the next one is due"`
	Mail    string      `json:"mail,omitempty" readOnly:"true" doc:"where they go"`
}

// morning is when mails come, to begin with.
const morning = civil.Clock(7*60 + 30)

func (s *Server) viewDigest(ctx context.Context) (Digest, error) {
	seat := operation.SeatOf(ctx)
	d, err := s.Store.Digest(ctx, seat.Site.ID, seat.User.ID)
	if errors.Is(err, store.ErrNotFound) {
		return Digest{Every: "never", Weekday: 1, At: morning, Zone: seat.Site.ZoneName, Parts: []string{string(digest.Held), string(digest.Failed), string(digest.Coming), string(digest.Expiring)},
			Mail: seat.User.Email}, nil
	}
	if err != nil {
		return Digest{}, err
	}
	view := Digest{Every: d.Every, Weekday: d.Weekday, At: civil.Clock(d.At), Zone: d.ZoneName, Parts: d.Parts, NextAt: &d.NextAt, Mail: seat.User.Email}
	if d.Off {
		view.Every, view.NextAt = "never", nil
	}
	return view, nil
}

type digestOutput struct{ Body Digest }

func (s *Server) getDigest(ctx context.Context, _ *operation.SitePath) (*digestOutput, error) {
	view, err := s.viewDigest(ctx)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &digestOutput{view}, nil
}

type digestInput struct {
	operation.SitePath
	Body Digest
}

func (d Digest) wish() (digest.Wish, error) {
	zone, err := civil.LoadZone(d.Zone)
	if err != nil {
		return digest.Wish{}, operation.Invalid(act.Invalidf("zone", "There is no time zone %q. Choose one from the list, such as Europe/Lisbon.", d.Zone))
	}
	w := digest.Wish{Every: digest.Every(d.Every), Weekday: time.Weekday(d.Weekday), At: d.At, Zone: zone}
	for _, p := range d.Parts {
		w.Parts = append(w.Parts, digest.Part(p))
	}
	return w, nil
}

func (s *Server) saveDigest(ctx context.Context, in *digestInput) (*digestOutput, error) {
	seat := operation.SeatOf(ctx)
	if in.Body.Every == "never" {
		err := s.Store.InTx(ctx, func(tx *store.Tx) error { return tx.DropDigest(ctx, seat.Site.ID, seat.User.ID) })
		if err != nil {
			return nil, s.Problem(err)
		}
		return s.getDigest(ctx, &in.SitePath)
	}
	wish, err := in.Body.wish()
	if err != nil {
		return nil, err
	}
	if err := digests.Save(ctx, s.Store, seat.Site.ID, seat.User.ID, wish, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.getDigest(ctx, &in.SitePath)
}

// DigestMail is a mail as it would read.
type DigestMail struct {
	Subject string `json:"subject"`
	Text    string `json:"text" doc:"empty where there is nothing to tell, so no mail would come"`
}

func (s *Server) previewDigest(ctx context.Context, in *digestInput) (*struct{ Body DigestMail }, error) {
	seat := operation.SeatOf(ctx)
	if in.Body.Every == "never" {
		return &struct{ Body DigestMail }{}, nil
	}
	wish, err := in.Body.wish()
	if err != nil {
		return nil, err
	}
	letter, err := digests.Writer{Store: s.Store, Public: s.Public}.Preview(ctx, seat.Site.ID, seat.User.ID, wish, s.Clock.Now())
	if err != nil && !errors.Is(err, people.ErrNotWanted) {
		return nil, s.Problem(err)
	}
	return &struct{ Body DigestMail }{DigestMail{letter.Subject, letter.Text}}, nil
}

type digestToken struct {
	Token string `path:"token" minLength:"1" maxLength:"200"`
}

func (s *Server) endDigest(ctx context.Context, in *digestToken) (*struct{}, error) {
	return nil, s.Problem(s.Store.TurnDigest(ctx, in.Token, true))
}

func (s *Server) resumeDigest(ctx context.Context, in *digestToken) (*struct{}, error) {
	return nil, s.Problem(s.Store.TurnDigest(ctx, in.Token, false))
}
