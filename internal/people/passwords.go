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
	"dapper.example/internal/core/letters"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

const (
	// MinPassword is the fewest characters of a password.
	MinPassword = 12
	// MaxPassword is the most bytes of a password.
	MaxPassword = 1000

	// trySpan is over what time tries are counted.
	trySpan = 15 * time.Minute
)

// How often passwords may be tried. Wrong tries slow down further ones of the same kind, and
// never lock anybody out: not those from elsewhere, and not those from a browser from which
// somebody has signed in to the account before.
var (
	addressPace = store.Pace{Span: trySpan, Free: 60, Pause: 10 * time.Second} // from one address of the network
	pairPace    = store.Pace{Span: trySpan, Free: 10, Pause: time.Minute}      // for one account from one address
	accountPace = store.Pace{Span: trySpan, Free: 50, Pause: 15 * time.Second} // for one account from anywhere
	browserPace = store.Pace{Span: trySpan, Free: 10, Pause: 30 * time.Second} // from a browser that is known to it
	letterPace  = store.Pace{Span: trySpan, Free: 3, Pause: 10 * time.Minute}  // letters to one account
)

// ErrWrong says that the address or the password is not right; not which.
var ErrWrong = errors.New("wrong address or password")

// Throttled says that something was tried too often.
type Throttled struct{ After time.Duration }

