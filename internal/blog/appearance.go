package blog

import (
	"cmp"
	"embed"
	"errors"
	"net/url"
	"strings"

	"dapper.example/internal/core/look"
	"dapper.example/internal/picture"
	"dapper.example/internal/store"
)

//go:embed looks/*.css
var looks embed.FS

// styleName is what a style sheet of an appearance is asked for by, so that a changed one is another.
func styleName(a store.Appearance) string {
	return url.Values{"look": {a.Look}, "accent": {strings.TrimPrefix(a.Accent, "#")}}.Encode()
}

// serveLook sends the style sheet of the site's look, or of another one that is asked for: the settings show
// how it would be.
func (b *Blog) serveLook(v visit) error {
	query := v.r.URL.Query()
	chosen := look.Look(cmp.Or(query.Get("look"), v.site.Look))
	accent := cmp.Or(query.Get("accent"), v.site.Accent)
	if !chosen.Known() {
		return store.ErrNotFound
	}
	rules, err := looks.ReadFile("looks/" + string(chosen) + ".css")
	if err != nil {
		return err
	}
	fixed(v.w, v.r, "text/css; charset=utf-8", []byte(look.Style(chosen, look.AccentOr(accent))+string(rules)))
	return nil
}

// menuItem is what the menu leads to.
type menuItem struct {
	link
	Page bool
}

// menu is the site's menu as it is seen at a path: what was chosen of it and is public, or all categories that
// have posts and all pages but the front page.
func (v visit) menu(path string, topics []store.Topic, pages []store.Entry) (menu []menuItem) {
	category := func(t store.Topic) menuItem {
		return menuItem{link{t.Name, v.path("category/" + t.Slug), path == "category/"+t.Slug, t.N}, false}
	}
	page := func(e store.Entry) menuItem {
		to := e.Slug
		if v.site.FrontPage != nil && e.ID == *v.site.FrontPage {
			to = ""
		}
		return menuItem{link{Name: e.Title, Path: v.path(to), Here: to == path}, true}
	}
	if v.site.Menu == nil {
		for _, t := range topics {
			menu = append(menu, category(t))
		}
		for _, e := range pages {
			if v.site.FrontPage == nil || e.ID != *v.site.FrontPage {
				menu = append(menu, page(e))
			}
		}
		return menu
	}
	for _, item := range v.site.Menu {
		for _, t := range topics {
			if item.Kind == store.MenuCategory && t.ID == item.ID {
				menu = append(menu, category(t))
			}
		}
		for _, e := range pages {
			if item.Kind == store.MenuPage && e.ID == item.ID {
				menu = append(menu, page(e))
			}
		}
	}
	return menu
}

// iconWidth is about how wide the picture for the browser's tab is sent, in pixels.
const iconWidth = 180

// dress gives a page the site's logo and icon.
func (v visit) dress(p *page) error {
	if v.site.Logo != nil {
		logo, err := v.Store.Picture(v.r.Context(), v.site.ID, *v.site.Logo)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		if err == nil {
			p.Logo = v.imageOf(logo, v.site.Title)
		}
	}
	if v.site.Icon != nil {
		icon, err := v.Store.Picture(v.r.Context(), v.site.ID, *v.site.Icon)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		if err == nil {
			name := picture.Name{Key: icon.Key, Width: icon.Width, Height: icon.Height, Type: icon.Type}
			width := icon.Width
			for _, w := range picture.Narrower(icon.Width) {
				if w >= iconWidth {
					width = w
					break
				}
			}
			p.Icon = v.here.Of(PicturePath(v.site.Slug, name.At(width)))
		}
	}
	return nil
}
