package message

import (
	"strconv"
	"strings"

	"dapper.example/internal/core/cadence"
)

// ShortPath is where short links begin.
const ShortPath = "/s/"

// codeBits is how many bits of a hash a short link's code is made of: ten characters.
const codeBits = 50

// ShortCode is the code of the short link of one outing: of a post (0: of none), by a rule (0:
// by none), on a channel, with a turn or at a time in seconds since 1970. One code tells
// nothing of the next.
func ShortCode(site, rule, post, channel, due int64) string {
	h := cadence.Mix(uint64(site), uint64(rule), uint64(post), uint64(channel), uint64(due)) >> (64 - codeBits)
	code := strconv.FormatUint(h, 36)
	return strings.Repeat("0", max(10-len(code), 0)) + code
}
