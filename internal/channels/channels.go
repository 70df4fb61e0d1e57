// Package channels keeps a site's accounts on networks: they are connected by signing in there,
// paused, changed, copied to another site and deleted.
//
// It has no clock: callers say what time it is.
package channels

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/signed"
	"dapper.example/internal/core/words"
	"dapper.example/internal/reach"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

// Editor is somebody who works on the channels of one site.
type Editor struct {
	act.Desk
	Box      *secrets.Box // seals tokens
	Networks channel.Addresses
	Back     string // where sign-ins lead back to
	Inside   reach.Allowed
	Public   string // where the program is reached: sites know it by that
}

// Limits of what an editor says of a channel.
const (
	maxName     = 60
	maxChannels = 50 // of one site
	maxApart    = 2880
	maxADay     = 1000
	// patience is for how long somebody may take to allow it.
	patience = 15 * time.Minute
)

// Begin begins to connect a network, or a site of one's own by its address, or with a channel to sign it in again, and
// returns the page of the network on which the editor allows it.
func (d Editor) Begin(ctx context.Context, kind, home string, id int64, now time.Time) (page string, err error) {
	address := ""
	if id != 0 {
		c, err := d.Store.Channel(ctx, d.Site.ID, id)
		if err != nil {
			return "", err
		}
		kind, address, home = c.Kind, c.Address, c.Home
	}
	if _, known := channel.Of(kind); !known || channel.IsOutside(kind) || kind == channel.Mail {
		return "", act.Invalidf("kind", "There is no network %q. Choose one of those shown.", kind)
	}
	if id == 0 {
		all, err := d.Store.Channels(ctx, d.Site.ID)
		if err != nil {
			return "", err
		}
		if len(all) >= maxChannels {
			return "", act.Invalidf("kind", "A blog has %d channels at most. Delete one first.", maxChannels)
		}
		address = d.Networks.Of(kind)
	}
	desk := channel.SignInAt(address, d.Back)
	if kind == channel.Micropub {
		if home = strings.TrimSpace(home); !strings.Contains(home, "://") {
			home = "https://" + home
		}
		if desk, address, err = d.atSite(ctx, home); err != nil {
			return "", err
		}
	}
	state, hash := secrets.New()
	verifier := channel.NewVerifier()
	err = d.Store.InsertConnection(ctx, store.Connection{State: hash, SiteID: d.Site.ID, User: d.Actor, Channel: store.ID(id), Kind: kind,
		Address: address, Verifier: d.Box.Seal(verifier), CreatedAt: now})
	if err != nil {
		return "", fmt.Errorf("noting that %s is being connected: %w", kind, err)
	}
	return desk.Page(state, verifier), nil
}

// atSite is the sign-in of a site of one's own, and the address by which it is known.
func (d Editor) atSite(ctx context.Context, home string) (desk channel.Desk, me string, err error) {
	if problem := d.Inside.Check(home); problem != "" {
		return desk, "", act.Invalidf("address", "%s", problem)
	}
	site, err := channel.Discover(ctx, reach.Client(d.Inside), home)
	if err != nil {
		return desk, "", act.Invalidf("address", "This site can’t be connected: %s.", err)
	}
	return channel.SignInAtSite(site, d.Public+"/", d.Back, reach.Client(d.Inside)), site.Me, nil
}

