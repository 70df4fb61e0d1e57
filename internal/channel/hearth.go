package channel

import "dapper.example/internal/core/message"

// Hearth is the kind of a network of long messages and replies.
const Hearth = "hearth"

var hearth = wired{kind: Hearth, name: "Hearth", apart: 45, aDay: 12, media: 6, crop: 1.91,
	limits: message.Limits{Graphemes: 5000, Bytes: 32768, Hashtags: 3, Image: message.Allowed, Replies: true,
		Links: message.Links{Schemes: []string{"http", "https"}}}}
