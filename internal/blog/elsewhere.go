package blog

import (
	"errors"
	"net/http"
	"strings"

	"dapper.example/internal/store"
)

// whilePagesAreOn serves what a blog has only with its built-in pages.
func whilePagesAreOn(serve func(visit) error) func(visit) error {
	return func(v visit) error {
		if !v.site.PagesOn {
			return store.ErrNotFound
		}
		return serve(v)
	}
}

// orLead serves something, or where the built-in pages are off leads on to where it is.
func (b *Blog) orLead(serve, lead func(visit) error) func(visit) error {
	return func(v visit) error {
		if !v.site.PagesOn {
			return lead(v)
		}
		return serve(v)
	}
}

// leadToCopy leads on to where a post is, for as long as it is there.
func (b *Blog) leadToCopy(v visit) error {
	post, err := v.Store.PublicPost(v.r.Context(), v.site.ID, v.param("slug"))
	if errors.Is(err, store.ErrNotFound) {
		return v.leadOn(v.param("slug"))
	}
	if err != nil {
		return err
	}
	at, err := v.Store.AddressOfCopy(v.r.Context(), v.site.ID, post.ID)
	if err != nil {
		return err
	}
	return v.leadOut(at)
}

// leadHome leads on to where the first of the places that posts go to begins.
func (b *Blog) leadHome(v visit) error {
	all, err := v.Store.Destinations(v.r.Context(), v.site.ID)
	if err != nil {
		return err
	}
	for _, d := range all {
		if d.EndingAt != nil {
			continue
		}
		if d.Channel != 0 {
			c, err := v.Store.Channel(v.r.Context(), v.site.ID, int64(d.Channel))
			if err != nil {
				return err
			}
			return v.leadOut(c.Home)
		}
		if before, _, _ := strings.Cut(d.Setup.Address, "{"); before != "" {
			return v.leadOut(before[:strings.LastIndex(before, "/")+1])
		}
	}
	return store.ErrNotFound
}

// leadOut leads on to an address that may be another one soon.
func (v visit) leadOut(address string) error {
	v.w.Header().Set("Cache-Control", "no-cache")
	http.Redirect(v.w, v.r, address, http.StatusFound)
	return nil
}
