package accounts

import (
	"context"
	"database/sql/driver"
	"encoding/json"
	"time"

	"dapper.example/internal/store/db"
)

// User is a person who can sign in.
type User struct {
	ID           int64     `db:"id"`
	Email        string    `db:"email"`
	Name         string    `db:"name"`
	PasswordHash string    `db:"password_hash"`
	CreatedAt    time.Time `db:"created_at"`
	About        string    `db:"about"` // a line that readers see with their posts

	Preferences Preferences `db:"preferences"`
}

// Preferences are how a person likes the screens. An empty field is the usual.
type Preferences struct {
	WeekStart string `json:"weekStart,omitempty"` // monday, sunday or saturday
	Clock     string `json:"clock,omitempty"`     // 24 or 12 hours
	Density   string `json:"density,omitempty"`   // roomy or dense
	Theme     string `json:"theme,omitempty"`     // system, light or dark
}

// Scan reads a JSON object.
func (p *Preferences) Scan(src any) error { return db.ScanJSON(src, p) }

// Value writes a JSON object.
func (p Preferences) Value() (driver.Value, error) {
	text, err := json.Marshal(p)
	return string(text), err
}

// InsertUser adds a person.
func (q Queries) InsertUser(ctx context.Context, u User) (User, error) {
	err := q.run.One(ctx, &u, `
		insert into users (email, name, password_hash, created_at) values ($1, $2, $3, $4)
		returning *`, u.Email, u.Name, u.PasswordHash, u.CreatedAt)
	return u, err
}

// UserByEmail finds a person by address, in any case of letters.
func (q Queries) UserByEmail(ctx context.Context, email string) (User, error) {
	var u User
	err := q.run.One(ctx, &u, `select * from users where lower(email) = lower($1)`, email)
	return u, err
}

// User finds a person by id.
func (q Queries) User(ctx context.Context, id int64) (User, error) {
	var u User
	err := q.run.One(ctx, &u, `select * from users where id = $1`, id)
	return u, err
}

// SavePassword gives a person another password.
func (q Queries) SavePassword(ctx context.Context, user int64, hash string) error {
	return q.run.Exec(ctx, `update users set password_hash = $2 where id = $1`, user, hash)
}

// SaveName gives a person another name, and another line about them.
func (q Queries) SaveName(ctx context.Context, user int64, name, about string) error {
	return q.run.Exec(ctx, `update users set name = $2, about = $3 where id = $1`, user, name, about)
}

// SavePreferences writes how a person likes the screens.
func (q Queries) SavePreferences(ctx context.Context, user int64, p Preferences) error {
	return q.run.Exec(ctx, `update users set preferences = $2 where id = $1`, user, p)
}

// Member is a person of a site.
type Member struct {
	ID    int64  `db:"id"`
	Name  string `db:"name"`
	Email string `db:"email"`
	Role  string `db:"role"`
	Posts int    `db:"posts"` // by them on the site, in whatever state
}

// MembersNamed lists the people of a site without counting their posts.
func (q Queries) MembersNamed(ctx context.Context, siteID int64) ([]Member, error) {
	var members []Member
	err := q.run.All(ctx, &members, `
		select users.id, users.name, email, role, 0 as posts from memberships join users on users.id = user_id where memberships.site_id = $1 order by users.name, users.id`, siteID)
	return members, err
}

// Members lists the people of a site by name.
func (q Queries) Members(ctx context.Context, siteID int64) ([]Member, error) {
	var members []Member
	err := q.run.All(ctx, &members, `
		select users.id, users.name, email, role,
			(select count(*) from posts where site_id = $1 and author_id = users.id) as posts
		from memberships join users on users.id = user_id where memberships.site_id = $1 order by users.name, users.id`, siteID)
	return members, err
}

