// Package demo loads the demo world: Quillmoor Observatory and its blog, and the small
// blog Dark Lanes, all of it invented.
//
// Times are relative to the moment of loading; all else is the same every time.
package demo

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"hash/fnv"
	"io/fs"
	"path"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/adrg/frontmatter"
	"github.com/alexedwards/argon2id"
	"golang.org/x/sync/errgroup"

	"dapper.example/internal/demo/pictures"
	"dapper.example/internal/picture"
	"dapper.example/internal/store"
)

//go:embed posts/*.md lanes/*.md
var texts embed.FS

// Password opens every demo account.
const Password = "quiet dome at dusk"

// The demo sites' names in addresses.
const (
	SiteSlug  = "quillmoor"
	LanesSlug = "dark-lanes"
)

// Person is one of the demo's writers.
type Person struct {
	Name, Email, Role string
}

// People lists the writers of Quillmoor Observatory.
func People() []Person {
	return []Person{
		{"Ines Abara", "ines@quillmoor.example", "owner"},
		{"Tobias Wren", "tobias@quillmoor.example", "editor"},
		{"Marguerite Oyelaran", "marguerite@quillmoor.example", "editor"},
		{"Pell Hanrahan", "pell@quillmoor.example", "contributor"},
	}
}

// lanesPeople lists the writers of Dark Lanes. Ines, who is of both blogs, edits it.
func lanesPeople() []Person {
	return []Person{
		{"Rosalind Teague", "rosalind@dark-lanes.example", "owner"},
		{"Amadeu Solano", "amadeu@dark-lanes.example", "editor"},
		{"Ivo Marchetti", "ivo@dark-lanes.example", "contributor"},
		{"Ines Abara", "ines@quillmoor.example", "editor"},
	}
}

// ErrLoaded says that the demo world is there already.
var ErrLoaded = errors.New("the demo world is there already")

// seed fixes all that the demo draws.
const seed = 20

// text is a post of the demo world as it lies in its folder.
type text struct {
	Title    string   `yaml:"title"`
	Category string   `yaml:"category"`
	Author   string   `yaml:"author"`
	Tags     []string `yaml:"tags"`
	Status   string   `yaml:"status"` // published, scheduled, cleared, draft or page
	Month    int      `yaml:"month"`  // in which it came out; 0: of late
	Ago      int      `yaml:"ago"`    // so many years before the last such month
	Body     string   `yaml:"-"`
	image    *drawn
}

// drawn is a featured image.
type drawn struct {
	picture.Made
	alt string
}

func read(folder string) ([]text, error) {
	names, err := fs.Glob(texts, path.Join(folder, "*.md"))
	if err != nil {
		return nil, err
	}
	var all []text
	for _, name := range names {
		file, err := texts.Open(name)
		if err != nil {
			return nil, err
		}
		var t text
		body, err := frontmatter.MustParse(file, &t)
		file.Close()
		if err != nil {
			return nil, fmt.Errorf("reading %s: %w", name, err)
		}
		t.Body = string(body)
		all = append(all, t)
	}
	return all, nil
}

// written are the texts of both blogs with their pictures. Reading and drawing them takes
// some seconds and comes out the same each time, so it is done once.
var written = sync.OnceValues(func() (both [2][]text, err error) {
	for i, folder := range []string{"posts", "lanes"} {
		if both[i], err = read(folder); err != nil {
			return both, err
		}
	}
	if err := illustrate(both[:]...); err != nil {
		return both, fmt.Errorf("drawing the demo's pictures: %w", err)
	}
	return both, nil
})

// ErrElse says that a database holds more than the demo world.
var ErrElse = errors.New("this database holds blogs or people that are not the demo's. The demo world is only loaded into a database of its own; nothing was changed")

// alone returns ErrElse where a store holds a site that is not the demo's, or somebody
// who is neither of the demo world nor only on its sites.
func alone(ctx context.Context, q store.Queries) error {
	others, err := q.Beyond(ctx, []string{SiteSlug, LanesSlug}, emails())
	if err == nil && others {
		return ErrElse
	}
	return err
}

// emails are the addresses of the demo world's people.
func emails() (all []string) {
	for _, p := range append(People(), lanesPeople()...) {
		all = append(all, p.Email)
	}
	return all
}

