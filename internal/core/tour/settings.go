package tour

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"

	"dapper.example/internal/core/check"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/message"
)

// Settings are all that an editor says of a tour.
type Settings struct {
	Lines    []string         `json:"lines"`    // that stops are built on, in the order in which they are dealt
	Wordings []string         `json:"wordings"` // with {line}
	Channels []int64          `json:"channels"`
	Pictures []int64          `json:"pictures"` // of the library, dealt in turn; none: that of Picture
	Picture  message.Picture  `json:"picture"`  // where none of the library is dealt
	Hashtags message.Hashtags `json:"hashtags"`
	Short    bool             `json:"short"` // links are short ones, whose clicks are counted
	// Mentions are names of others on the channels, such as @somebody: one at the end of each message, dealt in turn.
	Mentions []string `json:"mentions,omitempty"`
	// Hold has stops whose post is not out at their time wait for an editor; else they are left out.
	Hold  bool  `json:"hold,omitempty"`
	Shape Shape `json:"shape"`
	// Moved are stops, by their numbers from 1, that were moved to times of their own.
	Moved map[int]time.Time `json:"moved,omitempty"`
	// Own are messages that were changed by hand, by stop and channel; see Place.
	Own map[string]string `json:"own,omitempty"`
	// Left are stops that are left out: their times passed while the tour was paused.
	Left []int `json:"left,omitempty"`
}

// Place names the message of a stop, by its number from 1, on a channel.
func Place(stop int, channel int64) string {
	return strconv.Itoa(stop) + ":" + strconv.FormatInt(channel, 10)
}

// Limits of settings.
const (
	MostWordings = 20
	MostPictures = 50
	MostMentions = 20
	maxMention   = 100  // characters of a mention
	maxLine      = 1000 // characters of a line
)

// Problems lists what is wrong with settings whatever the post is. Channels and pictures are for others to look at.
func (s Settings) Problems() (all []check.FieldProblem) {
	say := func(path, format string, args ...any) {
		all = append(all, check.FieldProblem{Path: path, Message: fmt.Sprintf(format, args...)})
	}
	s.Shape.problems(say)
	switch {
	case len(s.Lines) > MostStops:
		say("lines", "Choose at most %d lines.", MostStops)
	case len(s.Lines) == 0 && s.usesLine():
		say("lines", "Choose at least one line, or write one.")
	}
	for i, l := range s.Lines {
		if n := letters.Length(l, maxLine); strings.TrimSpace(l) == "" || n > maxLine {
			say(fmt.Sprintf("lines[%d]", i), "A line has 1 to %d characters.", maxLine)
		}
	}
	if len(s.Wordings) == 0 || len(s.Wordings) > MostWordings {
		say("wordings", "Write 1 to %d wordings.", MostWordings)
	}
	for i, w := range s.Wordings {
		if _, err := message.ReadWording(w); err != nil {
			say(fmt.Sprintf("wordings[%d]", i), "%s", err)
		}
	}
	for place, text := range s.Own {
		if _, err := message.ReadWording(text); err != nil {
			say("own."+place, "%s", err)
		}
	}
	if len(s.Channels) == 0 {
		say("channels", "Choose at least one channel.")
	}
	if len(s.Pictures) > MostPictures {
		say("pictures", "Choose at most %d pictures.", MostPictures)
	}
	if len(s.Mentions) > MostMentions {
		say("mentions", "Write at most %d mentions.", MostMentions)
	}
	for i, m := range s.Mentions {
		if len(m) < 2 || m[0] != '@' || strings.ContainsFunc(m, func(r rune) bool { return unicode.IsSpace(r) || r == '{' || r == '}' }) || letters.Length(m, maxMention) > maxMention {
			say(fmt.Sprintf("mentions[%d]", i), "Write a mention as @name, without spaces.")
		}
	}
	for stop, at := range s.Moved {
		if !civil.IsNear(at) {
			say("moved", "Stop %d is too far away. Choose a date from %d to %d.", stop, civil.FirstYear, civil.LastYear)
		}
	}
	return all
}

func (s Settings) usesLine() bool {
	return slices.ContainsFunc(s.Wordings, func(text string) bool {
		w, err := message.ReadWording(text)
		return err == nil && w.Uses(message.Line)
	})
}

func (s Shape) problems(say func(path, format string, args ...any)) {
	between := func(path string, n, least, most int, what string) {
		if n < least || n > most {
			say(path, "Enter %d to %d %s.", least, most, what)
		}
	}
	between("shape.days", s.Days, 1, MostDays, "days")
	between("shape.stops", s.Stops, 1, MostStops, "stops")
	if !(s.Thinning >= 1 && s.Thinning <= MostThinning) { // so that no number that is none passes
		say("shape.thinning", "Each pause is 1 to %g times as long as the one before.", MostThinning)
	}
	if s.Weekdays == 0 {
		say("shape.weekdays", "Choose at least one weekday.")
	}
	if s.From < 0 || s.To > civil.Midnight || s.From >= s.To {
		say("shape.from", "The hours must end after they begin, and not later than midnight.")
	}
	if year, _, _ := s.Start.Parts(); year < civil.FirstYear || year >= civil.LastYear-1 {
		say("shape.start", "Choose a date from %d to %d.", civil.FirstYear, civil.LastYear-2)
	}
}

// Stop is a stop of a tour that may be to come.
type Stop struct {
	N     int       // from 1
	At    time.Time // zero: it found no room
	Moved bool
	Line  string // "" where none is chosen
	hand  int
}

// Stops are the stops of a tour of a site in a zone, in the order of their numbers.
func (s Settings) Stops(zone civil.Zone, seed uint64) []Stop {
	times, _ := s.Shape.Times(zone, seed)
	stops := make([]Stop, s.Shape.Stops)
	for i := range stops {
		stops[i] = Stop{N: i + 1, hand: i}
		if i < len(times) {
			stops[i].At = times[i]
		}
		if at, moved := s.Moved[i+1]; moved {
			stops[i].At, stops[i].Moved = at.UTC(), true
		}
		if len(s.Lines) > 0 {
			stops[i].Line = s.Lines[Deal(i, 0, len(s.Lines), 1, 0).Line]
		}
	}
	return stops
}

// Says is what a stop says on the channel of a place in the settings, with placeholders, the number of the wording counted
// from 1, and the picture that it was dealt; 0: none of the library. own tells that it was changed by hand.
func (s Settings) Says(stop Stop, channel int) (text string, wording int, picture int64, own bool) {
	hand := Deal(stop.hand, channel, len(s.Lines), len(s.Wordings), len(s.Pictures))
	if hand.Picture >= 0 {
		picture = s.Pictures[hand.Picture]
	}
	if text, own = s.Own[Place(stop.N, s.Channels[channel])]; own {
		return text, hand.Wording + 1, picture, true
	}
	text = s.Wordings[hand.Wording]
	if w, err := message.ReadWording(text); err == nil && stop.Line != "" {
		text = w.WithLine(stop.Line)
	}
	if n := len(s.Mentions); n > 0 {
		text += " " + s.Mentions[(stop.hand+channel)%n]
	}
	return text, hand.Wording + 1, picture, false
}
