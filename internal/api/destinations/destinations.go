// Package destinations has the operations on where the posts of a site go.
package destinations

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/pattern"
	"dapper.example/internal/destinations"
	"dapper.example/internal/store"
)

type part struct{ *operation.Tools }

// Register adds the operations.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	const path = "/api/v1/sites/{site}/destinations"
	stale := []int{http.StatusConflict}
	huma.Register(api, huma.Operation{
		OperationID: "get-destinations", Method: http.MethodGet, Path: path, Summary: "Where the posts of the site go",
	}, s.list)
	huma.Register(api, huma.Operation{
		OperationID: "save-pages", Method: http.MethodPut, Path: path + "/pages", Summary: "Turn the built-in pages on or off, and say which WebSub hub is told of new posts",
		DefaultStatus: http.StatusNoContent, Errors: stale,
	}, s.savePages)
	huma.Register(api, huma.Operation{
		OperationID: "tell-hub", Method: http.MethodPost, Path: path + "/pages/told", Summary: "Tell the hub now", DefaultStatus: http.StatusNoContent,
	}, s.tellHub)
	huma.Register(api, huma.Operation{
		OperationID: "add-destination", Method: http.MethodPost, Path: path, Summary: "Have posts go somewhere", DefaultStatus: http.StatusCreated,
		Description: "Posts that are out go there in the background, from now on each as it changes.",
	}, s.add)
	huma.Register(api, huma.Operation{
		OperationID: "save-destination", Method: http.MethodPut, Path: path + "/{id}", Summary: "Change where posts go, or pause that",
		Description: "What it changes for posts that are there is brought over.", DefaultStatus: http.StatusNoContent, Errors: stale,
	}, s.save)
	huma.Register(api, huma.Operation{
		OperationID: "end-destination", Method: http.MethodDelete, Path: path + "/{id}", Summary: "Have posts go there no more",
		Description: "With remove, those that are there are removed first, in the background.", DefaultStatus: http.StatusNoContent, Errors: stale,
	}, s.end)
	huma.Register(api, huma.Operation{
		OperationID: "send-all-posts", Method: http.MethodPost, Path: path + "/{id}/all", Summary: "Bring all posts there anew", DefaultStatus: http.StatusNoContent, Errors: stale,
	}, s.sendAll)
	huma.Register(api, huma.Operation{
		OperationID: "list-copies", Method: http.MethodGet, Path: path + "/{id}/copies", Summary: "Posts that could not be brought there, and those that were brought last",
	}, s.listCopies)
	huma.Register(api, huma.Operation{
		OperationID: "try-copy", Method: http.MethodPost, Path: path + "/{id}/copies/{post}/again", Summary: "Try to bring a post there again", DefaultStatus: http.StatusNoContent,
	}, s.again)
	huma.Register(api, huma.Operation{
		OperationID: "list-copies-of-post", Method: http.MethodGet, Path: "/api/v1/sites/{site}/posts/{id}/copies", Summary: "Where a post is",
	}, s.ofPost)
}

// DestinationBody is what an editor says of somewhere that posts go.
type DestinationBody struct {
	Name        string `json:"name" maxLength:"200"`
	Posts       string `json:"posts,omitempty" maxLength:"1000" doc:"of a folder: pattern of the paths of posts, such as posts/{slug}.md"`
	Pages       string `json:"pages,omitempty" maxLength:"1000" doc:"of a folder: pattern of the paths of pages"`
	Pictures    string `json:"pictures,omitempty" maxLength:"1000" doc:"of a folder: the folder of pictures below it"`
	PictureLink string `json:"pictureLink,omitempty" maxLength:"4000" doc:"of a folder: what stands before a picture’s name in texts; the way from the post’s file where it is empty"`
	Address     string `json:"address,omitempty" maxLength:"1000" doc:"of a folder: pattern of the addresses at which readers find posts; not known where it is empty"`
	Archived    string `json:"archived" enum:"keep,remove" doc:"what becomes of archived posts there"`
}

func (b DestinationBody) wanted(folder string) destinations.Wanted {
	return destinations.Wanted{Name: b.Name, Archived: b.Archived, Setup: store.DestinationSetup{Folder: folder, Posts: b.Posts, Pages: b.Pages, Pictures: b.Pictures,
		PictureLink: b.PictureLink, Address: b.Address}}
}

