package api

import (
	"context"
	"errors"
	"net/http"

	"github.com/go-chi/chi/v5"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/store"
)

// followShortLink counts a click and leads on to the post.
func (s *Server) followShortLink(w http.ResponseWriter, r *http.Request) {
	link, err := s.Store.ShortLink(r.Context(), chi.URLParam(r, "code"))
	if errors.Is(err, store.ErrNotFound) {
		http.Error(w, "This link leads nowhere.", http.StatusNotFound)
		return
	}
	if err == nil {
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
	if link.Query != "" {
		to += "?" + link.Query
	}
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
