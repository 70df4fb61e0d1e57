package operation

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"reflect"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/budget"
	"dapper.example/internal/core/check"
	"dapper.example/internal/gate"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

// Problem is how every operation says what went wrong (RFC 9457).
type Problem struct {
	Type   string              `json:"type,omitempty" doc:"always about:blank"`
	Title  string              `json:"title"`
	Status int                 `json:"status"`
	Detail string              `json:"detail" doc:"what happened, what was kept, and what to do"`
	Errors []*huma.ErrorDetail `json:"errors,omitempty" doc:"what is wrong, field by field"`
}

// Error returns the detail.
func (p *Problem) Error() string { return p.Detail }

// GetStatus returns the HTTP status.
func (p *Problem) GetStatus() int { return p.Status }

// problemType is the media type of a Problem (RFC 9457, section 6.1).
const problemType = "application/problem+json"

// ContentType is that of RFC 9457, section 6.1.
func (p *Problem) ContentType(string) string { return problemType }

func init() {
	huma.DefaultArrayNullable = false // a list is empty, never null
	// huma makes every error through this one function.
	huma.NewError = func(status int, message string, errs ...error) huma.StatusError {
		p := &Problem{Title: http.StatusText(status), Status: status, Detail: message}
		if status == http.StatusRequestEntityTooLarge {
			p.Detail = "That is too large. Nothing was saved; send it in smaller parts."
		}
		var left int
		p.Errors, left = errorDetails(errs)
		// of one field, and not of the whole body
		if len(p.Errors) > 0 && strings.HasSuffix(p.Errors[0].Message, gate.NULSays) {
			field, _, named := strings.Cut(p.Errors[0].Message, ": ")
			p.Errors[0].Message, p.Detail = gate.NULSays, gate.NULSays
			if p.Title, p.Status = http.StatusText(http.StatusUnprocessableEntity),
				http.StatusUnprocessableEntity; named {
				p.Errors[0].Location = "body." + field
			}
		}
		if message == "validation failed" && len(p.Errors) > 0 {
			first := p.Errors[0]
			p.Detail = fmt.Sprintf("Something here can’t be used: %s: %s.", first.Location, first.Message)
		}
		if left > 0 {
			p.Detail += fmt.Sprintf(" (and %d more)", left+len(p.Errors)-1)
		}
		return p
	}
}

// Problem turns an error of the packages below into an answer. What is not known
// here is a fault of ours: it is logged and its text kept from the reader.
func (s *Tools) Problem(err error) error {
	var known huma.StatusError
	var bad *act.Invalid
	if err == nil {
		return nil
	}
	if said := peopleProblem(err); said != nil {
		return said
	}
	switch {
	case errors.As(err, &known):
		return known
	case errors.As(err, &bad):
		return Invalid(bad)
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound("There is no such thing on this site.")
	case errors.Is(err, act.ErrStale):
		return huma.Error409Conflict("Somebody changed this meanwhile. Nothing was overwritten; look at it as it is now and try again.")
	}
	if store.IsUnfit(err) {
		s.Log.Warn("something that was sent did not fit the database", "error", err)
		return huma.Error422UnprocessableEntity("A number, date or text in this is too large to save. Nothing was changed; check it and try again.")
	}
	if errors.Is(err, context.DeadlineExceeded) {
		return huma.Error503ServiceUnavailable("This took too long and was stopped. Nothing was changed; ask for less, or try again.")
	}
	if errors.Is(err, context.Canceled) {
		return huma.NewError(statusGone, "The request was ended before it was answered.")
	}
	s.Log.Error("an operation failed", "error", err)
	return huma.Error500InternalServerError("Something went wrong on our side. Nothing was changed; please try again.")
}

// Conflict has an operation answer 409 with more than a Problem: an S, which holds one and
// what there is now instead of what was seen.
func Conflict[S any](api huma.API, op huma.Operation) huma.Operation {
	schema := api.OpenAPI().Components.Schemas.Schema(reflect.TypeFor[S](), true, "")
	op.Responses = map[string]*huma.Response{strconv.Itoa(http.StatusConflict): {
		Description: http.StatusText(http.StatusConflict),
		Content:     map[string]*huma.MediaType{problemType: {Schema: schema}}}}
	return op
}

