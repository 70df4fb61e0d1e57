package civil_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
)

func TestDateArithmetic(t *testing.T) {
	d := civil.NewDate(2026, time.November, 24)
	assert.Equal(t, "2026-11-24", d.String())
	assert.Equal(t, time.Tuesday, d.Weekday())
	assert.Equal(t, "2026-12-01", d.Add(7).String())
	assert.Equal(t, "2024-02-29", civil.MustDate("2024-03-01").Add(-1).String())
	assert.Equal(t, 366, civil.MustDate("2025-01-01").Sub(civil.MustDate("2024-01-01")))
	assert.Equal(t, civil.MustDate("2026-05-01"), civil.NewDate(2026, time.April, 31))
	assert.True(t, civil.Date{}.IsZero())
	assert.Equal(t, "0001-01-01", civil.Date{}.String())
	assert.Equal(t, "9999-12-31", civil.MustDate("9999-12-31").String())
}

func TestADateIsSaidWithItsYearWhereThatIsNotThisOne(t *testing.T) {
	t.Parallel()
	today := civil.MustDate("2026-12-04")
	for of, words := range map[string]string{
		"2026-12-04": "Fri 4 Dec", "2026-12-31": "Thu 31 Dec", "2027-01-01": "Fri 1 Jan 2027", "2025-12-31": "Wed 31 Dec 2025",
	} {
		assert.Equal(t, words, civil.MustDate(of).Words(today))
		assert.NotContains(t, civil.MustDate(of).Words(civil.Date{}), "20")
	}
}

func TestAZoneIsNamedForACity(t *testing.T) {
	t.Parallel()
	for name, city := range map[string]string{"America/Halifax": "Halifax",
		"America/Argentina/Buenos_Aires": "Buenos Aires", "UTC": "UTC"} {
		zone, err := civil.LoadZone(name)
		require.NoError(t, err)
		assert.Equal(t, city, zone.City())
	}
}

func TestDateAgreesWithTime(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		days := rapid.IntRange(0, 3_652_058).Draw(t, "days")
		want := time.Time{}.AddDate(0, 0, days)
		got := civil.Date{}.Add(days)
		assert.Equal(t, want.Format(time.DateOnly), got.String())
		assert.Equal(t, want.Weekday(), got.Weekday())
		back, err := civil.ParseDate(got.String())
		require.NoError(t, err)
		assert.Equal(t, got, back)
	})
}

func TestParseDateRefusesNonsense(t *testing.T) {
	for _, text := range []string{"", "2026-02-30", "26-1-1", "2026-11-24T10:00", "0000-01-01", "yesterday",
		"2026/11/24"} {
		_, err := civil.ParseDate(text)
		assert.ErrorContains(t, err, "2026-11-24", "%q", text)
	}
}

func TestClock(t *testing.T) {
	for text, minutes := range map[string]int{"00:00": 0, "09:40": 580, "23:59": 1439, "24:00": 1440, "26:30": 1590,
		"48:00": 2880} {
		c, err := civil.ParseClock(text)
		require.NoError(t, err)
		assert.EqualValues(t, minutes, c)
		assert.Equal(t, text, c.String())
	}
	for _, text := range []string{"", "9:40", "09:60", "48:01", "-1:00", "ab:cd", "09.40", "+9:40", "99:00"} {
		_, err := civil.ParseClock(text)
		assert.ErrorContains(t, err, "09:40", "%q", text)
	}
	assert.Equal(t, "-00:10", civil.Clock(-10).String())
}

func TestTextForms(t *testing.T) {
	type form struct {
		Date civil.Date  `json:"date"`
		At   civil.Clock `json:"at"`
		Zone civil.Zone  `json:"zone"`
	}
	want := `{"date":"2026-11-24","at":"09:40","zone":"Europe/Lisbon"}`
	var f form
	require.NoError(t, json.Unmarshal([]byte(want), &f))
	got, err := json.Marshal(f)
	require.NoError(t, err)
	assert.Equal(t, want, string(got))
	assert.Error(t, json.Unmarshal([]byte(`{"date":"24.11.2026"}`), &f))
	assert.Error(t, json.Unmarshal([]byte(`{"at":"noon"}`), &f))
	assert.Error(t, json.Unmarshal([]byte(`{"zone":"Atlantis/Poseidonis"}`), &f))
}
