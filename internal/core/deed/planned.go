package deed

import (
	"cmp"
	"slices"
	"time"

	"dapper.example/internal/core/message"
)

// KindSkip is the name of leaving a planned outing out.
const KindSkip Kind = "skip"

// Skip leaves out a planned outing whose message cannot go out.
type Skip struct {
	Base
	Outing  int64
	Channel int64
}

// Describe tells what the deed is.
func (d Skip) Describe() Description {
	told := d.describe(KindSkip, NothingOf)
	told.Channel = d.Channel
	return told
}

func (d Skip) apply(w *World, _ time.Time) { w.drop(d.Outing) }

// Outing is an outing that an editor planned: at its time a message about a post goes to a
// channel. The rules of the channel go on around it.
type Outing struct {
	ID, Channel, Post int64
	At                time.Time // a whole minute
	Wording           message.Wording
}

func (o Outing) base(reason string) Base { return Base{Post: o.Post, Due: o.At, Reason: reason} }

// outings are the planned outings of a world, in order of time.
type outings struct{ w *World }

func (o outings) stage() Stage { return PlannedOutings }

func (o outings) due(time.Time) (time.Time, bool) {
	if len(o.w.planned) == 0 {
		return time.Time{}, false
	}
	return o.w.planned[0].At, true
}

func (o outings) act(at time.Time) Decision {
	var d Decision
	for _, one := range o.w.planned {
		if one.At.After(at) {
			break
		}
		d.Deeds = append(d.Deeds, o.w.send(one, at))
	}
	return d
}

// send is what is to be done with a planned outing at its time.
func (w *World) send(o Outing, at time.Time) Deed {
	skip := func(why string) Deed {
		return Skip{Base: o.base("Not sent: " + why), Outing: o.ID, Channel: o.Channel}
	}
	i, known := w.index[o.Post]
	if !known || !stateOf(&w.posts[i]).IsOut() {
		return skip("the post was not out at that time.")
	}
	v := w.voices[o.Channel]
	if v == nil {
		return skip("its channel is gone.")
	}
	f := &w.posts[i]
	link := w.LinkTo(f, Linked{})
	m, err := message.Compose(o.Wording, PostOf(f, link), message.Hashtags{}, v.Limits)
	if err != nil {
		return skip(err.Error())
	}
	if slices.ContainsFunc(v.refusedOf(f, i), func(r Refusal) bool { return r.Text == m.Text }) {
		return skip(v.Name + " refused this message before.")
	}
	reason := "Planned for this time on " + v.Name + "."
	if late := at.Sub(o.At); late >= Late {
		reason += " It was " + spell(late) + " late, since nothing could send it before."
	}
	return Share{Base: o.base(reason), Outing: o.ID, Channel: o.Channel, Link: link, Message: m}
}

// planOutings puts the planned outings of a scene in order, and their times into their channels.
func (w *World) planOutings(all []Outing) {
	w.planned = slices.SortedFunc(slices.Values(all), func(a, b Outing) int {
		return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.ID, b.ID))
	})
	for _, o := range w.planned {
		if v := w.voices[o.Channel]; v != nil {
			v.taken = append(v.taken, o.At)
		}
	}
	for _, v := range w.voices {
		slices.SortFunc(v.taken, time.Time.Compare)
	}
}

// drop takes a planned outing out of the plan; 0 is none.
func (w *World) drop(outing int64) {
	i := slices.IndexFunc(w.planned, func(o Outing) bool { return o.ID == outing })
	if i < 0 {
		return
	}
	if v := w.voices[w.planned[i].Channel]; v != nil {
		v.unsay(w.planned[i].At)
	}
	w.planned = slices.Delete(w.planned, i, i+1)
}
