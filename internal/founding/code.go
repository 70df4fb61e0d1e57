package founding

import (
	"cmp"
	"context"
	"crypto/rand"
	"crypto/subtle"
	"errors"
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/people"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

const (
	// codeSigns are what a setup code is written with: 32 signs of which no two look alike.
	codeSigns = "23456789ABCDEFGHJKLMNPQRSTUVWXYZ"
	// codeLength is how many of them it has: 80 bits of chance.
	codeLength = 16
	// codeGroup is how many are written together.
	codeGroup = 4
)

// Wrong setup codes slow down further tries from the same address.
var codePace = store.Pace{Span: 15 * time.Minute, Free: 10, Pause: 20 * time.Second}

var (
	// ErrSetUp says that the program has been set up already.
	ErrSetUp = errors.New("the program has been set up already")
	// ErrWrongCode says that a setup code is not the one that is wanted.
	ErrWrongCode = errors.New("wrong setup code")
)

// newCode draws a setup code.
func newCode() string {
	var drawn [codeLength]byte
	rand.Read(drawn[:])
	var code strings.Builder
	for i, b := range drawn {
		if i > 0 && i%codeGroup == 0 {
			code.WriteByte('-')
		}
		code.WriteByte(codeSigns[int(b)%len(codeSigns)])
	}
	return code.String()
}

// hashOf is what is kept of a code. However it was typed, in small letters, with spaces or
// without hyphens, it is the same code.
func hashOf(code string) []byte {
	return secrets.Hash(strings.ToUpper(strings.Map(func(r rune) rune {
		if r == '-' || r == ' ' || r == '\u00a0' || r == '\t' || r == '\n' || r == '\r' {
			return -1
		}
		return r
	}, code)))
}

// FirstCode makes the setup code of a program that was never set up and has none yet. It
// returns "" for all others: a code is shown once.
func FirstCode(ctx context.Context, q store.Queries) (string, error) {
	code := newCode()
	kept, err := q.FirstSetupCode(ctx, hashOf(code))
	if err != nil || !kept {
		return "", err
	}
	return code, nil
}

// AnotherCode makes a setup code in place of the one there is. It fails with ErrSetUp.
func AnotherCode(ctx context.Context, q store.Queries) (string, error) {
	code := newCode()
	err := q.SaveSetupCode(ctx, hashOf(code))
	if errors.Is(err, store.ErrNotFound) {
		return "", ErrSetUp
	}
	return code, err
}

// CheckCode tells whether a setup code is right. It fails with ErrSetUp, ErrWrongCode or
// *people.Throttled.
func CheckCode(ctx context.Context, q store.Queries, code string, from people.Caller, now time.Time) error {
	is, err := q.IsSetUp(ctx)
	if err != nil {
		return fmt.Errorf("looking whether the program has been set up: %w", err)
	}
	if is {
		return ErrSetUp
	}
	key := "setup " + from.Address
	wait, err := q.Try(ctx, key, now, codePace)
	if err != nil {
		return fmt.Errorf("counting setup codes: %w", err)
	}
	if wait > 0 {
		return &people.Throttled{After: wait}
	}
	right, err := q.SetupCode(ctx)
	if err != nil {
		return fmt.Errorf("reading the setup code: %w", err)
	}
	if len(right) == 0 || subtle.ConstantTimeCompare(hashOf(code), right) == 0 {
		// Somebody may have set it up meanwhile, and the code has gone with that.
		if is, err = q.IsSetUp(ctx); is && err == nil {
			err = ErrSetUp
		}
		return cmp.Or(err, ErrWrongCode)
	}
	return q.TakeBackTry(ctx, key) // what goes well counts for nothing
}
