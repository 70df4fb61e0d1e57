package operation

import (
	"context"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/store"
	"dapper.example/internal/undo"
)

// lineHeader carries the id of the logbook's line that tells of what a request did,
// where undoing that line takes it back; noLine where it cannot be undone, or not by this
// line alone: what a rule did is undone where its runs are shown. Answers to questions,
// also to those that are asked by POST, do not have it.
const (
	lineHeader = "Logbook-Line"
	noLine     = "none"
)

type tellingKey struct{}

// answerOf is the answer to a request that may change something; nil to others.
func answerOf(ctx context.Context) *telling {
	answer, _ := ctx.Value(tellingKey{}).(*telling)
	return answer
}

// Question is an operation that changes nothing, though it is asked by POST since what it
// asks about does not fit into an address.
func Question(op huma.Operation) huma.Operation {
	op.Middlewares = append(op.Middlewares, func(ctx huma.Context, next func(huma.Context)) {
		answerOf(ctx.Context()).asking = true
		next(ctx)
	})
	return op
}

// Tell has answers to requests that change something name their line of the logbook.
func Tell(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodGet || r.Method == http.MethodHead {
			next.ServeHTTP(w, r)
			return
		}
		answer := &telling{ResponseWriter: w}
		next.ServeHTTP(answer, r.WithContext(context.WithValue(r.Context(), tellingKey{}, answer)))
	})
}

// telling adds the header once the answer is known to be a good one.
type telling struct {
	http.ResponseWriter
	told   store.LogEntry // the last line that was written
	asking bool           // the request is a question
	done   bool
}

// storeOf is the store through which a request changes things: its answer hears of the lines
// of the logbook.
func storeOf(ctx context.Context, s *store.Store) *store.Store {
	answer := answerOf(ctx)
	if answer == nil {
		return s
	}
	return s.Telling(func(line store.LogEntry) { answer.told = line })
}

func (t *telling) WriteHeader(status int) {
	if !t.done && !t.asking && status < http.StatusBadRequest {
		line := noLine
		if t.told.ID != 0 && (t.told.Rule == nil || t.told.Deed == store.DeedRule || t.told.Deed == store.DeedOuting) && undo.CanUndo(t.told) {
			line = strconv.FormatInt(t.told.ID, 10)
		}
		t.Header().Set(lineHeader, line)
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
