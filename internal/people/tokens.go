package people

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/core/letters"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

// Scope is what a token may be used for, within its person's role.
type Scope string

// The scopes of tokens. What concerns people, passwords and tokens is open to none.
const (
	Read  Scope = "read"  // look at everything
	Write Scope = "write" // write drafts and posts, and bring pictures
	Plan  Scope = "plan"  // change the plan, rules and settings
)

// Scopes lists all scopes.
func Scopes() []Scope { return []Scope{Read, Write, Plan} }

const (
	// tokenMark begins every token, so that one that got lost can be known for what it is.
	tokenMark = "dapper_"
	maxTokens = 50
	// MaxTokenLife is how long a token may last.
	MaxTokenLife = 366 * 24 * time.Hour
	hintLength   = 4
)

// MakeToken makes a token for a person on a site and returns it; it is not kept.
func (h House) MakeToken(ctx context.Context, site store.Site, user int64, name string, scopes []Scope,
	life time.Duration, now time.Time) (store.Token, string, error) {
	name = strings.Join(strings.Fields(name), " ")
	switch n := letters.Length(name, maxName); {
	case n == 0:
		return store.Token{}, "", invalid("name", "Say what the token is used for.")
	case n > maxName:
		return store.Token{}, "", invalid("name", "The name has %d characters; at most %d fit.", n, maxName)
	case len(scopes) == 0:
		return store.Token{}, "", invalid("scopes", "Choose at least one permission.")
	case life <= 0 || life > MaxTokenLife:
		return store.Token{}, "", invalid("days", "A token lasts from 1 to %d days.", MaxTokenLife/(24*time.Hour))
	}
	token := store.Token{SiteID: site.ID, User: user, Name: name, CreatedAt: now, ExpiresAt: now.Add(life)}
	for _, s := range scopes {
		if !slices.Contains(Scopes(), s) {
			return token, "", invalid("scopes", "“%s” is not a permission. Choose from read, write and plan.",
				shortened(string(s)))
		}
		if !slices.Contains(token.Scopes, string(s)) {
			token.Scopes = append(token.Scopes, string(s))
		}
	}
	there, err := h.Store.Tokens(ctx, site.ID)
	if err != nil {
		return token, "", err
	}
	if len(there) >= maxTokens {
		return token, "", invalid("name",
			"The site already has %d tokens, the most it can have. Revoke one that is not used.", maxTokens)
	}
	secret, _ := secrets.New()
	secret = tokenMark + secret
	token.Hash, token.Hint = secrets.Hash(secret), secret[len(secret)-hintLength:]
	token.ID, err = h.Store.InsertToken(ctx, token)
	return token, secret, err
}

// EndToken ends a token: one's own, or any for an owner.
func (h House) EndToken(ctx context.Context, site store.Site, user int64, role Role, id int64) error {
	tokens, err := h.Store.Tokens(ctx, site.ID)
	if err != nil {
		return err
	}
	for _, t := range tokens {
		if t.ID == id && (t.User == user || role.Covers(Owner)) {
			return h.Store.DeleteToken(ctx, site.ID, id)
		}
	}
	return store.ErrNotFound
}

// ErrNoToken says that a token is unknown or has expired.
var ErrNoToken = errors.New("unknown or expired token")

// Bearer finds the token that a script shows, and its person. It fails with ErrNoToken.
func (h House) Bearer(ctx context.Context, secret string, now time.Time) (store.Token, store.User, error) {
	token, err := h.Store.TokenByHash(ctx, secrets.Hash(secret), now)
	if errors.Is(err, store.ErrNotFound) {
		return token, store.User{}, ErrNoToken
	}
	if err != nil {
		return token, store.User{}, err
	}
	user, err := h.Store.User(ctx, token.User)
	return token, user, err
}
