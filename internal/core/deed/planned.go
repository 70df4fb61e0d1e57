package deed

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/message"
)

// The names of what is done to outings before they go out.
const (
	KindPlan     Kind = "plan"
	KindSkip     Kind = "skip"
	KindSetAside Kind = "set aside"
)

// Origin is where an outing comes from.
type Origin string

// The origins.
const (
	ByRule        Origin = "rule"        // a rule's turn
	ByHand        Origin = "hand"        // an editor planned it
	ByPublication Origin = "publication" // so long after its post came out
	ByTour        Origin = "tour"
)

// Outing is a message that waits for its time to go to a channel. The rules of the channel go
// on around it.
type Outing struct {
	ID      int64
	Origin  Origin
	Rule    int64     // whose turn it stands for; 0: no rule's
	Turn    time.Time // the turn that an editor took in hand; zero: none
	Channel int64
	Post    int64 // 0: it is of no post
	Item    Item
	At      time.Time // a whole minute
	// Unplaced: the time is only wished for. It gets the first minute from then on that its
	// channel allows as soon as something is decided.
	Unplaced bool
	Wording  message.Wording
	Number   int // of the wording
	Round    int // of shuffled rounds
	Extras   Extras
	Parent   int64     // the outing that it goes under; 0: none
	Reply    *Reply    // what is to follow under it; nil: nothing
	Of       time.Time // the turn of its rule that it was planned in, where a world knows of that
	Tour     string    // the name of the tour whose stop it is; "": no tour's
	Stop     int       // its number, from 1
}

// Reply is a message that goes under another one some time after it.
type Reply struct {
	After   int // minutes
	Wording message.Wording
}

// Follows is the reply to a message that went out at a moment, under the outing of a number; ok
// is false where none is to follow.
func (d Share) Follows(parent int64, at time.Time) (reply Outing, ok bool) {
	if d.Reply == nil {
		return reply, false
	}
	return Outing{Origin: d.Origin, Rule: d.Rule, Channel: d.Channel, Post: d.Post, Item: d.Item,
		At: Minute(at).Add(time.Duration(max(d.Reply.After, 1)) * time.Minute), Wording: d.Reply.Wording, Parent: parent,
		Extras: Extras{Params: d.Extras.Params, Short: d.Extras.Short, Picture: message.Picture{From: message.NoPicture}}}, true
}

func (o Outing) base(reason string) Base {
	return Base{Post: o.Post, Rule: o.Rule, Due: o.At, Reason: reason}
}

// Plan has an outing wait for its time, or gives one that waits its minute.
type Plan struct {
	Base
	Outing Outing // without a number: a new one
}

// Describe tells what the deed is.
func (d Plan) Describe() Description {
	told := d.describe(KindPlan, NothingOf)
	told.Channel, told.To = d.Outing.Channel, d.Outing.At
	return told
}

func (d Plan) apply(w *World, _ time.Time) {
	w.drop(d.Outing.ID)
	w.plans(d.Outing)
}

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

// SetAside leaves a planned outing whose time passed to an editor.
type SetAside struct {
	Base
	Outing  int64
	Channel int64
}

// Describe tells what the deed is.
func (d SetAside) Describe() Description {
	told := d.describe(KindSetAside, NothingOf)
	told.Channel = d.Channel
	return told
}

func (d SetAside) apply(w *World, _ time.Time) { w.drop(d.Outing) }

// outings are the planned outings of a world that have their minute, in order of time. One goes
// out at its minute, whatever else is said then: that minute was chosen.
type outings struct{ w *World }

func (o outings) stage() Stage { return PlannedOutings }

func (o outings) due(time.Time) (time.Time, bool) {
	for _, one := range o.w.planned {
		if !one.Unplaced && !o.w.isSilent(one) {
			return one.At, true
		}
	}
	return time.Time{}, false
}

func (o outings) act(at time.Time) Decision {
	var d Decision
	for _, one := range o.w.planned {
		if one.At.After(at) {
			break
		}
		if !one.Unplaced && !o.w.isSilent(one) {
			d.Deeds = append(d.Deeds, o.w.send(one, at))
		}
	}
	return d
}

// isLate tells whether the time of an outing passed while nothing could send it.
func isLate(o Outing, at time.Time) bool { return at.Sub(o.At) >= Late }

// isSilent tells whether an outing waits since its channel does.
func (w *World) isSilent(o Outing) bool {
	v := w.voices[o.Channel]
	return v != nil && v.Silent
}

