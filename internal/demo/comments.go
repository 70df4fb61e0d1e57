package demo

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/core/comment"
	"dapper.example/internal/store"
)

// remark is a comment of the demo world.
type remark struct {
	title  string // of the post
	days   int    // after its publication; one that waits came this morning
	name   string
	text   string
	answer string // of Ines; "" for none
}

// remarks are what readers have written at Quillmoor Observatory.
var remarks = []remark{
	{"The quiet joy of a red torch", 0, "Oswin Tarrant", "Mine is a bicycle light with nail varnish on it. It has outlived two bicycles.", "Nail varnish is in the next issue. We used two coats."},
	{"The quiet joy of a red torch", 0, "Wilhelmina Okafor", "Is a dim white light really that much worse? My eyes seem to come back in five minutes.", ""},
	{"My first variable star, at seventy-three", 1, "Fenella Brook", "My father did this until he was ninety. Thank you for writing it down.", ""},
	{"My first variable star, at seventy-three", 1, "Casimir Dunne", "Which chart did you begin with?\n\nI have tried twice and lost the comparison stars both times.", "The one with the widest field. Start with three stars, not ten."},
	{"A Geminid that broke in three", 1, "Oswin Tarrant", "We saw it from the harbour! Four people shouted at once.", ""},
	{"Balancing a heavy eyepiece", 2, "Petra Lindqvale", "A bag of coins on the other end does it, and one can buy a coffee with it afterwards.", ""},
	{"Earthshine", 3, "Casimir Dunne", "Read this on the bus and got off two stops late.", ""},
	{"Collimation by candle and patience", 4, "Petra Lindqvale", "Done tonight, with a tea light. It took an hour and the cat helped.", "The cat is in our manual, too."},
	{"The Moon illusion, measured", 2, "Wilhelmina Okafor", "We did this with the class. Thirty children with paper tubes on a hill.", ""},
	{"Jupiter in one evening", 5, "Fenella Brook", "Three moons at six, four at nine. I felt rich.", ""},
}

// waiting are those that nobody has approved yet.
var waiting = []remark{
	{"Children's hour with the small telescopes", 0, "Bram Ellery", "Is there room for a pushchair on the stairs?", ""},
	{"The quiet joy of a red torch", 0, "Lightworks Outlet", "Best torches cheapest price https://torches.example/deal and https://torches.example/more", ""},
	{"My first variable star, at seventy-three", 0, "Gwendolen Farrow", "I am eighty-one and you have made me want to try.", ""},
}

// discuss opens the blog for comments, and adds what readers have written.
func (w *world) discuss(ctx context.Context) error {
	if err := w.tx.SaveCommenting(ctx, w.site.ID, store.Commenting{Open: true, Hold: comment.HoldUnknown, Links: 2}); err != nil {
		return err
	}
	all, err := w.published(ctx)
	if err != nil {
		return err
	}
	posts := make(map[string]store.Post)
	for _, p := range all {
		posts[p.Title] = p.Post
	}
	for i, r := range remarks {
		at := posts[r.title].PublishedAt.Add(time.Duration(r.days)*24*time.Hour + time.Duration(97+23*i)*time.Minute)
		id, err := w.remark(ctx, posts[r.title], r, comment.Shown, at, nil)
		if err != nil {
			return err
		}
		if r.answer != "" {
			if _, err := w.remark(ctx, posts[r.title], remark{name: People()[0].Name, text: r.answer}, comment.Shown, at.Add(3*time.Hour), &id); err != nil {
				return err
			}
		}
	}
	for i, r := range waiting {
		if _, err := w.remark(ctx, posts[r.title], r, comment.Held, w.now.Add(-time.Duration(30-9*i)*time.Minute), nil); err != nil {
			return err
		}
	}
	return nil
}

func (w *world) remark(ctx context.Context, post store.Post, r remark, status comment.Status, at time.Time, answers *int64) (int64, error) {
	c := store.Comment{SiteID: w.site.ID, Post: post.ID, Answers: answers, Name: r.name, Text: r.text, Status: status, At: earlier(at, w.now)}
	if answers != nil {
		user := w.people[r.name]
		c.User = &user
	}
	id, err := w.tx.Queries.InsertComment(ctx, c)
	if err != nil {
		return 0, fmt.Errorf("adding a comment on %s: %w", post.Title, err)
	}
	return id, nil
}

func earlier(a, b time.Time) time.Time {
	if a.After(b) {
		return b
	}
	return a
}
