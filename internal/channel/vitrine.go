package channel

import "dapper.example/internal/core/message"

// Vitrine is the kind of a network of pictures: no message without one.
const Vitrine = "vitrine"

var vitrine = wired{kind: Vitrine, name: "Vitrine", apart: 60, aDay: 10, media: 8, crop: 1,
	limits: message.Limits{Graphemes: 2200, Bytes: 16384, Hashtags: 12, Image: message.Required,
		Links: message.Links{Schemes: []string{"http", "https"}}}}
