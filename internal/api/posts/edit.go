package posts

import (
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/status"
	"dapper.example/internal/writing"
)

func (s part) editOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "edit-posts", Method: http.MethodPost, Path: "/api/v1/sites/{site}/posts/edit",
		Summary:     "Change fields of many posts at once",
		Description: "One act, which is undone as one. Posts that the change does not fit are left, and named.",
	}, s.editPosts)
}

type editPostsInput struct {
	operation.SitePath
	Body struct {
		IDs        []int64     `json:"ids,omitempty" doc:"the posts"`
		Match      *PostFilter `json:"match,omitempty" doc:"or all posts of a filter"`
		Count      int         `json:"count,omitempty" doc:"with match: how many posts the list showed; another number now is refused"`
		Version    int         `json:"version,omitempty" doc:"with one id: the version that was seen"`
		Title      *string     `json:"title,omitempty" doc:"of one post only"`
		Slug       *string     `json:"slug,omitempty" maxLength:"200" doc:"its address; of one post only"`
		At         *PlaceWish  `json:"at,omitempty" doc:"its time, given by hand; of one post only"`
		Category   *int64      `json:"category,omitempty" doc:"0 for none"`
		AddTags    []string    `json:"addTags,omitempty" maxItems:"30"`
		RemoveTags []string    `json:"removeTags,omitempty" maxItems:"30"`
		Author     *int64      `json:"author,omitempty"`
		NotBefore  *string     `json:"notBefore,omitempty" doc:"a date, as 2026-12-24; empty for no bound"`
		Deadline   *string     `json:"deadline,omitempty" doc:"a date, the last on which it may come out; empty for no bound"`
		Evergreen  *bool       `json:"evergreen,omitempty"`
	}
}

func (s part) editPosts(ctx context.Context, in *editPostsInput) (*struct{ Body BulkOutcome }, error) {
	desk, body := operation.DeskOf(ctx), in.Body
	ids, err := s.chosen(ctx, desk.Site, body.IDs, body.Match, body.Count)
	if err != nil {
		return nil, err
	}
	if len(ids) > status.MaxBulk {
		return nil, operation.Invalid(&act.Invalid{Field: "ids",
			Message: "That is more than can be changed at once. Narrow the list."})
	}
	edit := writing.Edit{Title: body.Title, Category: body.Category, AddTags: body.AddTags,
		RemoveTags: body.RemoveTags, Author: body.Author, Evergreen: body.Evergreen, Slug: body.Slug}
	zone := desk.Site.Zone()
	if body.At != nil {
		if edit.At, err = momentOf(zone, *body.At); err != nil {
			return nil, err
		}
	}
	if edit.NotBefore, err = boundOf("notBefore", body.NotBefore, func(d civil.Date) time.Time {
		return zone.At(d, 0)
	}); err != nil {
		return nil, err
	}
	if edit.Deadline, err = boundOf("deadline", body.Deadline, func(d civil.Date) time.Time {
		return zone.At(d.Add(1), 0).Add(-time.Minute)
	}); err != nil {
		return nil, err
	}
	posts := make([]act.PostVersion, len(ids))
	for i, id := range ids {
		posts[i] = act.PostVersion{Post: id, Version: body.Version}
	}
	done, left, err := writing.EditMany(ctx, desk, posts, edit, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	outcome := BulkOutcome{Done: done, Skipped: []SkippedPost{}}
	for _, l := range left {
		outcome.Skipped = append(outcome.Skipped, SkippedPost{l.ID, l.Title, l.Reason})
	}
	return &struct{ Body BulkOutcome }{outcome}, nil
}

// momentOf is the moment of a wished time.
func momentOf(zone civil.Zone, wish PlaceWish) (*time.Time, error) {
	if wish.Clock >= civil.Midnight {
		return nil, operation.Invalid(&act.Invalid{Field: "at.clock",
			Message: "The time is after midnight; choose one from 00:00 to 23:59 and the date it is on."})
	}
	at := zone.At(wish.Date, wish.Clock)
	return &at, nil
}

// boundOf reads a bound of drafts: nil where it is not said, the zero time for none.
func boundOf(field string, text *string, at func(civil.Date) time.Time) (*time.Time, error) {
	if text == nil {
		return nil, nil
	}
	if *text == "" {
		return &time.Time{}, nil
	}
	date, err := civil.ReadDate(*text)
	if err != nil {
		return nil, operation.Invalid(&act.Invalid{Field: field,
			Message: "Write the date as 2026-12-24, or leave it empty for no bound."})
	}
	t := at(date)
	return &t, nil
}

// sorted puts ids in order, each once.
func sorted(ids []int64) []int64 {
	slices.Sort(ids)
	return slices.Compact(ids)
}
