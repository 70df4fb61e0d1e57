package blog

import (
	"cmp"
	"errors"
	"fmt"
	"html"
	"html/template"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"dapper.example/internal/comments"
	"dapper.example/internal/core/comment"
	"dapper.example/internal/core/words"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

const (
	// maxCommentBody is the largest form that a comment comes in, in bytes.
	maxCommentBody = 64 << 10
	// commentsPage is how many comments are shown on a page.
	commentsPage = 200
	// readerCookie holds the secret by which a reader's browser is known again, readerLength is how many characters it has, and
	// readerFor for how long it is known.
	readerCookie = "reader"
	readerLength = 32
	readerFor    = 365 * 24 * time.Hour
	// trapField is a field that people do not see; programs fill it in.
	trapField = "website"
)

// Comments slow down: from one place, and on one site from all places together.
var (
	placePace = store.Pace{Span: 10 * time.Minute, Free: 5, Pause: 2 * time.Minute}
	sitePace  = store.Pace{Span: 10 * time.Minute, Free: 60, Pause: 10 * time.Second}
)

// discussion is what is said under a post.
type discussion struct {
	N       string // how many, in words
	Said    []said
	Earlier string // address of the page with those before
	Open    bool   // a form is shown
	Closed  bool   // it is said that no more are taken
	Thanks  bool   // a comment has just been taken, and waits
	Action  string
	Feed    string
	Form    commentForm
}

type commentForm struct {
	comment.Written
	NameSays, TextSays, Says string // what is wrong
}

// said is a comment as readers see it.
type said struct {
	ID            int64
	Name          string
	Date, Machine string
	Team          bool // somebody of the site
	Text          template.HTML
	Answers       []said
}

// discuss gives a page that shows a post what is said under it.
func (v visit) discuss(p *page, post store.Post, form commentForm) error {
	d := &discussion{Open: v.takesComments(post),
		Action: v.path(post.Slug+"/comments") + "#comment", Feed: v.path(post.Slug + "/comments.atom"), Form: form,
		Thanks: v.r.URL.Query().Get("comment") == string(comment.Held)}
	before, _ := strconv.ParseInt(v.r.URL.Query().Get("before"), 10, 64)
	all, err := v.Store.ShownComments(v.r.Context(), v.site.ID, post.ID, max(before, 0), commentsPage+1)
	if err != nil {
		return err
	}
	if len(all) > commentsPage {
		all = all[:commentsPage]
		d.Earlier = v.path(post.Slug) + "?" + url.Values{"before": {strconv.FormatInt(all[commentsPage-1].ID, 10)}}.Encode() + "#comments"
	}
	slices.Reverse(all)
	at := make(map[int64]int) // of comments that are no answers, in d.Said
	for _, c := range all {
		one := v.said(c)
		if c.Answers != nil {
			if i, there := at[*c.Answers]; there {
				d.Said[i].Answers = append(d.Said[i].Answers, one)
				continue
			}
		}
		at[c.ID] = len(d.Said)
		d.Said = append(d.Said, one)
	}
	if p.Post.Comments > 0 {
		d.N = words.Count(p.Post.Comments, "comment")
	}
	d.Closed = !d.Open && len(d.Said) > 0
	if d.Open || d.Closed || d.Thanks {
		p.Discussion = d
	}
	return nil
}

// takesComments tells whether readers may comment on a post now. Pages take none.
func (v visit) takesComments(post store.Post) bool {
	return post.Status == store.Published && post.Kind == "post" &&
		v.site.CommentRules().IsOpen(post.CommentsOpen, *post.PublishedAt, v.site.Zone(), v.Now())
}

func (v visit) said(c store.Comment) said {
	shown := v.site.Zone().In(c.At)
	return said{ID: c.ID, Name: c.Name, Date: dateOf(v.site, c.At) + shown.Format(", 15:04"), Machine: shown.Format(time.RFC3339), Team: c.User != nil,
		Text: commentHTML(c.Text)}
}

// commentHTML is a comment's text as HTML. Its links are marked as a reader's (HTML, section 4.6.7; "ugc" as search
// engines know it).
func commentHTML(text string) template.HTML {
	var out strings.Builder
	for _, p := range comment.Paragraphs(text) {
		out.WriteString(`<p dir="auto">`)
		for i, line := range p {
			if i > 0 {
				out.WriteString("<br>")
			}
			for _, piece := range line {
				if piece.Address == "" {
					out.WriteString(html.EscapeString(piece.Text))
					continue
				}
				fmt.Fprintf(&out, `<a rel="nofollow ugc noopener" href="%s">%s</a>`, html.EscapeString(piece.Address), html.EscapeString(piece.Text))
			}
		}
		out.WriteString("</p>")
	}
	return template.HTML(out.String()) //nolint:gosec // escaped here
}

// receiveComment takes a comment.
func (b *Blog) receiveComment(v visit) error {
	post, err := v.Store.PublicPost(v.r.Context(), v.site.ID, v.param("slug"))
	if err != nil {
		return err
	}
	if !v.takesComments(post) {
		return v.refuse(http.StatusForbidden, post, commentForm{Says: "Comments on this post are closed."})
	}
	v.r.Body = http.MaxBytesReader(v.w, v.r.Body, maxCommentBody)
	if err := v.r.ParseForm(); err != nil {
		if _, large := errors.AsType[*http.MaxBytesError](err); large {
			return v.refuse(http.StatusRequestEntityTooLarge, post,
				commentForm{Says: fmt.Sprintf("This is far longer than a comment may be: %d characters. Nothing was sent.", comment.MaxText)})
		}
		return v.refuse(http.StatusBadRequest, post, commentForm{Says: "The form could not be read. Please send it again."})
	}
	written := comment.Written{Name: v.r.PostForm.Get("name"), Text: v.r.PostForm.Get("text")}
	if v.r.PostForm.Get(trapField) != "" {
		return v.thank(post, comment.Held, 0) // whoever fills it in is not told
	}
	wait, err := v.slow("comment")
	if err != nil {
		return err
	}
	if wait > 0 {
		v.w.Header().Set("Retry-After", strconv.Itoa(int((wait+time.Second-1)/time.Second)))
		minutes := words.Count(int((wait+time.Minute-1)/time.Minute), "minute")
		return v.refuse(http.StatusTooManyRequests, post,
			commentForm{Written: written, Says: "There have been many comments in a short time. Please send yours again in " + minutes + "; it is still here."})
	}
	secret, hash := v.reader()
	kept, err := comments.Receive(v.r.Context(), v.Store.Queries, v.site, post.ID, written, hash, v.Now())
	if refused, is := errors.AsType[comments.Refused](err); is {
		form := commentForm{Written: written}
		for _, p := range refused {
			switch p.Field {
			case "name":
				form.NameSays = p.Message
			case "text":
				form.TextSays = p.Message
			}
		}
		return v.refuse(http.StatusUnprocessableEntity, post, form)
	}
	if err != nil {
		return err
	}
	http.SetCookie(v.w, &http.Cookie{Name: readerCookie, Value: secret, Path: v.path(""), MaxAge: int(readerFor / time.Second), HttpOnly: true,
		Secure: strings.HasPrefix(v.Public, "https://"), SameSite: http.SameSiteLaxMode})
	return v.thank(post, kept.Status, kept.ID)
}

// thank leads back to the post (RFC 9110, section 15.4.4).
func (v visit) thank(post store.Post, status comment.Status, id int64) error {
	to := v.path(post.Slug)
	if status == comment.Shown {
		to += "#comment-" + strconv.FormatInt(id, 10)
	} else {
		to += "?comment=" + string(status) + "#comments"
	}
	v.w.Header().Set("Cache-Control", "no-store")
	http.Redirect(v.w, v.r, to, http.StatusSeeOther)
	return nil
}

// refuse shows the post with the form as it was sent, and what is wrong.
func (v visit) refuse(status int, post store.Post, form commentForm) error {
	p, err := v.reading(post, post.Slug)
	if err != nil {
		return err
	}
	p.Hidden = true
	if err := v.discuss(&p, post, form); err != nil {
		return err
	}
	if p.Discussion == nil {
		p.Discussion = &discussion{Form: form}
	}
	return v.show(status, v.post, p)
}

// reader is the secret by which the reader's browser is known, or a new one, and its hash.
func (v visit) reader() (secret string, hash []byte) {
	if cookie, err := v.r.Cookie(readerCookie); err == nil && len(cookie.Value) == readerLength {
		return cookie.Value, secrets.Hash(cookie.Value)
	}
	return secrets.New()
}

// slow is how long a comment is to wait; 0 where it may go ahead. What is kept of the place where it comes from is a hash of
// it, for as long as that takes.
func (v visit) slow(what string) (time.Duration, error) {
	site := strconv.FormatInt(v.site.ID, 10)
	place := fmt.Sprintf(what+" from %x", secrets.Hash(site+" "+placeOf(v.From(v.r))))
	wait, err := v.Store.Try(v.r.Context(), place, v.Now(), placePace)
	if err != nil || wait > 0 {
		return wait, err
	}
	return v.Store.Try(v.r.Context(), what+" on "+site, v.Now(), sitePace)
}

// placeOf is an address of the network, or of an IPv6 address the part that one line has (RFC 6177).
func placeOf(address string) string {
	ip, err := netip.ParseAddr(address)
	if err != nil || ip.Unmap().Is4() {
		return address
	}
	prefix, err := ip.Prefix(64)
	if err != nil {
		return address
	}
	return prefix.String()
}

// serveComments sends the latest comments of the site, or of a post, as Atom (RFC 4287).
func (b *Blog) serveComments(v visit) error {
	c := channel{Title: "Comments on " + v.site.Title, Language: v.site.Language, Home: v.address(""), Self: v.address("comments.atom"), Updated: v.site.CreatedAt}
	var all []store.Comment
	var err error
	if slug := v.param("slug"); slug != "" {
		post, err := v.Store.PublicPost(v.r.Context(), v.site.ID, slug)
		if err != nil {
			return err
		}
		c.Title, c.Home, c.Self = "Comments on "+post.Title, v.address(post.Slug), v.address(post.Slug+"/comments.atom")
		c.Updated = *post.PublishedAt
		if all, err = v.Store.ShownComments(v.r.Context(), v.site.ID, post.ID, 0, feedLength); err != nil {
			return err
		}
	} else if all, err = v.Store.LatestComments(v.r.Context(), v.site.ID, feedLength); err != nil {
		return err
	}
	for _, one := range all {
		at := one.At.UTC()
		c.Items = append(c.Items, item{ID: v.lastingAs(at, fmt.Sprintf("comment/%d", one.ID)), Title: xmlSafe(one.Name + " on " + cmp.Or(one.Title, "a post")),
			Link: v.address(one.Slug) + fmt.Sprintf("#comment-%d", one.ID), Author: xmlSafe(one.Name), HTML: xmlSafe(string(commentHTML(one.Text))),
			Published: at, Updated: at})
		if at.After(c.Updated) {
			c.Updated = at
		}
	}
	text, err := c.atom()
	if err != nil {
		return err
	}
	return v.send("application/atom+xml; charset=utf-8", text, time.Time{})
}
