package people

import "github.com/alexedwards/argon2id"

// What passwords cost outside of tests.
var (
	Costs  = costs
	Nobody = nobody
)

// The tests hash hundreds of passwords; what one costs is tested by itself.
func init() {
	costs.Memory = 64
	cheap, err := argon2id.CreateHash("a password that nobody has", &costs)
	if err != nil {
		panic(err)
	}
	nobody = cheap
}
