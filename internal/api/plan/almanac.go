package plan

import (
	"cmp"
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/api/rhythms"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/planning"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
)

// Entry is a post on the tape.
type Entry struct {
	ID         int64  `json:"id"`
	Title      string `json:"title"`
	AuthorID   int64  `json:"authorId"`
	Author     string `json:"author"`
	CategoryID int64  `json:"categoryId" doc:"0 for none"`
	Category   string `json:"category,omitempty"`
	Status     string `json:"status" enum:"scheduled,published"`
	Kind       string `json:"kind" enum:"post,page"`
	Pinned     bool   `json:"pinned" doc:"its time was chosen by hand"`
	Held       bool   `json:"held" doc:"overdue, and held back for an editor"`
	Version    int    `json:"version"`
	Address    string `json:"address,omitempty" doc:"where readers find it, once it is out"`
	operation.Place
}

// Ghost is a proposed place of a shelf draft.
type Ghost struct {
	ID      int64  `json:"id"`
	Title   string `json:"title"`
	Reason  string `json:"reason"`
	Version int    `json:"version"`
	operation.Place
}

// AlmanacDay is one row of the tape.
type AlmanacDay struct {
	Date     civil.Date        `json:"date"`
	Season   string            `json:"season,omitempty" doc:"the season whose openings hold on the day"`
	Rest     string            `json:"rest,omitempty" doc:"the name of the rest that the day belongs to; 'Rest day' where it has none"`
	Clocks   *ClockChange      `json:"clocks,omitempty" doc:"the clocks change on this day"`
	Meters   []Meter           `json:"meters" doc:"the caps that are used on the day or in its week"`
	Openings []rhythms.Stretch `json:"openings"`
	Entries  []Entry           `json:"entries"`
	Ghosts   []Ghost           `json:"ghosts"`
	Free     []operation.Place `json:"free" doc:"slots that nothing is proposed for"`
	Short    []string          `json:"short" doc:"what the rhythm asks for and the day has no room for"`
}

// ClockChange is a change of the site's clocks.
type ClockChange struct {
	From int  `json:"from" doc:"minutes since local midnight"`
	To   int  `json:"to"`
	Back bool `json:"back" doc:"the stretch occurs twice; otherwise it is skipped"`
}

// Meter tells how far a cap is used.
type Meter struct {
	Of    string `json:"of" enum:"day,author day,author week,category"`
	Name  string `json:"name,omitempty" doc:"of the author or the category"`
	Count int    `json:"count" doc:"posts; of a category: days to its nearest post"`
	Most  int    `json:"most" doc:"the cap; of a category: the fewest days between two"`
	Full  bool   `json:"full" doc:"nothing more of that fits on the day"`
}

// ShelfItem is a cleared draft with what is proposed for it.
type ShelfItem struct {
	ID         int64            `json:"id"`
	Title      string           `json:"title"`
	AuthorID   int64            `json:"authorId"`
	Author     string           `json:"author"`
	CategoryID int64            `json:"categoryId" doc:"0 for none"`
	Category   string           `json:"category,omitempty"`
	Version    int              `json:"version"`
	Proposed   *operation.Place `json:"proposed,omitempty" doc:"absent where no slot is free"`
	Reason     string           `json:"reason" doc:"why it gets this slot, or what would have to change"`
}

// DraftItem is a draft that is still being written.
type DraftItem struct {
	ID         int64     `json:"id"`
	Title      string    `json:"title" doc:"may be empty"`
	AuthorID   int64     `json:"authorId"`
	Author     string    `json:"author"`
	CategoryID int64     `json:"categoryId" doc:"0 for none"`
	Category   string    `json:"category,omitempty"`
	Version    int       `json:"version"`
	UpdatedAt  time.Time `json:"updatedAt"`
}

