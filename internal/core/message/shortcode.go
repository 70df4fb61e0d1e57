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

// ShortCode is the code of the short link of a post in the messages of a rule.
func ShortCode(site, rule, post int64) string {
	h := cadence.Mix(uint64(site), uint64(rule), uint64(post)) >> (64 - codeBits)
	code := strconv.FormatUint(h, 36)
	return strings.Repeat("0", max(10-len(code), 0)) + code
}
