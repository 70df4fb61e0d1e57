package outings_test

import (
	"net/http/httptest"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/outings"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/standin"
	"dapper.example/internal/store"
)

// write puts messages into the table.
func (r room) write(rows ...store.Prepared) []int64 {
	r.t.Helper()
	for i := range rows {
		if rows[i].Channels == nil {
			rows[i].Channels = store.IDs{r.lantern}
		}
	}
	ids, err := r.Prepare(r.t.Context(), rows, pgtest.Noon)
	require.NoError(r.t, err)
	return ids
}

func (r room) table() []outings.Prepared {
	r.t.Helper()
	table, err := r.Table(r.t.Context(), r.World.Store.Queries, nil, pgtest.Noon)
	require.NoError(r.t, err)
	return table
}

func (r room) plannedTimes() []string {
	r.t.Helper()
	planned, err := r.World.Store.Planned(r.t.Context(), r.World.Site.ID)
	require.NoError(r.t, err)
	var at []string
	for _, o := range planned {
		at = append(at, r.World.Site.Zone().In(o.At).Format("02 15:04")+" "+o.OwnText)
	}
	return at
}

func in(hours int) *time.Time {
	at := pgtest.Noon.Add(time.Duration(hours) * time.Hour)
	return &at
}

func daily(r room, clock string) {
	r.t.Helper()
	require.NoError(r.t, r.SaveOpenings(r.t.Context(), cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days, At: civil.MustClock(clock)}, 0))
}

func TestWhatIsReleasedGoesOutAtItsTimeOrAtAnOpening(t *testing.T) {
	r := newRoom(t)
	daily(r, "18:00")
	ids := r.write(store.Prepared{Text: "First"}, store.Prepared{Text: "At its time", At: in(2)}, store.Prepared{Text: "Second"})
	for _, row := range r.table() {
		assert.Equal(t, outings.Preparing, row.Standing)
		assert.Empty(t, row.Problem)
	}
	n, err := r.Release(t.Context(), ids, "", pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, 3, n)
	zone := r.World.Site.Zone()
	assert.Equal(t, []string{zone.In(*in(2)).Format("02 15:04") + " At its time", "24 18:00 First", "25 18:00 Second"}, r.plannedTimes())

	// An opening is one message's: the next one takes the next.
	later := r.write(store.Prepared{Text: "Third"})
	_, err = r.Release(t.Context(), later, "", pgtest.Noon)
	require.NoError(t, err)
	assert.Contains(t, r.plannedTimes(), "26 18:00 Third")

	// One that is taken back leaves its opening to another.
	require.NoError(t, r.Withdraw(t.Context(), ids[:1], pgtest.Noon))
	assert.Equal(t, outings.Preparing, r.table()[0].Standing)
	again := r.write(store.Prepared{Text: "Fourth"})
	_, err = r.Release(t.Context(), again, "", pgtest.Noon)
	require.NoError(t, err)
	assert.Contains(t, r.plannedTimes(), "24 18:00 Fourth")
}

func TestReleasedTwiceIsPlannedOnce(t *testing.T) {
	r := newRoom(t)
	ids := r.write(store.Prepared{Text: "Once", At: in(3)})
	for range 2 {
		_, err := r.Release(t.Context(), ids, "", pgtest.Noon)
		require.NoError(t, err)
	}
	assert.Len(t, r.plannedTimes(), 1)
	assert.Equal(t, outings.Ready, r.table()[0].Standing)
}

func TestMessagesWhoseTimeHasPassedAreAskedAbout(t *testing.T) {
	for passed, want := range map[outings.WhenPassed][]string{
		outings.SendPassed:  {"24 12:01 Late"},
		outings.PlacePassed: {"24 18:00 Late"},
		outings.LeavePassed: nil,
	} {
		t.Run(string(passed), func(t *testing.T) {
			r := newRoom(t)
			daily(r, "18:00")
			ids := r.write(store.Prepared{Text: "Late", At: in(-5)})
			assert.True(t, r.table()[0].Passed)
			_, err := r.Release(t.Context(), ids, "", pgtest.Noon)
			invalid(t, err, "passed", "The time of 1 message has passed. Say what becomes of it.")
			_, err = r.Release(t.Context(), ids, passed, pgtest.Noon)
			require.NoError(t, err)
			assert.Equal(t, want, r.plannedTimes())
		})
	}
}

