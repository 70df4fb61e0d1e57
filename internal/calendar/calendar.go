// Package calendar writes the plan of a site for calendar programs, as iCalendar
// (RFC 5545).
package calendar

import (
	"fmt"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"

	"dapper.example/internal/store"
)

// Lasts is how long an entry is drawn in calendars. A publication is a moment, but many
// programs hide events of no length.
const Lasts = 15 * time.Minute

// Feed is a calendar to be written.
type Feed struct {
	Site store.Site
	Name string
	// Public is where the program is reached, such as https://blog.example.
	Public  string
	Entries []store.CalendarEntry
}

// Text writes the feed. Times are in UTC (section 3.3.5, form 2), so that no zone needs
// to be described. An entry's UID (section 3.8.4.7) stays its own as long as the post is
// there, and its SEQUENCE (section 3.8.7.4) grows with each change of the post. What has
// lost its time is cancelled.
func (f Feed) Text() string {
	c := ics.NewCalendarFor("Dapper Almanac")
	c.SetProductId("-//Dapper Almanac//Plan//EN")
	c.SetMethod(ics.MethodPublish)
	c.SetCalscale("GREGORIAN")
	c.SetName(plain(f.Name)) // RFC 7986, section 5.1
	c.SetXWRCalName(plain(f.Name))
	c.SetXWRTimezone(f.Site.ZoneName)
	c.SetRefreshInterval("PT15M") // RFC 7986, section 5.7
	c.SetXPublishedTTL("PT15M")
	for _, e := range f.Entries {
		f.add(c, e)
	}
	return c.Serialize(ics.WithNewLineWindows) // section 3.1, on every system
}

func (f Feed) add(c *ics.Calendar, e store.CalendarEntry) {
	v := c.AddEvent(fmt.Sprintf("post-%d@%s.%s", e.ID, f.Site.LastingName, host(f.Public)))
	v.SetDtStampTime(e.UpdatedAt)
	v.SetModifiedAt(e.UpdatedAt)
	v.SetSequence(e.Version)
	v.SetStartAt(e.At)
	v.SetEndAt(e.At.Add(Lasts))
	v.SetSummary(plain(e.Title))
	v.SetTimeTransparency(ics.TransparencyTransparent) // it takes up nobody's time
	if e.Category != "" {
		v.AddCategory(plain(e.Category))
	}
	said := []string{e.Author}
	status := ics.ObjectStatusConfirmed
	v.SetURL(fmt.Sprintf("%s/%s?post=%d", f.Public, f.Site.Slug, e.ID))
	switch {
	case e.State == store.CalendarCancelled:
		status = ics.ObjectStatusCancelled
		said = append(said, "has no time any more")
	case e.State == store.CalendarOut:
		said = append(said, "out")
		v.SetURL(f.Site.Home(f.Public).Full(e.Slug))
	case e.Pinned:
		said = append(said, "pinned")
	default:
		said = append(said, "scheduled")
	}
	v.SetStatus(status)
	text := strings.Join(said, ", ")
	if e.Excerpt != "" {
		text += "\n\n" + e.Excerpt
	}
	v.SetDescription(plain(text))
}

// plain is a text without the characters that a text value has no way to write (section
// 3.3.11): line ends become those it has.
func plain(text string) string {
	text = strings.ReplaceAll(strings.ReplaceAll(text, "\r\n", "\n"), "\r", "\n")
	return strings.Map(func(r rune) rune {
		if r < ' ' && r != '\n' && r != '\t' || r == 0x7f {
			return -1
		}
		return r
	}, text)
}

// host is the name of the machine in an address, for UIDs.
func host(public string) string {
	_, rest, found := strings.Cut(public, "://")
	if !found {
		rest = public
	}
	name, _, _ := strings.Cut(rest, "/")
	name, _, _ = strings.Cut(name, ":")
	if name == "" {
		return "localhost"
	}
	return name
}
