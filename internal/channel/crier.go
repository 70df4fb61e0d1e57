package channel

import "dapper.example/internal/core/message"

// Crier is the kind of a network that reads messages out to subscribers: few a day, and words
// alone.
const Crier = "crier"

var crier = wired{kind: Crier, name: "Crier", apart: 240, aDay: 3,
	limits: message.Limits{Graphemes: 1000, Bytes: 8192, Image: message.None,
		Links: message.Links{Schemes: []string{"http", "https"}}}}
