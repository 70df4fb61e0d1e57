package api

import (
	"encoding/json"
	"fmt"
	"html"
	"io/fs"
	"mime"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"dapper.example/internal/api/accounts"
)

// screens serves the built front end: its files, and its index page for every
// address that is a screen's.
func (s *Server) screens(r chi.Router) {
	files := http.FileServerFS(s.config.Web)
	parts := partsOf(s.config.Web)
	r.Get("/*", func(w http.ResponseWriter, r *http.Request) {
		name := strings.TrimPrefix(path.Clean(r.URL.Path), "/")
		if strings.HasPrefix(name, "api/") {
			http.NotFound(w, r)
			return
		}
		if info, err := fs.Stat(s.config.Web, name); err == nil && !info.IsDir() {
			if strings.HasPrefix(name, "assets/") {
				// Their names change with their contents.
				w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
				if s.packed(w, r, name) {
					return
				}
			}
			files.ServeHTTP(w, r)
			return
		}
		s.index(w, r, parts)
	})
}

// packings are how files lie packed beside themselves, the smallest first, and the endings
// of their names. Their names as codings are registered (RFC 9110, section 8.4.1; RFC 7932).
var packings = []struct{ coding, ending string }{{"br", ".br"}, {"gzip", ".gz"}}

// packed sends a file as it was packed when the screens were built, if the asker takes it
// so, and tells whether it did.
func (s *Server) packed(w http.ResponseWriter, r *http.Request, name string) bool {
	w.Header().Add("Vary", "Accept-Encoding")
	kind := mime.TypeByExtension(path.Ext(name))
	if kind == "" || r.Header.Get("Range") != "" {
		return false
	}
	for _, p := range packings {
		if !takes(r.Header.Get("Accept-Encoding"), p.coding) {
			continue
		}
		data, err := fs.ReadFile(s.config.Web, name+p.ending)
		if err != nil {
			continue
		}
		h := w.Header()
		h.Set("Content-Type", kind)
		h.Set("Content-Encoding", p.coding)
		h.Set("Content-Length", strconv.Itoa(len(data)))
		if _, err := w.Write(data); err != nil {
			s.Log.Debug("a file was not sent to its end", "file", name, "error", err)
		}
		return true
	}
	return false
}

// takes tells whether an Accept-Encoding names a coding and does not refuse it (RFC 9110,
// section 12.5.3).
func takes(accepted, coding string) bool {
	for one := range strings.SplitSeq(accepted, ",") {
		name, weight, weighted := strings.Cut(one, ";")
		if !strings.EqualFold(strings.TrimSpace(name), coding) {
			continue
		}
		if !weighted {
			return true
		}
		_, q, _ := strings.Cut(weight, "=")
		value, err := strconv.ParseFloat(strings.TrimSpace(q), 64)
		return err == nil && value > 0
	}
	return false
}

// parts are the files that each screen is made of, by its source.
type parts map[string]struct{ scripts, styles, fonts []string }

// firstFonts are the faces that every screen begins with, by how their files' names begin.
var firstFonts = []string{"assets/instrument-sans-latin-wght-normal", "assets/bodoni-moda-latin-wght-normal"}

// partsOf reads them from what the build has noted; none where it was not built.
func partsOf(web fs.FS) parts {
	if web == nil {
		return nil
	}
	raw, err := fs.ReadFile(web, "assets/manifest.json")
	if err != nil {
		return nil
	}
	var chunks map[string]struct {
		File    string   `json:"file"`
		Source  string   `json:"src"`
		Imports []string `json:"imports"`
		Styles  []string `json:"css"`
		Assets  []string `json:"assets"`
	}
	if json.Unmarshal(raw, &chunks) != nil {
		return nil
	}
	all := make(parts)
	for name, chunk := range chunks {
		if chunk.Source == "" {
			continue
		}
		of, seen := all[chunk.Source], make(map[string]bool)
		var follow func(string)
		follow = func(name string) {
			c, known := chunks[name]
			if !known || seen[name] {
				return
			}
			seen[name] = true
			for _, next := range c.Imports {
				follow(next)
			}
			of.scripts, of.styles = append(of.scripts, c.File), append(of.styles, c.Styles...)
			for _, asset := range c.Assets {
				if slices.ContainsFunc(firstFonts, func(begin string) bool { return strings.HasPrefix(asset, begin) }) {
					of.fonts = append(of.fonts, asset)
				}
			}
		}
		follow(name)
		all[chunk.Source] = of
	}
	return all
}