// Member returns one person of a site.
func (q Queries) Member(ctx context.Context, siteID, user int64) (Member, error) {
	var m Member
	err := q.run.One(ctx, &m, `
		select users.id, users.name, email, role, 0 as posts
		from memberships join users on users.id = user_id where memberships.site_id = $1 and user_id = $2`, siteID, user)
	return m, err
}

// CountOwners counts the owners of a site.
func (q Queries) CountOwners(ctx context.Context, siteID int64) (int, error) {
	var n int
	err := q.run.One(ctx, &n, `select count(*) from memberships where site_id = $1 and role = 'owner'`, siteID)
	return n, err
}

// SaveRole gives a person of a site another role.
func (t *Tx) SaveRole(ctx context.Context, siteID, user int64, role string) error {
	return t.run.Exec(ctx, `update memberships set role = $3 where site_id = $1 and user_id = $2`, siteID, user, role)
}

// DeleteMembership takes a person off a site, and ends their tokens for it.
func (t *Tx) DeleteMembership(ctx context.Context, siteID, user int64) error {
	if _, err := t.run.Do(ctx, `delete from tokens where site_id = $1 and user_id = $2`, siteID,
		user); err != nil {
		return err
	}
	return t.run.Exec(ctx, `delete from memberships where site_id = $1 and user_id = $2`, siteID, user)
}

// SignIn is a place where a person is signed in.
type SignIn struct {
	ID      int64     `db:"id"`
	User    int64     `db:"user_id"`
	BeganAt time.Time `db:"began_at"`
	SeenAt  time.Time `db:"seen_at"`
	Address string    `db:"address"` // of the network
	Agent   string    `db:"agent"`   // what the browser says of itself
}

// InsertSignIn notes that a person signed in.
func (q Queries) InsertSignIn(ctx context.Context, s SignIn) (int64, error) {
	var id int64
	err := q.run.One(ctx, &id, `
		insert into sign_ins (user_id, began_at, seen_at, address, agent) values ($1, $2, $2, $3, $4) returning id`,
		s.User, s.BeganAt, s.Address, s.Agent)
	return id, err
}

// seenEvery is how exactly it is known when somebody was last here.
const seenEvery = 5 * time.Minute

// UserSignedIn returns who is signed in at a place, or db.ErrNotFound where that has
// ended, and notes that they were here.
func (q Queries) UserSignedIn(ctx context.Context, signIn int64, now time.Time) (User, error) {
	var found struct {
		User
		SeenAt time.Time `db:"seen_at"`
	}
	err := q.run.One(ctx, &found, `
		select users.*, seen_at from sign_ins join users on users.id = user_id where sign_ins.id = $1 and ended_at is null`, signIn)
	if err == nil && now.Sub(found.SeenAt) >= seenEvery {
		_, err = q.run.Do(ctx, `update sign_ins set seen_at = $2 where id = $1`, signIn, now)
	}
	return found.User, err
}

// SignIns lists where a person is signed in, last seen first.
func (q Queries) SignIns(ctx context.Context, user int64, since time.Time) ([]SignIn, error) {
	var all []SignIn
	err := q.run.All(ctx, &all, `
		select id, user_id, began_at, seen_at, address, agent from sign_ins
		where user_id = $1 and ended_at is null and began_at > $2 order by seen_at desc, id desc`, user, since)
	return all, err
}

// EndSignIn ends one of a person's sign-ins.
func (q Queries) EndSignIn(ctx context.Context, user, id int64, now time.Time) error {
	return q.run.Exec(ctx, `update sign_ins set ended_at = $3 where user_id = $1 and id = $2 and ended_at is null`, user,
		id, now)
}

// EndSignIns ends all of a person's sign-ins but one, and tells how many; 0 keeps none.
func (q Queries) EndSignIns(ctx context.Context, user, but int64, now time.Time) (int, error) {
	done, err := q.run.Do(ctx,
		`update sign_ins set ended_at = $3 where user_id = $1 and id <> $2 and ended_at is null`, user, but, now)
	if err != nil {
		return 0, err
	}
	n, err := done.RowsAffected()
	return int(n), err
}

