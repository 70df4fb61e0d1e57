// Package page reads a web page at an address that somebody entered: its title and what it says. What is read is bounded whatever the page holds.
package page

import (
	"context"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"strings"
	"time"

	"dapper.example/internal/budget"
	"dapper.example/internal/intake/articles"
	"dapper.example/internal/reach"
)

// Limits of what is read.
const (
	MaxBytes  = 2 << 20
	redirects = 5
	// megabytes is what it takes to read a page, made for nothing but to take much.
	megabytes = 64
	patience  = 10 * time.Second
)

// Failed says, in a sentence, why a page could not be fetched or read.
type Failed struct{ Why string }

func (f *Failed) Error() string { return f.Why }

// Page is a page as it was read.
type Page struct {
	articles.Page
	Address string // after redirects
}

// Fetch reads the page at an address. It fails with *Failed.
func Fetch(ctx context.Context, allowed reach.Allowed, address string) (Page, error) {
	if why := allowed.Check(address); why != "" {
		return Page{}, &Failed{Why: why}
	}
	c := reach.Client(allowed)
	c.CheckRedirect = func(r *http.Request, before []*http.Request) error {
		if len(before) > redirects {
			return errors.New("it leads from one address to another without end")
		}
		if why := allowed.Check(r.URL.String()); why != "" {
			return errors.New("it leads to an address that can't be used")
		}
		return nil
	}
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return Page{}, &Failed{Why: "That is no address."}
	}
	request.Header.Set("Accept", "text/html, application/xhtml+xml;q=0.9")
	request.Header.Set("User-Agent", "DapperAlmanac/1.0")
	answer, err := c.Do(request)
	if err != nil {
		return Page{}, &Failed{Why: reach.Reason(err)}
	}
	defer answer.Body.Close()
	if answer.StatusCode != http.StatusOK {
		return Page{}, &Failed{Why: fmt.Sprintf("It answered %s.", strings.TrimSpace(fmt.Sprintf("%d %s", answer.StatusCode, http.StatusText(answer.StatusCode))))}
	}
	if kind, _, err := mime.ParseMediaType(answer.Header.Get("Content-Type")); err != nil || kind != "text/html" && kind != "application/xhtml+xml" {
		return Page{}, &Failed{Why: "It is no web page."}
	}
	data, err := io.ReadAll(io.LimitReader(answer.Body, MaxBytes+1))
	if err != nil {
		return Page{}, &Failed{Why: "It was not read to its end: " + reach.Reason(err)}
	}
	if len(data) > MaxBytes {
		return Page{}, &Failed{Why: fmt.Sprintf("It has more than %d MB.", MaxBytes>>20)}
	}
	release, err := budget.Take(ctx, megabytes, patience)
	if err != nil {
		return Page{}, err
	}
	defer release()
	read, why := articles.ReadPage(data)
	if why != "" {
		return Page{}, &Failed{Why: why}
	}
	if read.Title == "" {
		read.Title = answer.Request.URL.Host
	}
	return Page{read, answer.Request.URL.String()}, nil
}
