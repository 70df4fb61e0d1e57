package outings

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/prepared"
	"dapper.example/internal/core/words"
	"dapper.example/internal/intake/sheet"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

// maxPrepared is how many prepared messages a site may have.
const maxPrepared = 2000

// Prepared is a prepared message, and what stands in the way of releasing it.
type Prepared struct {
	store.Prepared
	Standing Standing
	Passed   bool   // its time has passed
	Problem  string // "": it can be released
}

// Standing is how far a prepared message has come.
type Standing string

// The standings.
const (
	Preparing Standing = "being prepared"
	Ready     Standing = "ready"   // its outings wait for their time, or for an editor
	OnItsWay  Standing = "due"     // on its way to a network
	Out       Standing = "sent"    // at least one of them is
	Failed    Standing = "failed"  // none went out, and one was refused
	LeftOut   Standing = "skipped" // none went out
)

// standingOf follows from the states of a message's outings.
func standingOf(states []string) Standing {
	for _, s := range []struct {
		state string
		is    Standing
	}{{store.Waiting, OnItsWay}, {store.Planned, Ready}, {store.Aside, Ready}, {store.Sent, Out}, {store.Failed, Failed}, {store.Skipped, LeftOut}} {
		if slices.Contains(states, s.state) {
			return s.is
		}
	}
	return Preparing
}

// Table lists the prepared messages, those of ids or, with nil, all, in the order in which they were written.
func (d Editor) Table(ctx context.Context, q store.Queries, ids []int64, now time.Time) ([]Prepared, error) {
	rows, err := q.PreparedMessages(ctx, d.Site.ID, ids)
	if err != nil {
		return nil, err
	}
	var posts, pictures []int64
	for _, r := range rows {
		posts = append(posts, int64(r.Post))
	}
	w, err := d.world(ctx, q, posts)
	if err != nil {
		return nil, err
	}
	lists, err := siterules.Lists(ctx, q, d.Site.ID)
	if err != nil {
		return nil, err
	}
	for _, r := range rows {
		if r.Picture != 0 {
			pictures = append(pictures, int64(r.Picture))
		}
	}
	if pictures, err = q.KnownPictures(ctx, d.Site.ID, pictures); err != nil {
		return nil, err
	}
	table := make([]Prepared, len(rows))
	for i, r := range rows {
		p := Prepared{Prepared: r, Standing: standingOf(r.Out)}
		if p.Standing == Preparing {
			p.Passed = r.At != nil && !r.At.After(now)
			p.Problem = problemOf(w, r, lists, pictures, now)
		}
		table[i] = p
	}
	return table, nil
}

// problemOf says why a message could not be released as it is now, or "".
func problemOf(w *deed.World, r store.Prepared, lists message.Lists, pictures []int64, now time.Time) string {
	if strings.TrimSpace(r.Text) == "" {
		return "Write what the message says."
	}
	if len(r.Channels) == 0 {
		return "Choose at least one channel."
	}
	wording, err := message.ReadWording(r.Text)
	if err != nil {
		return err.Error()
	}
	if missing := wording.Missing(lists); len(missing) > 0 {
		return fmt.Sprintf("There is no list “%s”.", missing[0])
	}
	if r.Picture != 0 && !slices.Contains(pictures, int64(r.Picture)) {
		return "Its picture is in the bin. Choose another."
	}
	saying := deed.Saying{Item: r.Item.Item, Wording: wording, Due: now, Extras: extrasOf(r)}
	if r.Post != 0 {
		saying.Post, _ = w.Post(int64(r.Post))
	}
	for _, id := range r.Channels {
		v := w.Voice(id)
		if v == nil {
			return "One of its channels is gone. Choose another."
		}
		if _, err := w.Say(v, saying); err != nil {
			return v.Name + ": " + err.Error()
		}
	}
	return ""
}

// extrasOf are what a prepared message has beside its text.
func extrasOf(r store.Prepared) deed.Extras {
	if r.Picture != 0 {
		return deed.Extras{Picture: pictureOf(int64(r.Picture))}
	}
	return deed.Extras{}
}

