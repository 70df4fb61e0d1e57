package people

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/rivo/uniseg"

	"dapper.example/internal/budget"
	"dapper.example/internal/store"
)

const (
	// MinPassword is the fewest characters of a password.
	MinPassword = 12
	// MaxPassword is the most bytes of a password.
	MaxPassword = 1000

	// trySpan is over what time tries are counted.
	trySpan = 15 * time.Minute
	// accountTries and addressTries are how many passwords may be tried for one
	// account, and from one address of the network, within that time.
	accountTries = 10
	addressTries = 60
	// resetTries is how many letters one account may be sent within that time.
	resetTries = 3
)

// ErrWrong says that the address or the password is not right; not which.
var ErrWrong = errors.New("wrong address or password")

// Throttled says that something was tried too often.
type Throttled struct{ After time.Duration }

// Error returns the sentence for whoever tried.
func (e *Throttled) Error() string {
	minutes := int(e.After/time.Minute) + 1
	plural := "s"
	if minutes == 1 {
		plural = ""
	}
	return fmt.Sprintf("That was tried too often. Try again in %d minute%s, or have a new password sent to you.", minutes, plural)
}

const (
	// hashingAtOnce is how many passwords are hashed at once: each takes 64 MB for a moment.
	hashingAtOnce    = 2
	hashingMegabytes = 64
	// hashingQueue is how many more may wait for their turn, and hashingWait for how long.
	hashingQueue = 8
	hashingWait  = 5 * time.Second
)

// costs of a password's hash: RFC 9106, section 4, with the memory in KiB.
var costs = argon2id.Params{Memory: 64 << 10, Iterations: 1, Parallelism: 2, SaltLength: 16, KeyLength: 32}

// gate lets so many through at once and lets so many wait.
type gate struct {
	inside, waiting chan struct{}
	patience        time.Duration
}

var hashing = gate{make(chan struct{}, hashingAtOnce), make(chan struct{}, hashingAtOnce+hashingQueue), hashingWait}

// enter waits for a turn, for as long as the gate allows and the asker is there; leave ends
// it. It fails with budget.ErrBusy.
func (g gate) enter(ctx context.Context) (leave func(), err error) {
	select {
	case g.waiting <- struct{}{}:
	default:
		return nil, budget.ErrBusy
	}
	timer := time.NewTimer(g.patience)
	defer timer.Stop()
	select {
	case g.inside <- struct{}{}:
		release, err := budget.Take(ctx, hashingMegabytes, g.patience)
		if err != nil {
			<-g.inside
			<-g.waiting
			return nil, err
		}
		return func() { release(); <-g.inside; <-g.waiting }, nil
	case <-timer.C:
		<-g.waiting
		return nil, budget.ErrBusy
	case <-ctx.Done():
		<-g.waiting
		return nil, ctx.Err()
	}
}

func hashPassword(ctx context.Context, password string) (string, error) {
	leave, err := hashing.enter(ctx)
	if err != nil {
		return "", err
	}
	defer leave()
	return argon2id.CreateHash(password, &costs)
}

func fits(ctx context.Context, password, hash string) (bool, error) {
	leave, err := hashing.enter(ctx)
	if err != nil {
		return false, err
	}
	defer leave()
	return argon2id.ComparePasswordAndHash(password, hash)
}

// nobody is compared with where an address is unknown, so that both cases take as
// long. It is the hash of a password that nobody has, by the parameters of all others.
const nobody = "$argon2id$v=19$m=65536,t=1,p=2$K/sVSUvIrOksNWWXMMvgag$xh810tlME2x44nIazlapS2ufUeAH48OWKt7++bsF9Ik"

// CheckPassword tells what is wrong with a new password of a person's.
func CheckPassword(field, password, email string) error {
	switch {
	case uniseg.GraphemeClusterCount(password) < MinPassword:
		return invalid(field, "A password has at least %d characters. Four or five words that you can remember make a good one.", MinPassword)
	case len(password) > MaxPassword:
		return invalid(field, "A password has at most %d bytes.", MaxPassword)
	case fewRunes(password):
		return invalid(field, "This password repeats one or two characters. Choose one that is harder to guess.")
	case email != "" && strings.Contains(strings.ToLower(password), strings.ToLower(email)):
		return invalid(field, "The password contains your e-mail address. Choose one that is harder to guess.")
	}
	return nil
}

func fewRunes(text string) bool {
	seen := make(map[rune]bool)
	for _, r := range text {
		seen[r] = true
	}
	return len(seen) < 3
}

// Caller is where somebody asks from.
type Caller struct {
	Address string // of the network
	Agent   string // what their browser says of itself
}

// maxAgent is how much of what a browser says of itself is kept, in bytes.
const maxAgent = 300

