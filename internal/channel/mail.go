package channel

import (
	"context"
	"errors"

	"dapper.example/internal/core/message"
)

// Mail is the kind of mailing lists: a message goes, by SMTP, to everybody who asked for it.
const Mail = "mail"

type mailing struct{}

// Kind is the name that is kept with a channel.
func (mailing) Kind() string { return Mail }

// Name is what people call it.
func (mailing) Name() string { return "Mailing list" }

// Limits is what a message may be: a mail has any length.
func (mailing) Limits() message.Limits {
	return message.Limits{Bytes: 64 << 10, Image: message.None, Links: message.Links{Schemes: []string{"http", "https"}}}
}

// Pace is what a channel keeps to begin with: nobody wants more mails than this.
func (mailing) Pace() (apart, aDay int) { return 240, 2 }

// Media is how many pictures a message may bring along.
func (mailing) Media() int { return 0 }

// Crop is how pictures are cut.
func (mailing) Crop() float64 { return 0 }

// Send is for networks; what is mailed goes to each subscriber (package deliver).
func (mailing) Send(context.Context, Account, Message) (Receipt, error) {
	return Receipt{}, errors.New("a mailing list has no one address")
}