// setAside is the deed that leaves a late outing to an editor, where the site wants that.
func (w *World) setAside(o Outing, at time.Time) Deed {
	why := ""
	switch age := at.Sub(o.At); {
	case w.scene.CatchUp == HoldForMe:
		why = "the site holds what is overdue for an editor"
	case w.scene.CatchUp == AtOnceIfFresh && age > w.scene.Fresh:
		why = "the site holds what is more than " + spell(w.scene.Fresh) + " overdue"
	default:
		return nil
	}
	return SetAside{Outing: o.ID, Channel: o.Channel,
		Base: o.base("Set aside, since " + why + "." + lateness(o, at))}
}

// send is what is to be done with a planned outing at its time.
func (w *World) send(o Outing, at time.Time) Deed {
	skip := func(why string) Deed {
		return Skip{Base: o.base("Not sent: " + why), Outing: o.ID, Channel: o.Channel}
	}
	s := Saying{Item: o.Item, Wording: o.Wording, Number: o.Number, Extras: o.Extras, Rule: o.Rule, Due: o.At}
	i, known := w.find(o.Post)
	if o.Post != 0 {
		if !known || !stateOf(w.posts[i]).CanBeShared() {
			if o.Extras.Hold && known {
				return SetAside{Outing: o.ID, Channel: o.Channel, Base: o.base("Set aside, since the post was not out at that time.")}
			}
			return skip("the post was not out at that time.")
		}
		s.Post = w.posts[i]
	}
	v := w.voices[o.Channel]
	if v == nil {
		return skip("its channel is gone.")
	}
	if r, there := w.Rule(o.Rule); there {
		s.Name = r.Base().Name
	}
	m, err := w.Say(v, s)
	if err != nil {
		return skip(err.Error())
	}
	if s.Post != nil && IsRefused(m.Text, v.refusedOf(s.Post, i)) {
		return skip(v.Name + " refused this message before.")
	}
	return Share{Base: o.base(w.whyNow(o, v) + lateness(o, at)), Outing: o.ID, Origin: o.Origin, Channel: o.Channel, Wording: o.Number,
		Round: o.Round, Link: m.Link, Code: m.Code, Params: m.Params, Item: o.Item, Message: m.Message, Extras: o.Extras, Own: o.Wording.String(), Of: o.Of,
		Parent: o.Parent, Reply: o.Reply}
}

// whyNow says why a planned outing goes out.
func (w *World) whyNow(o Outing, v *Voice) string {
	rule := ""
	if r, there := w.Rule(o.Rule); there {
		rule = " of the rule “" + r.Base().Name + "”"
	}
	switch {
	case o.Parent != 0:
		return "The reply that follows the message on " + v.Name + "."
	case !o.Turn.IsZero():
		return fmt.Sprintf("Planned for this time on %s by an editor, instead of the turn%s on %s.", v.Name, rule,
			w.when(o.Turn, o.At))
	case o.Origin == ByRule:
		return fmt.Sprintf("Planned for this time on %s with a turn%s.", v.Name, rule)
	case o.Origin == ByPublication:
		return "Shared on " + v.Name + " since the post came out."
	case o.Tour != "":
		return fmt.Sprintf("Stop %d of the tour “%s”, on %s.", o.Stop, o.Tour, v.Name)
	}
	return "Planned for this time on " + v.Name + "."
}

// lateness says how late an outing is, or "".
func lateness(o Outing, at time.Time) string {
	if !isLate(o, at) {
		return ""
	}
	return " It was " + spell(at.Sub(o.At)) + " late, since nothing could send it before."
}

// placing gives outings their minutes: those that were only wished for, and those that are late,
// by the site's choice for catching up. They keep their distance from other messages of their
// channel, so nothing floods after an outage. Replies go with what they reply to.
type placing struct{ w *World }

func (p placing) stage() Stage { return Placing }

func (p placing) due(at time.Time) (time.Time, bool) {
	for _, o := range p.w.planned {
		switch {
		case p.w.isSilent(o):
		case o.Unplaced || isLate(o, at):
			return o.At, true
		case p.w.unplaced == 0:
			return o.At.Add(Late), true
		}
	}
	return time.Time{}, false
}

func (p placing) act(at time.Time) Decision {
	var d Decision
	w := p.w
	placer := w.Placer()
	for _, o := range w.planned {
		if v := w.voices[o.Channel]; v != nil && isLate(o, at) && !o.Unplaced {
			placer.forget(o)
		}
	}
	for _, o := range w.planned {
		switch {
		case w.isSilent(o):
		case o.Unplaced:
			d.Deeds = append(d.Deeds, w.place(o, placer, at))
		case isLate(o, at):
			d.Deeds = append(d.Deeds, w.catchUpOn(o, placer, at))
		}
	}
	return d
}