// Outdated answers 409 with the proposal as it is now, where it is not the one that was
// shown: answer adds it to the problem. Other errors are answered as problem does.
func Outdated[P act.Proposed](s *Tools, err error, answer func(p Problem, now P) error) error {
	var other *act.Outdated[P]
	if !errors.As(err, &other) {
		return s.Problem(err)
	}
	return answer(Problem{Title: http.StatusText(http.StatusConflict), Status: http.StatusConflict,
		Detail: err.Error()},
		other.Now)
}

// statusGone is for whoever asked and did not wait: nobody reads it, but the log is not to
// call it a failure of ours.
const statusGone = 499

// Invalid says what is wrong with the fields of a request body.
func Invalid(problems ...*act.Invalid) error {
	p := &Problem{Title: http.StatusText(http.StatusUnprocessableEntity), Status: http.StatusUnprocessableEntity}
	for _, bad := range problems[:min(len(problems), mostErrors)] {
		p.Errors = append(p.Errors, &huma.ErrorDetail{Location: clipped("body."+bad.Field, longestPlace),
			Message: clipped(bad.Message, longestError)})
	}
	p.Detail = p.Errors[0].Message
	if len(problems) > 1 {
		p.Detail = fmt.Sprintf("%s (and %d more)", p.Detail, len(problems)-1)
	}
	return p
}

// InvalidFields refuses a body for all that is wrong with it.
func InvalidFields(problems []check.FieldProblem) error {
	bad := make([]*act.Invalid, len(problems))
	for i, p := range problems {
		bad[i] = &act.Invalid{Field: p.Path, Message: p.Message}
	}
	return Invalid(bad...)
}

const (
	// mostErrors is how many errors of fields one answer lists.
	mostErrors = 20
	// longestError and longestPlace bound each of them, in bytes.
	longestError = 300
	longestPlace = 200
)

// errorDetails lists what is wrong with a request, a few at most and without the values:
// they are the sender's, and may be as long as the request.
func errorDetails(errs []error) (details []*huma.ErrorDetail, left int) {
	for _, err := range errs {
		if err == nil {
			continue
		}
		if len(details) == mostErrors {
			left++
			continue
		}
		// The text of a huma error holds the whole value, at a cost of its own.
		var detail *huma.ErrorDetail
		if detailer, ok := err.(huma.ErrorDetailer); ok {
			detail = detailer.ErrorDetail()
		} else {
			detail = &huma.ErrorDetail{Message: err.Error()}
		}
		details = append(details, &huma.ErrorDetail{Message: clipped(detail.Message, longestError),
			Location: clipped(detail.Location, longestPlace)})
	}
	return details, left
}

// clipped is the beginning of a text, in whole characters.
func clipped(text string, most int) string {
	if len(text) <= most {
		return text
	}
	return strings.ToValidUTF8(text[:most], "") + "…"
}

// peopleProblem turns errors of people into answers; it returns nil for others.
func peopleProblem(err error) error {
	var ended *people.Ended
	var throttled *people.Throttled
	switch {
	case errors.As(err, &ended):
		return huma.NewError(http.StatusGone, ended.Why)
	case errors.As(err, &throttled):
		return huma.Error429TooManyRequests(throttled.Error())
	case errors.Is(err, budget.ErrBusy):
		return huma.ErrorWithHeaders(huma.Error503ServiceUnavailable("The server is busy. Nothing was changed; try again in a few seconds."), http.Header{"Retry-After": {"5"}})
	case store.IsDuplicate(err):
		return huma.Error409Conflict("Somebody did this at the same time. Look at it as it is now and try again.")
	}
	return nil
}

// SettingsStale says that somebody else has saved the settings of the site.
func SettingsStale() error {
	return huma.Error409Conflict("Somebody saved the settings meanwhile. Nothing was overwritten; load them again to see theirs.")
}
