// Package operation is what all operations of the API share: who asks and whether they may, what they
// work with, how they say what went wrong, and the moments and paths in what they take and give.
package operation

import (
	"log/slog"

	"github.com/alexedwards/scs/v2"
	"github.com/jonboulle/clockwork"

	"dapper.example/internal/blog"
	"dapper.example/internal/channel"
	"dapper.example/internal/enact"
	"dapper.example/internal/people"
	"dapper.example/internal/reach"
	"dapper.example/internal/secrets"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

// Tools are what operations work with.
type Tools struct {
	Store    *store.Store
	Clock    clockwork.Clock
	Log      *slog.Logger
	Queue    enact.Sharer  // of what leaves the house
	Mail     people.Mailer // of letters to people
	Public   string        // where readers and editors reach the program, such as https://blog.example
	Sessions *scs.SessionManager
	Renderer *blog.Renderer
	Secure   bool              // it is reached by https only
	Box      *secrets.Box      // seals the tokens of channels
	Networks channel.Addresses // where networks are
	memo     Memo              // answers that take long
	Inside   reach.Allowed     // hosts of the own network that addresses entered by people may lead to
	Folders  string            // below which the folders lie that posts are written to; "": there are none
}

// House is where people and their accounts are looked after.
func (s *Tools) House() people.House { return people.House{Store: s.Store, Mail: s.Mail} }

// Book reads a site's rules, and foretells what they do.
func (s *Tools) Book(site store.Site) siterules.Book {
	return siterules.Book{Site: site, Public: s.Public}
}

// SessionSignIn is the session's key for the id of its sign-in.
const SessionSignIn = "sign-in"