func invalid(t *testing.T, err error, field, says string) {
	t.Helper()
	var bad *act.Invalid
	require.ErrorAs(t, err, &bad)
	assert.Equal(t, field, bad.Field)
	assert.Contains(t, bad.Message, says)
}

func TestWhatCannotGoOutIsNotReleased(t *testing.T) {
	r := newRoom(t)
	long := ""
	for range 60 {
		long += "seven! "
	}
	for name, one := range map[string]struct {
		row  store.Prepared
		says string
	}{
		"empty":           {store.Prepared{}, "Write what the message says."},
		"no channel":      {store.Prepared{Text: "x", Channels: store.IDs{}}, "Choose at least one channel."},
		"a placeholder":   {store.Prepared{Text: "{nonsense}"}, "nonsense"},
		"a list":          {store.Prepared{Text: "{one-of:nothing}"}, "nothing"},
		"too long":        {store.Prepared{Text: long}, "Lantern: "},
		"needs a picture": {store.Prepared{Text: "x", Channels: store.IDs{r.vitrine()}}, "picture"},
	} {
		good := r.write(store.Prepared{Text: "Good", At: in(1)})
		ids := r.write(one.row)
		_, err := r.Release(t.Context(), append(good, ids...), "", pgtest.Noon)
		var bad *act.Invalid
		require.ErrorAs(t, err, &bad, name)
		assert.Contains(t, bad.Message, one.says, name)
		assert.Empty(t, r.plannedTimes(), "all are released, or none")
	}
	_, err := r.Prepare(t.Context(), []store.Prepared{{Text: "x", Item: store.Item{Item: deed.Item{Link: "javascript:alert(1)"}}}}, pgtest.Noon)
	invalid(t, err, "rows[0].link", "https://")
	_, err = r.Prepare(t.Context(), []store.Prepared{{Text: "x", Post: 1 << 40}}, pgtest.Noon)
	invalid(t, err, "rows[0].postId", "no such post")
	_, err = r.Prepare(t.Context(), []store.Prepared{{Text: "x", Channels: store.IDs{1 << 40}}}, pgtest.Noon)
	invalid(t, err, "rows[0].channelId", "Choose one of the site's channels.")
}

func (r room) vitrine() int64 {
	id, err := r.World.InsertChannel(r.t.Context(), store.Channel{SiteID: r.World.Site.ID, Kind: channel.Vitrine,
		Name: "Vitrine", Address: "http://127.0.0.1:9", Token: "t", Apart: 20})
	require.NoError(r.t, err)
	return id
}

func TestAReleasedMessageIsChangedOnlyOnceTakenBack(t *testing.T) {
	r := newRoom(t)
	ids := r.write(store.Prepared{Text: "Before", At: in(3)})
	_, err := r.Release(t.Context(), ids, "", pgtest.Noon)
	require.NoError(t, err)
	row := r.table()[0].Prepared
	row.Text = "After"
	invalid(t, r.SavePrepared(t.Context(), row), "id", "Untick Ready")
	invalid(t, r.DeletePrepared(t.Context(), row.ID), "id", "Untick Ready")
	require.NoError(t, r.Withdraw(t.Context(), ids, pgtest.Noon))
	row = r.table()[0].Prepared
	row.Text = "After"
	require.NoError(t, r.SavePrepared(t.Context(), row))
	assert.ErrorIs(t, r.SavePrepared(t.Context(), row), act.ErrStale, "somebody else's version")
	require.NoError(t, r.DeletePrepared(t.Context(), row.ID))
	assert.Empty(t, r.table())
}

// A release is undone by its outings, and what is undone is being prepared again; what is brought back is ready again.
func TestAReleaseIsUndone(t *testing.T) {
	r := newRoom(t)
	ids := r.write(store.Prepared{Text: "x", At: in(3)})
	_, err := r.Release(t.Context(), ids, "", pgtest.Noon)
	require.NoError(t, err)
	for _, want := range []outings.Standing{outings.Preparing, outings.Ready} {
		require.NoError(t, r.undo(pgtest.Noon))
		assert.Equal(t, want, r.table()[0].Standing)
	}
}