// mainSource is what every screen needs.
const mainSource = "src/main.tsx"

// screenSources are the sources of the screens of a site, by what follows the site in their
// addresses: the first word of it.
var screenSources = map[string]string{
	"": "almanac/AlmanacScreen", "posts": "posts/PostsScreen", "write": "editor/EditorScreen", "edits": "timed/TimedEditScreen", "tours": "tours/ToursScreen", "tour": "tours/TourScreen", "results": "results/ResultsScreen", "overdue": "overdue/OverdueScreen",
	"rhythm": "rhythm/RhythmScreen", "rules": "rules/RulesScreen", "upkeep": "upkeep/UpkeepScreen", "notice": "upkeep/NoticeScreen", "forecast": "forecast/ForecastScreen", "logbook": "logbook/LogbookScreen",
	"settings": "settings/SettingsScreen", "channels": "channels/ChannelsScreen", "prepared": "prepared/PreparedScreen", "webhooks": "webhooks/WebhooksScreen", "comments": "comments/CommentsScreen", "pictures": "pictures/PicturesScreen", "import": "imports/ImportsScreen", "people": "people/PeopleScreen", "account": "people/AccountScreen",
}

// frontDoors are addresses that are no site's. From them one goes on to the Almanac.
var frontDoors = []string{"sign-in", "forgotten", "reset", "join", "mails", "new-blog", "all-blogs"}

// ahead are the links by which a browser fetches, with the document, the scripts and the
// styles of its screen and the first data that the screen asks for. What it has no use for is
// left alone: without a sign-in there are no data.
func (p parts) ahead(address *url.URL, signedIn bool) string {
	slug, rest, _ := strings.Cut(strings.Trim(address.Path, "/"), "/")
	word, _, _ := strings.Cut(rest, "/")
	sources := []string{mainSource}
	if source, known := screenSources[word]; known && slug != "" {
		sources = append(sources, "src/features/"+source+".tsx")
	}
	var links strings.Builder
	seen := make(map[string]bool)
	link := func(form, href string) {
		if !seen[href] {
			seen[href] = true
			fmt.Fprintf(&links, form+"\n", html.EscapeString(href))
		}
	}
	for _, source := range sources {
		for _, style := range p[source].styles {
			link(`<link rel="stylesheet" crossorigin href="%s">`, "/"+style)
		}
		for _, font := range p[source].fonts {
			link(`<link rel="preload" as="font" type="font/woff2" crossorigin href="%s">`, "/"+font)
		}
		for _, script := range p[source].scripts {
			link(`<link rel="modulepreload" crossorigin href="%s">`, "/"+script)
		}
	}
	if !signedIn {
		return links.String()
	}
	const data = `<link rel="preload" as="fetch" crossorigin href="%s">`
	link(data, "/api/v1/session")
	if slug == "" || len(sources) == 1 || slices.Contains(frontDoors, slug) {
		return links.String()
	}
	site := "/api/v1/sites/" + url.PathEscape(slug) + "/"
	link(data, site+"status")
	if word == "" && !address.Query().Has("from") && !address.Query().Has("span") && !address.Query().Has("view") {
		for _, of := range []string{"almanac?days=14", "marks?days=14", "unready"} {
			link(data, site+of)
		}
	}
	return links.String()
}

func (s *Server) index(w http.ResponseWriter, r *http.Request, parts parts) {
	_, err := r.Cookie(accounts.CookieName(accounts.SessionCookie, s.Secure))
	s.page(w, r, func(page string) string {
		return strings.Replace(page, "</head>", parts.ahead(r.URL, err == nil)+"</head>", 1)
	})
}

// page serves the page that all screens begin with, with what is to be changed in it.
func (s *Server) page(w http.ResponseWriter, r *http.Request, change func(string) string) {
	page, err := fs.ReadFile(s.config.Web, "index.html")
	if err != nil {
		http.Error(w, "The screens were not built into this program. Build it with: make build",
			http.StatusInternalServerError)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-cache")
	if _, err := w.Write([]byte(change(string(page)))); err != nil {
		s.Log.Debug("a page was not sent to its end", "error", err)
	}
}
