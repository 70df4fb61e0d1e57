package api

import (
	"context"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"

	"dapper.example/internal/api/rhythms"
	"dapper.example/internal/api/rules"
	"dapper.example/internal/limited"
)

// Whatever a body holds, it is read or turned away, at little cost, with a short answer.
func FuzzBody(f *testing.F) {
	for _, text := range []string{
		`{}`, `{"kind":"expire","name":"x","condition":{"group":"all","parts":[{"test":"age","match":"over","n":1000,"unit":"days"}]},"action":"archive","cadence":{"by":"every","n":1,"unit":"days","at":"04:00"}}`,
		`{"name":"a\u0000b"}`, "{\"name\":\"\xff\"}", strings.Repeat("[", 200), strings.Repeat(`{"a":`, 200), `{` +
			strings.Repeat(`"kkkkkkkkkkkkkkkkkkkkkkkkkk":1,`, 300) + `"z":1}`,
		`{"mostARun":1e400}`, `{"mostARun":9223372036854775808}`, `{"name":"` + strings.Repeat("e\u0301", 3000) +
			`"}`, `{"name":"x"} trailing`, "\ufeff{}", `{"name":"\ud800"}`,
	} {
		f.Add([]byte(text))
	}
	s := New(context.Background(), Config{})
	router := chi.NewRouter()
	router.Use(s.gate.Sane)
	api := humachi.New(router, s.form())
	huma.Register(api, huma.Operation{OperationID: "rule", Method: http.MethodPost, Path: "/rule",
		DefaultStatus: http.StatusNoContent},
		func(context.Context, *struct{ Body rules.RuleBody }) (*struct{}, error) { return nil, nil })
	huma.Register(api, huma.Operation{OperationID: "season", Method: http.MethodPost, Path: "/season",
		DefaultStatus: http.StatusNoContent},
		func(context.Context, *struct{ Body rhythms.Season }) (*struct{}, error) { return nil, nil })
	f.Fuzz(func(t *testing.T, body []byte) {
		for _, path := range []string{"/rule", "/season"} {
			request := httptest.NewRequest(http.MethodPost, path, strings.NewReader(string(body)))
			request.Header.Set("Content-Type", "application/json")
			answer := httptest.NewRecorder()
			limited.Work(t, 100, func() { router.ServeHTTP(answer, request) })
			if answer.Code >= 500 || answer.Body.Len() > 16<<10 {
				t.Fatalf("%d with %d bytes: %.200s", answer.Code, answer.Body.Len(), answer.Body)
			}
		}
	})
}
