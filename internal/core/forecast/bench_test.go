package forecast_test

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/forecast"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/reshare"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/upkeep"
)

var (
	halifax = civil.MustZone("America/Halifax")
	noon    = halifax.At(civil.MustDate("2026-11-24"), civil.MustClock("12:00"))
)

func BenchmarkYear(b *testing.B) {
	for _, posts := range []int{10_000, 100_000} {
		b.Run(fmt.Sprintf("%d posts, 40 rules", posts), func(b *testing.B) {
			scene := bigScene(b, posts)
			b.ReportAllocs()
			for b.Loop() {
				f := forecast.Run(forecast.Request{Scene: scene, From: noon, To: noon.AddDate(1, 0, 0)})
				b.ReportMetric(float64(len(f.Events)), "deeds")
			}
		})
	}
}

func compiled(t require.TestingT, n condition.Node) *condition.Condition {
	c, err := condition.Compile(n, halifax)
	require.NoError(t, err)
	return c
}

func all(parts ...condition.Node) condition.Node {
	return condition.Node{Group: condition.AllOf, Parts: parts}
}

func category(names ...string) condition.Node {
	return condition.Node{Test: condition.Category, Match: condition.MatchAny, Values: names}
}

func older(n int, unit condition.Unit) condition.Node {
	return condition.Node{Test: condition.Age, Match: condition.MatchOver, N: n, Unit: unit}
}

// bigScene is a blog with ten years of posts, a year of scheduled ones and 40 rules of
// all kinds, daily and several times a day.
func bigScene(t require.TestingT, posts int) deed.Scene {
	chance := rand.New(rand.NewPCG(1, 2))
	s := deed.Scene{Zone: halifax, Rhythm: rhythm.Rhythm{Zone: halifax, Gap: 60,
		Openings: []rhythm.Opening{rhythm.Fixed("a", rhythm.EveryDay, 600, 0)}},
		Link: func(f *condition.Facts) string { return "https://blog.example/" + f.Slug }}
	categories := []string{"Sky Guide", "Workbench", "Meteor Diary", "Viewing Nights", "Dome Notices", "Members Write"}
	for i := range posts {
		f := condition.Facts{Post: int64(i + 1), Kind: "post", Status: "published",
			Title: fmt.Sprintf("A note from the dome, number %d", i), Slug: fmt.Sprintf("note-%d", i),
			Excerpt:  "Six bright stars make a shape so large that most people look straight through it.",
			Category: categories[chance.IntN(6)], Tags: []string{[]string{"winter", "Moon",
				"Mars"}[chance.IntN(3)]}, Author: "Ines Abara",
			Published: noon.Add(-time.Duration(chance.IntN(3650*24*60)) * time.Minute), Words: chance.IntN(900),
			Evergreen: chance.IntN(2) == 0}
		f.Changed, f.FirstOut = f.Published, f.Published
		if f.Category == "Viewing Nights" {
			f.Fields = map[string]string{"event": noon.AddDate(0, 0, chance.IntN(300)).Format(time.DateOnly)}
		}
		if i%30 == 0 && i/30 < 365 {
			f.Status, f.Published = "scheduled", time.Time{}
			s.Scheduled = append(s.Scheduled, deed.Scheduled{Post: f.Post,
				Due: noon.Add(time.Duration(i/30*24*60+chance.IntN(600)) * time.Minute)})
		}
		s.Posts = append(s.Posts, &f)
	}
	for i := range 4 {
		s.Channels = append(s.Channels, deed.Channel{ID: int64(i + 1), Name: "Lantern", Apart: 20, ADay: 24,
			Zone: halifax, Limits: message.Limits{Graphemes: 320, Links: message.Links{Schemes: []string{"http",
				"https"}, Cost: 24}, Hashtags: 3}})
	}
	wording, err := message.ReadWording("{title} – {excerpt} {link} {hashtags}")
	require.NoError(t, err)
	for i := range 40 {
		rule := deed.RuleBase{ID: int64(i + 1), Name: fmt.Sprint("rule ", i), Seed: uint64(i), Armed: true,
			Served: noon}
		pace := cadence.Pace{Rule: rule.ID, Seed: rule.Seed, Anchor: noon, Zone: halifax, Gap: 20,
			Cadence: cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days, At: civil.Clock(i * 30)}}
		rule.Pace = pace
		here := categories[i%6]
		switch {
		case i < 12:
			rule.Condition = compiled(t, all(category("Dome Notices"), older(10+i, condition.Days),
				condition.Node{Test: condition.WordCount, Match: condition.MatchUnder, N: 100 * (i + 1)}))
			if i%2 == 0 {
				rule.Condition = compiled(t, all(category("Viewing Nights"),
					condition.Node{Test: condition.Field, Match: condition.MatchPassed, Field: "event", N: 1,
						Unit: condition.Days}))
			}
			s.Rules = append(s.Rules, &upkeep.Expire{RuleBase: rule, Action: upkeep.Archive, MostARun: 200,
				Allowed: posts})
		case i < 20:
			rule.Condition = compiled(t, all(category(here), condition.Node{Test: condition.Evergreen,
				Match: condition.MatchYes}))
			s.Rules = append(s.Rules, &upkeep.Republish{RuleBase: rule,
				Youngest: condition.Span{N: 1,
					Unit: condition.Years}, AtATime: 1, Order: upkeep.Orders[i%3], Apart: 400,
				Bounds: cadence.Bounds{Zone: halifax}})
		default:
			rule.Condition = compiled(t, all(category(here, categories[(i+1)%6]), older(2, condition.Months)))
			rule.Pace.Cadence = cadence.Cadence{By: cadence.Every, N: 6 + i%5, Unit: cadence.Hours, Sway: 30}
			s.Rules = append(s.Rules, &reshare.Reshare{RuleBase: rule, Channels: []int64{int64(i%4 + 1)}, Apart: 90,
				Order: reshare.Orders[i%4], Wordings: []message.Wording{wording},
				Extras: deed.Extras{Hashtags: message.Hashtags{Sources: []message.Source{message.FromCategory,
					message.FromTags}}}, Bounds: cadence.Bounds{Zone: halifax}})
		}
	}
	return s
}
