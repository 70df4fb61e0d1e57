package plan

import (
	"bytes"
	"testing"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/gate"
)

// anyAlmanac is an answer with all that answers are made of: times, dates, pointers,
// embedded structs, and strings of any kind.
func anyAlmanac() *rapid.Generator[Almanac] {
	place := rapid.Custom(func(t *rapid.T) operation.Place {
		at := time.Unix(rapid.Int64Range(-2e9, 1e11).Draw(t, "at"), rapid.Int64Range(0, 999).Draw(t, "µs")*1000)
		return operation.PlaceAt(rapid.SampledFrom([]civil.Zone{{}, halifax()}).Draw(t, "zone"), at)
	})
	text := rapid.OneOf(rapid.String(), rapid.SampledFrom([]string{"", "<b>&amp;\u2028\u2029</b>", "a \xff b",
		"\x00\x1f\t\"\\", "élan 🌔"}))
	entry := rapid.Custom(func(t *rapid.T) Entry {
		return Entry{ID: rapid.Int64().Draw(t, "id"), Title: text.Draw(t, "title"), Category: text.Draw(t, "category"),
			Held: rapid.Bool().Draw(t, "held"), Place: place.Draw(t, "place")}
	})
	return rapid.Custom(func(t *rapid.T) Almanac {
		day := AlmanacDay{Date: civil.MustDate("2026-11-24"), Entries: rapid.SliceOfN(entry, 0, 3).Draw(t, "entries"),
			Short: rapid.SliceOf(text).Draw(t, "short")}
		if rapid.Bool().Draw(t, "changes") {
			day.Clocks = &ClockChange{From: 60, To: 120}
		}
		next, at := entry.Draw(t, "next"), place.Draw(t, "proposed")
		return Almanac{Days: []AlmanacDay{day}, Next: &next, Shelf: []ShelfItem{{Proposed: &at}, {}},
			Engine: EngineHealth{Beat: &at.At}}
	})
}

func halifax() civil.Zone {
	zone, err := civil.LoadZone("America/Halifax")
	if err != nil {
		panic(err)
	}
	return zone
}

func TestAnswersAreWrittenAsEncodingJSONWritesThem(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		almanac := anyAlmanac().Draw(t, "almanac")
		problem := &operation.Problem{Title: "No", Status: 422, Detail: almanac.Next.Title,
			Errors: []*huma.ErrorDetail{{Location: "body.title", Value: map[string]any{"b": 1.5e300, "a": nil,
				"c": []any{true, -0.1}}}}}
		for _, answer := range []any{almanac, problem, map[string]any{"z": 1, "a": almanac.Shelf}, []byte(nil),
			struct{}{}} {
			var ours, theirs bytes.Buffer
			require.NoError(t, gate.JSON.Marshal(&ours, answer))
			require.NoError(t, huma.DefaultJSONFormat.Marshal(&theirs, answer))
			require.Equal(t, theirs.String(), ours.String())
		}
	})
}
