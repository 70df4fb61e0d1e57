package enact

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/post"
	"dapper.example/internal/store"
)

// change is a post's change of state with its line of the logbook.
type change struct {
	claim store.Claim
	to    post.State
	line  store.LogEntry
}

// stand writes new states of posts and their lines of the logbook.
func (w *work) stand(ctx context.Context, changes ...change) error {
	states, lines := make([]store.NewState, len(changes)), make([]store.LogEntry, len(changes))
	for i, c := range changes {
		before, err := json.Marshal(c.claim.State)
		if err != nil {
			return err
		}
		after, err := json.Marshal(c.to)
		if err != nil {
			return err
		}
		states[i] = store.NewState{SiteID: c.claim.SiteID, Post: c.claim.ID, State: c.to}
		lines[i] = c.line
		lines[i].SiteID, lines[i].Before, lines[i].After = c.claim.SiteID, before, after
	}
	if err := w.tx.SaveStates(ctx, states, w.Now); err != nil {
		return err
	}
	return w.tx.LogAll(ctx, lines)
}

// turn gives one post the state that a change of its present one comes to.
func (w *work) turn(ctx context.Context, d deed.Deed, to func(post.State) post.State) error {
	told := d.Describe()
	claim, err := w.claim(ctx, told.Post)
	if err != nil {
		return err
	}
	return w.stand(ctx, change{claim, to(claim.State), w.line(told.Base, told.Kind)})
}

// publish makes posts public, none before it is due.
func publish(ctx context.Context, w *work, deeds []deed.Publish) error {
	changes := make([]change, len(deeds))
	for i, d := range deeds {
		claim, err := w.claim(ctx, d.Post)
		if err != nil {
			return fmt.Errorf("to publish post %d: %w", d.Post, err)
		}
		at := w.Now
		if d.Due.After(at) {
			at = d.Due
		}
		line := w.line(d.Base, deed.KindPublish)
		line.At = at
		changes[i] = change{claim, claim.State.Publish(at), line}
	}
	if err := w.stand(ctx, changes...); err != nil {
		return fmt.Errorf("publishing: %w", err)
	}
	ids := make([]int64, len(deeds))
	for i, d := range deeds {
		ids[i] = d.Post
	}
	sites, err := w.tx.Announce(ctx, ids, w.Now)
	if err != nil {
		return fmt.Errorf("planning what follows the publication: %w", err)
	}
	for _, site := range sites {
		if err := w.tx.Ask(ctx, site, w.Now); err != nil {
			return err
		}
	}
	return nil
}

func move(ctx context.Context, w *work, d deed.Move) error {
	return w.turn(ctx, d, func(s post.State) post.State { return s.Schedule(d.To, d.Slot.ID) })
}

func hold(ctx context.Context, w *work, d deed.Hold) error { return w.turn(ctx, d, post.State.Hold) }

// standAtOnce is to how many posts one statement gives other states.
const standAtOnce = 500

// standing makes a doer of how a deed changes the state of its post. Many posts are changed at once: a run of a rule may
// take thousands.
func standing[D deed.Deed](to func(w *work, d D, s post.State) post.State) doer {
	return together(func(ctx context.Context, w *work, deeds []D) error {
		for some := range slices.Chunk(deeds, standAtOnce) {
			ids := make([]int64, len(some))
			for i, d := range some {
				ids[i] = d.Describe().Post
			}
			claims, err := w.tx.ClaimPosts(ctx, w.Site, ids)
			if err != nil {
				return fmt.Errorf("to %s posts: %w", some[0].Describe().Kind, err)
			}
			of := make(map[int64]store.Claim, len(claims))
			for _, c := range claims {
				of[c.ID] = c
			}
			changes := make([]change, len(some))
			for i, d := range some {
				told, claim := d.Describe(), of[ids[i]]
				changes[i] = change{claim, to(w, d, claim.State), w.line(told.Base, told.Kind)}
			}
			if err := w.stand(ctx, changes...); err != nil {
				return fmt.Errorf("to %s posts: %w", some[0].Describe().Kind, err)
			}
		}
		return nil
	})
}

func archive(w *work, d deed.Archive, s post.State) post.State {
	return s.Archive(w.Now, d.Notice).Answering(d.Answer, d.LeadsTo)
}

func toDraft(_ *work, _ deed.ToDraft, s post.State) post.State { return s.ToDraft() }

func bin(w *work, _ deed.Bin, s post.State) post.State { return s.Bin(w.Now) }

// republish brings a post out again and notes it for the rule.
func republish(ctx context.Context, w *work, d deed.Republish) error {
	if err := w.turn(ctx, d, func(s post.State) post.State { return s.Republish(w.Now) }); err != nil {
		return err
	}
	if len(d.Says) > 0 {
		var channels []int64
		for _, a := range d.Says {
			channels = append(channels, a.Channel)
		}
		if err := w.tx.AnnounceAgain(ctx, w.Site, d.Post, channels, d.Says[0].After, w.rule.Settings.Say, w.Now); err != nil {
			return fmt.Errorf("planning what is shared of it: %w", err)
		}
	}
	return w.tx.InsertRepublication(ctx, store.Republication{SiteID: w.Site,
		Rule: w.line(d.Base, deed.KindRepublish).Rule, Post: d.Post, At: w.Now, Round: d.Round})
}
