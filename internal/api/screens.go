package api

import (
	"io/fs"
	"net/http"
	"path"
	"strings"

	"github.com/go-chi/chi/v5"
)

// screens serves the built front end: its files, and its index page for every
// address that is a screen's.
func (s *Server) screens(r chi.Router) {
	files := http.FileServerFS(s.Web)
	r.Get("/*", func(w http.ResponseWriter, r *http.Request) {
		name := strings.TrimPrefix(path.Clean(r.URL.Path), "/")
		if strings.HasPrefix(name, "api/") {
			http.NotFound(w, r)
			return
		}
		if info, err := fs.Stat(s.Web, name); err == nil && !info.IsDir() {
			if strings.HasPrefix(name, "assets/") {
				// Their names change with their contents.
				w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
			}
			files.ServeHTTP(w, r)
			return
		}
		s.index(w)
	})
}

func (s *Server) index(w http.ResponseWriter) {
	page, err := fs.ReadFile(s.Web, "index.html")
	if err != nil {
		http.Error(w, "The screens were not built into this program. Build it with: make build", http.StatusInternalServerError)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-cache")
	w.Write(page)
}
