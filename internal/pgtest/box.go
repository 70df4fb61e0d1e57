package pgtest

import "dapper.example/internal/secrets"

// Box seals tokens in tests.
var Box = box()

func box() *secrets.Box {
	b, err := secrets.NewBox(secrets.NewKey())
	if err != nil {
		panic(err)
	}
	return b
}