// Token is what a script signs in with.
type Token struct {
	ID        int64      `db:"id"`
	SiteID    int64      `db:"site_id"`
	User      int64      `db:"user_id"`
	Who       string     `db:"who"` // the person's name; read only
	Name      string     `db:"name"`
	Hash      []byte     `db:"hash"`
	Hint      string     `db:"hint"`
	Scopes    db.Strings `db:"scopes"`
	CreatedAt time.Time  `db:"created_at"`
	ExpiresAt time.Time  `db:"expires_at"`
	UsedAt    *time.Time `db:"used_at"`
}

const selectToken = `
	select tokens.id, site_id, user_id, users.name as who, tokens.name, hash, hint, to_json(scopes) as scopes,
		tokens.created_at, expires_at, used_at
	from tokens join users on users.id = user_id`

// Tokens lists a site's tokens, latest first.
func (q Queries) Tokens(ctx context.Context, siteID int64) ([]Token, error) {
	var tokens []Token
	err := q.run.All(ctx, &tokens, selectToken+` where site_id = $1 order by tokens.id desc`, siteID)
	return tokens, err
}

// InsertToken adds a token.
func (q Queries) InsertToken(ctx context.Context, t Token) (int64, error) {
	var id int64
	err := q.run.One(ctx, &id, `
		insert into tokens (site_id, user_id, name, hash, hint, scopes, created_at, expires_at)
		values ($1, $2, $3, $4, $5, $6, $7, $8) returning id`,
		t.SiteID, t.User, t.Name, t.Hash, t.Hint, []string(t.Scopes), t.CreatedAt, t.ExpiresAt)
	return id, err
}

// DeleteToken ends a token.
func (q Queries) DeleteToken(ctx context.Context, siteID, id int64) error {
	return q.run.Exec(ctx, `delete from tokens where site_id = $1 and id = $2`, siteID, id)
}

// TokenByHash finds a token that has not expired, and notes that it was used.
func (q Queries) TokenByHash(ctx context.Context, hash []byte, now time.Time) (Token, error) {
	var t Token
	err := q.run.One(ctx, &t, selectToken+` where hash = $1 and expires_at > $2`, hash, now)
	if err == nil && (t.UsedAt == nil || now.Sub(*t.UsedAt) >= seenEvery) {
		_, err = q.run.Do(ctx, `update tokens set used_at = $2 where id = $1`, t.ID, now)
	}
	return t, err
}

// Invitation asks somebody to join a site.
type Invitation struct {
	ID         int64      `db:"id"`
	SiteID     int64      `db:"site_id"`
	SiteTitle  string     `db:"site_title"` // read only
	SiteSlug   string     `db:"site_slug"`  // read only
	ZoneName   string     `db:"zone"`       // the site's; read only
	Email      string     `db:"email"`
	Role       string     `db:"role"`
	InvitedBy  int64      `db:"invited_by"`
	Who        string     `db:"who"` // who invited; read only
	CreatedAt  time.Time  `db:"created_at"`
	ExpiresAt  time.Time  `db:"expires_at"`
	AcceptedAt *time.Time `db:"accepted_at"`
}

const selectInvitation = `
	select invitations.id, site_id, sites.title as site_title, sites.slug as site_slug, sites.zone, invitations.email, role, invited_by, users.name as who,
		invitations.created_at, expires_at, accepted_at
	from invitations join sites on sites.id = site_id join users on users.id = invited_by`

// Invitations lists a site's invitations that nobody has accepted, latest first.
func (q Queries) Invitations(ctx context.Context, siteID int64) ([]Invitation, error) {
	var all []Invitation
	err := q.run.All(ctx, &all,
		selectInvitation+` where site_id = $1 and accepted_at is null order by invitations.id desc`, siteID)
	return all, err
}

