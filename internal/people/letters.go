package people

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/store"
)

// Letter is a mail, in plain text, and in HTML that says the same where there is any.
type Letter struct {
	To, Subject, Text, HTML string
	// End is where one click ends mails of its kind (RFC 8058); "": nowhere.
	End string
	// ID is the same for a letter at each try, "": one is made.
	ID string
}

// The paths of the screens that the links of letters open. The secret stands behind a
// hash sign, so that no server is sent it in an address and none logs it.
const (
	joinPath  = "/join#"
	resetPath = "/reset#"
)

// JoinLink is the address of an invitation.
func JoinLink(public, secret string) string { return public + joinPath + secret }

// ErrNotWanted says that a letter has become needless.
var ErrNotWanted = errors.New("the letter is not wanted any more")

// WriteInvitation writes the letter of an invitation, with a secret that is made for
// it: none waits in the database to be sent. It fails with ErrNotWanted.
func WriteInvitation(ctx context.Context, q store.Queries, id int64, public string, now time.Time) (Letter, error) {
	i, err := q.Invitation(ctx, id)
	if errors.Is(err, store.ErrNotFound) || err == nil && (i.AcceptedAt != nil || !now.Before(i.ExpiresAt)) {
		return Letter{}, ErrNotWanted
	}
	if err != nil {
		return Letter{}, err
	}
	zone, err := civil.LoadZone(i.ZoneName)
	if err != nil {
		return Letter{}, err
	}
	until := zone.DateOf(i.ExpiresAt).Words(zone.DateOf(now)) + zone.In(i.ExpiresAt).Format(", 15:04") + " in " +
		zone.City()
	secret, err := mintFor(ctx, q, store.LinkSecret{Invitation: &id, CreatedAt: now, ExpiresAt: i.ExpiresAt})
	return Letter{
		To: i.Email, Subject: OneLine(fmt.Sprintf("%s invites you to write for %s", i.Who, i.SiteTitle)),
		Text: OneLine(fmt.Sprintf("%s invites you to join “%s” as %s.", i.Who, i.SiteTitle, withArticle(i.Role))) +
			"\n\n" +
			"Accept the invitation here:\n\n" + JoinLink(public, secret) + "\n\n" +
			"The link works once, until " + until + ".\n" +
			"If you weren't expecting this, ignore it and nothing will happen.\n",
	}, err
}

// WriteReset writes the letter by which a person chooses another password.
func WriteReset(ctx context.Context, q store.Queries, email, public string, now time.Time) (Letter, error) {
	user, err := q.UserByEmail(ctx, email)
	if errors.Is(err, store.ErrNotFound) {
		return Letter{}, ErrNotWanted
	}
	if err != nil {
		return Letter{}, err
	}
	secret, err := mintFor(ctx, q, store.LinkSecret{User: &user.ID, CreatedAt: now, ExpiresAt: now.Add(ResetLife)})
	return Letter{
		To: user.Email, Subject: "Choose a new password for Dapper Almanac",
		Text: "Hello " + OneLine(user.Name) +
			",\n\nSomebody asked for a new password for your account. Choose one here:\n\n" +
			public + resetPath + secret + "\n\n" +
			"The link works once, within two hours. If it wasn't you, ignore this mail: your password stays the same.\n",
	}, err
}

func withArticle(role string) string {
	if strings.ContainsRune("aeiou", rune(role[0])) {
		return "an " + role
	}
	return "a " + role
}

// OneLine makes one line of text that others have written.
func OneLine(text string) string {
	return strings.Join(strings.FieldsFunc(text, func(r rune) bool {
		return r <= ' ' || r == 0x7f || r == '\u2028' ||
			r == '\u2029'
	}), " ")
}
