// Package channel knows the networks that messages go to: what each can take, and how
// to hand it a message.
//
// Each network is one implementation of Network, in a file of its own, entered in the
// list below. A network is handed each message with a key. Handed the same key again, it
// answers as the first time and shows the message once; so a message may be sent again
// whenever it is not known whether it arrived.
package channel

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"time"

	"dapper.example/internal/core/message"
)

// Network is one kind of network.
type Network interface {
	// Kind is the name that is kept with a channel.
	Kind() string
	// Name is what people call it.
	Name() string
	// Limits is what a message may be.
	Limits() message.Limits
	// Pace is what a channel keeps to begin with: fewest minutes between two messages, and
	// the most messages a day.
	Pace() (apart, aDay int)
	// Media is how many pictures a message may bring along; 0: none.
	Media() int
	// Crop is how pictures are cut where they are shown: width over height; 0: not at all.
	Crop() float64
	// Send hands a message over, by itself or under another one. It fails with *Refused,
	// *Later or *SignedOut where the network says so; any other error leaves open whether the message
	// arrived, and it may be sent again with the same key.
	Send(ctx context.Context, a Account, m Message) (Receipt, error)
}

// networks are those on which accounts are signed in to, and others what else a channel may be.
var (
	networks = []Network{lantern, vitrine, hearth, crier}
	others   = []Network{micropub{}, mailing{}, webhook, hands}
)

// All lists the networks on which accounts are signed in to.
func All() []Network { return slices.Clone(networks) }

// Others lists what else a channel may be.
func Others() []Network { return slices.Clone(others) }

// Of returns the network of a kind; ok is false where there is none.
func Of(kind string) (n Network, ok bool) {
	for _, n := range slices.Concat(networks, others) {
		if n.Kind() == kind {
			return n, true
		}
	}
	return nil, false
}

// Account is where and as whom messages are sent.
type Account struct {
	Address, Token string

	// What only those that are no network need.
	Name   string       // of the channel
	Done   string       // where it is told what became of the message
	Now    time.Time    // when it is sent
	Client *http.Client // which reaches addresses that people entered; nil: the one for networks
}

// Message is what a network is handed.
type Message struct {
	Key     string // the same for the same message, however often it is sent
	Text    string
	ReplyTo string // the network's id of the message it goes under; "": under none
	Media   []Media
}

// Media is a picture that a message brings along.
type Media struct {
	Type string `json:"type"` // such as image/webp
	Alt  string `json:"alt"`  // what it shows
	Data []byte `json:"data"`
}

// Receipt is a network's word that it has taken a message.
type Receipt struct {
	ID  string `json:"id"`
	URL string `json:"url"`
	// Handed tells that the message was only handed on: it is told later that it was sent.
	Handed bool `json:"-"`
}

// Refused says that the network will not take the message, now or later.
type Refused struct {
	Reason string
	// OfMessage tells that the network objects to this message. Otherwise it objects to
	// whoever sends it: another message would fare no better.
	OfMessage bool
}

// Error gives the network's reason.
func (e *Refused) Error() string { return "refused: " + e.Reason }

// SignedOut says that the network does not know the account's token any more.
type SignedOut struct{ Reason string }

// Error gives the network's reason.
func (e *SignedOut) Error() string { return "signed out: " + e.Reason }

// Later says that the network asks to be left alone for a while.
type Later struct{ After time.Duration }

// Error says for how long.
func (e *Later) Error() string { return fmt.Sprintf("asked to wait %s", e.After) }