// Load adds the demo world to an empty store, in one transaction; ErrLoaded where it is
// there, ErrElse where the store holds anything else.
func Load(ctx context.Context, s *store.Store, now time.Time) error {
	if err := alone(ctx, s.Queries); err != nil {
		return err
	}
	if _, err := s.SiteBySlug(ctx, SiteSlug); !errors.Is(err, store.ErrNotFound) {
		return errors.Join(err, ErrLoaded)
	}
	both, err := written()
	if err != nil {
		return err
	}
	observatory, lanes := both[0], both[1]
	hash, err := argon2id.CreateHash(Password, argon2id.DefaultParams)
	if err != nil {
		return err
	}
	return s.InTx(ctx, func(tx *store.Tx) error {
		if err := alone(ctx, tx.Queries); err != nil {
			return err
		}
		if _, err := tx.SiteBySlug(ctx, SiteSlug); !errors.Is(err, store.ErrNotFound) {
			return errors.Join(err, ErrLoaded)
		}
		w := newWorld(tx, now, hash, 1)
		if err := w.foundObservatory(ctx); err != nil {
			return fmt.Errorf("making Quillmoor Observatory: %w", err)
		}
		if err := w.fill(ctx, observatory); err != nil {
			return fmt.Errorf("filling Quillmoor Observatory: %w", err)
		}
		if err := w.scheduleFirst(ctx); err != nil {
			return fmt.Errorf("announcing tonight: %w", err)
		}
		if err := w.rules(ctx); err != nil {
			return fmt.Errorf("giving Quillmoor Observatory its rules: %w", err)
		}
		if err := w.timedEdits(ctx); err != nil {
			return fmt.Errorf("preparing changes at Quillmoor Observatory: %w", err)
		}
		if err := w.discuss(ctx); err != nil {
			return fmt.Errorf("giving Quillmoor Observatory its comments: %w", err)
		}
		small := newWorld(tx, now, hash, 2)
		if err := small.foundLanes(ctx); err != nil {
			return fmt.Errorf("making Dark Lanes: %w", err)
		}
		if err := small.fill(ctx, lanes); err != nil {
			return fmt.Errorf("filling Dark Lanes: %w", err)
		}
		if err := w.linkItems(ctx); err != nil {
			return err
		}
		return nil
	})
}

// Remove deletes the demo world and its people.
func Remove(ctx context.Context, s *store.Store) error {
	return s.InTx(ctx, func(tx *store.Tx) error {
		if err := alone(ctx, tx.Queries); err != nil {
			return err
		}
		// Who came to the demo's sites is of nothing else, and goes with them.
		everybody := emails()
		for _, slug := range []string{LanesSlug, SiteSlug} {
			site, err := tx.SiteBySlug(ctx, slug)
			if errors.Is(err, store.ErrNotFound) {
				continue
			}
			if err != nil {
				return err
			}
			members, err := tx.Members(ctx, site.ID)
			if err != nil {
				return err
			}
			for _, m := range members {
				everybody = append(everybody, strings.ToLower(m.Email))
			}
		}
		if err := tx.DeleteSite(ctx, LanesSlug, nil); err != nil {
			return err
		}
		return tx.DeleteSite(ctx, SiteSlug, everybody)
	})
}

// illustrate draws the featured images, as many at once as there are processors.
func illustrate(blogs ...[]text) error {
	group := errgroup.Group{}
	group.SetLimit(runtime.GOMAXPROCS(0))
	for _, posts := range blogs {
		for i := range posts {
			t := &posts[i]
			scene := sceneOf(*t)
			if scene == "" {
				continue
			}
			group.Go(func() error {
				image, alt := pictures.Picture(scene, t.Title)
				made, err := picture.Of(image)
				t.image = &drawn{made, alt}
				return err
			})
		}
	}
	return group.Wait()
}

// sceneOf chooses what is drawn for a post; "" for those without a picture.
func sceneOf(t text) pictures.Scene {
	title := strings.ToLower(t.Title)
	says := func(words ...string) bool {
		return slices.ContainsFunc(words, func(w string) bool { return strings.Contains(title, w) })
	}
	pick := func(scenes ...pictures.Scene) pictures.Scene {
		h := fnv.New32a()
		h.Write([]byte(t.Title))
		return scenes[int(h.Sum32())%len(scenes)]
	}
	switch {
	case t.Category == "Dome Notices" || t.Status == "draft":
		return ""
	case t.Category == "Meteor Diary":
		return pictures.Meteors
	case says("moon", "earthshine", "crater", "eclipse"):
		return pick(pictures.Moon, pictures.Phases)
	case says("jupiter", "saturn", "mars", "venus", "uranus", "mercury", "planet", "pluto"):
		return pictures.Planet
	case says("perseid", "geminid", "meteor"):
		return pictures.Meteors
	case t.Category == "Sky Guide":
		return pick(pictures.Chart, pictures.Chart, pictures.Chart, pictures.Dome)
	case t.Category == "Workbench":
		return pick(pictures.Bench, pictures.Bench, pictures.Dome)
	case t.Category == "Viewing Nights":
		return pick(pictures.Dome, pictures.Chart)
	case t.Category == "Members Write":
		return pick(pictures.Dome, pictures.Lane, pictures.Chart, pictures.Moon)
	}
	return pick(pictures.Lane, pictures.Lane, pictures.Lane, pictures.Chart)
}