// Destination is somewhere that posts go.
type Destination struct {
	ID   int64  `json:"id"`
	Kind string `json:"kind" enum:"folder,micropub"`
	DestinationBody
	Folder       string     `json:"folder,omitempty" doc:"its folder’s name"`
	Channel      int64      `json:"channel,omitempty" doc:"the site of one’s own, which is a channel too"`
	Home         string     `json:"home,omitempty" doc:"the site’s address"`
	SignIn       string     `json:"signIn,omitempty" doc:"why somebody has to sign in at the site again"`
	Since        *time.Time `json:"since,omitempty" doc:"posts that first came out before it are left out"`
	On           bool       `json:"on"`
	Ending       bool       `json:"ending,omitempty" doc:"its posts are being removed"`
	FailingSince *time.Time `json:"failingSince,omitempty"`
	There        int        `json:"there" doc:"posts that are there"`
	Waiting      int        `json:"waiting" doc:"posts that are still to be brought over"`
	Failing      int        `json:"failing" doc:"of those, the ones that failed at the last try and are tried again"`
	Held         int        `json:"held" doc:"posts that wait for somebody to decide"`
	Version      int        `json:"version"`
}

// OwnSiteChoice is a site of one's own that posts may go to.
type OwnSiteChoice struct {
	Channel int64  `json:"channel"`
	Name    string `json:"name"`
	Home    string `json:"home"`
}

// Hub is the hub that is told of new posts.
type Hub struct {
	Address string           `json:"address" doc:"empty: none is"`
	Told    *operation.Place `json:"told,omitempty" doc:"when it was last told"`
	Waiting bool             `json:"waiting,omitempty"`
	Error   string           `json:"error,omitempty" doc:"why the last try failed"`
	Next    *operation.Place `json:"next,omitempty" doc:"when it is tried next, where the last try failed"`
}

// Destinations is where the posts of a site go.
type Destinations struct {
	Pages        bool            `json:"pages" doc:"the built-in pages are on"`
	PagesAddress string          `json:"pagesAddress"`
	Version      int             `json:"version" doc:"of the site"`
	Hub          Hub             `json:"hub"`
	Destinations []Destination   `json:"destinations"`
	Sites        []OwnSiteChoice `json:"sites" doc:"sites of one’s own that posts don’t go to yet"`
	Folders      bool            `json:"folders" doc:"posts may go to folders"`
	Placeholders []string        `json:"placeholders" doc:"what patterns may hold"`
}

func (s part) editor(ctx context.Context) destinations.Editor {
	return destinations.Editor{Desk: operation.DeskOf(ctx), Folders: s.Folders, Allowed: s.Inside}
}