// Add adds a channel that is no network's account: messages are handed to a program at an address, or, with outside
// hands and no address, to people. It returns the channel's id and its secret, which is told only now; "" where it
// has no address. A mailing list has subscribers instead.
func (d Editor) Add(ctx context.Context, kind, name, address string, now time.Time) (id int64, secret string, err error) {
	if !channel.IsOutside(kind) && kind != channel.Mail {
		return 0, "", act.Invalidf("kind", "Channels of that kind are signed in to.")
	}
	network, _ := channel.Of(kind)
	address = strings.TrimSpace(address)
	switch {
	case kind == channel.Mail:
		address = ""
	case address == "" && kind == channel.Webhook:
		return 0, "", act.Invalidf("address", "Enter the address that messages are sent to.")
	case address != "":
		if problem := d.Inside.Check(address); problem != "" {
			return 0, "", act.Invalidf("address", "%s", problem)
		}
		var random [signed.SecretSize]byte
		rand.Read(random[:])
		secret = signed.NewSecret(random)
	}
	c := store.Channel{SiteID: d.Site.ID, Kind: kind, Name: name, Address: address, Token: d.Box.Seal(secret)}
	c.Apart, c.ADay = network.Pace()
	if err := check(&c); err != nil {
		return 0, "", err
	}
	err = d.Change(ctx, func(tx *store.Tx) error {
		all, err := tx.Channels(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if len(all) >= maxChannels {
			return act.Invalidf("kind", "A blog has %d channels at most. Delete one first.", maxChannels)
		}
		if slices.ContainsFunc(all, func(o store.Channel) bool { return strings.EqualFold(o.Name, c.Name) }) {
			return act.Invalidf("name", "There is a channel of that name. Choose another.")
		}
		if id, err = tx.InsertChannel(ctx, c); err != nil {
			return err
		}
		return d.log(ctx, tx, fmt.Sprintf("The channel %s was added.", c.Name), now)
	})
	return id, secret, err
}

// ErrUnknown says that a sign-in was not begun by this person here, or too long ago.
var ErrUnknown = errors.New("this sign-in was not begun here, or too long ago")

// Answer is what a network led the editor back with.
type Answer struct {
	State, Code string
	Problem     string // an error of RFC 6749, section 4.1.2.1; "": none
}

// Connected is a channel that was connected or signed in again.
type Connected struct {
	SiteID, Channel int64
	Again           bool // it was there before
}

// SiteOf is the site for which somebody began a sign-in; it fails with ErrUnknown where they did not.
func SiteOf(ctx context.Context, s *store.Store, a Answer, user int64, now time.Time) (int64, error) {
	c, err := s.Connection(ctx, secrets.Hash(a.State))
	if errors.Is(err, store.ErrNotFound) || err == nil && (c.User != user || now.Sub(c.CreatedAt) > patience) {
		return 0, ErrUnknown
	}
	return c.SiteID, err
}

// Finish exchanges what the network answered for tokens and adds the channel, or signs it in again.
// The network is asked outside of any transaction; an answer is good once. It fails with
// *act.Invalid where the editor or the network said no.
func (d Editor) Finish(ctx context.Context, a Answer, now time.Time) (Connected, error) {
	c, err := d.Store.TakeConnection(ctx, secrets.Hash(a.State))
	if errors.Is(err, store.ErrNotFound) || err == nil && (c.User != d.Actor || c.SiteID != d.Site.ID || now.Sub(c.CreatedAt) > patience) {
		return Connected{}, ErrUnknown
	}
	if err != nil {
		return Connected{}, err
	}
	network, _ := channel.Of(c.Kind)
	if a.Problem != "" || a.Code == "" {
		return Connected{}, act.Invalidf("code", "%s was not connected: you did not allow it there.", network.Name())
	}
	verifier, err := d.Box.Open(c.Verifier)
	if err != nil {
		return Connected{}, err
	}
	if c.Kind == channel.Micropub {
		return d.finishAtSite(ctx, c, a.Code, verifier, now)
	}
	tokens, err := channel.SignInAt(c.Address, d.Back).Take(ctx, a.Code, verifier)
	var out *channel.SignedOut
	if errors.As(err, &out) {
		return Connected{}, act.Invalidf("code", "%s was not connected: %s", network.Name(), out.Reason)
	}
	if err != nil {
		return Connected{}, act.Invalidf("code", "%s was not connected, since it could not be reached. Try again.", network.Name())
	}
	handle, err := channel.Handle(ctx, channel.Account{Address: c.Address, Token: tokens.Access})
	if err != nil {
		return Connected{}, act.Invalidf("code", "%s was not connected, since it did not say who signed in. Try again.", network.Name())
	}
	done := Connected{SiteID: d.Site.ID, Channel: int64(c.Channel), Again: c.Channel != 0}
	err = d.Change(ctx, func(tx *store.Tx) (err error) {
		done.Channel, err = d.signIn(ctx, tx, c, network, tokens, handle, now)
		return err
	})
	return done, err
}

// finishAtSite is Finish for a site of one's own, which is asked anew where notes are posted.
func (d Editor) finishAtSite(ctx context.Context, c store.Connection, code, verifier string, now time.Time) (Connected, error) {
	site, err := channel.Discover(ctx, reach.Client(d.Inside), c.Address)
	if err != nil {
		return Connected{}, act.Invalidf("code", "The site was not connected: %s.", err)
	}
	tokens, err := channel.SignInAtSite(site, d.Public+"/", d.Back, reach.Client(d.Inside)).Take(ctx, code, verifier)
	if err != nil {
		return Connected{}, act.Invalidf("code", "The site was not connected, since it gave no token. Try again.")
	}
	if !sameHost(tokens.Me, site.Me) {
		return Connected{}, act.Invalidf("code", "The site was not connected: somebody signed in for another one.")
	}
	network, _ := channel.Of(c.Kind)
	_, handle, _ := strings.Cut(strings.TrimRight(site.Me, "/"), "://")
	c.Address = site.Posts
	done := Connected{SiteID: d.Site.ID, Channel: int64(c.Channel), Again: c.Channel != 0}
	err = d.Change(ctx, func(tx *store.Tx) (err error) {
		done.Channel, err = d.signIn(ctx, tx, c, network, tokens, handle, now)
		return err
	})
	return done, err
}

// sameHost tells whether two addresses are of one host.
func sameHost(one, other string) bool {
	a, err := url.Parse(one)
	b, err2 := url.Parse(other)
	return err == nil && err2 == nil && a.Host != "" && strings.EqualFold(a.Host, b.Host)
}

// signIn keeps the tokens of somebody who signed in.
func (d Editor) signIn(ctx context.Context, tx *store.Tx, c store.Connection, network channel.Network, tokens channel.Tokens,
	handle string, now time.Time) (int64, error) {
	row := store.Channel{ID: int64(c.Channel), SiteID: d.Site.ID, Kind: c.Kind, Address: c.Address, Handle: handle,
		Token: d.Box.Seal(tokens.Access), Refresh: d.Box.Seal(tokens.Refresh)}
	if !tokens.Ends.IsZero() {
		row.TokenEnds = &tokens.Ends
	}
	if c.Kind == channel.Micropub {
		row.Home = tokens.Me
	}
	if row.ID != 0 {
		kept, err := tx.LockChannel(ctx, d.Site.ID, row.ID)
		if err != nil {
			return 0, err
		}
		if kept.Handle != "" && kept.Handle != handle {
			return 0, act.Invalidf("code", "You signed in as @%s, but this channel is @%s. Sign in as @%s, or connect @%s as a channel of its own.",
				handle, kept.Handle, kept.Handle, handle)
		}
		if err := tx.Queries.SignIn(ctx, row); err != nil {
			return 0, err
		}
		return row.ID, d.log(ctx, tx, fmt.Sprintf("%s was signed in again as @%s.", kept.Name, handle), now)
	}
	all, err := tx.Channels(ctx, d.Site.ID)
	if err != nil {
		return 0, err
	}
	if slices.ContainsFunc(all, func(other store.Channel) bool { return other.Kind == c.Kind && other.Handle == handle }) {
		return 0, act.Invalidf("code", "@%s on %s is connected already. Sign in there as somebody else to connect another account.",
			handle, network.Name())
	}
	row.Apart, row.ADay = network.Pace()
	row.Name = freeName(network.Name(), handle, all)
	if c.Kind == channel.Micropub {
		row.Name = freeName(handle, handle, all)
	}
	id, err := tx.InsertChannel(ctx, row)
	if err != nil {
		return 0, err
	}
	return id, d.log(ctx, tx, fmt.Sprintf("%s was connected as @%s.", row.Name, handle), now)
}

// freeName is a name for a new channel: the network's, with the account where there is another one.
func freeName(network, handle string, all []store.Channel) string {
	taken := func(name string) bool {
		return slices.ContainsFunc(all, func(c store.Channel) bool { return strings.EqualFold(c.Name, name) })
	}
	if !taken(network) {
		return network
	}
	name := network + " @" + handle
	for n := 2; taken(name); n++ {
		name = fmt.Sprintf("%s @%s %d", network, handle, n)
	}
	return name
}

// Save writes what an editor may change of a channel, over the version seen.
func (d Editor) Save(ctx context.Context, c store.Channel, now time.Time) error {
	if err := check(&c); err != nil {
		return err
	}
	return d.Change(ctx, func(tx *store.Tx) error {
		kept, err := tx.LockChannel(ctx, d.Site.ID, c.ID)
		if err != nil {
			return err
		}
		if kept.Version != c.Version {
			return act.ErrStale
		}
		c.SiteID, c.PausedAt = d.Site.ID, kept.PausedAt
		if err := tx.SaveChannel(ctx, c); err != nil {
			return err
		}
		return d.log(ctx, tx, fmt.Sprintf("The channel %s was changed.", c.Name), now)
	})
}

// check says what is wrong with a channel.
func check(c *store.Channel) error {
	c.Name = strings.TrimSpace(c.Name)
	switch {
	case c.Name == "" || letters.Length(c.Name, maxName) > maxName:
		return act.Invalidf("name", "Give the channel a name of 1 to %d characters.", maxName)
	case c.Apart < 1 || c.Apart > maxApart:
		return act.Invalidf("apart", "Enter 1 to %d minutes.", maxApart)
	case c.ADay < 0 || c.ADay > maxADay:
		return act.Invalidf("aDay", "Enter at most %d messages a day.", maxADay)
	case c.QuietFrom < 0 || c.QuietFrom >= int(civil.Midnight):
		return act.Invalidf("quietFrom", "Write a time from 00:00 to 23:59. Over midnight, let quiet hours end earlier than they begin.")
	case c.QuietTo < 0 || c.QuietTo >= int(civil.Midnight):
		return act.Invalidf("quietTo", "Write a time from 00:00 to 23:59. Over midnight, let quiet hours end earlier than they begin.")
	case letters.Length(c.Habits.Before, message.MaxAround) > message.MaxAround:
		return act.Invalidf("before", "A text before messages has %d characters at most.", message.MaxAround)
	case letters.Length(c.Habits.After, message.MaxAround) > message.MaxAround:
		return act.Invalidf("after", "A text after messages has %d characters at most.", message.MaxAround)
	}
	if problem := message.CheckParams(c.Habits.Params); problem != "" {
		return act.Invalidf("params", "%s", problem)
	}
	if c.ZoneName != nil {
		if _, err := civil.LoadZone(*c.ZoneName); err != nil {
			return act.Invalidf("zone", "There is no such time zone. Choose one such as Europe/Lisbon.")
		}
	}
	return nil
}

// Pause stops all messages to a channel, or lets them go again.
func (d Editor) Pause(ctx context.Context, id int64, version int, paused bool, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		c, err := tx.LockChannel(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if c.Version != version {
			return act.ErrStale
		}
		if paused == (c.PausedAt != nil) {
			return nil
		}
		what := c.Name + " was paused; its messages wait."
		if c.PausedAt = nil; paused {
			c.PausedAt = &now
		} else {
			what = c.Name + " speaks again."
		}
		if err := tx.SaveChannel(ctx, c); err != nil {
			return err
		}
		return d.log(ctx, tx, what, now)
	})
}

