package deliver

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"strconv"
	"strings"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/riverqueue/river"
	"github.com/wneessen/go-mail"

	"dapper.example/internal/imports"
	"dapper.example/internal/notices"
	"dapper.example/internal/people"
	"dapper.example/internal/revisions"
	"dapper.example/internal/store"
)

// Mail is the job of writing a letter and handing it to the post office: an invitation,
// or the reset of a user's password. It carries no secret; the letter's is made as it
// is written, so one that is tried again carries another.
type Mail struct {
	Invitation int64     `json:"invitation,omitempty"`
	Reset      string    `json:"reset_for,omitempty"`  // an address, whether or not it is a person's
	Subscriber int64     `json:"subscriber,omitempty"` // who is asked whether they want mails
	Import     int64     `json:"import,omitempty"`     // whose end is told to who began it
	Site       int64     `json:"site,omitempty"`       // of the import, or of the edit
	HeldEdit   int64     `json:"held_edit,omitempty"`  // that waits for an editor, which is told to who prepared it
	Rule       int64     `json:"rule,omitempty"`       // that is about to act on posts, which is told to their author
	Author     int64     `json:"author,omitempty"`
	Digest     bool      `json:"digest,omitempty"` // of the site, for Author, at At
	At         time.Time `json:"at,omitzero"`      // when the rule noted that
}

// Kind names the job.
func (Mail) Kind() string { return "mail" }

// Invite puts the letter of an invitation into a transaction.
func (q *Queue) Invite(ctx context.Context, tx *store.Tx, invitation int64) error {
	return q.mail(ctx, tx, Mail{Invitation: invitation})
}

// Reset puts the letter for another password into a transaction.
func (q *Queue) Reset(ctx context.Context, tx *store.Tx, email string) error {
	return q.mail(ctx, tx, Mail{Reset: email})
}

// AskSubscriber puts the letter in which somebody is asked to confirm that they want mails into a transaction.
func (q *Queue) AskSubscriber(ctx context.Context, tx *store.Tx, subscriber int64) error {
	return q.mail(ctx, tx, Mail{Subscriber: subscriber})
}

// TellHeld puts the letter that tells who prepared a timed edit that it is on hold into a transaction.
func (q *Queue) TellHeld(ctx context.Context, tx *store.Tx, site, edit int64) error {
	return q.mail(ctx, tx, Mail{HeldEdit: edit, Site: site})
}

// TellAuthor puts the letter that tells an author of what a rule is about to do with their posts into a transaction.
func (q *Queue) TellAuthor(ctx context.Context, tx *store.Tx, site, rule, author int64, at time.Time) error {
	return q.mail(ctx, tx, Mail{Site: site, Rule: rule, Author: author, At: at})
}

// Digest puts the digest of a site for one of its people, of a moment, into a transaction.
func (q *Queue) Digest(ctx context.Context, tx *store.Tx, site, user int64, at time.Time) error {
	return q.mail(ctx, tx, Mail{Site: site, Author: user, At: at, Digest: true})
}

// reportImport puts the letter that tells of an import's end into a transaction, where who began it wants one.
func (q *Queue) reportImport(ctx context.Context, tx *store.Tx, i store.Import) error {
	setup, err := imports.SetupOf(i)
	if err != nil || !setup.Landing.Mail {
		return err
	}
	return q.mail(ctx, tx, Mail{Import: i.ID, Site: i.SiteID})
}

func (q *Queue) mail(ctx context.Context, tx *store.Tx, m Mail) error {
	_, err := q.river.InsertTx(ctx, tx.SQL(), m, &river.InsertOpts{MaxAttempts: maxAttempts})
	return err
}

// PostOffice is where mail is handed in.
type PostOffice struct {
	Address  string // host:port of an SMTP server (RFC 5321)
	User     string // "": no sign-in
	Password string
	From     string // the sender of all letters
	Public   string // where the screens are reached, for links
}

// mails does the job Mail.
type mails struct {
	river.WorkerDefaults[Mail]
	store *store.Store
	clock clockwork.Clock
	post  PostOffice
	// digest writes the digest of a site for one of its people, of a moment; people.ErrNotWanted where there is nothing to tell.
	digest func(ctx context.Context, site, user int64, at time.Time) (people.Letter, error)
}

