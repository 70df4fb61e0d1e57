package pgtest

import (
	"github.com/alexedwards/argon2id"

	"dapper.example/internal/secrets"
)

// Box seals tokens in tests.
var Box = box()

func box() *secrets.Box {
	b, err := secrets.NewBox(secrets.NewKey())
	if err != nil {
		panic(err)
	}
	return b
}

// CheapHash hashes a password at next to no cost, for tests that sign in and guess no passwords.
func CheapHash(password string) (string, error) {
	return argon2id.CreateHash(password, &argon2id.Params{Memory: 8, Iterations: 1, Parallelism: 1, SaltLength: 8, KeyLength: 16})
}
