package upkeep

import (
	"time"

	"dapper.example/internal/core/condition"
)

// Asked is Judge as conditions: the rule's own, joined with what outOfReach, the action and holds ask.
func (e *Expire) Asked(at time.Time) []condition.Moment {
	tests := append(e.asksBeside(), e.Action.asks(e.With)...)
	all := e.Condition.With(append(tests, no(condition.KeptForNow))...)
	moments := []condition.Moment{all.At(at)}
	if e.TellDays > 0 {
		moments = append(moments, all.At(at.Add(e.lead().notice())))
	}
	return moments
}

// Chosen are the posts that were chosen by hand, and those that were left out.
func (e *Expire) Chosen() (only, without map[int64]bool) { return e.Only, e.Excluded }

// asksBeside are the tests of outOfReach, but for what was chosen by hand and for what the action asks.
func (e *Expire) asksBeside() []condition.Node {
	tests := []condition.Node{no(condition.NeverExpires), status(condition.MatchNone, "scheduled")}
	asksKind := e.Condition.Asks(condition.Kind)
	switch onlyOut := e.Only == nil && !e.Condition.Asks(condition.Status) && e.Action != Delete; {
	case onlyOut && asksKind:
		return append(tests, status(condition.MatchAny, "published", "linked"))
	case onlyOut:
		return append(tests, status(condition.MatchAny, "published"))
	case !asksKind:
		return append(tests, status(condition.MatchNone, "linked"))
	}
	return tests
}

// asks are the tests of misses.
func (a Action) asks(x Extras) []condition.Node {
	out := []string{"binned", "linked"} // to whose posts most actions are not done
	switch a {
	case Delete:
		return []condition.Node{status(condition.MatchAny, "binned")}
	case Bin:
		return []condition.Node{status(condition.MatchNone, "binned")}
	case Archive:
		return []condition.Node{status(condition.MatchAny, "published")}
	case ToDraft:
		return []condition.Node{status(condition.MatchNone, append(out, "draft")...)}
	case ToCategory:
		return []condition.Node{status(condition.MatchNone, out...),
			{Test: condition.Category, Match: condition.MatchNone, Values: []string{x.CategoryName}}}
	case AddTag:
		return []condition.Node{status(condition.MatchNone, out...),
			{Test: condition.TaggedLike, Match: condition.MatchNone, Values: []string{x.Tag}}}
	case PutNotice:
		return []condition.Node{status(condition.MatchAny, "published"), no(condition.HasNotice)}
	case CloseComments:
		return []condition.Node{status(condition.MatchNone, out...), {Test: condition.TakesComments, Match: condition.MatchYes}}
	}
	return nil
}

func status(match condition.Match, of ...string) condition.Node {
	return condition.Node{Test: condition.Status, Match: match, Values: of}
}

func no(t condition.Test) condition.Node { return condition.Node{Test: t, Match: condition.MatchNo} }
