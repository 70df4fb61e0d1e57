package api

import (
	"context"
	"errors"
	"net/http"

	"github.com/go-chi/chi/v5"
	"github.com/mileusna/useragent"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/message"
	"dapper.example/internal/store"
)

// isPerson tells whether a click is to be counted: not of a program that says it is one, nor one that only
// looks ahead (Fetch Metadata, Sec-Purpose), nor a HEAD. Nothing of who clicked is kept.
func isPerson(r *http.Request) bool {
	agent := useragent.Parse(r.UserAgent())
	return r.Method == http.MethodGet && r.UserAgent() != "" && !agent.Bot && r.Header.Get("Sec-Purpose") == ""
}

// followShortLink counts a click and leads on to the post, or to the page elsewhere that an editor shared.
func (s *Server) followShortLink(w http.ResponseWriter, r *http.Request) {
	link, err := s.Store.ShortLink(r.Context(), chi.URLParam(r, "code"))
	if errors.Is(err, store.ErrNotFound) {
		http.Error(w, "This link leads nowhere.", http.StatusNotFound)
		return
	}
	if err == nil && isPerson(r) {
		err = s.countClick(r.Context(), link)
	}
	if err != nil {
		s.Log.Error("a short link could not be followed", "code", link.Code, "error", err)
	}
	home := address.HomeOf(s.Public, link.Site, link.Host)
	to := home.Path(link.Slug)
	if link.Host != "" {
		to = home.Full(link.Slug)
	}
	if link.URL != "" {
		to = link.URL
	}
	to = message.WithQuery(to, link.Query)
	w.Header().Set("Cache-Control", "no-store") // every click is counted
	http.Redirect(w, r, to, http.StatusFound)
}

func (s *Server) countClick(ctx context.Context, link store.ShortLink) error {
	zone, err := civil.LoadZone(link.Zone)
	if err != nil {
		return err
	}
	return s.Store.CountClick(ctx, link, zone.DateOf(s.Clock.Now()).String())
}
