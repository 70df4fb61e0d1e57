package people

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/store"
)

// Invite asks somebody to join a site, by a letter and by the secret of a link that is
// returned, which opens for InvitationLife. An open invitation to the same address is
// replaced.
func (h House) Invite(ctx context.Context, site store.Site, by int64, email string, role Role,
	now time.Time) (id int64, secret string, err error) {
	if email, err = checkEmail(email); err != nil {
		return 0, "", err
	}
	if err := checkRole(role); err != nil {
		return 0, "", err
	}
	err = h.Store.InTx(ctx, func(tx *store.Tx) error {
		user, err := tx.UserByEmail(ctx, email)
		if err == nil {
			if m, err := tx.Member(ctx, site.ID, user.ID); err == nil {
				return invalid("email", "%s is of this site already, as %s. Change the role in the list.", m.Name,
					m.Role)
			} else if !errors.Is(err, store.ErrNotFound) {
				return err
			}
		} else if !errors.Is(err, store.ErrNotFound) {
			return err
		}
		id, err = tx.PutInvitation(ctx, store.Invitation{
			SiteID: site.ID, Email: email, Role: string(role), InvitedBy: by, CreatedAt: now, ExpiresAt: now.Add(InvitationLife)})
		if err != nil {
			return fmt.Errorf("inviting: %w", err)
		}
		if secret, err = mintFor(ctx, tx.Queries, store.LinkSecret{Invitation: &id, CreatedAt: now,
			ExpiresAt: now.Add(InvitationLife)}); err != nil {
			return err
		}
		if err := h.Mail.Invite(ctx, tx, id); err != nil {
			return err
		}
		return tx.Log(ctx, store.LogEntry{SiteID: site.ID, At: now, Actor: &by, Deed: store.DeedPeople,
			Reason: fmt.Sprintf("Invited %s as %s.", email, role)})
	})
	return id, secret, err
}

// Withdraw takes an invitation back.
func (h House) Withdraw(ctx context.Context, site store.Site, by, id int64, now time.Time) error {
	return h.Store.InTx(ctx, func(tx *store.Tx) error {
		invitation, err := tx.Invitation(ctx, id)
		if err != nil {
			return err
		}
		if err := tx.DeleteInvitation(ctx, site.ID, id); err != nil {
			return err
		}
		return tx.Log(ctx, store.LogEntry{SiteID: site.ID, At: now, Actor: &by, Deed: store.DeedPeople,
			Reason: fmt.Sprintf("Withdrew the invitation to %s.", invitation.Email)})
	})
}

// Invited is what the link of an invitation opens.
type Invited struct {
	store.Invitation
	Known bool // the address has an account already
}

// Look tells what an invitation's link opens. It fails with *Ended.
func (h House) Look(ctx context.Context, secret string, now time.Time) (Invited, error) {
	found, err := open(ctx, h.Store.Queries, secret, now)
	if err != nil {
		return Invited{}, err
	}
	return invited(ctx, h.Store.Queries, found)
}

func invited(ctx context.Context, q store.Queries, found store.LinkSecret) (Invited, error) {
	if found.Invitation == nil {
		return Invited{}, &Ended{"This link is for choosing a password, not an invitation."}
	}
	i, err := q.Invitation(ctx, *found.Invitation)
	if err != nil {
		return Invited{}, err
	}
	_, err = q.UserByEmail(ctx, i.Email)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return Invited{}, err
	}
	return Invited{i, err == nil}, nil
}