// Almanac is the plan, day by day.
type Almanac struct {
	Title  string          `json:"title"`
	Zone   string          `json:"zone"`
	Gap    int             `json:"gap" doc:"fewest minutes between two publications"`
	Now    operation.Place `json:"now"`
	Days   []AlmanacDay    `json:"days"`
	Shelf  []ShelfItem     `json:"shelf"`
	Drafts []DraftItem     `json:"drafts"`
	Token  string          `json:"token" doc:"stands for exactly the proposed slots, for committing them"`
	// Unproven tells that more deadlines might be met than the proposed slots meet.
	Unproven bool         `json:"unproven,omitempty" doc:"more deadlines might be met than the proposed slots meet: there are too many to try every way"`
	Next     *Entry       `json:"next,omitempty" doc:"what comes out next"`
	Held     []Entry      `json:"held" doc:"overdue posts that wait for an editor"`
	Paused   bool         `json:"paused" doc:"nothing comes out until the site goes on"`
	Order    string       `json:"order" enum:"hand,oldest,newest,shuffled,categories" doc:"the shelf's order"`
	Engine   EngineHealth `json:"engine"`
	// Audience are the zones of readers whose clocks are laid under the tape.
	Audience []string `json:"audience"`
	// New is left out of most.
	New bool `json:"new,omitempty" doc:"no post of the blog has, or had, a time in its plan"`
}

// EngineHealth tells whether something publishes what is due.
type EngineHealth struct {
	Alive bool       `json:"alive" doc:"an engine has been heard of within the last half minute"`
	Beat  *time.Time `json:"beat,omitempty" doc:"when one was last heard of"`
}

// silence is after how long an engine counts as gone: several of its beats.
const silence = 30 * time.Second

func (s part) engineHealth(ctx context.Context, now time.Time) (EngineHealth, error) {
	beat, err := s.Store.LastBeat(ctx)
	if err != nil || beat.IsZero() {
		return EngineHealth{}, err
	}
	return EngineHealth{Alive: now.Sub(beat) < silence, Beat: &beat}, nil
}

// Placement is a proposal: what committing would do.
type Placement struct {
	Token    string      `json:"token" doc:"stands for exactly this proposal, for committing it"`
	Placed   []ShelfItem `json:"placed"`
	Unplaced []ShelfItem `json:"unplaced"`
	Unproven bool        `json:"unproven,omitempty" doc:"more deadlines might be met than are: there are too many to try every way"`
}

const (
	maxDays   = 62
	maxDrafts = 200
)

func (s part) almanacOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "get-almanac", Method: http.MethodGet, Path: "/api/v1/sites/{site}/almanac",
		Summary:     "The plan, day by day",
		Description: "The tape of some days, the shelf with its proposed slots, and the drafts that are being written.",
	}, s.getAlmanac)
	huma.Register(api, huma.Operation{
		OperationID: "get-placement", Method: http.MethodGet, Path: "/api/v1/sites/{site}/placement",
		Summary:     "The proposed placement",
		Description: "From a past date on, drafts may get slots that are past; committing publishes them at once with those dates.",
	}, s.getPlacement)
	huma.Register(api, operation.Conflict[StalePlacement](api, huma.Operation{
		OperationID: "commit-placement", Method: http.MethodPost, Path: "/api/v1/sites/{site}/placement",
		Summary:       "Commit the proposed placement",
		Description:   "Schedules exactly the pairs that were shown. If the plan has changed meanwhile, nothing is committed and the answer (409) holds the new proposal.",
		DefaultStatus: http.StatusNoContent,
	}), s.commitPlacement)
	huma.Register(api, huma.Operation{
		OperationID: "get-closing", Method: http.MethodGet, Path: "/api/v1/sites/{site}/closing",
		Summary:     "What closing up would move",
		Description: "Scheduled posts in slots, placed again in the order in which they come out. Nothing is changed.",
	}, s.getClosing)
	huma.Register(api, operation.Conflict[StaleClosing](api, huma.Operation{
		OperationID: "close-up", Method: http.MethodPost, Path: "/api/v1/sites/{site}/closing",
		Summary: "Close up: move exactly what was shown", DefaultStatus: http.StatusNoContent,
	}), s.closeUp)
	huma.Register(api, huma.Operation{
		OperationID: "order-shelf", Method: http.MethodPut, Path: "/api/v1/sites/{site}/shelf",
		Summary: "Put the shelf in another order", DefaultStatus: http.StatusNoContent,
		Errors: []int{http.StatusConflict},
	}, s.orderShelf)
}

type almanacInput struct {
	operation.SitePath
	From string `query:"from" doc:"first day, as 2026-11-24; today where absent" example:"2026-11-24"`
	Days int    `query:"days" minimum:"1" maximum:"62" default:"14"`
}

