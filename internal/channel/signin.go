package channel

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"time"

	"golang.org/x/oauth2"
)

// programName is the client_id by which networks know the program. It is no secret: who signs in proves that it is the
// same program by PKCE.
const programName = "dapper-almanac"

// Tokens are what a network gives to whoever signed in.
type Tokens struct {
	Access  string
	Refresh string    // "": it has to be signed in anew when the access ends
	Ends    time.Time // of the access; zero: never
	Me      string    // the site that says so, of one that speaks IndieAuth
}

// Desk is the sign-in of one network at an address, by OAuth 2.0 with an authorization code (RFC 6749,
// section 4.1) and PKCE (RFC 7636).
type Desk struct {
	config oauth2.Config
	by     *http.Client // nil: the one for networks
	me     string       // the site that is signed in to, of one that speaks IndieAuth
}

// SignInAt returns the sign-in of a network at an address; back is where it leads back to.
func SignInAt(address, back string) Desk {
	return Desk{config: oauth2.Config{ClientID: programName, RedirectURL: back, Scopes: []string{"post"},
		Endpoint: oauth2.Endpoint{AuthURL: at(address, "/oauth/authorize"), TokenURL: at(address, "/oauth/token"),
			AuthStyle: oauth2.AuthStyleInParams}}}
}

// Addresses says where networks are to be found: each at its kind below the base.
type Addresses struct{ Base string }

// Of is the address of a network of a kind.
func (a Addresses) Of(kind string) string { return at(a.Base, "/"+kind) }

// Practice names the wall of a stand-in on which messages are tried before they are real, and its one account.
const Practice = "practice"

// Practice is the account of a network's practice wall.
func (a Addresses) Practice(kind string) Account {
	return Account{Address: a.Of(kind) + "/" + Practice, Token: Practice}
}

// NewVerifier draws what proves, later, that it is the same program.
func NewVerifier() string { return oauth2.GenerateVerifier() }

// Page is the page on which people allow the program to post in their name.
func (d Desk) Page(state, verifier string) string {
	options := []oauth2.AuthCodeOption{oauth2.S256ChallengeOption(verifier)}
	if d.me != "" {
		options = append(options, oauth2.SetAuthURLParam("me", d.me))
	}
	return d.config.AuthCodeURL(state, options...)
}

// Take exchanges the code of somebody who allowed it for tokens.
func (d Desk) Take(ctx context.Context, code, verifier string) (Tokens, error) {
	t, err := d.config.Exchange(d.through(ctx), code, oauth2.VerifierOption(verifier))
	if err != nil {
		return Tokens{}, told(err)
	}
	me, _ := t.Extra("me").(string)
	return Tokens{t.AccessToken, t.RefreshToken, t.Expiry, me}, nil
}

// Renew gets new tokens for one that ended. It fails with *SignedOut where the network does not
// know it any more.
func (d Desk) Renew(ctx context.Context, refresh string) (Tokens, error) {
	t, err := d.config.TokenSource(d.through(ctx), &oauth2.Token{RefreshToken: refresh}).Token()
	if err != nil {
		return Tokens{}, told(err)
	}
	return Tokens{t.AccessToken, t.RefreshToken, t.Expiry, ""}, nil
}

// through has requests go the way of messages.
func (d Desk) through(ctx context.Context) context.Context {
	if d.by != nil {
		return context.WithValue(ctx, oauth2.HTTPClient, d.by)
	}
	return context.WithValue(ctx, oauth2.HTTPClient, client)
}

// told reads what a network said against giving tokens.
func told(err error) error {
	var refused *oauth2.RetrieveError
	if errors.As(err, &refused) && refused.Response != nil && refused.Response.StatusCode < 500 &&
		refused.Response.StatusCode != http.StatusTooManyRequests {
		why := refused.ErrorDescription
		if why == "" {
			why = "the network no longer accepts this sign-in"
		}
		return &SignedOut{why}
	}
	return fmt.Errorf("asking the network for tokens: %w", err)
}

// Handle asks a network who somebody is there.
func Handle(ctx context.Context, a Account) (string, error) {
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, at(a.Address, "/api/me"), nil)
	if err != nil {
		return "", &Refused{Reason: "the channel's address is not one"}
	}
	request.Header.Set("Authorization", "Bearer "+a.Token)
	answer, text, err := ask(request)
	if err != nil {
		return "", err
	}
	var me struct {
		Handle string `json:"handle"`
	}
	if answer.StatusCode != http.StatusOK || json.Unmarshal(text, &me) != nil || me.Handle == "" {
		return "", fmt.Errorf("the network did not say who signed in (it answered %s)", answer.Status)
	}
	return me.Handle, nil
}