// Deletion is what deleting a channel does.
type Deletion struct {
	Channel store.Channel
	Count   store.ChannelCount
	// Rules lose the channel; those of Off have no other and are turned off.
	Rules, Off    []string
	Announcements int
}

// Token stands for exactly this.
func (p Deletion) Token() string {
	return act.TokenOf("delete a channel", p.Channel.ID, p.Channel.Version, p.Count, p.Rules, p.Off, p.Announcements)
}

// ProposeDeletion tells what deleting a channel does.
func (d Editor) ProposeDeletion(ctx context.Context, q store.Queries, id int64) (p Deletion, err error) {
	if p.Channel, err = q.Channel(ctx, d.Site.ID, id); err != nil {
		return p, err
	}
	if p.Count, err = q.CountOfChannel(ctx, d.Site.ID, id); err != nil {
		return p, err
	}
	rules, err := q.Rules(ctx, d.Site.ID)
	if err != nil {
		return p, err
	}
	for _, r := range rules {
		switch {
		case !slices.Contains(r.Settings.Channels, id):
		case len(r.Settings.Channels) == 1:
			p.Off = append(p.Off, r.Name)
		default:
			p.Rules = append(p.Rules, r.Name)
		}
	}
	all, err := q.Announcements(ctx, d.Site.ID)
	for _, a := range all {
		if a.Channel == id {
			p.Announcements++
		}
	}
	return p, err
}