func (s part) getAlmanac(ctx context.Context, in *almanacInput) (*struct{ Body Almanac }, error) {
	desk := operation.DeskOf(ctx)
	now, zone := s.Clock.Now(), desk.Site.Zone()
	from, err := operation.FirstDay(in.From, zone.DateOf(now))
	if err != nil {
		return nil, err
	}
	view := almanacView{zone: zone, site: desk.Site.Slug, from: from, days: in.Days, now: now, caps: desk.Site.Caps()}
	// The plan and what is shown beside it are read at the same time.
	var plan planning.Plan
	var drafts []store.Entry
	var engine EngineHealth
	err = s.Store.Together(ctx, func(ctx context.Context) (err error) {
		plan, err = planning.ProposeBeside(ctx, s.Store.Queries, desk.Site, now, view.span())
		return err
	}, func(ctx context.Context) (err error) {
		if drafts, err = s.Store.Drafts(ctx, desk.Site.ID, maxDrafts); err != nil {
			return err
		}
		engine, err = s.engineHealth(ctx, now)
		return err
	})
	if err != nil {
		return nil, s.Problem(err)
	}
	body := Almanac{
		Title: desk.Site.Title, Zone: desk.Site.ZoneName, Gap: plan.Rhythm.Gap, Now: operation.PlaceAt(zone, now),
		Days: view.tape(plan), Shelf: shelfItems(zone,
			plan), Drafts: draftItems(drafts), Unproven: plan.Unproven, Token: plan.Token(),
	}
	body.Audience = append([]string{}, desk.Site.AudienceZones...)
	body.Paused, body.Order, body.Held, body.Engine = desk.Site.PausedAt != nil, desk.Site.ShelfOrder, []Entry{}, engine
	for _, e := range plan.Seats {
		if e.Status != store.Scheduled {
			continue
		}
		switch {
		case e.Held && e.DueAt.After(now): // it stays at its place
		case e.Held:
			body.Held = append(body.Held, view.entry(e))
		case body.Next == nil:
			next := view.entry(e)
			body.Next = &next
		}
	}
	if len(plan.Seats) == 0 {
		planned, err := s.Store.HasPlanned(ctx, desk.Site.ID)
		if err != nil {
			return nil, s.Problem(err)
		}
		body.New = !planned
	}
	return &struct{ Body Almanac }{body}, nil
}

// almanacView lays a plan out on the tape of some days.
type almanacView struct {
	zone civil.Zone
	site string
	from civil.Date
	days int
	now  time.Time
	caps queue.Caps
}

func (v almanacView) span() store.Span {
	return store.Span{From: v.zone.At(v.from, 0), To: v.zone.At(v.from.Add(v.days), 0)}
}

func (v almanacView) tape(plan planning.Plan) []AlmanacDay {
	days := v.empty()
	shown := rhythms.Rows{Zone: v.zone, From: v.from, N: v.days}
	span := v.span()
	inRow := make([][]int, v.days) // of the seats, so that each row is laid out in one go
	for i, e := range plan.Seats {
		if at := e.At(); at.Before(span.From) || !at.Before(span.To) {
			continue
		}
		if row, ok := shown.Of(v.zone.DateOf(e.At())); ok {
			inRow[row] = append(inRow[row], i)
		}
	}
	for row, seats := range inRow {
		days[row].Entries = make([]Entry, len(seats))
		for i, seat := range seats {
			days[row].Entries[i] = v.entry(plan.Seats[seat])
		}
	}
	version := make(map[int64]int, len(plan.Shelf))
	for _, e := range plan.Shelf {
		version[e.ID] = e.Version
	}
	meters := queue.NewMeters(v.zone, v.caps, plan.Standing)
	for i := range days {
		days[i].Season = plan.Drawn.Rhythm.SeasonOn(days[i].Date)
		if c, changes := v.zone.ClockChange(days[i].Date); changes {
			days[i].Clocks = &ClockChange{int(c.From), int(c.To), c.Back}
		}
		if rest, rests := plan.Rhythm.Rests.On(days[i].Date); rests {
			days[i].Rest = cmp.Or(rest.Name, "Rest day")
		}
		if days[i].Date.Before(v.zone.DateOf(v.now)) {
			continue // nothing is placed there any more
		}
		for _, m := range meters.On(days[i].Date) {
			days[i].Meters = append(days[i].Meters, Meter{string(m.Of), m.Name, m.Count, m.Most, m.Full})
		}
	}
	today := v.zone.DateOf(v.now)
	proposed := make(map[rhythm.SlotID]bool)
	for _, p := range plan.Placed {
		proposed[p.Slot.ID] = true
		place := operation.PlaceAt(v.zone, p.Slot.At)
		if row, ok := shown.Of(place.Date); ok {
			days[row].Ghosts = append(days[row].Ghosts, Ghost{p.Draft.ID, p.Draft.Title, p.Reason, version[p.Draft.ID],
				place})
		}
	}
	shown.Draw(plan.Drawn, rhythms.Drawn{
		Stretch: func(row int, s rhythms.Stretch) { days[row].Openings = append(days[row].Openings, s) },
		Slot: func(row int, place operation.Place, s rhythm.Slot) {
			if !proposed[s.ID] && s.At.After(v.now) {
				days[row].Free = append(days[row].Free, place)
			}
		},
		Short: func(row int, reason string) {
			// That nothing fits on a rest day is as it should be, and a day that is over asks for nothing.
			if days[row].Rest == "" && !days[row].Date.Before(today) {
				days[row].Short = append(days[row].Short, reason)
			}
		},
	})
	for i := range days {
		slices.SortFunc(days[i].Free, func(a, b operation.Place) int { return a.At.Compare(b.At) })
	}
	return days
}

