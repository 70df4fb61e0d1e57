package api

import (
	"net/http"
	"strconv"

	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

// lineHeader carries the id of the logbook's line that tells of what a request did,
// where undoing that line takes it back. What a rule did is undone where its runs are
// shown.
const lineHeader = "Logbook-Line"

// tell has answers to requests that change something name their line of the logbook.
func tell(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodGet || r.Method == http.MethodHead {
			next.ServeHTTP(w, r)
			return
		}
		ctx, told := store.Telling(r.Context())
		next.ServeHTTP(&telling{ResponseWriter: w, told: told}, r.WithContext(ctx))
	})
}

// telling adds the header once the answer is known to be a good one.
type telling struct {
	http.ResponseWriter
	told *store.LogEntry
	done bool
}

func (t *telling) WriteHeader(status int) {
	if !t.done && status < http.StatusBadRequest && t.told.ID != 0 && (t.told.Rule == nil || t.told.Deed == store.DeedRule) && planning.CanUndo(*t.told) {
		t.Header().Set(lineHeader, strconv.FormatInt(t.told.ID, 10))
	}
	t.done = true
	t.ResponseWriter.WriteHeader(status)
}

func (t *telling) Write(p []byte) (int, error) {
	if !t.done {
		t.WriteHeader(http.StatusOK)
	}
	return t.ResponseWriter.Write(p)
}

// Unwrap is for http.ResponseController.
func (t *telling) Unwrap() http.ResponseWriter { return t.ResponseWriter }
