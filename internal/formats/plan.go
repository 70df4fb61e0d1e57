package formats

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"reflect"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/core/check"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
)

// Plan is a plan file: a rhythm, the times that are taken, and a shelf, to be placed.
type Plan struct {
	Zone   civil.Zone  `json:"zone" doc:"the site's IANA time zone" example:"America/Halifax"`
	From   civil.Date  `json:"from" doc:"slots from this date of the site on" example:"2026-11-24"`
	Days   int         `json:"days" required:"false" default:"28" minimum:"1" maximum:"732" doc:"over how many days"`
	Rhythm PlanRhythm  `json:"rhythm"`
	Taken  []PlanTaken `json:"taken" required:"false" maxItems:"100000" doc:"times of posts that are settled"`
	Shelf  []PlanDraft `json:"shelf" required:"false" maxItems:"100000" doc:"drafts in hand order"`
	Order  string      `json:"order" required:"false" default:"hand" enum:"hand,oldest,newest,shuffled,categories" doc:"the shelf's order"`
	Seed   int64       `json:"shelfSeed" required:"false" default:"1" minimum:"0" maximum:"9007199254740991" doc:"for a shuffled shelf"`
	Caps   Caps        `json:"caps" required:"false"`
}

// PlanRhythm is the rhythm of a plan file.
type PlanRhythm struct {
	Gap      int          `json:"gap" doc:"fewest minutes between two publications"`
	Seed     int64        `json:"seed" minimum:"0" maximum:"9007199254740991" doc:"all chance comes from it"`
	Uneven   bool         `json:"uneven" required:"false" doc:"leave out the minutes divisible by five"`
	Starts   *civil.Date  `json:"starts,omitempty" doc:"first date on which openings hold"`
	Ends     *civil.Date  `json:"ends,omitempty" doc:"last date on which openings hold"`
	RestDays []civil.Date `json:"restDays" required:"false" maxItems:"5000" doc:"dates on which nothing is placed"`
	Openings []Opening    `json:"openings" maxItems:"100"`
}

// PlanTaken is a time that is taken.
type PlanTaken struct {
	At       string `json:"at" doc:"by the site's clocks, as 2026-11-24T09:40, or an instant with its offset (RFC 3339)" example:"2026-11-24T09:40"`
	Author   string `json:"author" required:"false"`
	Category string `json:"category" required:"false"`
}

// PlanDraft is a draft on the shelf.
type PlanDraft struct {
	ID        string `json:"id" minLength:"1" maxLength:"100"`
	Title     string `json:"title" required:"false"`
	Author    string `json:"author" required:"false"`
	Category  string `json:"category" required:"false"`
	Added     string `json:"added" required:"false" doc:"when it came to be; for orders by age"`
	NotBefore string `json:"notBefore" required:"false" doc:"a moment as in taken, or a date, from its beginning"`
	Deadline  string `json:"deadline" required:"false" doc:"a moment as in taken, or a date, to its end"`
}

// Caps are limits on what comes out; 0 is none.
type Caps struct {
	Day          int `json:"day" required:"false" doc:"posts on one date"`
	AuthorDay    int `json:"authorDay" required:"false" doc:"posts of one author on one date"`
	AuthorWeek   int `json:"authorWeek" required:"false" doc:"posts of one author from Monday to Sunday"`
	CategoryDays int `json:"categoryDays" required:"false" doc:"fewest days between two posts of one category"`
}

// Core returns the caps for core.
func (c Caps) Core() queue.Caps {
	return queue.Caps{Day: c.Day, AuthorDay: c.AuthorDay, AuthorWeek: c.AuthorWeek, CategoryDays: c.CategoryDays}
}

// Problems says what is wrong with a file, each with its path.
type Problems []check.FieldProblem

// Error lists the problems, one a line.
func (p Problems) Error() string {
	lines := make([]string, len(p))
	for i, one := range p {
		lines[i] = one.Message
		if one.Path != "" {
			lines[i] = one.Path + ": " + one.Message
		}
	}
	return strings.Join(lines, "\n")
}