func (v almanacView) empty() []AlmanacDay {
	days := make([]AlmanacDay, v.days)
	for i := range days {
		days[i] = AlmanacDay{Date: v.from.Add(i), Meters: []Meter{}, Openings: []rhythms.Stretch{}, Entries: []Entry{},
			Ghosts: []Ghost{}, Free: []operation.Place{}, Short: []string{}}
	}
	return days
}

func (v almanacView) entry(e store.Entry) Entry {
	entry := Entry{
		ID: e.ID, Title: e.Title, AuthorID: e.AuthorID, Author: e.AuthorName,
		CategoryID: operation.OrZero(e.CategoryID), Category: operation.OrEmpty(e.CategoryName),
		Status: string(e.Status), Kind: e.Kind, Pinned: e.Pinned, Held: e.Held, Version: e.Version,
		Place: operation.PlaceAt(v.zone, e.At()),
	}
	if e.Status == store.Published {
		entry.Address = address.Path(v.site, e.Slug)
	}
	return entry
}

func shelfItems(zone civil.Zone, plan planning.Plan) []ShelfItem {
	placed := make(map[int64]queue.Proposal)
	for _, p := range plan.Placed {
		placed[p.Draft.ID] = p
	}
	unplaced := make(map[int64]string)
	for _, u := range plan.Unplaced {
		unplaced[u.Draft.ID] = u.Reason
	}
	items := []ShelfItem{}
	for _, e := range plan.Shelf {
		item := ShelfItem{ID: e.ID, Title: e.Title, AuthorID: e.AuthorID, Author: e.AuthorName,
			CategoryID: operation.OrZero(e.CategoryID), Category: operation.OrEmpty(e.CategoryName), Version: e.Version}
		if p, ok := placed[e.ID]; ok {
			place := operation.PlaceAt(zone, p.Slot.At)
			item.Proposed, item.Reason = &place, p.Reason
		} else {
			item.Reason = unplaced[e.ID]
		}
		items = append(items, item)
	}
	return items
}

func draftItems(drafts []store.Entry) []DraftItem {
	items := []DraftItem{}
	for _, e := range drafts {
		items = append(items, DraftItem{e.ID, e.Title, e.AuthorID, e.AuthorName, operation.OrZero(e.CategoryID),
			operation.OrEmpty(e.CategoryName), e.Version, e.UpdatedAt})
	}
	return items
}

type placementInput struct {
	operation.SitePath
	Body struct {
		Token string      `json:"token" minLength:"1" doc:"of the proposal that was shown"`
		From  *civil.Date `json:"from,omitempty" doc:"the past date that it was asked for from"`
	}
}

func (s part) commitPlacement(ctx context.Context, in *placementInput) (*struct{}, error) {
	desk := operation.DeskOf(ctx)
	now := s.Clock.Now()
	from, err := placementStart(desk.Site.Zone(), in.Body.From, now)
	if err != nil {
		return nil, err
	}
	return nil, operation.Outdated(s.Tools, planning.CommitFrom(ctx, desk, in.Body.Token, from, now),
		func(p operation.Problem, now planning.Plan) error {
			return &StalePlacement{p, placementOf(desk.Site.Zone(), now)}
		})
}