// Accept makes who was invited a person of the site: with the password of their account,
// or with a name and a new password where they have none yet. It notes a sign-in, whose
// id it returns, and fails with *Ended.
func (h House) Accept(ctx context.Context, secret, name, password string, from Caller, now time.Time) (store.User,
	int64, error) {
	i, err := h.Look(ctx, secret, now)
	if err != nil {
		return store.User{}, 0, err
	}
	var user store.User
	var fresh store.User
	if i.Known {
		if user, err = h.prove(ctx, i.Email, password, from, now); err != nil {
			if errors.Is(err, ErrWrong) {
				return user, 0, invalid("password",
					"That is not the password of the account %s. Enter the one you sign in with.", i.Email)
			}
			return user, 0, err
		}
	} else if fresh, err = NewAccount(ctx, i.Email, name, password, i.SiteTitle, now); err != nil {
		return user, 0, err
	}
	var signIn int64
	err = h.Store.InTx(ctx, func(tx *store.Tx) error {
		found, err := open(ctx, tx.Queries, secret, now) // nobody else may have used it meanwhile
		if err != nil {
			return err
		}
		if !i.Known {
			if user, err = tx.InsertUser(ctx, fresh); err != nil {
				return fmt.Errorf("making an account: %w", err)
			}
		}
		if err := tx.InsertMembership(ctx, i.SiteID, user.ID, i.Role); err != nil && !store.IsDuplicate(err) {
			return err
		}
		if err := tx.AcceptInvitation(ctx, i.ID, now); err != nil {
			return err
		}
		if err := tx.UseSecret(ctx, found, now); err != nil {
			return err
		}
		if signIn, err = tx.InsertSignIn(ctx, store.SignIn{User: user.ID, BeganAt: now, Address: from.Address,
			Agent: from.Browsing()}); err != nil {
			return err
		}
		return tx.Log(ctx, store.LogEntry{SiteID: i.SiteID, At: now, Actor: &user.ID, Deed: store.DeedPeople,
			Reason: fmt.Sprintf("Joined as %s.", i.Role)})
	})
	return user, signIn, err
}

// NewAccount returns an account as it is kept, of somebody who joins the site of a title. It fails
// with *act.Invalid.
func NewAccount(ctx context.Context, email, name, password, site string, now time.Time) (store.User, error) {
	email, err := checkEmail(email)
	if err != nil {
		return store.User{}, err
	}
	if name, err = CheckName(name); err != nil {
		return store.User{}, err
	}
	if err := CheckPassword("password", password, email, name, site); err != nil {
		return store.User{}, err
	}
	hash, err := hashPassword(ctx, password)
	return store.User{Email: strings.ToLower(email), Name: name, PasswordHash: hash, CreatedAt: now}, err
}

// ChangeRole gives a person of a site another role. The last owner stays one.
func (h House) ChangeRole(ctx context.Context, site store.Site, by, person int64, role Role, now time.Time) error {
	if err := checkRole(role); err != nil {
		return err
	}
	return h.changeMember(ctx, site, person, role != Owner, func(tx *store.Tx, m store.Member) error {
		if m.Role == string(role) {
			return nil
		}
		if err := tx.SaveRole(ctx, site.ID, person, string(role)); err != nil {
			return err
		}
		return tx.Log(ctx, store.LogEntry{SiteID: site.ID, At: now, Actor: &by, Deed: store.DeedPeople,
			Reason: fmt.Sprintf("Made %s %s; was %s.", m.Name, role, m.Role)})
	})
}

// Remove takes a person off a site. Their posts stay, with their name.
func (h House) Remove(ctx context.Context, site store.Site, by, person int64, now time.Time) error {
	return h.changeMember(ctx, site, person, true, func(tx *store.Tx, m store.Member) error {
		if err := tx.DeleteMembership(ctx, site.ID, person); err != nil {
			return err
		}
		return tx.Log(ctx, store.LogEntry{SiteID: site.ID, At: now, Actor: &by, Deed: store.DeedPeople,
			Reason: fmt.Sprintf("Removed %s, who was %s. Their posts stay.", m.Name, m.Role)})
	})
}

// changeMember runs work while nobody else changes the people of the site.
func (h House) changeMember(ctx context.Context, site store.Site, person int64, leavesOwners bool,
	work func(*store.Tx, store.Member) error) error {
	return h.Store.InTx(ctx, func(tx *store.Tx) error {
		if err := tx.LockSite(ctx, site.ID); err != nil {
			return err
		}
		m, err := tx.Member(ctx, site.ID, person)
		if err != nil {
			return err
		}
		if m.Role == string(Owner) && leavesOwners {
			owners, err := tx.CountOwners(ctx, site.ID)
			if err != nil {
				return err
			}
			if owners == 1 {
				return invalid("role", "%s is the only owner. Make somebody else an owner first.", m.Name)
			}
		}
		return work(tx, m)
	})
}
