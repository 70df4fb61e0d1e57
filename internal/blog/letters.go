package blog

import (
	"cmp"
	"errors"
	"net/http"
	"strconv"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/words"
	"dapper.example/internal/letters"
	"dapper.example/internal/store"
)

// maxLettersBody is the largest form in which mails are asked for, in bytes.
const maxLettersBody = 8 << 10

// lettersPage is what the pages of mailing lists show.
type lettersPage struct {
	Says, Problem string
	Ask           bool // a form is shown
	Lists         []store.Channel
	Action, Email string
	Button, Do    string // what one click does; "": there is nothing to do
}

func (v visit) showLetters(code int, heading string, p lettersPage) error {
	made, err := v.page(heading+" · "+v.site.Title, "")
	if err != nil {
		return err
	}
	made.Heading, made.Hidden, made.Meta, made.Canonical, made.Letters = heading, true, meta{}, "", &p
	v.w.Header().Set("Cache-Control", "no-store")
	v.w.Header().Set("Referrer-Policy", "no-referrer") // the address has a token
	return v.show(code, v.letters, made)
}

// lists are the mailing lists of the blog; store.ErrNotFound where it has none.
func (v visit) lists() ([]store.Channel, error) {
	lists, err := v.Store.MailChannels(v.r.Context(), v.site.ID)
	if err == nil && len(lists) == 0 {
		err = store.ErrNotFound
	}
	return lists, err
}

func (b *Blog) serveLetters(v visit) error {
	lists, err := v.lists()
	if err != nil {
		return err
	}
	return v.askForm(http.StatusOK, lists, "", "")
}

func (v visit) askForm(code int, lists []store.Channel, email, problem string) error {
	return v.showLetters(code, "By mail", lettersPage{Says: "Leave your address, and confirm it in the mail that comes. Each mail has a link that ends it.",
		Problem: problem, Ask: true, Lists: lists, Action: v.path(letters.Path), Email: email})
}

// receiveAsking takes the wish for mails.
func (b *Blog) receiveAsking(v visit) error {
	lists, err := v.lists()
	if err != nil {
		return err
	}
	v.r.Body = http.MaxBytesReader(v.w, v.r.Body, maxLettersBody)
	if err := v.r.ParseForm(); err != nil {
		return v.askForm(http.StatusBadRequest, lists, "", "The form could not be read. Please send it again.")
	}
	email := v.r.PostForm.Get("email")
	id, _ := strconv.ParseInt(v.r.PostForm.Get("list"), 10, 64)
	list := lists[0]
	for _, one := range lists {
		if one.ID == id {
			list = one
		}
	}
	if v.r.PostForm.Get(trapField) == "" {
		wait, err := v.slow("mails")
		if err != nil {
			return err
		}
		if wait > 0 {
			v.w.Header().Set("Retry-After", strconv.Itoa(int((wait+time.Second-1)/time.Second)))
			return v.askForm(http.StatusTooManyRequests, lists, email, "Please try again in "+words.Count(int((wait+time.Minute-1)/time.Minute), "minute")+".")
		}
		err = letters.Ask(v.r.Context(), v.Store, v.Asker, list, email, v.Now())
		if bad, is := errors.AsType[*act.Invalid](err); is {
			return v.askForm(http.StatusUnprocessableEntity, lists, email, bad.Message)
		}
		if err != nil {
			return err
		}
	}
	return v.showLetters(http.StatusOK, "One more step", lettersPage{Says: "If you are not on the list yet, a mail is on its way to you. Open the link in it to confirm."})
}

// subscriber finds who has the token of the address.
func (v visit) subscriber() (store.Subscriber, error) {
	return v.Store.SubscriberByToken(v.r.Context(), v.site.ID, v.param("token"))
}

// serveLetter shows whoever has a token what one click does: programs that only look at links change nothing.
func (b *Blog) serveLetter(v visit) error {
	s, err := v.subscriber()
	if err != nil {
		return err
	}
	switch {
	case s.State == "asked" && v.Now().Sub(s.AskedAt) <= letters.Confirmable:
		return v.showLetters(http.StatusOK, "Do you want mails?", lettersPage{Says: "Mails from this blog would come to " + s.Email + ".", Button: "Yes, send me mails", Do: "confirm"})
	case s.State == "on":
		return v.showLetters(http.StatusOK, "By mail", lettersPage{Says: "Mails go to " + s.Email + ".", Button: "Unsubscribe", Do: "end"})
	}
	return v.showLetters(http.StatusOK, "No mails", lettersPage{Says: "No mails go to this address."})
}

// receiveLetter does what one click does. A mail program's one click (RFC 8058) ends it.
func (b *Blog) receiveLetter(v visit) error {
	s, err := v.subscriber()
	if err != nil {
		return err
	}
	v.r.Body = http.MaxBytesReader(v.w, v.r.Body, maxLettersBody)
	do := cmp.Or(v.r.PostFormValue("do"), "end")
	if do == "confirm" {
		done, err := letters.Confirm(v.r.Context(), v.Store.Queries, s, v.Now())
		if err != nil {
			return err
		}
		if done {
			return v.showLetters(http.StatusOK, "Thank you", lettersPage{Says: "Mails from this blog come to " + s.Email + " from now on."})
		}
		return v.showLetters(http.StatusOK, "Too late", lettersPage{Says: "This link is too old. Ask for mails once more."})
	}
	if err := v.Store.EndSubscriber(v.r.Context(), s.ID, v.Now()); err != nil {
		return err
	}
	return v.showLetters(http.StatusOK, "Unsubscribed", lettersPage{Says: "No more mails go to " + s.Email + "."})
}
