package deed

import "slices"

// Scene returns the world as it is now, as a scene of its own.
func (w *World) Scene() Scene {
	s := w.scene
	s.Posts, s.Scheduled, s.Planned = slices.Clone(w.posts), slices.Clone(w.scheduled), slices.Clone(w.planned)
	s.Binned = slices.Clone(w.binned)
	clear(w.own) // the facts are the scene's now
	s.ids = w.ids
	s.Published, s.Standing, s.Channels, s.Pasts, s.Rules = w.published, nil, nil, nil, nil
	waiting := make(map[int64]bool, len(w.scheduled))
	for i, p := range s.Scheduled {
		waiting[p.Post] = true
		s.Scheduled[i].Slot = w.plan.slot(p.Post)
	}
	for _, p := range w.plan.all {
		if !waiting[p.Post] {
			s.Standing = append(s.Standing, p)
		}
	}
	loose := make(map[int64]map[int]said) // what no rule of the scene said
	for _, c := range w.scene.Channels {
		v := w.voices[c.ID]
		c.Recent = slices.Clone(v.taken)
		for _, o := range w.planned {
			if i := slices.Index(c.Recent, o.At); o.Channel == c.ID && o.Parent == 0 && !o.Unplaced && i >= 0 {
				c.Recent = slices.Delete(c.Recent, i, i+1)
			}
		}
		s.Channels = append(s.Channels, c)
		loose[c.ID] = make(map[int]said)
		for i, all := range v.past {
			loose[c.ID][i] = all
		}
	}
	for _, t := range w.turns {
		s.Rules = append(s.Rules, t.rule.Copy())
		for at, p := range t.past {
			p.Rule, p.Channel, p.Post = t.rule.Base().ID, at.channel, w.posts[at.post].Post
			s.Pasts = append(s.Pasts, p)
			if at.channel != 0 {
				rest := loose[at.channel][at.post]
				rest.n -= p.N
				loose[at.channel][at.post] = rest
			}
		}
	}
	for channel, posts := range loose {
		for i, all := range posts {
			if all.n > 0 {
				s.Pasts = append(s.Pasts, Record{Channel: channel, Post: w.posts[i].Post, N: all.n, Last: all.last})
			}
		}
	}
	return s
}