// Prepare adds messages to the table; they may be unfinished. It fails with *act.Invalid where one cannot be kept.
func (d Editor) Prepare(ctx context.Context, rows []store.Prepared, now time.Time) (ids []int64, err error) {
	if len(rows) == 0 {
		return nil, act.Invalidf("rows", "There is nothing to add.")
	}
	err = d.Change(ctx, func(tx *store.Tx) error {
		there, err := tx.CountPrepared(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if there+len(rows) > maxPrepared {
			return act.Invalidf("rows", "The table has %s, and takes %d. Delete those that are sent.", words.Count(there, "message"), maxPrepared)
		}
		for i, r := range rows {
			if err := d.checkPrepared(ctx, tx.Queries, &r); err != nil {
				var bad *act.Invalid
				if errors.As(err, &bad) {
					bad.Field = fmt.Sprintf("rows[%d].%s", i, bad.Field)
				}
				return err
			}
			r.CreatedAt = now
			id, err := tx.InsertPrepared(ctx, r)
			if err != nil {
				return fmt.Errorf("keeping a prepared message: %w", err)
			}
			ids = append(ids, id)
		}
		return nil
	})
	return ids, err
}

// SavePrepared changes a message that is being prepared.
func (d Editor) SavePrepared(ctx context.Context, r store.Prepared) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		kept, err := d.stillPreparing(ctx, tx.Queries, r.ID)
		if err != nil {
			return err
		}
		if kept.Version != r.Version {
			return act.ErrStale
		}
		if err := d.checkPrepared(ctx, tx.Queries, &r); err != nil {
			return err
		}
		return tx.SavePrepared(ctx, r)
	})
}

// stillPreparing returns a message, which was not released.
func (d Editor) stillPreparing(ctx context.Context, q store.Queries, id int64) (store.Prepared, error) {
	kept, err := q.PreparedMessages(ctx, d.Site.ID, []int64{id})
	if err != nil {
		return store.Prepared{}, err
	}
	if len(kept) == 0 {
		return store.Prepared{}, store.ErrNotFound
	}
	if s := standingOf(kept[0].Out); s != Preparing {
		return kept[0], act.Invalidf("id", "This message is %s. Untick Ready to change it.", s)
	}
	return kept[0], nil
}

// checkPrepared checks what no message may have, finished or not.
func (d Editor) checkPrepared(ctx context.Context, q store.Queries, r *store.Prepared) error {
	r.SiteID = d.Site.ID
	if len(r.Text) > maxText {
		return act.Invalidf("text", "That is too long for any message.")
	}
	if r.At != nil {
		at := r.At.Truncate(time.Minute).UTC()
		if r.At = &at; !civil.IsNear(at) {
			return act.Invalidf("at", "That is too far away. Choose a date from %d to %d.", civil.FirstYear, civil.LastYear)
		}
	}
	if r.Post != 0 {
		r.Item = store.Item{}
		if _, err := q.Post(ctx, d.Site.ID, int64(r.Post)); errors.Is(err, store.ErrNotFound) {
			return act.Invalidf("postId", "There is no such post on this site.")
		} else if err != nil {
			return err
		}
	} else if err := checkItem(r.Item.Item); err != nil {
		return err
	}
	slices.Sort(r.Channels)
	r.Channels = slices.Compact(r.Channels)
	for _, id := range r.Channels {
		if _, _, err := d.channel(ctx, q, id); err != nil {
			return err
		}
	}
	if r.Picture != 0 {
		there, err := q.KnownPictures(ctx, d.Site.ID, []int64{int64(r.Picture)})
		if err != nil {
			return err
		}
		if len(there) == 0 {
			return act.Invalidf("pictureId", "There is no such picture on this site.")
		}
	}
	return nil
}

// DeletePrepared deletes a message from the table. One that waits has to be taken back before; what was sent stays sent.
func (d Editor) DeletePrepared(ctx context.Context, id int64) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		kept, err := tx.PreparedMessages(ctx, d.Site.ID, []int64{id})
		if err != nil {
			return err
		}
		if len(kept) == 0 {
			return store.ErrNotFound
		}
		if s := standingOf(kept[0].Out); s == Ready || s == OnItsWay {
			return act.Invalidf("id", "This message is %s. Untick Ready to delete it.", s)
		}
		return tx.DeletePrepared(ctx, d.Site.ID, id)
	})
}

// WhenPassed is what becomes of prepared messages whose time has passed.
type WhenPassed string

// The choices.
const (
	SendPassed  WhenPassed = "now"     // as soon as their channels allow
	PlacePassed WhenPassed = "opening" // at the next opening
	LeavePassed WhenPassed = "leave"   // they stay as they are
)

