package blogs

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/look"
	"dapper.example/internal/sitesettings"
	"dapper.example/internal/store"
)

func (s part) appearanceOperations(api huma.API) {
	const path = "/api/v1/sites/{site}/appearance"
	huma.Register(api, huma.Operation{
		OperationID: "get-appearance", Method: http.MethodGet, Path: path, Summary: "How the blog looks to readers",
	}, s.getAppearance)
	huma.Register(api, huma.Operation{
		OperationID: "save-appearance", Method: http.MethodPut, Path: path, Summary: "Save how the blog looks to readers",
		Errors: []int{http.StatusConflict},
	}, s.saveAppearance)
	huma.Register(api, huma.Operation{
		OperationID: "get-shades", Method: http.MethodGet, Path: path + "/shades", Summary: "How an accent colour is shown to readers",
		Description: "With its contrast on the pages of a look. An accent that would be too hard to read is shown in the nearest shade that is not.",
	}, s.getShades)
}

// Appearance is how a blog looks to its readers.
type Appearance struct {
	Look    string       `json:"look" enum:"book,plain,broadside"`
	Accent  string       `json:"accent" maxLength:"100" doc:"#rrggbb"`
	Whole   bool         `json:"whole" doc:"the menu has all categories with posts and all pages; else what is in the list"`
	Menu    []MenuItem   `json:"menu" nullable:"false"`
	Version int          `json:"version" doc:"the version that was seen"`
	Offered []MenuChoice `json:"offered,omitempty" doc:"what may be in the menu"`
	Accents []Accent     `json:"accents,omitempty" doc:"to choose from"`
}

// MenuItem leads to a category or a page.
type MenuItem struct {
	Kind string `json:"kind" enum:"category,page"`
	ID   int64  `json:"id" minimum:"1"`
}

// MenuChoice is a category or a page that may be in the menu.
type MenuChoice struct {
	MenuItem
	Name string `json:"name"`
	Seen bool   `json:"seen" doc:"readers see it: posts are out in the category, or the page is out"`
}

// Accent is a colour to choose.
type Accent struct {
	Name   string `json:"name"`
	Colour string `json:"colour"`
}

type appearanceOutput struct{ Body Appearance }

func (s part) viewAppearance(ctx context.Context, site store.Site) (*appearanceOutput, error) {
	view := Appearance{Look: site.Look, Accent: look.AccentOr(site.Accent).String(), Whole: site.Menu == nil, Menu: []MenuItem{},
		Version: site.Version, Offered: []MenuChoice{}}
	for _, a := range look.Accents() {
		view.Accents = append(view.Accents, Accent{a.Name, a.Colour.String()})
	}
	categories, err := s.Store.Categories(ctx, site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	shown, err := s.Store.PublicCategories(ctx, site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	pages, err := s.Store.Pages(ctx, site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	withPosts := make(map[int64]bool)
	for _, t := range shown {
		withPosts[t.ID] = true
	}
	there := make(map[MenuItem]bool)
	for _, c := range categories {
		item := MenuItem{store.MenuCategory, c.ID}
		there[item] = true
		view.Offered = append(view.Offered, MenuChoice{item, c.Name, withPosts[c.ID]})
	}
	for _, p := range pages {
		item := MenuItem{store.MenuPage, p.ID}
		there[item] = true
		view.Offered = append(view.Offered, MenuChoice{item, p.Title, p.Status == store.Published})
	}
	for _, m := range site.Menu {
		if item := (MenuItem{m.Kind, m.ID}); there[item] {
			view.Menu = append(view.Menu, item)
		}
	}
	return &appearanceOutput{view}, nil
}

func (s part) getAppearance(ctx context.Context, _ *operation.SitePath) (*appearanceOutput, error) {
	return s.viewAppearance(ctx, operation.DeskOf(ctx).Site)
}

type appearanceInput struct {
	operation.SitePath
	Body Appearance
}

func (s part) saveAppearance(ctx context.Context, in *appearanceInput) (*appearanceOutput, error) {
	desk := operation.DeskOf(ctx)
	a := store.Appearance{Look: in.Body.Look, Accent: in.Body.Accent}
	if !in.Body.Whole {
		a.Menu = store.Menu{}
		for _, item := range in.Body.Menu {
			a.Menu = append(a.Menu, store.MenuItem{Kind: item.Kind, ID: item.ID})
		}
	}
	err := sitesettings.SaveAppearance(ctx, desk, a, in.Body.Version, s.Clock.Now())
	if errors.Is(err, act.ErrStale) {
		return nil, operation.SettingsStale()
	}
	if err != nil {
		return nil, s.Problem(err)
	}
	saved, err := s.Store.Site(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.viewAppearance(ctx, saved)
}

type shadesInput struct {
	operation.SitePath
	Look   string `query:"look" required:"true" enum:"book,plain,broadside"`
	Accent string `query:"accent" required:"true" maxLength:"100" doc:"#rrggbb"`
}

// Shades are how an accent is shown.
type Shades struct {
	Accent string `json:"accent" doc:"#rrggbb"`
	Day    Shade  `json:"day"`
	Night  Shade  `json:"night"`
}

// Shade is how an accent is shown on a page.
type Shade struct {
	Colour   string  `json:"colour"`
	Page     string  `json:"page" doc:"the colour of the page"`
	Contrast float64 `json:"contrast" doc:"with the page (WCAG 2.2), 4.5 at least"`
	Moved    bool    `json:"moved" doc:"the accent itself would be too hard to read there"`
}

func (s part) getShades(_ context.Context, in *shadesInput) (*struct{ Body Shades }, error) {
	accent, err := look.ParseColour(in.Accent)
	if err != nil {
		return nil, operation.Invalid(&act.Invalid{Field: "accent",
			Message: "Write the colour as # and six digits or letters from a to f, such as #15506b."})
	}
	view := func(p look.Page) Shade {
		shade := accent.On(p)
		return Shade{shade.Colour.String(), p.Page.String(), shade.Contrast, shade.Moved}
	}
	chosen := look.Look(in.Look)
	return &struct{ Body Shades }{Shades{accent.String(), view(chosen.Day()), view(chosen.Night())}}, nil
}
