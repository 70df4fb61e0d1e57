package api

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/calendar"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

// calendarPath is where calendar programs read; the secret and .ics follow.
const calendarPath = "/calendar/"

func (s *Server) calendarOperations(api huma.API) {
	const path = "/api/v1/sites/{site}/calendars"
	huma.Register(api, huma.Operation{
		OperationID: "list-calendars", Method: http.MethodGet, Path: path, Summary: "Your secret addresses for calendar programs",
	}, s.listCalendars)
	huma.Register(api, huma.Operation{
		OperationID: "make-calendar", Method: http.MethodPost, Path: path, Summary: "Make a secret address for calendar programs",
		Description: "Whoever has it reads the plan, as iCalendar (RFC 5545), until you end it or are no longer of the site. It is in the answer, once.", DefaultStatus: http.StatusCreated,
	}, s.makeCalendar)
	huma.Register(api, huma.Operation{
		OperationID: "end-calendar", Method: http.MethodDelete, Path: path +
			"/{calendar}", Summary: "End a secret address", DefaultStatus: http.StatusNoContent,
	}, s.endCalendar)
}

// CalendarFeed is a secret address at which calendar programs read the plan.
type CalendarFeed struct {
	ID         int64      `json:"id"`
	Name       string     `json:"name"`
	Authors    []int64    `json:"authors" doc:"only posts of any of these people; empty: of all"`
	Categories []int64    `json:"categories" doc:"only posts in any of these; empty: in all"`
	Status     string     `json:"status,omitempty" enum:"scheduled,pinned,held,published" doc:"only posts that stand there"`
	Kind       string     `json:"kind,omitempty" enum:"post,page" doc:"only posts, or only pages"`
	Created    time.Time  `json:"created"`
	Read       *time.Time `json:"read,omitempty" doc:"when a program last read it"`
	Address    string     `json:"address,omitempty" doc:"only in the answer to making it"`
}

func viewCalendar(f store.CalendarFeed) CalendarFeed {
	return CalendarFeed{ID: f.ID, Name: f.Name, Authors: append([]int64{}, f.Authors...),
		Categories: append([]int64{}, f.Categories...),
		Status:     f.Status, Kind: f.Kind, Created: f.CreatedAt.UTC(), Read: f.ReadAt}
}

func (s *Server) listCalendars(ctx context.Context, _ *operation.SitePath) (*struct{ Body []CalendarFeed }, error) {
	desk := operation.DeskOf(ctx)
	feeds, err := s.Store.CalendarFeeds(ctx, desk.Site.ID, desk.Actor)
	if err != nil {
		return nil, s.Problem(err)
	}
	list := []CalendarFeed{}
	for _, f := range feeds {
		list = append(list, viewCalendar(f))
	}
	return &struct{ Body []CalendarFeed }{list}, nil
}

type makeCalendarInput struct {
	operation.SitePath
	Body struct {
		Name       string  `json:"name" maxLength:"200"`
		Authors    []int64 `json:"authors,omitempty" maxItems:"100" doc:"only posts of any of these people; empty: of all"`
		Categories []int64 `json:"categories,omitempty" maxItems:"100" doc:"only posts in any of these; empty: in all"`
		Status     string  `json:"status,omitempty" enum:"scheduled,pinned,held,published" doc:"only posts that stand there, as in a lens; what is only proposed has no time yet"`
		Kind       string  `json:"kind,omitempty" enum:"post,page" doc:"only posts, or only pages"`
	}
}

func (s *Server) makeCalendar(ctx context.Context, in *makeCalendarInput) (*struct{ Body CalendarFeed }, error) {
	desk := operation.DeskOf(ctx)
	feed := store.CalendarFeed{SiteID: desk.Site.ID, User: desk.Actor, Name: in.Body.Name,
		Authors: in.Body.Authors, Categories: in.Body.Categories, Status: in.Body.Status, Kind: in.Body.Kind}
	switch ok, err := s.Store.CanFilter(ctx, feed); {
	case err != nil:
		return nil, s.Problem(err)
	case !ok:
		return nil, s.Problem(store.ErrNotFound)
	}
	feed, secret, err := s.House().MakeCalendar(ctx, feed, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	v := viewCalendar(feed)
	v.Address = s.Public + calendarPath + secret + ".ics"
	return &struct{ Body CalendarFeed }{v}, nil
}

type calendarPathInput struct {
	operation.SitePath
	Calendar int64 `path:"calendar"`
}

func (s *Server) endCalendar(ctx context.Context, in *calendarPathInput) (*struct{}, error) {
	desk := operation.DeskOf(ctx)
	return nil, s.Problem(s.Store.EndCalendarFeed(ctx, desk.Site.ID, desk.Actor, in.Calendar))
}

// calendarPast is how far back a calendar shows what came out, or was cancelled.
const calendarPast = 90 * 24 * time.Hour

// serveCalendar answers calendar programs. They ask often, so what has not changed is
// not sent again.
func (s *Server) serveCalendar(w http.ResponseWriter, r *http.Request) {
	ctx, now := r.Context(), s.Clock.Now()
	secret, found := strings.CutSuffix(chi.URLParam(r, "file"), ".ics")
	feed, err := people.Calendar(ctx, s.Store.Queries, secret)
	if err != nil || !found {
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			s.Log.Error("a calendar could not be read", "error", err)
		}
		http.Error(w, "There is no such calendar, or it was removed.", http.StatusNotFound)
		return
	}
	site, err := s.Store.Site(ctx, feed.SiteID)
	var entries []store.CalendarEntry
	if err == nil {
		entries, err = s.Store.CalendarEntries(ctx, feed, now.Add(-calendarPast))
	}
	if err == nil && (feed.ReadAt == nil || now.Sub(*feed.ReadAt) > time.Minute) {
		err = s.Store.NoteCalendarRead(ctx, feed.ID, now)
	}
	if err != nil {
		s.Log.Error("a calendar could not be read", "error", err)
		http.Error(w, "Something went wrong on our side. Please try again later.", http.StatusInternalServerError)
		return
	}
	text := calendar.Feed{Site: site, Name: feed.Name, Public: s.Public, Entries: entries}.Text()
	sum := sha256.Sum256([]byte(text))
	h := w.Header()
	h.Set("ETag", `"`+hex.EncodeToString(sum[:12])+`"`)
	h.Set("Cache-Control", "private, no-cache")
	h.Set("Content-Type", "text/calendar; charset=utf-8")
	h.Set("Content-Disposition", `inline; filename="almanac.ics"`)
	h.Set("X-Robots-Tag", "noindex")
	http.ServeContent(w, r, "", time.Time{}, strings.NewReader(text))
}