// Invitation returns an invitation.
func (q Queries) Invitation(ctx context.Context, id int64) (Invitation, error) {
	var i Invitation
	err := q.run.One(ctx, &i, selectInvitation+` where invitations.id = $1`, id)
	return i, err
}

// PutInvitation invites somebody; an open invitation to the same address is replaced,
// and its links open nothing any more.
func (t *Tx) PutInvitation(ctx context.Context, i Invitation) (int64, error) {
	if _, err := t.run.Do(ctx, `
		delete from invitations where site_id = $1 and lower(email) = lower($2) and accepted_at is null`, i.SiteID, i.Email); err != nil {
		return 0, err
	}
	var id int64
	err := t.run.One(ctx, &id, `
		insert into invitations (site_id, email, role, invited_by, created_at, expires_at)
		values ($1, $2, $3, $4, $5, $6) returning id`, i.SiteID, i.Email, i.Role, i.InvitedBy, i.CreatedAt, i.ExpiresAt)
	return id, err
}

// DeleteInvitation takes an invitation back.
func (t *Tx) DeleteInvitation(ctx context.Context, siteID, id int64) error {
	return t.run.Exec(ctx, `delete from invitations where site_id = $1 and id = $2 and accepted_at is null`, siteID, id)
}

// AcceptInvitation notes that an invitation was accepted.
func (t *Tx) AcceptInvitation(ctx context.Context, id int64, now time.Time) error {
	return t.run.Exec(ctx, `update invitations set accepted_at = $2 where id = $1 and accepted_at is null`, id, now)
}

// LinkSecret is what the link of a mail opens: an invitation, or the reset of a user's
// password.
type LinkSecret struct {
	Hash       []byte     `db:"hash"`
	Invitation *int64     `db:"invitation_id"`
	User       *int64     `db:"user_id"`
	CreatedAt  time.Time  `db:"created_at"`
	ExpiresAt  time.Time  `db:"expires_at"`
	UsedAt     *time.Time `db:"used_at"`
}

// InsertSecret keeps the hash of a secret.
func (q Queries) InsertSecret(ctx context.Context, s LinkSecret) error {
	return q.run.Exec(ctx, `
		insert into link_secrets (hash, invitation_id, user_id, created_at, expires_at) values ($1, $2, $3, $4, $5)`,
		s.Hash, s.Invitation, s.User, s.CreatedAt, s.ExpiresAt)
}

// Secret finds a secret by its hash; in a transaction nobody else can use it until its
// end.
func (q Queries) Secret(ctx context.Context, hash []byte) (LinkSecret, error) {
	var s LinkSecret
	err := q.run.One(ctx, &s, `select * from link_secrets where hash = $1 for update`, hash)
	return s, err
}

// UseSecret notes that a secret was used; it and its siblings open nothing any more.
func (t *Tx) UseSecret(ctx context.Context, s LinkSecret, now time.Time) error {
	return t.run.Exec(ctx, `
		update link_secrets set used_at = $3
		where used_at is null and (invitation_id = $1 or user_id = $2)`, s.Invitation, s.User, now)
}

// Pace is how often something may be tried.
type Pace struct {
	Span  time.Duration // over what time tries are counted
	Free  int           // so many within it at once
	Pause time.Duration // and then one in so much time
}

// Try counts a try of something and tells how long it is to wait; 0 where it may go ahead.
func (q Queries) Try(ctx context.Context, key string, now time.Time, p Pace) (wait time.Duration, err error) {
	var row struct {
		Ahead bool      `db:"ahead"`
		Last  time.Time `db:"last_at"`
	}
	err = q.run.One(ctx, &row, `
		insert into tries (key, began_at, n, last_at) values ($1, $2, 1, $2)
		on conflict (key) do update set
			n = case when tries.began_at <= $3 then 1 else tries.n + 1 end,
			began_at = case when tries.began_at <= $3 then $2 else tries.began_at end,
			last_at = case when tries.began_at <= $3 or tries.n < $4 or tries.last_at <= $5 then $2 else tries.last_at end,
			ahead = tries.began_at <= $3 or tries.n < $4 or tries.last_at <= $5
		returning ahead, last_at`, key, now, now.Add(-p.Span), p.Free, now.Add(-p.Pause))
	if err != nil || row.Ahead {
		return 0, err
	}
	return max(row.Last.Add(p.Pause).Sub(now), time.Second), nil
}