// Delete deletes a channel with its outings, by the token of what was seen. What stands on its
// network stays there.
func (d Editor) Delete(ctx context.Context, id int64, token string, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		if _, err := tx.LockChannel(ctx, d.Site.ID, id); err != nil {
			return err
		}
		posts, err := tx.Queries.Destinations(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if n := slices.IndexFunc(posts, func(to store.Destination) bool { return int64(to.Channel) == id }); n >= 0 {
			return act.Invalidf("channel", "The blog’s posts go to this site, as “%s”. Remove that first, under Settings, Where posts go.", posts[n].Name)
		}
		p, err := d.ProposeDeletion(ctx, tx.Queries, id)
		if err != nil {
			return err
		}
		if p, err = act.Seen(p, token); err != nil {
			return err
		}
		rules, err := tx.Rules(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		for _, r := range rules {
			if !slices.Contains(r.Settings.Channels, id) {
				continue
			}
			r.Settings.Channels = slices.DeleteFunc(slices.Clone(r.Settings.Channels), func(other int64) bool { return other == id })
			delete(r.Settings.ByChannel, id)
			if len(r.Settings.Channels) == 0 {
				r.ArmedAt, r.HeldAt, r.HeldWhy = nil, nil, ""
			}
			if err := tx.SaveRule(ctx, r, now); err != nil {
				return err
			}
		}
		if err := tx.DeleteChannel(ctx, d.Site.ID, id); err != nil {
			return err
		}
		what := fmt.Sprintf("The channel %s was deleted", p.Channel.Name)
		if p.Count.Planned > 0 {
			what += ", with " + words.Count(p.Count.Planned, "outing") + " that had not gone out"
		}
		return d.log(ctx, tx, what+".", now)
	})
}

