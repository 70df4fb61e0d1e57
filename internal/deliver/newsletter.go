package deliver

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/riverqueue/river"
	"github.com/wneessen/go-mail"

	"dapper.example/internal/core/letter"
	"dapper.example/internal/letters"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

const (
	// mailSpell is how often a mailing list sends some mails, and mailFor for how long it does so then.
	mailSpell = 30 * time.Second
	mailFor   = 20 * time.Second
)

// endLink is the address by which a subscriber confirms and ends it.
func endLink(public string, site store.Site, token string) string {
	return site.Home(public).Full(letters.Path + "/" + token)
}

// ask writes the letter in which somebody is asked whether they want mails.
func (w *mails) ask(ctx context.Context, id int64) (people.Letter, error) {
	s, err := w.store.Subscriber(ctx, id)
	if errors.Is(err, store.ErrNotFound) || err == nil && s.State != "asked" {
		return people.Letter{}, people.ErrNotWanted
	}
	if err != nil {
		return people.Letter{}, err
	}
	site, err := w.store.Site(ctx, s.SiteID)
	if err != nil {
		return people.Letter{}, err
	}
	title := strings.Join(strings.Fields(site.Title), " ")
	return people.Letter{To: s.Email, Subject: "Do you want mails from " + title + "?",
		Text: "Somebody, most likely you, asked for mails from “" + title + "” to this address.\n\nConfirm it here:\n\n" + endLink(w.post.Public, site, s.Token) +
			"\n\nIf it wasn't you, ignore this mail: nothing more will come.\n"}, nil
}

// mailOut mails a message to subscribers who have not had it, as many as the list sends in half a minute, and says how
// long the job rests until the next ones; 0: all have it.
func (w *shares) mailOut(ctx context.Context, d store.Delivery) (rest time.Duration, err error) {
	half := max(d.To.AMinute/2, 1)
	all, err := w.store.Recipients(ctx, d.Channel, d.ID, half+1)
	if err != nil || len(all) == 0 {
		return 0, err
	}
	site, err := w.store.Site(ctx, d.SiteID)
	if err != nil {
		return 0, err
	}
	client, err := w.post.client()
	if err != nil {
		return 0, err
	}
	if err := client.DialWithContext(ctx); err != nil {
		return 0, fmt.Errorf("the mail server %s could not be reached: %w", w.post.Address, err)
	}
	defer client.Close()
	spell, end := context.WithTimeout(ctx, mailFor)
	defer end()
	for _, s := range all[:min(len(all), half)] {
		if spell.Err() != nil {
			break
		}
		why, err := w.mailTo(client, d, site, s)
		if err != nil {
			return 0, err
		}
		if err := w.store.NoteMailed(context.WithoutCancel(ctx), d.ID, s.ID, w.clock.Now(), why); err != nil {
			return 0, err
		}
	}
	left, err := w.store.Recipients(ctx, d.Channel, d.ID, 1)
	if err != nil || len(left) == 0 {
		return 0, err
	}
	return mailSpell, nil
}

// mailTo mails a message to one subscriber, with a head by which mail programs offer to end it in one click (RFC 8058);
// why says why their server refused it for good.
func (w *shares) mailTo(client *mail.Client, d store.Delivery, site store.Site, s store.Subscriber) (why string, err error) {
	end := endLink(w.post.Public, site, s.Token)
	made := letter.Of(d.Text, letter.About{Blog: site.Title, End: end})
	m := mail.NewMsg()
	if err := m.FromFormat(site.Title, w.post.From); err != nil {
		return "", fmt.Errorf("the sender of mails, DAPPER_MAIL_FROM, is not an address: %w", err)
	}
	if err := m.To(s.Email); err != nil {
		return "the address cannot be used", nil
	}
	m.Subject(made.Subject)
	m.SetBodyString(mail.TypeTextPlain, made.Text)
	m.AddAlternativeString(mail.TypeTextHTML, made.HTML)
	m.SetGenHeader("List-Unsubscribe", "<"+end+">")
	m.SetGenHeader("List-Unsubscribe-Post", "List-Unsubscribe=One-Click")
	_, host, _ := strings.Cut(w.post.From, "@")
	m.SetMessageIDWithValue(fmt.Sprintf("%s.%d@%s", d.Key, s.ID, host)) // the same at each try
	m.SetBulk()
	err = client.Send(m)
	var refused *mail.SendError
	if errors.As(err, &refused) && !refused.IsTemp() && refused.ErrorCode() >= 500 {
		_ = client.Reset()
		return refused.Error(), nil
	}
	if err != nil {
		return "", fmt.Errorf("handing a mail to %s: %w", w.post.Address, err)
	}
	return "", nil
}

// mailed has a message of a mailing list go on, or notes that all have it.
func (w *shares) mailed(ctx context.Context, d store.Delivery) error {
	rest, err := w.mailOut(ctx, d)
	if err != nil {
		return err
	}
	if rest > 0 {
		return river.JobSnooze(rest)
	}
	mailed, refused, err := w.store.MailedOf(ctx, d.ID)
	if err != nil {
		return err
	}
	said := fmt.Sprintf("%d mails", mailed)
	if refused > 0 {
		said += fmt.Sprintf(", %d refused", refused)
	}
	_, err = w.noting.ask(ctx, store.Arrived{ID: d.ID, RemoteID: said})
	return err
}