// Release plans the outings of prepared messages, in their order, and returns how many messages that were. Those
// without a time take the next openings. It fails with *act.Invalid where one of them cannot be released; then none is.
func (d Editor) Release(ctx context.Context, ids []int64, passed WhenPassed, now time.Time) (n int, err error) {
	err = d.Change(ctx, func(tx *store.Tx) error {
		table, err := d.Table(ctx, tx.Queries, ids, now)
		if err != nil {
			return err
		}
		if len(table) == 0 {
			return act.Invalidf("ids", "Choose at least one message.")
		}
		openings, err := d.openings(ctx, tx.Queries, now)
		if err != nil {
			return err
		}
		type release struct {
			row     Prepared
			at      time.Time
			opening *time.Time
			loose   bool
		}
		var all []release
		late, outings := 0, 0
		for _, row := range table {
			one := release{row: row}
			switch {
			case row.Standing != Preparing:
				continue
			case row.Problem != "":
				return act.Invalidf(fmt.Sprintf("rows[%d]", row.ID), "%s", row.Problem)
			case row.Passed && passed == "":
				late++
				continue
			case row.Passed && passed == LeavePassed:
				continue
			case row.Passed && passed == SendPassed:
				one.at, one.loose = deed.Minute(now).Add(time.Minute), true
			case row.At != nil && !row.Passed:
				one.at = *row.At
			default:
				at, ok := openings.Next(now)
				if !ok {
					return act.Invalidf("openings", "There is no opening within two years. Change when messages without a time go out.")
				}
				one.at, one.opening, one.loose = at, &at, true
			}
			all = append(all, one)
			outings += len(row.Channels)
		}
		switch {
		case late > 0:
			return act.Invalidf("passed", "The time of %s has passed. Say what becomes of %s.", words.Count(late, "message"), map[bool]string{true: "it", false: "them"}[late == 1])
		case outings > maxAtOnce:
			return act.Invalidf("ids", "That makes %d outings; %d are the most at once. Release fewer messages.", outings, maxAtOnce)
		case outings == 0:
			return nil
		}
		if err := d.HasRoom(ctx, tx, outings); err != nil {
			return err
		}
		if err := d.Begin(ctx, tx, words.Count(len(all), "prepared message")+" released.", now); err != nil {
			return err
		}
		for _, one := range all {
			row := one.row
			var wishes []Wish
			for _, id := range row.Channels {
				wish := Wish{Channel: id, Post: int64(row.Post), Item: row.Item.Item, At: one.at, Text: row.Text, Unplaced: one.loose, Prepared: row.ID}
				if row.Picture != 0 {
					wish.Pictures = []int64{int64(row.Picture)}
				}
				wishes = append(wishes, wish)
			}
			if _, err := d.planAll(ctx, tx, wishes, now); err != nil {
				var bad *act.Invalid
				if errors.As(err, &bad) {
					return act.Invalidf(fmt.Sprintf("rows[%d]", row.ID), "%s", bad.Message)
				}
				return err
			}
			if err := tx.TakeOpening(ctx, d.Site.ID, row.ID, one.opening); err != nil {
				return err
			}
		}
		n = len(all)
		return nil
	})
	return n, err
}

// Withdraw takes messages that were released back, so that they can be changed: their outings are dropped. It fails
// with *act.Invalid where a message has gone out on a channel, or is going out now.
func (d Editor) Withdraw(ctx context.Context, ids []int64, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		if err := d.Begin(ctx, tx, words.Count(len(ids), "prepared message")+" taken back.", now); err != nil {
			return err
		}
		for _, id := range ids {
			outings, err := tx.OutingsOfPrepared(ctx, d.Site.ID, id)
			if err != nil {
				return err
			}
			for _, o := range outings {
				if o.State == store.Sent || o.State == store.Waiting {
					return act.Invalidf(fmt.Sprintf("rows[%d]", id), "It has gone out on %s already. Copy it to send it again.", o.Network)
				}
			}
			for _, o := range outings {
				if o.State == store.Failed {
					if err := tx.LeaveOut(ctx, d.Site.ID, o.ID, o.Error); err != nil {
						return err
					}
				}
				if err := tx.DropPlanned(ctx, d.Site.ID, o.ID); err != nil {
					return err
				}
				if err := d.Note(ctx, tx, o, "A planned outing was dropped; it would have gone out on ", &o, nil, now); err != nil {
					return err
				}
			}
			if len(outings) == 0 {
				continue
			}
			if err := tx.TakeOpening(ctx, d.Site.ID, id, nil); err != nil {
				return err
			}
		}
		return nil
	})
}

