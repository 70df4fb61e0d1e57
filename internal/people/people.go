// Package people keeps who may sign in and what they may do: passwords, sign-ins,
// invitations, roles and tokens for scripts.
//
// Secrets (passwords, tokens, the links of mails) leave it once, to whom they are for;
// only hashes are kept, and nothing of them is ever logged. It has no clock: callers
// say what time it is.
package people

import (
	"context"
	"errors"
	"fmt"
	"net/mail"
	"strings"
	"time"
	"unicode"

	"dapper.example/internal/act"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

// Role is what a person is on a site.
type Role string

// The roles, each with all that the later ones may do. A contributor writes drafts and
// hands them in, and sees the plan; an editor decides what comes out and when; an owner
// also decides who is on the site.
const (
	Owner       Role = "owner"
	Editor      Role = "editor"
	Contributor Role = "contributor"
)

// Covers tells whether the role may do what the other may.
func (r Role) Covers(other Role) bool { return rank(r) >= rank(other) }

func rank(r Role) int {
	switch r {
	case Owner:
		return 3
	case Editor:
		return 2
	case Contributor:
		return 1
	}
	return 0
}

// Mailer puts letters into a transaction; they leave once it is committed.
type Mailer interface {
	// Invite asks somebody to join a site.
	Invite(ctx context.Context, tx *store.Tx, invitation int64) error
	// Reset sends whoever has an address a link by which to choose another password; to an
	// address of nobody's, nothing is sent.
	Reset(ctx context.Context, tx *store.Tx, email string) error
	// AskSubscriber asks somebody to confirm that they want a blog's mails.
	AskSubscriber(ctx context.Context, tx *store.Tx, subscriber int64) error
}

// House is where the people of all sites are kept.
type House struct {
	Store *store.Store
	Mail  Mailer
}

const (
	// InvitationLife is how long an invitation stands.
	InvitationLife = 7 * 24 * time.Hour
	// ResetLife is how long the link of a password reset opens.
	ResetLife = 2 * time.Hour
	maxEmail  = 254 // RFC 5321, section 4.5.3.1.3, less the brackets
	maxName   = 80
)

// Ended says that a link opens nothing: it was used or taken back, or its time is over.
type Ended struct{ Why string }

// Error returns the sentence for whoever followed the link.
func (e *Ended) Error() string { return e.Why }

func invalid(field, format string, args ...any) error {
	return &act.Invalid{Field: field, Message: fmt.Sprintf(format, args...)}
}

// checkEmail returns an address as it is kept.
func checkEmail(email string) (string, error) {
	email = strings.TrimSpace(email)
	parsed, err := mail.ParseAddress(email)
	if err != nil || parsed.Address != email || len(email) > maxEmail {
		return "", invalid("email", "“%s” is not an e-mail address. Write it as name@place.example.", shortened(email))
	}
	return email, nil
}

func shortened(text string) string {
	if r := []rune(text); len(r) > 60 {
		return string(r[:60]) + "…"
	}
	return text
}

// CheckName returns a person's name as it is kept.
func CheckName(name string) (string, error) {
	name = strings.Join(strings.Fields(name), " ")
	switch n := letters.Length(name, maxName); {
	case n == 0:
		return "", invalid("name", "Enter the name that readers see under your posts.")
	case n > maxName:
		return "", invalid("name", "The name has %d characters; at most %d fit.", n, maxName)
	case strings.ContainsFunc(name, unicode.IsControl):
		return "", invalid("name", "The name has a control character in it. Remove it.")
	}
	return name, nil
}

// maxAbout is the longest line about a person, in characters.
const maxAbout = 300

// CheckAbout returns a line about a person as it is kept; it may be empty.
func CheckAbout(about string) (string, error) {
	about = strings.Join(strings.Fields(about), " ")
	switch {
	case letters.Length(about, maxAbout) > maxAbout:
		return "", invalid("about", "The line has more than %d characters. Shorten it.", maxAbout)
	case strings.ContainsFunc(about, unicode.IsControl):
		return "", invalid("about", "The line has a control character in it. Remove it.")
	}
	return about, nil
}

func checkRole(role Role) error {
	if rank(role) == 0 {
		return invalid("role", "A role is owner, editor or contributor.")
	}
	return nil
}

// mintFor makes a secret that opens an invitation or the reset of a user's password.
func mintFor(ctx context.Context, q store.Queries, s store.LinkSecret) (string, error) {
	secret, hash := secrets.New()
	s.Hash = hash
	return secret, q.InsertSecret(ctx, s)
}

// open finds what a link's secret opens. It fails with *Ended.
func open(ctx context.Context, q store.Queries, secret string, now time.Time) (store.LinkSecret, error) {
	found, err := q.Secret(ctx, secrets.Hash(secret))
	switch {
	case errors.Is(err, store.ErrNotFound):
		return found, &Ended{"This link doesn’t work: it is incomplete, or it was replaced or withdrawn. Ask for a new one."}
	case err != nil:
		return found, fmt.Errorf("looking up a link: %w", err)
	case found.UsedAt != nil:
		return found, &Ended{"This link has already been used. If it wasn’t you, ask for a new one."}
	case !now.Before(found.ExpiresAt):
		return found, &Ended{"This link has expired. Ask for a new one."}
	}
	return found, nil
}