// placementStart is the moment from which a placement looks for slots: now, or the
// beginning of a past date.
func placementStart(zone civil.Zone, from *civil.Date, now time.Time) (time.Time, error) {
	if from == nil || !from.Before(zone.DateOf(now)) {
		return now, nil
	}
	start := zone.At(*from, 0)
	if now.Sub(start) > planning.OldestStart {
		return now, operation.Invalid(&act.Invalid{Field: "from",
			Message: "A placement may begin up to 20 years ago. Choose a later date."})
	}
	return start.Add(-time.Minute), nil // a slot at the date's first minute is of it
}

type placementQuery struct {
	operation.SitePath
	From string `query:"from" doc:"a past date to begin from, as 2026-01-31; now where absent"`
}

func (s part) getPlacement(ctx context.Context, in *placementQuery) (*struct{ Body Placement }, error) {
	desk := operation.DeskOf(ctx)
	var from *civil.Date
	if in.From != "" {
		date, err := civil.ParseDate(in.From)
		if err != nil {
			return nil, huma.Error422UnprocessableEntity("The first day can’t be read.",
				&huma.ErrorDetail{Location: "query.from", Message: err.Error()})
		}
		from = &date
	}
	start, err := placementStart(desk.Site.Zone(), from, s.Clock.Now())
	if err != nil {
		return nil, err
	}
	plan, err := planning.Propose(ctx, s.Store.Queries, desk.Site, start)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Placement }{*placementOf(desk.Site.Zone(), plan)}, nil
}

// StalePlacement answers who commits a proposal that is no longer the present one.
type StalePlacement struct {
	operation.Problem
	Placement *Placement `json:"placement,omitempty" doc:"the proposal as it is now"`
}

// StaleClosing answers who closes up otherwise than it would be done now.
type StaleClosing struct {
	operation.Problem
	Closing *Closing `json:"closing,omitempty" doc:"the closing up as it is now"`
}

func placementOf(zone civil.Zone, plan planning.Plan) *Placement {
	p := &Placement{Token: plan.Token(), Placed: []ShelfItem{}, Unplaced: []ShelfItem{}, Unproven: plan.Unproven}
	for _, item := range shelfItems(zone, plan) {
		if item.Proposed != nil {
			p.Placed = append(p.Placed, item)
		} else {
			p.Unplaced = append(p.Unplaced, item)
		}
	}
	return p
}

type shelfInput struct {
	operation.SitePath
	Body struct {
		Order []int64 `json:"order" maxItems:"10000" doc:"the ids of all drafts on the shelf, in their new order"`
	}
}

func (s part) orderShelf(ctx context.Context, in *shelfInput) (*struct{}, error) {
	desk := operation.DeskOf(ctx)
	return nil, s.Problem(status.Reorder(ctx, desk, in.Body.Order, s.Clock.Now()))
}

// Shift is a scheduled post that closing up would move.
type Shift struct {
	ID     int64           `json:"id"`
	Title  string          `json:"title"`
	From   operation.Place `json:"from"`
	To     operation.Place `json:"to"`
	Reason string          `json:"reason"`
}

// Closing is what closing up would do.
type Closing struct {
	Token  string  `json:"token" doc:"stands for exactly these moves, for doing them"`
	Shifts []Shift `json:"shifts"`
}

func closingOf(zone civil.Zone, shifts planning.Closing) Closing {
	c := Closing{Token: shifts.Token(), Shifts: []Shift{}}
	for _, s := range shifts {
		c.Shifts = append(c.Shifts, Shift{s.Post.ID, s.Post.Title, operation.PlaceAt(zone, *s.From),
			operation.PlaceAt(zone, *s.To),
			s.Reason})
	}
	return c
}

func (s part) getClosing(ctx context.Context, in *operation.SitePath) (*struct{ Body Closing }, error) {
	desk := operation.DeskOf(ctx)
	shifts, err := planning.ProposeClosing(ctx, s.Store.Queries, desk.Site, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Closing }{closingOf(desk.Site.Zone(), shifts)}, nil
}

type closingInput struct {
	operation.SitePath
	Body struct {
		Token string `json:"token" minLength:"1" doc:"of the moves that were shown"`
	}
}

func (s part) closeUp(ctx context.Context, in *closingInput) (*struct{}, error) {
	desk := operation.DeskOf(ctx)
	return nil, operation.Outdated(s.Tools, planning.CloseUp(ctx, desk, in.Body.Token, s.Clock.Now()),
		func(p operation.Problem, now planning.Closing) error {
			closing := closingOf(desk.Site.Zone(), now)
			return &StaleClosing{p, &closing}
		})
}
