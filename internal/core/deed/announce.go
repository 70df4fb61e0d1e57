package deed

import (
	"time"

	"dapper.example/internal/core/message"
)

// Announcement is a message that follows when a post comes out.
type Announcement struct {
	Channel int64
	After   int // minutes after the publication
	Wording message.Wording
	Extras  Extras
	Reply   *Reply
}

// announced are the announcements of a post, by its number.
func (w *World) announced(i int) []Announcement {
	f := w.posts[i]
	if own, has := w.scene.OwnAnnouncements[f.Post]; has {
		return own
	}
	if f.Kind == "page" { // only what readers follow is announced by itself
		return nil
	}
	return w.scene.Announcements
}

// announce plans what is to follow the publication of a post, which came out at a moment.
func (w *World) announce(i int, at time.Time) {
	w.announceAs(i, w.announced(i), at)
}

// announceAs plans announcements of a post, which came out at a moment.
func (w *World) announceAs(i int, says []Announcement, at time.Time) {
	f := w.posts[i]
	for _, a := range says {
		wording := a.Wording
		if own := w.OwnWordings(f, a.Channel); len(own) > 0 {
			wording = own[0]
		}
		w.plans(Outing{Origin: ByPublication, Channel: a.Channel, Post: f.Post, Unplaced: true,
			At: Minute(at).Add(time.Duration(a.After) * time.Minute), Wording: wording, Extras: a.Extras, Reply: a.Reply})
	}
}