// TakeBackTry takes back the count of a try that went well.
func (q Queries) TakeBackTry(ctx context.Context, key string) error {
	if _, err := q.run.Do(ctx, `delete from tries where key = $1 and n <= 1`, key); err != nil {
		return err
	}
	_, err := q.run.Do(ctx, `update tries set n = n - 1 where key = $1 and n > 1`, key)
	return err
}

// KnowsBrowser tells whether somebody has signed in to an account from the browser with the
// secret's hash before, and notes that it was seen.
func (q Queries) KnowsBrowser(ctx context.Context, hash []byte, user int64, now time.Time) (bool, error) {
	done, err := q.run.Do(ctx, `update known_browsers set seen_at = $3 where hash = $1 and user_id = $2`, hash,
		user, now)
	if err != nil {
		return false, err
	}
	n, err := done.RowsAffected()
	return n > 0, err
}

// KnowBrowser notes that somebody has signed in to an account from a browser.
func (q Queries) KnowBrowser(ctx context.Context, hash []byte, user int64, now time.Time) error {
	return q.run.Exec(ctx, `
		insert into known_browsers (hash, user_id, seen_at) values ($1, $2, $3)
		on conflict (hash, user_id) do update set seen_at = excluded.seen_at`, hash, user, now)
}

// ForgetSecrets ends what else opens a person's account when their password changes: tokens
// for scripts, links for another password, and browsers that are known.
func (t *Tx) ForgetSecrets(ctx context.Context, user int64, now time.Time) error {
	for _, statement := range []string{
		`delete from tokens where user_id = $1 and $2::timestamptz is not null`,
		`update link_secrets set used_at = $2 where user_id = $1 and used_at is null`,
		`delete from known_browsers where user_id = $1 and $2::timestamptz is not null`,
	} {
		if _, err := t.run.Do(ctx, statement, user, now); err != nil {
			return err
		}
	}
	return nil
}

// ForgetTries drops the count of something, such as after it went well.
func (q Queries) ForgetTries(ctx context.Context, key string) error {
	_, err := q.run.Do(ctx, `delete from tries where key = $1`, key)
	return err
}

// Tidy deletes what signing in leaves behind and nobody asks for any more: counts,
// secrets, ended sign-ins and tokens from before a moment.
func (q Queries) Tidy(ctx context.Context, before time.Time) error {
	for _, statement := range []string{
		`delete from tries where began_at < $1`,
		`delete from link_secrets where expires_at < $1`,
		`delete from preview_links where expires_at < $1`,
		`delete from known_browsers where seen_at < $1::timestamptz - interval '400 days'`,
		`delete from sign_ins where ended_at < $1 or seen_at < $1::timestamptz - interval '60 days'`,
		`delete from tokens where expires_at < $1::timestamptz - interval '60 days'`,
		// Of each rule its latest turns stay, and all of a year; what took posts is judged by them.
		`delete from rule_runs where at < $1::timestamptz - interval '1 year' and id not in (
			select kept.id from rules cross join lateral (select id from rule_runs where rule_id = rules.id order by at desc, id desc limit 50) kept
			union all
			select kept.id from rules cross join lateral (select id from rule_runs where rule_id = rules.id and took > 0 order by at desc, id desc limit 50) kept)`,
	} {
		if _, err := q.run.Do(ctx, statement, before); err != nil {
			return err
		}
	}
	return nil
}
