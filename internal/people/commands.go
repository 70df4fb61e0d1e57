package people

import (
	"context"
	"errors"
	"fmt"
	"time"

	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

// What follows is for whoever runs the program, at its command line: it asks for no role and
// sends no mail. The logbook says that it was done by command.

// Put makes an account. Without a password one is set that nobody knows; ResetLink lets its
// person choose another. It fails with *act.Invalid.
func (h House) Put(ctx context.Context, email, name, password string, now time.Time) (store.User, error) {
	if password == "" {
		password, _ = secrets.New()
	}
	fresh, err := NewAccount(ctx, email, name, password, "", now)
	if err != nil {
		return store.User{}, err
	}
	user, err := h.Store.InsertUser(ctx, fresh)
	if store.IsDuplicate(err) {
		return user, invalid("email", "There is an account of %s already.", fresh.Email)
	}
	return user, err
}

// Find returns the account of an address. It fails with *act.Invalid where there is none.
func (h House) Find(ctx context.Context, email string) (store.User, error) {
	user, err := h.Store.UserByEmail(ctx, email)
	if errors.Is(err, store.ErrNotFound) {
		return user, invalid("email", "There is no account of %s.", shortened(email))
	}
	return user, err
}

// SetRole gives somebody who has an account a role on a site, whether they are on it or not. The
// last owner stays one.
func (h House) SetRole(ctx context.Context, site store.Site, user store.User, role Role, now time.Time) error {
	if err := checkRole(role); err != nil {
		return err
	}
	log := func(tx *store.Tx, why string) error {
		return tx.Log(ctx, store.LogEntry{SiteID: site.ID, At: now, Deed: store.DeedPeople, Reason: why})
	}
	err := h.changeMember(ctx, site, user.ID, role != Owner, func(tx *store.Tx, m store.Member) error {
		if m.Role == string(role) {
			return nil
		}
		if err := tx.SaveRole(ctx, site.ID, user.ID, string(role)); err != nil {
			return err
		}
		return log(tx, fmt.Sprintf("Made %s %s by command; was %s.", m.Name, role, m.Role))
	})
	if !errors.Is(err, store.ErrNotFound) {
		return err
	}
	return h.Store.InTx(ctx, func(tx *store.Tx) error {
		if err := tx.InsertMembership(ctx, site.ID, user.ID, string(role)); err != nil {
			return fmt.Errorf("adding %s to %s: %w", user.Email, site.Slug, err)
		}
		return log(tx, fmt.Sprintf("Added %s as %s by command.", user.Name, role))
	})
}

// ResetLink returns a link by which somebody chooses a password; it opens once, for ResetLife.
// public is where the program is reached.
func (h House) ResetLink(ctx context.Context, user store.User, public string, now time.Time) (string, error) {
	secret, err := mintFor(ctx, h.Store.Queries, store.LinkSecret{User: &user.ID, CreatedAt: now, ExpiresAt: now.Add(ResetLife)})
	if err != nil {
		return "", fmt.Errorf("making a link for %s: %w", user.Email, err)
	}
	return public + resetPath + secret, nil
}
