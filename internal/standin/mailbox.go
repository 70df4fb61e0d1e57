package standin

import (
	"errors"
	"html/template"
	"io"
	"mime"
	"mime/multipart"
	"mime/quotedprintable"
	"net/http"
	"net/mail"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-smtp"
	"github.com/go-chi/chi/v5"
	"github.com/jonboulle/clockwork"

	"dapper.example/internal/core/message"
)

// Mail is a mail that came in.
type Mail struct {
	To      string    `json:"to"`
	From    string    `json:"from"`
	Subject string    `json:"subject"`
	Text    string    `json:"text"`
	HTML    string    `json:"html,omitempty"` // "": it has none
	N       int       `json:"n"`              // its number, counted from 1
	At      time.Time `json:"at"`
	// Unsubscribe is the address of the head by which a mail program offers to end it in one click (RFC 8058); "": it has none.
	Unsubscribe string `json:"unsubscribe,omitempty"`
}

// Mailbox takes every mail, to whomever it is, sends none on and shows them all. It
// keeps them in memory.
type Mailbox struct {
	mu    sync.Mutex
	mails []Mail
	n     int // mails that came in
	clock clockwork.Clock
	page  *template.Template
}

const (
	mailSize  = 1 << 20
	mailsKept = 200
)

// NewMailbox returns an empty mailbox.
func NewMailbox(clock clockwork.Clock) *Mailbox {
	return &Mailbox{clock: clock,
		page: template.Must(template.New("mailbox.html").Funcs(template.FuncMap{"links": inMail}).ParseFS(pages,
			"pages/mailbox.html"))}
}

// inMail marks the links of a mail.
func inMail(text string) template.HTML {
	return linked(message.Links{Schemes: []string{"http", "https"}}, text)
}

// Server takes mails by SMTP (RFC 5321); the caller gives it a listener.
func (b *Mailbox) Server() *smtp.Server {
	s := smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &delivery{box: b}, nil }))
	s.Domain, s.MaxMessageBytes, s.MaxRecipients = "localhost", mailSize, 10
	s.ReadTimeout, s.WriteTimeout = time.Minute, time.Minute
	return s
}

// Mails lists the mails, latest first.
func (b *Mailbox) Mails() []Mail {
	b.mu.Lock()
	defer b.mu.Unlock()
	mails := slices.Clone(b.mails)
	slices.Reverse(mails)
	return mails
}

// Handler shows the mails at /, and as JSON at /api/mails.
func (b *Mailbox) Handler() http.Handler {
	r := chi.NewRouter()
	r.Get("/api/mails", func(w http.ResponseWriter, _ *http.Request) { answer(w, http.StatusOK, b.Mails()) })
	r.Get("/", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'")
		w.Header().Set("Referrer-Policy", "no-referrer")
		b.page.Execute(w, b.Mails())
	})
	r.Get("/mails/{n}", func(w http.ResponseWriter, r *http.Request) {
		for _, m := range b.Mails() {
			if strconv.Itoa(m.N) == chi.URLParam(r, "n") && m.HTML != "" {
				w.Header().Set("Content-Type", "text/html; charset=utf-8")
				w.Header().Set("Content-Security-Policy", "sandbox allow-popups; default-src 'none'; style-src 'unsafe-inline'")
				w.Header().Set("Referrer-Policy", "no-referrer")
				io.WriteString(w, m.HTML)
				return
			}
		}
		http.NotFound(w, r)
	})
	return r
}

// delivery is one connection that hands mails in.
type delivery struct {
	box      *Mailbox
	from, to string
}

// Mail is told the sender.
func (d *delivery) Mail(from string, _ *smtp.MailOptions) error { d.from = from; return nil }

// Rcpt is told the receiver.
func (d *delivery) Rcpt(to string, _ *smtp.RcptOptions) error { d.to = to; return nil }

// Data is told the mail.
func (d *delivery) Data(r io.Reader) error {
	m, err := mail.ReadMessage(io.LimitReader(r, mailSize))
	if err != nil {
		return &smtp.SMTPError{Code: 554, Message: "This is not a mail."}
	}
	subject, err := new(mime.WordDecoder).DecodeHeader(m.Header.Get("Subject"))
	if err != nil {
		subject = m.Header.Get("Subject")
	}
	var text, html string
	if kind, params, err := mime.ParseMediaType(m.Header.Get("Content-Type")); err == nil && strings.HasPrefix(kind, "multipart/") {
		parts := multipart.NewReader(m.Body, params["boundary"])
		for {
			part, err := parts.NextRawPart()
			if errors.Is(err, io.EOF) {
				break
			}
			if err != nil {
				return &smtp.SMTPError{Code: 554, Message: "This mail has no parts."}
			}
			said, err := decoded(part, part.Header.Get("Content-Transfer-Encoding"))
			if err != nil {
				return err
			}
			if strings.HasPrefix(part.Header.Get("Content-Type"), "text/html") {
				html = said
			} else if text == "" {
				text = said
			}
		}
	} else if text, err = decoded(m.Body, m.Header.Get("Content-Transfer-Encoding")); err != nil {
		return err
	}
	unsubscribe := ""
	if m.Header.Get("List-Unsubscribe-Post") == "List-Unsubscribe=One-Click" {
		unsubscribe = strings.Trim(m.Header.Get("List-Unsubscribe"), "<>")
	}
	d.box.mu.Lock()
	defer d.box.mu.Unlock()
	d.box.n++
	d.box.mails = append(d.box.mails, Mail{d.to, d.from, subject, text, html, d.box.n, d.box.clock.Now().UTC(), unsubscribe})
	if over := len(d.box.mails) - mailsKept; over > 0 {
		d.box.mails = slices.Delete(d.box.mails, 0, over)
	}
	return nil
}

// decoded reads a part of a mail.
func decoded(body io.Reader, encoding string) (string, error) {
	if strings.EqualFold(encoding, "quoted-printable") {
		body = quotedprintable.NewReader(body)
	}
	text, err := io.ReadAll(body)
	if err != nil {
		return "", errors.New("the mail could not be read")
	}
	return strings.ReplaceAll(string(text), "\r\n", "\n"), nil
}

// Reset begins anew.
func (d *delivery) Reset() { d.from, d.to = "", "" }

// Logout ends the connection.
func (d *delivery) Logout() error { return nil }