func TestASampleIsShownOnThePracticeWallAlone(t *testing.T) {
	r := newRoom(t)
	network, err := standin.New(channel.Lantern, "", clockwork.NewFakeClockAt(pgtest.Noon))
	require.NoError(t, err)
	outside := httptest.NewServer(standin.Handler([]*standin.Network{network}, nil))
	t.Cleanup(outside.Close)
	ids := r.write(store.Prepared{Text: "Look: {title}", Post: store.ID(r.post.ID)}, store.Prepared{})
	samples, err := r.SendSample(t.Context(), r.World.Store.Queries, ids[0], channel.Addresses{Base: outside.URL}, pgtest.Noon)
	require.NoError(t, err)
	require.Len(t, samples, 1)
	assert.Empty(t, samples[0].Problem)
	assert.Contains(t, samples[0].URL, "/lantern/practice/#")
	assert.Empty(t, network.Messages(), "followers see nothing of it")
	assert.Empty(t, r.plannedTimes())
	_, err = r.SendSample(t.Context(), r.World.Store.Queries, ids[1], channel.Addresses{Base: outside.URL}, pgtest.Noon)
	invalid(t, err, "text", "Write what the message says.")
	_, err = r.SendSample(t.Context(), r.World.Store.Queries, ids[0], channel.Addresses{}, pgtest.Noon)
	invalid(t, err, "id", "without stand-ins")
}

func TestASheetBecomesMessages(t *testing.T) {
	r := newRoom(t)
	read, err := r.ReadRows(t.Context(), r.World.Store.Queries, []byte("text,post,date,time,channels\n"+
		"Look: {title} {link},cables,26 Nov,9:40,lantern\nAgain,Cables in the Dark,,,Semaphore\nAn address,https://dome.example/blog/cables/,soon,,"), "", pgtest.Noon)
	require.NoError(t, err)
	rows, problems := read.Rows, read.Problems
	require.Len(t, rows, 3)
	for _, row := range rows {
		assert.EqualValues(t, r.post.ID, row.Post)
	}
	assert.Equal(t, store.IDs{r.lantern}, rows[0].Channels)
	assert.Equal(t, "26 09:40", r.World.Site.Zone().In(*rows[0].At).Format("02 15:04"))
	assert.Equal(t, "There is no channel “Semaphore”.", problems[1])
	assert.Contains(t, problems[2], "“soon” is not a date and a time")
	_, err = r.ReadRows(t.Context(), r.World.Store.Queries, []byte("\""), "", pgtest.Noon)
	assert.NoError(t, err)

	// So does a sheet of a book, with its dates.
	f := excelize.NewFile()
	_, err = f.NewSheet("December")
	require.NoError(t, err)
	for cell, value := range map[string]any{"A2": "Text", "B2": "When", "A4": "Clear skies", "B4": time.Date(2026, 12, 4, 9, 40, 0, 0, time.UTC)} {
		require.NoError(t, f.SetCellValue("December", cell, value))
	}
	out, err := f.WriteToBuffer()
	require.NoError(t, err)
	read, err = r.ReadRows(t.Context(), r.World.Store.Queries, out.Bytes(), "", pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, []string{"Sheet1", "December"}, read.Names)
	assert.Empty(t, read.Rows)
	read, err = r.ReadRows(t.Context(), r.World.Store.Queries, out.Bytes(), "December", pgtest.Noon)
	require.NoError(t, err)
	require.Len(t, read.Rows, 1)
	assert.Equal(t, "Clear skies", read.Rows[0].Text)
	assert.Equal(t, "4 Dec 09:40", r.World.Site.Zone().In(*read.Rows[0].At).Format("2 Jan 15:04"))
	_, err = r.ReadRows(t.Context(), r.World.Store.Queries, out.Bytes(), "January", pgtest.Noon)
	invalid(t, err, "sheet", "There is no sheet “January”")
	_, err = r.ReadRows(t.Context(), r.World.Store.Queries, out.Bytes()[:500], "", pgtest.Noon)
	invalid(t, err, "sheet", "cut off or damaged")
}
