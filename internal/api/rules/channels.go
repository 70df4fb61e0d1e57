package rules

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/message"
	"dapper.example/internal/store"
)

// Channel is a network that messages go to.
type Channel struct {
	ID        int64       `json:"id"`
	Kind      string      `json:"kind"`
	Name      string      `json:"name"`
	Wall      string      `json:"wall" doc:"where its messages can be read"`
	Graphemes int         `json:"graphemes" doc:"the longest message it takes"`
	LinkCost  int         `json:"linkCost" doc:"what a link counts; 0: its length"`
	Hashtags  int         `json:"hashtags" doc:"the most hashtags"`
	Apart     int         `json:"apart" minimum:"1" maximum:"2880" doc:"fewest minutes between two messages"`
	ADay      int         `json:"aDay" minimum:"0" maximum:"1000" doc:"most messages a day; 0: no limit"`
	QuietFrom civil.Clock `json:"quietFrom" doc:"quiet hours, by the clocks of its zone; the same as quietTo: none"`
	QuietTo   civil.Clock `json:"quietTo"`
	Zone      string      `json:"zone" doc:"IANA time zone; empty: the site's"`
	Version   int         `json:"version"`
}

func viewChannel(c store.Channel) Channel {
	limits := limitsOf(c.Kind)
	view := Channel{ID: c.ID, Kind: c.Kind, Name: c.Name, Wall: c.Address + "/", Graphemes: limits.Graphemes,
		LinkCost: limits.Links.Cost, Hashtags: limits.Hashtags,
		Apart: c.Apart, ADay: c.ADay, QuietFrom: civil.Clock(c.QuietFrom), QuietTo: civil.Clock(c.QuietTo),
		Version: c.Version}
	if c.ZoneName != nil {
		view.Zone = *c.ZoneName
	}
	return view
}

// limitsOf are what a kind of network takes; nothing where there is none of that kind.
func limitsOf(kind string) message.Limits {
	if n, ok := channel.Of(kind); ok {
		return n.Limits()
	}
	return message.Limits{}
}

func (s part) channelOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "save-channel", Method: http.MethodPut, Path: "/api/v1/sites/{site}/channels/{id}",
		Summary: "Save when a channel takes messages",
		Errors:  []int{http.StatusConflict},
	}, s.saveChannel)
}

type saveChannelInput struct {
	operation.ItemPath
	Body struct {
		Apart     int         `json:"apart" minimum:"1" maximum:"2880"`
		ADay      int         `json:"aDay" minimum:"0" maximum:"1000"`
		QuietFrom civil.Clock `json:"quietFrom"`
		QuietTo   civil.Clock `json:"quietTo"`
		Zone      string      `json:"zone" required:"false"`
		Version   int         `json:"version" doc:"the version that was seen"`
	}
}

func (s part) saveChannel(ctx context.Context, in *saveChannelInput) (*struct{ Body Channel }, error) {
	desk := s.ruleEditor(ctx)
	c := store.Channel{ID: in.ID, Apart: in.Body.Apart, ADay: in.Body.ADay, QuietFrom: int(in.Body.QuietFrom),
		QuietTo: int(in.Body.QuietTo), Version: in.Body.Version}
	for field, clock := range map[string]civil.Clock{"quietFrom": in.Body.QuietFrom, "quietTo": in.Body.QuietTo} {
		if clock >= civil.Midnight {
			return nil,
				huma.Error422UnprocessableEntity("Quiet hours lie between 00:00 and 23:59; over midnight, let them end earlier than they begin.",
					&huma.ErrorDetail{Location: "body." + field, Message: "Write a time from 00:00 to 23:59."})
		}
	}
	if in.Body.Zone != "" {
		if _, err := civil.LoadZone(in.Body.Zone); err != nil {
			return nil, huma.Error422UnprocessableEntity("There is no such time zone.",
				&huma.ErrorDetail{Location: "body.zone", Message: err.Error()})
		}
		c.ZoneName = &in.Body.Zone
	}
	if err := desk.SaveChannel(ctx, c, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	kept, err := s.Store.Channel(ctx, desk.Site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Channel }{viewChannel(kept)}, nil
}