// Work writes the letter and hands it in.
func (w *mails) Work(ctx context.Context, job *river.Job[Mail]) error {
	if job.Args.Digest {
		return w.sendDigest(ctx, job.Args)
	}
	letter, err := w.write(ctx, job.Args)
	if errors.Is(err, people.ErrNotWanted) {
		return nil
	}
	if err != nil {
		return err
	}
	return w.post.Send(ctx, letter)
}

// sendDigest hands a digest in, once: where a process dies while it does so, it is not known whether the mail arrived, and it
// is not sent again. The next one tells of what that one would have told.
func (w *mails) sendDigest(ctx context.Context, m Mail) error {
	may, err := w.store.HandIn(ctx, m.Site, m.Author, m.At)
	if err != nil || !may {
		return err
	}
	letter, err := w.digest(ctx, m.Site, m.Author, m.At)
	if err == nil {
		err = w.post.Send(ctx, letter)
	}
	if err != nil && !errors.Is(err, people.ErrNotWanted) {
		return errors.Join(err, w.store.TakeBack(context.WithoutCancel(ctx), m.Site, m.Author, m.At))
	}
	return w.store.HandedIn(context.WithoutCancel(ctx), m.Site, m.Author, m.At)
}

func (w *mails) write(ctx context.Context, m Mail) (people.Letter, error) {
	if m.Invitation != 0 {
		return people.WriteInvitation(ctx, w.store.Queries, m.Invitation, w.post.Public, w.clock.Now())
	}
	if m.Subscriber != 0 {
		return w.ask(ctx, m.Subscriber)
	}
	if m.Import != 0 {
		return imports.WriteReport(ctx, w.store.Queries, m.Site, m.Import, w.post.Public)
	}
	if m.HeldEdit != 0 {
		return revisions.WriteHeld(ctx, w.store.Queries, m.Site, m.HeldEdit, w.post.Public)
	}
	if m.Rule != 0 {
		return notices.Write(ctx, w.store.Queries, m.Site, m.Rule, m.Author, m.At, w.post.Public)
	}
	return people.WriteReset(ctx, w.store.Queries, m.Reset, w.post.Public, w.clock.Now())
}

// Send hands a letter in. Its errors say nothing of what is in it.
func (p PostOffice) Send(ctx context.Context, letter people.Letter) error {
	m := mail.NewMsg()
	if err := m.From(p.From); err != nil {
		return fmt.Errorf("the sender of mails, DAPPER_MAIL_FROM, is not an address: %w", err)
	}
	if err := m.To(letter.To); err != nil {
		return river.JobCancel(errors.New("the receiver's address cannot be used"))
	}
	m.Subject(letter.Subject)
	m.SetBodyString(mail.TypeTextPlain, letter.Text)
	if letter.HTML != "" {
		m.AddAlternativeString(mail.TypeTextHTML, letter.HTML)
	}
	if letter.End != "" {
		m.SetGenHeader("List-Unsubscribe", "<"+letter.End+">")
		m.SetGenHeader("List-Unsubscribe-Post", "List-Unsubscribe=One-Click")
		m.SetBulk()
	}
	if letter.ID != "" {
		_, host, _ := strings.Cut(p.From, "@")
		m.SetMessageIDWithValue(letter.ID + "@" + host)
	}
	client, err := p.client()
	if err != nil {
		return err
	}
	if err := client.DialAndSendWithContext(ctx, m); err != nil {
		return fmt.Errorf("handing a mail to %s: %w", p.Address, err)
	}
	return nil
}

// client reaches the mail server.
func (p PostOffice) client() (*mail.Client, error) {
	host, port, err := net.SplitHostPort(p.Address)
	if err != nil {
		return nil, fmt.Errorf("the mail server, DAPPER_SMTP, is not written as host:port: %w", err)
	}
	number, err := strconv.Atoi(port)
	if err != nil {
		return nil, fmt.Errorf("the mail server's port, in DAPPER_SMTP, is not a number: %q", port)
	}
	options := []mail.Option{
		mail.WithPort(number), mail.WithTLSPolicy(mail.TLSOpportunistic), mail.WithHELO("localhost"),
		mail.WithTLSConfig(&tls.Config{ServerName: host, MinVersion: tls.VersionTLS12}),
	}
	if p.User != "" {
		options = append(options, mail.WithSMTPAuth(mail.SMTPAuthAutoDiscover), mail.WithUsername(p.User),
			mail.WithPassword(p.Password))
	}
	client, err := mail.NewClient(host, options...)
	if err != nil {
		return nil, fmt.Errorf("reaching the mail server: %w", err)
	}
	return client, nil
}