// place is the deed that gives an outing that was only wished for its minute.
func (w *World) place(o Outing, placer *Placer, at time.Time) Deed {
	o.Unplaced, o.At = false, placer.Place(o.Channel, civil.Later(o.At, at))
	why := "Planned" + w.on(o) + " for " + w.when(o.At, at)
	if o.Origin == ByPublication {
		why += ", since the post came out"
	}
	base := o.base(why + ".")
	base.Due = at
	return Plan{base, o}
}

// catchUpOn is the deed for an outing that is late: it goes out now, or as soon as its channel
// takes another message, or an editor is asked.
func (w *World) catchUpOn(o Outing, placer *Placer, at time.Time) Deed {
	if aside := w.setAside(o, at); aside != nil {
		return aside
	}
	if o.Parent != 0 || w.voices[o.Channel] == nil {
		return w.send(o, at)
	}
	to := placer.Place(o.Channel, at)
	if !to.After(at) {
		return w.send(o, at)
	}
	base := o.base("Moved to " + w.when(to, at) + w.on(o) + ", as early as its channel takes it." + lateness(o, at))
	o.At = to
	return Plan{base, o}
}

// on says on which channel, such as " on Lantern".
func (w *World) on(o Outing) string {
	if v := w.voices[o.Channel]; v != nil {
		return " on " + v.Name
	}
	return ""
}

// when writes a moment by the clocks of the site.
func (w *World) when(t, now time.Time) string {
	return w.scene.Zone.DateWords(t, now) + w.scene.Zone.In(t).Format(", 15:04")
}

// InHand is a turn of a rule that an editor took in hand: its outings were moved, changed or
// skipped, so the rule itself has nothing to do at it.
type InHand struct {
	Rule int64
	Turn time.Time
}

// newIDs is where the numbers of outings begin that only a world knows of.
const newIDs = int64(1) << 62

// newID is a number for an outing that is planned in the world.
func (w *World) newID() int64 {
	w.ids++
	return newIDs + w.ids
}

// planOutings takes in the planned outings of a scene.
func (w *World) planOutings(all []Outing) {
	w.waits = make(map[int64][]Outing)
	for _, o := range all {
		w.enter(o)
	}
	slices.SortFunc(w.planned, byMinute)
	for _, v := range w.voices {
		slices.SortFunc(v.taken, time.Time.Compare)
	}
}

func byMinute(a, b Outing) int { return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.ID, b.ID)) }

// enter notes a planned outing, without keeping the order.
func (w *World) enter(o Outing) {
	if o.Unplaced {
		w.unplaced++
	}
	w.planned = append(w.planned, o)
	if o.Post != 0 && o.Parent == 0 {
		w.waits[o.Post] = append(w.waits[o.Post], o)
	}
	if v := w.voices[o.Channel]; v != nil && o.Parent == 0 && !o.Unplaced {
		v.taken = append(v.taken, o.At)
	}
}

// plans adds an outing to those that are planned.
func (w *World) plans(o Outing) {
	if o.ID == 0 {
		o.ID = w.newID()
	}
	w.enter(o)
	slices.SortFunc(w.planned, byMinute)
	if v := w.voices[o.Channel]; v != nil {
		slices.SortFunc(v.taken, time.Time.Compare)
		v.version++
	}
	w.touchPost(o.Post)
}

// drop takes a planned outing out of the plan; 0 is none.
func (w *World) drop(outing int64) {
	i := slices.IndexFunc(w.planned, func(o Outing) bool { return o.ID == outing })
	if i < 0 {
		return
	}
	o := w.planned[i]
	if o.Unplaced {
		w.unplaced--
	}
	if v := w.voices[o.Channel]; v != nil && o.Parent == 0 && !o.Unplaced {
		v.unsay(o.At)
	}
	w.planned = slices.Delete(w.planned, i, i+1)
	left := slices.DeleteFunc(w.waits[o.Post], func(other Outing) bool { return other.ID == outing })
	if w.waits[o.Post] = left; len(left) == 0 {
		delete(w.waits, o.Post)
	}
	w.touchPost(o.Post)
}

func (w *World) touchPost(post int64) {
	if i, known := w.find(post); known {
		w.touch(i)
	}
}

// Planned lists the outings that are planned, in order of time.
func (w *World) Planned() []Outing { return slices.Clone(w.planned) }

// handed are the turns of each rule that are in hand, by the second.
func handed(all []InHand) map[int64]map[int64]bool {
	turns := make(map[int64]map[int64]bool)
	for _, one := range all {
		if turns[one.Rule] == nil {
			turns[one.Rule] = make(map[int64]bool)
		}
		turns[one.Rule][one.Turn.Unix()] = true
	}
	return turns
}