func (d Editor) log(ctx context.Context, tx *store.Tx, what string, now time.Time) error {
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedChannel, Reason: what})
}

// SealAgain seals the tokens of all channels, and the secrets of webhooks, with the key that seals now, and returns how many
// were sealed otherwise. It fails where one can be opened by no key, with nothing changed.
func SealAgain(ctx context.Context, s *store.Store, box *secrets.Box) (n int, err error) {
	err = s.InTx(ctx, func(tx *store.Tx) error {
		all, err := tx.SealedTokens(ctx)
		if err != nil {
			return err
		}
		again := make(map[string]string)
		for _, c := range all {
			if box.IsCurrent(c.Token) && box.IsCurrent(c.Refresh) {
				continue
			}
			for _, text := range []*string{&c.Token, &c.Refresh} {
				// Copies of a channel are known by having their tokens sealed alike.
				if _, done := again[*text]; !done {
					open, err := box.Open(*text)
					if err != nil {
						return fmt.Errorf("the channel %s of site %d: %w", c.Name, c.SiteID, err)
					}
					again[*text] = box.Seal(open)
				}
				*text = again[*text]
			}
			if err := tx.Queries.Renew(ctx, c); err != nil {
				return err
			}
			n++
		}
		hooks, err := tx.SealedHooks(ctx)
		if err != nil {
			return err
		}
		for _, w := range hooks {
			if box.IsCurrent(w.Secret) && (w.OldSecret == "" || box.IsCurrent(w.OldSecret)) {
				continue
			}
			for _, text := range []*string{&w.Secret, &w.OldSecret} {
				if *text == "" {
					continue
				}
				open, err := box.Open(*text)
				if err != nil {
					return fmt.Errorf("the webhook %s of site %d: %w", w.Name, w.SiteID, err)
				}
				*text = box.Seal(open)
			}
			if err := tx.SaveWebhook(ctx, w); err != nil {
				return err
			}
			n++
		}
		return nil
	})
	return n, err
}