// Error returns the sentence for whoever tried.
func (e *Throttled) Error() string {
	wait := fmt.Sprintf("%d seconds", int(e.After/time.Second)+1)
	if e.After >= time.Minute {
		if wait = fmt.Sprintf("%d minutes", int(e.After/time.Minute)+1); e.After < 2*time.Minute {
			wait = "two minutes"
		}
	}
	return fmt.Sprintf("Too many attempts. Try again in %s, or ask for a new password.", wait)
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
var nobody = "$argon2id$v=19$m=65536,t=1,p=2$K/sVSUvIrOksNWWXMMvgag$xh810tlME2x44nIazlapS2ufUeAH48OWKt7++bsF9Ik"

// CheckPassword tells what is wrong with a new password of a person's; names are the
// person's and their blogs'.
func CheckPassword(field, password, email string, names ...string) error {
	switch {
	case len(password) > MaxPassword:
		return invalid(field, "A password has at most %d bytes.", MaxPassword)
	case uniseg.GraphemeClusterCount(password) < MinPassword:
		return invalid(field,
			"A password has at least %d characters. Four or five words that you can remember make a good one.", MinPassword)
	case fewRunes(password):
		return invalid(field, "This password repeats one or two characters. Choose one that is harder to guess.")
	case email != "" && strings.Contains(letters.Fold(password), letters.Fold(email)):
		return invalid(field, "The password contains your e-mail address. Choose one that is harder to guess.")
	case isCommon(password):
		return invalid(field, "This password is very common. Choose one that is harder to guess.")
	}
	if local, _, _ := strings.Cut(email, "@"); isName(password, local) {
		return invalid(field, "The password is too close to your e-mail address. Choose one that is harder to guess.")
	}
	for _, name := range names {
		if isName(password, name) {
			return invalid(field, "The password is too close to the name “%s”. Choose one that is harder to guess.",
				shortened(name))
		}
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
	Browser string // the secret by which their browser is known; "" for none
}

// maxAgent is how much of what a browser says of itself is kept, in bytes.
const maxAgent = 300

func (c Caller) Browsing() string {
	return strings.ToValidUTF8(strings.ReplaceAll(c.Agent[:min(len(c.Agent), maxAgent)], "\x00", ""), "")
}

// SignIn checks a password and notes the sign-in, whose id it returns. It fails with
// ErrWrong, or with *Throttled before a password is looked at.
func (h House) SignIn(ctx context.Context, email, password string, from Caller, now time.Time) (store.User, int64,
	error) {
	user, err := h.prove(ctx, email, password, from, now)
	if err != nil {
		return user, 0, err
	}
	id, err := h.Store.InsertSignIn(ctx, store.SignIn{User: user.ID, BeganAt: now, Address: from.Address,
		Agent: from.Browsing()})
	return user, id, err
}

// Recognise makes a browser known from which somebody has signed in, and returns the secret
// that it is to keep: its own, where it has one.
func (h House) Recognise(ctx context.Context, user int64, from Caller, now time.Time) (secret string, err error) {
	secret = from.Browser
	if secret == "" || len(secret) > maxBrowser {
		secret, _ = secrets.New()
	}
	return secret, h.Store.KnowBrowser(ctx, secrets.Hash(secret), user, now)
}

// maxBrowser is the longest secret of a browser that is looked at, in bytes.
const maxBrowser = 100

// prove checks a password.
func (h House) prove(ctx context.Context, email, password string, from Caller, now time.Time) (store.User, error) {
	email = strings.TrimSpace(email)
	user, err := h.Store.UserByEmail(ctx, email)
	known := err == nil
	if !known && !errors.Is(err, store.ErrNotFound) {
		return store.User{}, err
	}
	keys, err := h.slowDown(ctx, letters.Fold(email), user.ID, from, now)
	if err != nil {
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
	for _, key := range keys { // what goes well counts for nothing
		if err := h.Store.TakeBackTry(ctx, key); err != nil {
			return user, err
		}
	}
	return user, nil
}

// slowDown counts a try for an account and returns under which keys; it fails with
// *Throttled where there were too many of its kind.
func (h House) slowDown(ctx context.Context, account string, user int64, from Caller, now time.Time) (keys []string,
	err error) {
	kinds := []struct {
		key  string
		pace store.Pace
	}{{"address " + from.Address, addressPace}, {"pair " + from.Address + " " + account, pairPace}, {"account " +
		account, accountPace}}
	if from.Browser != "" && len(from.Browser) <= maxBrowser {
		hash := secrets.Hash(from.Browser)
		knows, err := h.Store.KnowsBrowser(ctx, hash, user, now)
		if err != nil {
			return nil, err
		}
		if knows {
			kinds = kinds[:1]
			kinds[0].key, kinds[0].pace = fmt.Sprintf("browser %x %d", hash, user), browserPace
		}
	}
	for _, kind := range kinds {
		wait, err := h.Store.Try(ctx, kind.key, now, kind.pace)
		if err != nil {
			return nil, fmt.Errorf("counting sign-ins: %w", err)
		}
		if wait > 0 {
			return nil, &Throttled{wait}
		}
		keys = append(keys, kind.key)
	}
	return keys, nil
}

// ChangePassword gives a person another password, and ends their other sign-ins, their
// tokens and what links for another password are out.
func (h House) ChangePassword(ctx context.Context, user store.User, signIn int64, old, next string, from Caller,
	now time.Time) error {
	names, err := h.namesOf(ctx, user)
	if err != nil {
		return err
	}
	if err := CheckPassword("next", next, user.Email, names...); err != nil {
		return err
	}
	if _, err := h.prove(ctx, user.Email, old, from, now); err != nil {
		if errors.Is(err, ErrWrong) {
			return invalid("old", "That is not your current password. Enter the one you sign in with.")
		}
		return err
	}
	hash, err := hashPassword(ctx, next)
	if err != nil {
		return err
	}
	return h.Store.InTx(ctx, func(tx *store.Tx) error { return h.setPassword(ctx, tx, user.ID, signIn, hash, now) })
}

// namesOf are the names of a person and of their blogs.
func (h House) namesOf(ctx context.Context, user store.User) ([]string, error) {
	names := []string{user.Name}
	memberships, err := h.Store.Memberships(ctx, user.ID)
	for _, m := range memberships {
		names = append(names, m.Title, m.Slug)
	}
	return names, err
}

func (h House) setPassword(ctx context.Context, tx *store.Tx, user, keep int64, hash string, now time.Time) error {
	if err := tx.SavePassword(ctx, user, hash); err != nil {
		return err
	}
	if err := tx.ForgetSecrets(ctx, user, now); err != nil {
		return err
	}
	_, err := tx.EndSignIns(ctx, user, keep, now)
	return err
}

// AskReset has a link for another password sent, where the address is one of ours. It does
// the same for any address, so that nobody learns whether it is, not by its time either.
func (h House) AskReset(ctx context.Context, email string, from Caller, now time.Time) error {
	email = strings.TrimSpace(email)
	wait, err := h.Store.Try(ctx, "address "+from.Address, now, addressPace)
	if err != nil {
		return err
	}
	if wait > 0 {
		return &Throttled{wait}
	}
	wait, err = h.Store.Try(ctx, "reset "+letters.Fold(email), now, letterPace)
	if err != nil || wait > 0 {
		return err // enough letters are under way
	}
	return h.Store.InTx(ctx, func(tx *store.Tx) error { return h.Mail.Reset(ctx, tx, email) })
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
			return &Ended{"This link is an invitation, not a password link."}
		}
		user, err := tx.User(ctx, *found.User)
		if err != nil {
			return err
		}
		names, err := h.namesOf(ctx, user)
		if err != nil {
			return err
		}
		if err := CheckPassword("password", next, user.Email, names...); err != nil {
			return err
		}
		if hash, err = hashPassword(ctx, next); err != nil {
			return err
		}
		if err := tx.UseSecret(ctx, found, now); err != nil {
			return err
		}
		if err := tx.ForgetTries(ctx, "account "+letters.Fold(user.Email)); err != nil {
			return err
		}
		return h.setPassword(ctx, tx, user.ID, 0, hash, now)
	})
}