func (p *Problems) say(path, format string, args ...any) {
	*p = append(*p, check.FieldProblem{Path: path, Message: fmt.Sprintf(format, args...)})
}

// PlanSchema is the JSON Schema (2020-12) of plan files.
func PlanSchema() map[string]any {
	registry, schema := planSchema()
	definitions := make(map[string]any)
	for name, s := range registry.Map() {
		definitions[name] = s
	}
	return map[string]any{
		"$schema": "https://json-schema.org/draft/2020-12/schema",
		"title":   "A plan file of Dapper Almanac",
		"$ref":    schema.Ref, "$defs": definitions,
	}
}

func planSchema() (huma.Registry, *huma.Schema) {
	registry := huma.NewMapRegistry("#/$defs/", huma.DefaultSchemaNamer)
	return registry, registry.Schema(reflect.TypeFor[Plan](), true, "Plan")
}

// maxPlanFile bounds what is read of a file, in bytes.
const maxPlanFile = 64 << 20

// ReadPlan reads a plan file. Fields that are not known or of the wrong type are
// refused with their path, as Problems.
func ReadPlan(r io.Reader) (Plan, error) {
	text, err := io.ReadAll(io.LimitReader(r, maxPlanFile+1))
	if err != nil {
		return Plan{}, err
	}
	if len(text) > maxPlanFile {
		return Plan{}, Problems{{Message: "The file is larger than 64 MB."}}
	}
	if err := checkPlan(text); err != nil {
		return Plan{}, err
	}
	plan := Plan{Days: 28, Order: string(queue.ByHand), Seed: 1}
	if err := json.Unmarshal(text, &plan); err != nil {
		return Plan{}, Problems{{Message: place(text, err)}}
	}
	return plan, nil
}

// checkPlan holds the text against the schema.
func checkPlan(text []byte) error {
	var value any
	decoder := json.NewDecoder(bytes.NewReader(text))
	if err := decoder.Decode(&value); err != nil {
		return Problems{{Message: place(text, err)}}
	}
	if _, err := decoder.Token(); !errors.Is(err, io.EOF) {
		return Problems{{Message: "There is something after the end of the JSON value. A plan file holds one object."}}
	}
	registry, schema := planSchema()
	path := huma.NewPathBuffer(make([]byte, 0, 128), 0)
	var result huma.ValidateResult
	huma.Validate(registry, schema, path, huma.ModeWriteToServer, value, &result)
	var problems Problems
	for _, err := range result.Errors {
		var detail *huma.ErrorDetail
		if errors.As(err, &detail) {
			problems.say(detail.Location, "%s", capital(detail.Message)+".")
		} else {
			problems.say("", "%s", err)
		}
	}
	if problems == nil {
		checkTexts(reflect.TypeFor[Plan](), value, "", &problems)
	}
	if problems != nil {
		return problems
	}
	return nil
}

// place says where in the text JSON went wrong.
func place(text []byte, err error) string {
	offset := int64(-1)
	var syntax *json.SyntaxError
	var kind *json.UnmarshalTypeError
	switch {
	case errors.As(err, &syntax):
		offset = syntax.Offset
	case errors.As(err, &kind):
		offset = kind.Offset
	case errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, io.EOF):
		return "The file ends before its JSON does."
	}
	if offset < 0 || offset > int64(len(text)) {
		return fmt.Sprintf("The file can’t be read: %v.", err)
	}
	before := text[:offset]
	line := bytes.Count(before, []byte("\n")) + 1
	column := len(before) - bytes.LastIndexByte(before, '\n') - 1
	return fmt.Sprintf("Line %d, column %d: %v.", line, column, err)
}