func (c Caller) agent() string {
	return strings.ToValidUTF8(strings.ReplaceAll(c.Agent[:min(len(c.Agent), maxAgent)], "\x00", ""), "")
}

// SignIn checks a password and notes the sign-in, whose id it returns. It fails with
// ErrWrong, or with *Throttled before a password is looked at.
func (h House) SignIn(ctx context.Context, email, password string, from Caller, now time.Time) (store.User, int64, error) {
	user, err := h.prove(ctx, email, password, from, now)
	if err != nil {
		return user, 0, err
	}
	id, err := h.Store.InsertSignIn(ctx, store.SignIn{User: user.ID, BeganAt: now, Address: from.Address, Agent: from.agent()})
	return user, id, err
}

// prove checks a password.
func (h House) prove(ctx context.Context, email, password string, from Caller, now time.Time) (store.User, error) {
	account := "account " + strings.ToLower(strings.TrimSpace(email))
	for _, counted := range []struct {
		key  string
		most int
	}{{"address " + from.Address, addressTries}, {account, accountTries}} {
		n, began, err := h.Store.Try(ctx, counted.key, now, trySpan)
		if err != nil {
			return store.User{}, fmt.Errorf("counting sign-ins: %w", err)
		}
		if n > counted.most {
			return store.User{}, &Throttled{began.Add(trySpan).Sub(now)}
		}
	}
	user, err := h.Store.UserByEmail(ctx, strings.TrimSpace(email))
	known := err == nil
	if !known && !errors.Is(err, store.ErrNotFound) {
		return store.User{}, err
	}
	hash := user.PasswordHash
	if !known {
		hash = nobody
	}
	right, err := fits(ctx, password, hash)
	if err != nil {
		return store.User{}, fmt.Errorf("comparing passwords: %w", err)
	}
	if !known || !right {
		return store.User{}, ErrWrong
	}
	return user, h.Store.ForgetTries(ctx, account)
}

// ChangePassword gives a person another password, and ends their other sign-ins.
func (h House) ChangePassword(ctx context.Context, user store.User, signIn int64, old, next string, from Caller, now time.Time) error {
	if err := CheckPassword("next", next, user.Email); err != nil {
		return err
	}
	if _, err := h.prove(ctx, user.Email, old, from, now); err != nil {
		if errors.Is(err, ErrWrong) {
			return invalid("old", "That is not your present password. Write it as you sign in with it.")
		}
		return err
	}
	hash, err := hashPassword(ctx, next)
	if err != nil {
		return err
	}
	return h.Store.InTx(ctx, func(tx *store.Tx) error { return h.setPassword(ctx, tx, user.ID, signIn, hash, now) })
}

func (h House) setPassword(ctx context.Context, tx *store.Tx, user, keep int64, hash string, now time.Time) error {
	if err := tx.SavePassword(ctx, user, hash); err != nil {
		return err
	}
	_, err := tx.EndSignIns(ctx, user, keep, now)
	return err
}

// AskReset sends a link for another password, where the address is one of ours. It
// tells nobody whether it is.
func (h House) AskReset(ctx context.Context, email string, from Caller, now time.Time) error {
	n, began, err := h.Store.Try(ctx, "address "+from.Address, now, trySpan)
	if err != nil {
		return err
	}
	if n > addressTries {
		return &Throttled{began.Add(trySpan).Sub(now)}
	}
	user, err := h.Store.UserByEmail(ctx, strings.TrimSpace(email))
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	n, _, err = h.Store.Try(ctx, fmt.Sprint("reset ", user.ID), now, trySpan)
	if err != nil || n > resetTries {
		return err // enough letters are under way
	}
	return h.Store.InTx(ctx, func(tx *store.Tx) error { return h.Mail.Reset(ctx, tx, user.ID) })
}

// Reset gives the person whom a mail's link was for another password, and ends all
// their sign-ins. It fails with *Ended.
func (h House) Reset(ctx context.Context, secret, next string, now time.Time) error {
	hash := ""
	return h.Store.InTx(ctx, func(tx *store.Tx) error {
		found, err := open(ctx, tx.Queries, secret, now)
		if err != nil {
			return err
		}
		if found.User == nil {
			return &Ended{"This link is an invitation, not one for another password."}
		}
		user, err := tx.User(ctx, *found.User)
		if err != nil {
			return err
		}
		if err := CheckPassword("password", next, user.Email); err != nil {
			return err
		}
		if hash, err = hashPassword(ctx, next); err != nil {
			return err
		}
		if err := tx.UseSecret(ctx, found, now); err != nil {
			return err
		}
		if err := tx.ForgetTries(ctx, "account "+strings.ToLower(user.Email)); err != nil {
			return err
		}
		return h.setPassword(ctx, tx, user.ID, 0, hash, now)
	})
}
