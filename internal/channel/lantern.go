package channel

import "dapper.example/internal/core/message"

// Lantern is the kind of a network of short messages.
const Lantern = "lantern"

var lantern = wired{kind: Lantern, name: "Lantern", apart: 20, aDay: 24, media: 4, crop: 16.0 / 9,
	limits: message.Limits{Graphemes: 320, Bytes: 8192, Hashtags: 4, Image: message.Allowed, Replies: true,
		Links: message.Links{Schemes: []string{"http", "https"}, Cost: 24}}}
