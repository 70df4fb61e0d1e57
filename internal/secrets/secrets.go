// Package secrets makes the secrets of links and tokens. Only their hashes are kept.
package secrets

import (
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
)

// size is that of a secret, in bytes.
const size = 24

// New draws a secret, as text that fits into an address, and returns it with its hash.
func New() (text string, hash []byte) {
	var b [size]byte
	rand.Read(b[:])
	text = base64.RawURLEncoding.EncodeToString(b[:])
	return text, Hash(text)
}

// Hash is what is kept of a secret. It needs no salt and no slowness: secrets are drawn from all of 192
// bits.
func Hash(text string) []byte {
	sum := sha256.Sum256([]byte(text))
	return sum[:]
}
