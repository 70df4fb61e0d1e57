package upkeep

import (
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
)

// ahead is a rule's condition as it will be so many days ahead, of which people are told before the rule acts.
type ahead struct {
	days   int // in spans of 24 hours; 0: nobody is told
	moment condition.Moment
	at     time.Time
}

// notice is how long before people are told.
func (a *ahead) notice() time.Duration { return time.Duration(a.days) * 24 * time.Hour }

// of is the condition so many days ahead of a moment, and when that is.
func (a *ahead) of(c *condition.Condition, now time.Time) (*condition.Moment, time.Time) {
	then := now.Add(a.notice())
	if !then.Equal(a.at) {
		a.moment, a.at = c.At(then), then
	}
	return &a.moment, a.at
}

// asker tells whether a rule may act on a post at a moment, and until when that stays so.
type asker func(f *condition.Facts, at time.Time, m *condition.Moment) (bool, time.Time)

// judge tells whether a rule may act on a post now, or will so many days ahead.
func (a *ahead) judge(cond *condition.Condition, c deed.Case, may asker) (bool, time.Time) {
	now, until := may(c.Facts, c.At, c.Moment)
	if a.days == 0 {
		return now, until
	}
	m, then := a.of(cond, c.At)
	later, changes := may(c.Facts, then, m)
	if !changes.IsZero() {
		until = civil.Sooner(until, changes.Add(-a.notice()))
	}
	return now || later, until
}

// explain is judge with the reasons, of which the first says when, where that is not now.
func (a *ahead) explain(cond *condition.Condition, c deed.Case, zone civil.Zone,
	why func(f *condition.Facts, at time.Time, m *condition.Moment) condition.Verdict) condition.Verdict {
	now := why(c.Facts, c.At, c.Moment)
	if now.Caught || a.days == 0 {
		return now
	}
	m, then := a.of(cond, c.At)
	later := why(c.Facts, then, m)
	if !later.Caught {
		return now
	}
	later.Because = append([]condition.Reason{{Holds: true, Text: "on " + zone.DateWords(then, c.At)}}, later.Because...)
	return later
}

// toldFor is for how long after the days of notice it counts that somebody was told.
const toldFor = 90 * 24 * time.Hour

// isTold tells whether somebody was told of a post at a moment, not before it came out last and not long ago.
func (a *ahead) isTold(c deed.Case) bool {
	told := c.Past.Told
	return !told.IsZero() && !told.Before(c.Published) && c.At.Sub(told) <= a.notice()+toldFor
}

// isOver tells whether that was so many days ago.
func (a *ahead) isOver(c deed.Case) bool { return !c.Past.Told.Add(a.notice()).After(c.At) }