func capital(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

// Slot is a slot in the answer to a plan.
type Slot struct {
	Opening string     `json:"opening"`
	Date    civil.Date `json:"date" doc:"in the opening's zone"`
	Ordinal int        `json:"ordinal"`
	At      time.Time  `json:"at"`
	Local   string     `json:"local" doc:"by the site's clocks"`
	Moved   bool       `json:"moved" doc:"drawn anew to keep the gap from a taken time"`
	Lane    []string   `json:"lane"`
}

// Short tells that an opening yields fewer slots on a date than it asks for.
type Short struct {
	Opening string     `json:"opening"`
	Date    civil.Date `json:"date"`
	Missing int        `json:"missing"`
	Reason  string     `json:"reason"`
}

// Placed is a draft with its slot.
type Placed struct {
	ID     string    `json:"id"`
	Title  string    `json:"title"`
	At     time.Time `json:"at"`
	Local  string    `json:"local"`
	Reason string    `json:"reason"`
}

// Unplaced is a draft without a slot.
type Unplaced struct {
	ID     string `json:"id"`
	Title  string `json:"title"`
	Reason string `json:"reason"`
}

// Answer is what a plan comes to.
type Answer struct {
	Slots    []Slot     `json:"slots" doc:"all free slots of the days asked for, in time order"`
	Short    []Short    `json:"short"`
	Placed   []Placed   `json:"placed" doc:"in time order"`
	Unplaced []Unplaced `json:"unplaced" doc:"in shelf order"`
	Unproven bool       `json:"unproven,omitempty" doc:"more deadlines might be met than are: there are too many to try every way"`
}

// Answer places the plan's shelf; or Problems where the plan makes no sense.
func (p Plan) Answer() (Answer, error) {
	r, problems := p.rhythm()
	taken := p.taken(&problems)
	drafts := p.drafts(&problems)
	for _, bad := range p.Caps.Core().Problems() {
		problems.say("caps."+bad.Path, "%s", bad.Message)
	}
	if last := p.From.Add(p.Days); last.After(civil.MustDate("9999-12-31")) {
		problems.say("days", "The days asked for go beyond the year 9999. Ask for fewer, or start earlier.")
	}
	if len(problems) > 0 {
		return Answer{}, problems
	}
	return p.place(r, taken, drafts), nil
}

func (p Plan) rhythm() (rhythm.Rhythm, Problems) {
	openings, found := ReadOpenings(p.Rhythm.Openings)
	r := rhythm.Rhythm{Zone: p.Zone, Gap: p.Rhythm.Gap, Seed: uint64(p.Rhythm.Seed), Uneven: p.Rhythm.Uneven,
		Rests: civil.RestOn(p.Rhythm.RestDays...), Openings: openings}
	if p.Rhythm.Starts != nil {
		r.From = *p.Rhythm.Starts
	}
	if p.Rhythm.Ends != nil {
		r.Until = *p.Rhythm.Ends
	}
	var problems Problems
	if len(found) == 0 {
		found = append(found, r.Problems()...)
	}
	for _, bad := range found {
		switch bad.Path {
		case "until":
			bad.Path = "ends"
		case "rests":
			bad.Path = "restDays"
		}
		problems.say("rhythm."+bad.Path, "%s", bad.Message)
	}
	return r, problems
}

func (p Plan) taken(problems *Problems) []queue.Standing {
	taken := make([]queue.Standing, len(p.Taken))
	for i, t := range p.Taken {
		at, err := p.moment(t.At, false)
		if err != nil || t.At == "" || !strings.Contains(t.At, "T") {
			problems.say(fmt.Sprintf("taken[%d].at", i), "%q is not a moment; write it as 2026-11-24T09:40.", t.At)
		}
		taken[i] = queue.Standing{At: at, Author: t.Author, Category: t.Category}
	}
	return taken
}

func (p Plan) drafts(problems *Problems) []queue.Draft {
	drafts := make([]queue.Draft, len(p.Shelf))
	first := make(map[string]int)
	for i, d := range p.Shelf {
		at := func(field string) string { return fmt.Sprintf("shelf[%d].%s", i, field) }
		if j, twice := first[d.ID]; twice {
			problems.say(at("id"), "The draft %q is on the shelf already, at shelf[%d]. Leave one out.", d.ID, j)
		}
		first[d.ID] = i
		moment := func(field, text string, end bool) time.Time {
			t, err := p.moment(text, end)
			if err != nil {
				problems.say(at(field), "%q is not a moment; write it as 2026-11-24 or 2026-11-24T09:40.", text)
			}
			return t
		}
		drafts[i] = queue.Draft{ID: int64(i), Title: d.Title, Author: d.Author, Category: d.Category,
			Added: moment("added", d.Added, false), NotBefore: moment("notBefore", d.NotBefore,
				false), Deadline: moment("deadline", d.Deadline, true)}
		if drafts[i].Title == "" {
			drafts[i].Title = d.ID
		}
		if nb, dl := drafts[i].NotBefore, drafts[i].Deadline; !nb.IsZero() && !dl.IsZero() && dl.Before(nb) {
			problems.say(at("deadline"), "The deadline is before notBefore. Change one of the two.")
		}
	}
	return drafts
}

// moment reads a date, a time by the site's clocks, or an instant. Of a date it is the
// beginning, or the last minute.
func (p Plan) moment(text string, end bool) (time.Time, error) {
	if text == "" {
		return time.Time{}, nil
	}
	if date, err := civil.ParseDate(text); err == nil {
		if end {
			return p.Zone.At(date.Add(1), 0).Add(-time.Minute), nil
		}
		return p.Zone.At(date, 0), nil
	}
	if day, clock, ok := strings.Cut(text, "T"); ok && len(clock) == 5 {
		date, err := civil.ParseDate(day)
		c, err2 := civil.ParseClock(clock)
		if err = errors.Join(err, err2); err != nil || c >= civil.Midnight {
			return time.Time{}, fmt.Errorf("%q is not a moment", text)
		}
		return p.Zone.At(date, c), nil
	}
	return time.Parse(time.RFC3339, text)
}

func (p Plan) place(r rhythm.Rhythm, taken []queue.Standing, drafts []queue.Draft) Answer {
	answer := Answer{Slots: []Slot{}, Short: []Short{}, Placed: []Placed{}, Unplaced: []Unplaced{}}
	var occupied []rhythm.Occupied
	for _, t := range taken {
		occupied = append(occupied, rhythm.Occupied{At: t.At})
	}
	start, end := p.Zone.At(p.From, 0), p.Zone.At(p.From.Add(p.Days), 0)
	var slots []rhythm.Slot
	for s := range queue.Slots(r, start.Add(-time.Minute), occupied) {
		if !s.At.Before(end) {
			break
		}
		slots = append(slots, s)
		answer.Slots = append(answer.Slots, Slot{s.ID.Opening, s.ID.Date, s.ID.Ordinal, s.At, p.local(s.At), s.Moved,
			append([]string{}, s.Lane...)})
	}
	for day := range r.Days(p.From, occupied) {
		if !day.Date.Before(p.From.Add(p.Days)) {
			break
		}
		for _, s := range day.Short {
			answer.Short = append(answer.Short, Short{s.Opening, day.Date, s.Missing, s.Reason})
		}
	}
	placement := queue.Place(queue.Request{Zone: p.Zone, Today: p.From,
		Shelf: queue.Arrange(drafts, queue.Order(p.Order), uint64(p.Seed)),
		Slots: func(yield func(rhythm.Slot) bool) {
			for _, s := range slots {
				if !yield(s) {
					return
				}
			}
		}, Caps: p.Caps.Core(), Standing: taken})
	answer.Unproven = placement.Unproven
	for _, d := range placement.Placed {
		answer.Placed = append(answer.Placed, Placed{p.Shelf[d.Draft.ID].ID, d.Draft.Title, d.Slot.At,
			p.local(d.Slot.At), d.Reason})
	}
	for _, d := range placement.Unplaced {
		answer.Unplaced = append(answer.Unplaced, Unplaced{p.Shelf[d.Draft.ID].ID, d.Draft.Title, d.Reason})
	}
	return answer
}

func (p Plan) local(at time.Time) string { return p.Zone.In(at).Format("2006-01-02T15:04") }