// usual is when messages without a time go out where a site has said nothing.
var usual = cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days, At: civil.MustClock("12:15"), Sway: 45}

// Openings says when messages without a time go out, and the version of that.
func (d Editor) Openings(ctx context.Context, q store.Queries) (cadence.Cadence, int, error) {
	c, version, ok, err := q.PreparedOpenings(ctx, d.Site.ID)
	if !ok {
		c = usual
	}
	return c, version, err
}

func (d Editor) openings(ctx context.Context, q store.Queries, now time.Time) (prepared.Openings, error) {
	c, _, err := d.Openings(ctx, q)
	if err != nil {
		return prepared.Openings{}, err
	}
	taken, err := q.TakenOpenings(ctx, d.Site.ID, now)
	o := prepared.Openings{Taken: make(map[time.Time]bool), Pace: cadence.Pace{Cadence: c, Zone: d.Site.Zone(), Gap: 1, Seed: uint64(d.Site.ID),
		Anchor: d.Site.CreatedAt}}
	for _, at := range taken {
		o.Taken[at.UTC()] = true
	}
	return o, err
}

// SaveOpenings changes when messages without a time go out. Those that are released keep their time.
func (d Editor) SaveOpenings(ctx context.Context, c cadence.Cadence, version int) error {
	if c.By == cadence.Hand {
		return act.Invalidf("cadence.by", "Choose when messages without a time go out.")
	}
	for _, p := range c.Problems(d.Site.Zone(), 1) {
		return act.Invalidf("cadence."+p.Path, "%s", p.Message)
	}
	return d.Change(ctx, func(tx *store.Tx) error {
		_, seen, _, err := tx.PreparedOpenings(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if seen != version {
			return act.ErrStale
		}
		return tx.SavePreparedOpenings(ctx, d.Site.ID, c, version)
	})
}

// sheetLimits bound a sheet of messages.
var sheetLimits = sheet.Limits{Bytes: 512 << 10, Unpacked: 16 << 20, Rows: 1000, Columns: 100, Cell: 10_000}

// PreparedSheet is a sheet that was read as messages.
type PreparedSheet struct {
	Names    []string // of the sheets of its file; "" alone where they have no names
	Name     string   // of the one that was read
	Rows     []store.Prepared
	Problems map[int]string // what is wrong with a row, by its place among them
}

// cellsOf reads a sheet of a file: the first one where none is named.
func cellsOf(ctx context.Context, file []byte, s *PreparedSheet) (rows []sheet.Row, err error) {
	f, err := sheet.Open(ctx, file, sheetLimits)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	if s.Names = f.Names(); s.Name == "" {
		s.Name = s.Names[0]
	}
	for row, err := range f.Rows(ctx, s.Name) {
		if err != nil {
			return nil, err
		}
		rows = append(rows, row)
	}
	return rows, nil
}

// ReadRows reads a file as messages: a sheet of it, or the first one where none is named. Nothing is kept. It fails with
// *act.Invalid where it cannot be read.
func (d Editor) ReadRows(ctx context.Context, q store.Queries, file []byte, name string, now time.Time) (PreparedSheet, error) {
	s := PreparedSheet{Name: name}
	lines, err := cellsOf(ctx, file, &s)
	var bad *sheet.Unreadable
	if errors.As(err, &bad) {
		return s, act.Invalidf("sheet", "%s", bad.Why)
	}
	if err != nil {
		return s, err
	}
	s.Problems = make(map[int]string)
	odd := make(map[int]string)
	read := prepared.Read(func(yield func(int, []string) bool) {
		for _, row := range lines {
			odd[row.Line] = row.Problem
			if !yield(row.Line, row.Cells) {
				return
			}
		}
	}, d.Site.Zone(), now)
	all, err := q.Channels(ctx, d.Site.ID)
	if err != nil {
		return s, err
	}
	var named, shown []string
	for _, r := range read {
		if r.Post != "" {
			named = append(named, strings.ToLower(r.Post), slugOf(r.Post))
		}
		if r.Picture != "" {
			shown = append(shown, strings.ToLower(r.Picture))
		}
	}
	posts, err := q.PostsNamed(ctx, d.Site.ID, named)
	if err != nil {
		return s, err
	}
	pictures, err := q.PicturesNamed(ctx, d.Site.ID, shown)
	if err != nil {
		return s, err
	}
	for i, r := range read {
		row := store.Prepared{Text: r.Text, Item: store.Item{Item: deed.Item{Title: r.Title, Link: r.Link}}}
		if problem := cmp.Or(r.Problem, odd[r.Line]); problem != "" {
			s.Problems[i] = problem
		}
		if !r.At.IsZero() {
			at := r.At.UTC()
			row.At = &at
		}
		for _, name := range r.Channels {
			k := slices.IndexFunc(all, func(c store.Channel) bool { return isNamed(c, name) })
			if k < 0 {
				s.Problems[i] = fmt.Sprintf("There is no channel “%s”.", name)
				continue
			}
			row.Channels = append(row.Channels, all[k].ID)
		}
		if r.Post != "" {
			id := cmp.Or(posts[slugOf(r.Post)], posts[strings.ToLower(r.Post)])
			if id == 0 {
				s.Problems[i] = fmt.Sprintf("There is no post “%s”.", r.Post)
			}
			row.Post = store.ID(id)
		}
		if r.Picture != "" {
			id := pictures[strings.ToLower(r.Picture)]
			if id == 0 {
				s.Problems[i] = fmt.Sprintf("There is no picture “%s” in the library.", r.Picture)
			}
			row.Picture = store.ID(id)
		}
		s.Rows = append(s.Rows, row)
	}
	return s, nil
}

func isNamed(c store.Channel, name string) bool {
	network, known := channel.Of(c.Kind)
	return strings.EqualFold(c.Name, name) || known && strings.EqualFold(network.Name(), name)
}

// slugOf is the slug that a slug or an address of a post ends in.
func slugOf(said string) string { return path.Base(strings.TrimRight(said, "/")) }

// Sample is a message that was sent to a practice wall.
type Sample struct {
	Channel string // its name
	URL     string // where it is to be read; "" where it was not taken
	Problem string // why not
}

// SendSample sends a prepared message to the practice walls of its channels' networks, as its channels would be sent it.
// Nothing is planned or noted. It fails with *act.Invalid where the message cannot go out as it is.
func (d Editor) SendSample(ctx context.Context, q store.Queries, id int64, walls channel.Addresses, now time.Time) ([]Sample, error) {
	if walls.Base == "" {
		return nil, act.Invalidf("id", "There is no practice wall here: this installation runs without stand-ins.")
	}
	table, err := q.PreparedMessages(ctx, d.Site.ID, []int64{id})
	if err != nil {
		return nil, err
	}
	if len(table) == 0 {
		return nil, store.ErrNotFound
	}
	row := table[0]
	if len(row.Channels) == 0 {
		return nil, act.Invalidf("channels", "Choose at least one channel.")
	}
	messages, err := d.Compose(ctx, q, Draft{Post: int64(row.Post), Item: row.Item.Item, Text: row.Text, Extras: extrasOf(row), Channels: row.Channels, Due: now}, now)
	if err != nil {
		return nil, err
	}
	samples := make([]Sample, len(messages))
	for i, m := range messages {
		samples[i] = Sample{Channel: m.Name, Problem: m.Problem}
		if m.Problem != "" {
			continue
		}
		network, _ := channel.Of(m.Kind)
		message := channel.Message{Key: fmt.Sprintf("sample-%d-%d-%d", id, m.Channel, now.UnixNano()), Text: m.Text}
		if m.Picture != nil {
			_, data, err := q.PictureFile(ctx, d.Site.ID, m.Picture.Key, m.Picture.Width)
			if err != nil {
				return nil, fmt.Errorf("reading picture %d: %w", m.Picture.ID, err)
			}
			message.Media = []channel.Media{{Type: "image/" + m.Picture.Type, Alt: m.Picture.Alt, Data: data}}
		}
		receipt, err := network.Send(ctx, walls.Practice(m.Kind), message)
		if err != nil {
			samples[i].Problem = err.Error()
			continue
		}
		samples[i].URL = receipt.URL
	}
	return samples, nil
}