func (s part) list(ctx context.Context, in *operation.SitePath) (*struct{ Body Destinations }, error) {
	site := operation.DeskOf(ctx).Site
	all, err := s.Store.Destinations(ctx, site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	tallies, err := s.Store.Tallies(ctx, site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	channels, err := s.Store.Channels(ctx, site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	hub, err := s.hub(ctx, site)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := Destinations{Pages: site.PagesOn, PagesAddress: site.Home(s.Public).Full(""), Version: site.Version, Hub: hub, Destinations: []Destination{}, Sites: []OwnSiteChoice{},
		Folders: s.Folders != "", Placeholders: pattern.Names()}
	taken := make(map[int64]bool)
	for _, d := range all {
		one := viewDestination(d, tallies[d.ID])
		for _, c := range channels {
			if c.ID == one.Channel {
				one.Home, one.SignIn, taken[c.ID] = c.Home, c.SignInWhy, true
			}
		}
		body.Destinations = append(body.Destinations, one)
	}
	for _, c := range channels {
		if c.Kind == channel.Micropub && !taken[c.ID] {
			body.Sites = append(body.Sites, OwnSiteChoice{c.ID, c.Name, c.Home})
		}
	}
	return &struct{ Body Destinations }{body}, nil
}

func (s part) hub(ctx context.Context, site store.Site) (Hub, error) {
	h := Hub{Address: site.Hub}
	t, err := s.Store.TellingOf(ctx, site.ID)
	if errors.Is(err, store.ErrNotFound) || site.Hub == "" {
		return h, nil
	}
	if err != nil {
		return h, err
	}
	if h.Waiting, h.Error = t.Wanted > t.Done, t.Error; t.ToldAt != nil {
		told := operation.PlaceAt(site.Zone(), *t.ToldAt)
		h.Told = &told
	}
	if h.Error != "" {
		next := operation.PlaceAt(site.Zone(), t.NextAt)
		h.Next = &next
	}
	return h, nil
}

func viewDestination(d store.Destination, t store.CopyTally) Destination {
	return Destination{ID: d.ID, Kind: d.Kind, DestinationBody: DestinationBody{d.Name, d.Setup.Posts, d.Setup.Pages, d.Setup.Pictures, d.Setup.PictureLink, d.Setup.Address, d.Archived},
		Folder: d.Setup.Folder, Channel: int64(d.Channel), Since: d.Since, On: d.PausedAt == nil, Ending: d.EndingAt != nil, FailingSince: d.FailingSince,
		There: t.There, Waiting: t.Waiting, Failing: t.Failing, Held: t.Held, Version: d.Version}
}

func (s part) savePages(ctx context.Context, in *struct {
	operation.SitePath
	Body struct {
		On      bool   `json:"on"`
		Hub     string `json:"hub" maxLength:"4000"`
		Version int    `json:"version" doc:"of the site, as it was seen"`
	}
}) (*struct{}, error) {
	return nil, s.Problem(s.editor(ctx).SavePages(ctx, in.Body.On, in.Body.Hub, in.Body.Version, s.Clock.Now()))
}

func (s part) tellHub(ctx context.Context, in *operation.SitePath) (*struct{}, error) {
	site := operation.DeskOf(ctx).Site
	if site.Hub == "" {
		return nil, s.Problem(store.ErrNotFound)
	}
	return nil, s.Problem(s.Store.TellAgain(ctx, site.ID))
}

// MadeDestination is what was added.
type MadeDestination struct {
	ID int64 `json:"id"`
}

func (s part) add(ctx context.Context, in *struct {
	operation.SitePath
	Body struct {
		DestinationBody
		Kind     string `json:"kind" enum:"folder,micropub"`
		Folder   string `json:"folder,omitempty" maxLength:"200"`
		Channel  int64  `json:"channel,omitempty"`
		Existing bool   `json:"existing" doc:"posts that are out already go there too"`
	}
}) (*struct{ Body MadeDestination }, error) {
	b := in.Body
	id, err := s.editor(ctx).Add(ctx, b.Kind, b.Channel, b.wanted(b.Folder), b.Existing, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body MadeDestination }{MadeDestination{id}}, nil
}

func (s part) save(ctx context.Context, in *struct {
	operation.ItemPath
	Body struct {
		DestinationBody
		On      bool `json:"on"`
		Version int  `json:"version" doc:"the version that was seen"`
	}
}) (*struct{}, error) {
	return nil, s.Problem(s.editor(ctx).Save(ctx, in.ID, in.Body.Version, in.Body.wanted(""), in.Body.On, s.Clock.Now()))
}

func (s part) end(ctx context.Context, in *struct {
	operation.ItemPath
	Version int  `query:"version" required:"true" doc:"the version that was seen"`
	Remove  bool `query:"remove" doc:"posts that are there are removed there"`
}) (*struct{}, error) {
	return nil, s.Problem(s.editor(ctx).End(ctx, in.ID, in.Version, in.Remove, s.Clock.Now()))
}

func (s part) sendAll(ctx context.Context, in *struct {
	operation.ItemPath
	Body struct {
		Version int `json:"version" doc:"the version that was seen"`
	}
}) (*struct{}, error) {
	return nil, s.Problem(s.editor(ctx).SendAll(ctx, in.ID, in.Body.Version, s.Clock.Now()))
}

// CopyView is what has become of a post at a destination.
type CopyView struct {
	Post    int64            `json:"post"`
	Title   string           `json:"title,omitempty" doc:"absent: the post was deleted"`
	State   string           `json:"state" enum:"none,there,removed,lost"`
	Waiting bool             `json:"waiting" doc:"something is still to be brought over"`
	Held    bool             `json:"held" doc:"it waits for somebody to decide"`
	Unsure  bool             `json:"unsure,omitempty" doc:"it is not known whether the site took it"`
	Place   string           `json:"place,omitempty" doc:"its path or address there"`
	URL     string           `json:"url,omitempty" doc:"where readers find it"`
	Error   string           `json:"error,omitempty" doc:"why the last try failed"`
	Tries   int              `json:"tries,omitempty" doc:"that failed, one after another"`
	Next    *operation.Place `json:"next,omitempty" doc:"when it is tried next, where the last try failed"`
	Brought *operation.Place `json:"brought,omitempty" doc:"when it was brought over last"`
}

func viewCopy(site store.Site, c store.Copy, title string) CopyView {
	v := CopyView{Post: c.Post, Title: title, State: c.State, Waiting: c.Waits(), Held: c.Held, Unsure: c.AskedAt != nil, URL: c.URL, Error: c.Error, Tries: c.Tries}
	if c.State == store.CopyThere && len(c.Places) > 0 {
		v.Place = c.Places[0]
	}
	if c.Waits() && !c.Held && c.Error != "" {
		next := operation.PlaceAt(site.Zone(), c.NextAt)
		v.Next = &next
	}
	if c.At != nil {
		brought := operation.PlaceAt(site.Zone(), *c.At)
		v.Brought = &brought
	}
	return v
}

// Copies are the posts at a destination that somebody may want to see.
type Copies struct {
	Troubled []CopyView `json:"troubled" doc:"those that wait for somebody to decide, and those whose last try failed"`
	Latest   []CopyView `json:"latest" doc:"those that were brought over last"`
}

const (
	troubledShown = 100
	latestShown   = 30
)

func (s part) listCopies(ctx context.Context, in *operation.ItemPath) (*struct{ Body Copies }, error) {
	site := operation.DeskOf(ctx).Site
	if _, err := s.Store.Destination(ctx, site.ID, in.ID); err != nil {
		return nil, s.Problem(err)
	}
	troubled, err := s.Store.TroubledCopies(ctx, site.ID, in.ID, troubledShown)
	if err != nil {
		return nil, s.Problem(err)
	}
	latest, err := s.Store.LatestCopies(ctx, site.ID, in.ID, latestShown)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := Copies{Troubled: []CopyView{}, Latest: []CopyView{}}
	for _, c := range troubled {
		body.Troubled = append(body.Troubled, viewCopy(site, c.Copy, c.Title))
	}
	for _, c := range latest {
		body.Latest = append(body.Latest, viewCopy(site, c.Copy, c.Title))
	}
	return &struct{ Body Copies }{body}, nil
}

func (s part) again(ctx context.Context, in *struct {
	operation.ItemPath
	Post int64 `path:"post"`
	Body struct {
		Replace bool   `json:"replace,omitempty" doc:"a file that is in its place is written over"`
		URL     string `json:"url,omitempty" maxLength:"4000" doc:"the site has it, at this address"`
	}
}) (*struct{}, error) {
	return nil, s.Problem(s.editor(ctx).Again(ctx, in.ID, in.Post, destinations.Decision{Replace: in.Body.Replace, URL: in.Body.URL}, s.Clock.Now()))
}

// PlaceOfPost is where a post is, or is to be.
type PlaceOfPost struct {
	Destination int64  `json:"destination"`
	Name        string `json:"name"`
	Kind        string `json:"kind" enum:"folder,micropub"`
	CopyView
}

func (s part) ofPost(ctx context.Context, in *operation.ItemPath) (*struct{ Body []PlaceOfPost }, error) {
	site := operation.DeskOf(ctx).Site
	if _, err := s.Store.Post(ctx, site.ID, in.ID); err != nil {
		return nil, s.Problem(err)
	}
	copies, err := s.Store.CopiesOf(ctx, site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	all, err := s.Store.Destinations(ctx, site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := []PlaceOfPost{}
	for _, c := range copies {
		for _, d := range all {
			if d.ID == c.Destination {
				body = append(body, PlaceOfPost{d.ID, d.Name, d.Kind, viewCopy(site, c, "")})
			}
		}
	}
	return &struct{ Body []PlaceOfPost }{body}, nil
}
