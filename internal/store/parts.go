package store

import (
	"context"
	"database/sql"

	"github.com/jmoiron/sqlx"

	"dapper.example/internal/store/accounts"
	"dapper.example/internal/store/calendars"
	"dapper.example/internal/store/comments"
	"dapper.example/internal/store/db"
	"dapper.example/internal/store/destinations"
	"dapper.example/internal/store/imports"
	"dapper.example/internal/store/logbook"
	"dapper.example/internal/store/plan"
	"dapper.example/internal/store/posts"
	"dapper.example/internal/store/rules"
	"dapper.example/internal/store/sharing"
	"dapper.example/internal/store/sites"
	"dapper.example/internal/store/turns"
)

// The store's parts are packages of their own, each with its rows and its queries. Who works with
// the store sees them as one.
type (
	accountsQueries  = accounts.Queries
	accountsTx       = accounts.Tx
	sitesQueries     = sites.Queries
	sitesTx          = sites.Tx
	planQueries      = plan.Queries
	planTx           = plan.Tx
	postsQueries     = posts.Queries
	postsTx          = posts.Tx
	turnsQueries     = turns.Queries
	turnsTx          = turns.Tx
	sharingQueries   = sharing.Queries
	sharingTx        = sharing.Tx
	rulesQueries     = rules.Queries
	rulesTx          = rules.Tx
	logbookQueries   = logbook.Queries
	logbookTx        = logbook.Tx
	calendarsQueries = calendars.Queries
	calendarsTx      = calendars.Tx
	commentsQueries  = comments.Queries
	commentsTx       = comments.Tx
	importsQueries   = imports.Queries
	importsTx        = imports.Tx

	destinationsQueries = destinations.Queries
	destinationsTx      = destinations.Tx
)

// Queries are the statements of all parts, on a pool or in a transaction.
type Queries struct {
	run db.Runner
	accountsQueries
	sitesQueries
	planQueries
	postsQueries
	turnsQueries
	sharingQueries
	rulesQueries
	logbookQueries
	calendarsQueries
	commentsQueries
	importsQueries
	destinationsQueries
}

func queries(run db.Runner, seats *plan.Kept, facts *rules.Kept) Queries {
	return Queries{run: run,
		accountsQueries:  accounts.On(run),
		sitesQueries:     sites.On(run),
		planQueries:      plan.On(run, seats),
		postsQueries:     posts.On(run),
		turnsQueries:     turns.On(run),
		sharingQueries:   sharing.On(run),
		rulesQueries:     rules.On(run, facts),
		logbookQueries:   logbook.On(run),
		calendarsQueries: calendars.On(run),
		commentsQueries:  comments.On(run),
		importsQueries:   imports.On(run),

		destinationsQueries: destinations.On(run)}
}

// Tx is a running transaction.
type Tx struct {
	// Queries are the statements in it that want no transaction.
	Queries Queries
	tx      *sqlx.Tx
	accountsTx
	sitesTx
	planTx
	postsTx
	turnsTx
	sharingTx
	rulesTx
	logbookTx
	calendarsTx
	commentsTx
	importsTx
	destinationsTx
}

func transaction(tx *sqlx.Tx, told func(LogEntry)) *Tx {
	run := db.InTx(tx)
	return &Tx{Queries: queries(run, nil, nil), tx: tx,
		accountsTx:  accounts.In(run),
		sitesTx:     sites.In(run),
		planTx:      plan.In(run),
		postsTx:     posts.In(run),
		turnsTx:     turns.In(run),
		sharingTx:   sharing.In(run),
		rulesTx:     rules.In(run),
		logbookTx:   logbook.In(run, told),
		calendarsTx: calendars.In(run),
		commentsTx:  comments.In(run),
		importsTx:   imports.In(run),

		destinationsTx: destinations.In(run)}
}

// SQL is the transaction itself, for packages that keep their own tables.
func (t *Tx) SQL() *sql.Tx { return t.tx.Tx }

// Together does readings at the same time where they are on the pool, and one after the
// other in a transaction, which has but one connection. The first error ends them all.
func (q Queries) Together(ctx context.Context, readings ...func(context.Context) error) error {
	return q.run.Together(ctx, readings...)
}

// Lists and texts by name, in one column.
type (
	Strings = db.Strings
	IDs     = db.IDs
	ID      = db.ID
	Fields  = db.Fields
)

// ErrNotFound is returned where the site has no such row.
var ErrNotFound = db.ErrNotFound

// Rows of accounts: people, how they sign in, and the views they keep.
type (
	Lens        = accounts.Lens
	User        = accounts.User
	Preferences = accounts.Preferences
	Member      = accounts.Member
	SignIn      = accounts.SignIn
	Token       = accounts.Token
	Invitation  = accounts.Invitation
	LinkSecret  = accounts.LinkSecret
	Pace        = accounts.Pace
	Digest      = accounts.Digest
)

const (
	LensOfPlan  = accounts.LensOfPlan
	LensOfPosts = accounts.LensOfPosts
)

// The kinds of items of a menu.
const (
	MenuCategory = sites.MenuCategory
	MenuPage     = sites.MenuPage
)

// What lenses filter by.
const (
	ListedTags       = sites.ListedTags
	ListedCategories = sites.ListedCategories
)

// DateStyles are the ways in which readers see dates.
var DateStyles = sites.DateStyles

// Rows of comments.
type (
	Comment       = comments.Comment
	CommentFilter = comments.CommentFilter
	Remark        = comments.Remark
)

// Rows of sites.
type (
	Rhythm     = sites.Rhythm
	Category   = sites.Category
	Reading    = sites.Reading
	Appearance = sites.Appearance
	Commenting = sites.Commenting
	Menu       = sites.Menu
	MenuItem   = sites.MenuItem
	Site       = sites.Site
	Settings   = sites.Settings
	Tag        = sites.Tag
	TagUse     = sites.TagUse
)

// Rows of plan.
type (
	Entry      = plan.Entry
	Choice     = plan.Choice
	SiteStatus = plan.SiteStatus
	PostTitles = plan.PostTitles
	Span       = plan.Span
	Placed     = plan.Placed
)

// Rows of posts.
type (
	Claim         = posts.Claim
	LaidOut       = posts.LaidOut
	PostFilter    = posts.PostFilter
	ListPlace     = posts.ListPlace
	ListRow       = posts.ListRow
	TableRow      = posts.TableRow
	Picture       = posts.Picture
	PictureFilter = posts.PictureFilter
	UsedPicture   = posts.UsedPicture
	PreviewLink   = posts.PreviewLink
	Status        = posts.Status
	Post          = posts.Post
	Stage         = posts.Stage
	NewState      = posts.NewState
	NewPost       = posts.NewPost
	PublicFilter  = posts.PublicFilter
	Topic         = posts.Topic
	Month         = posts.Month
	ReadyPost     = posts.ReadyPost
	Text          = posts.Text
	TimedEdit     = posts.TimedEdit
	EditMark      = posts.EditMark
	EditState     = posts.EditState
	Wording       = posts.Wording
	EachYear      = posts.EachYear
	InBin         = posts.InBin
)

const (
	NoCategory  = posts.NoCategory
	ByChange    = posts.ByChange
	ByDate      = posts.ByDate
	ByTitle     = posts.ByTitle
	ByWords     = posts.ByWords
	ByRelevance = posts.ByRelevance
	MarkOpen    = posts.MarkOpen
	MarkClose   = posts.MarkClose
	Draft       = posts.Draft
	Scheduled   = posts.Scheduled
	Published   = posts.Published
	Archived    = posts.Archived
	Linked      = posts.Linked
	EditWaiting = posts.EditWaiting
	EditHeld    = posts.EditHeld
	EditApplied = posts.EditApplied
	EditDropped = posts.EditDropped
	Binned      = posts.Binned
)

// Stages lists all stages, in the order of a post's life.
func Stages() []Stage { return posts.Stages() }

// Rows of turns.
type (
	Backlog = turns.Backlog
	Mark    = turns.Mark
)

// Rows of sharing.
type (
	Channel       = sharing.Channel
	Outing        = sharing.Outing
	Republication = sharing.Republication
	ShortLink     = sharing.ShortLink
	Announcement  = sharing.Announcement
	Prepared      = sharing.Prepared
	Webhook       = sharing.Webhook
	Subscriber    = sharing.Subscriber
	HookDelivery  = sharing.HookDelivery
	ChannelCount  = sharing.ChannelCount
	Delivery      = sharing.Delivery
	Arrived       = sharing.Arrived
	Connection    = sharing.Connection
	WordList      = sharing.WordList
	Item          = sharing.Item
	Extras        = sharing.Extras
	Habits        = sharing.Habits
	Wordings      = sharing.Wordings
	Tour          = sharing.Tour
	TourPage      = sharing.TourPage
	TourTemplate  = sharing.TourTemplate
	TourSettings  = sharing.TourSettings
	TourState     = sharing.TourState
	ResultsFilter = sharing.ResultsFilter
	ResultsBy     = sharing.ResultsBy
	HourRow       = sharing.HourRow
	ResultsRow    = sharing.ResultsRow
	PairRow       = sharing.PairRow
	Served        = rules.Served
)

const (
	Planned          = sharing.Planned
	Waiting          = sharing.Waiting
	Sent             = sharing.Sent
	Failed           = sharing.Failed
	Skipped          = sharing.Skipped
	Aside            = sharing.Aside
	HookWaiting      = sharing.HookWaiting
	HookDelivered    = sharing.HookDelivered
	HookFailed       = sharing.HookFailed
	ByHand           = sharing.ByHand
	ByRule           = sharing.ByRule
	ByPublication    = sharing.ByPublication
	ByTour           = sharing.ByTour
	MostAgain        = sharing.MostAgain
	ResultsByPost    = sharing.ResultsByPost
	ResultsByWording = sharing.ResultsByWording
	ResultsByOrigin  = sharing.ResultsByOrigin
	ResultsByChannel = sharing.ResultsByChannel
	ResultsByRule    = sharing.ResultsByRule
	ResultsByTour    = sharing.ResultsByTour
	ResultsByLine    = sharing.ResultsByLine
	TourBeingMade    = sharing.TourBeingMade
	TourRunning      = sharing.TourRunning
	TourPaused       = sharing.TourPaused
	TourStopped      = sharing.TourStopped
	TourOver         = sharing.TourOver
)

// Rows of rules.
type (
	FactsFilter  = rules.FactsFilter
	Sieve        = rules.Sieve
	Sifted       = rules.Sifted
	RuleKind     = rules.RuleKind
	Rule         = rules.Rule
	RuleSettings = rules.RuleSettings
	RuleRun      = rules.RuleRun
	Notice       = rules.Notice
	NamedRun     = rules.NamedRun
)

const (
	Expire    = rules.Expire
	Republish = rules.Republish
	Reshare   = rules.Reshare
)

// RuleKinds lists all kinds of rules.
var RuleKinds = rules.RuleKinds

// Rows of logbook.
type (
	LogEntry  = logbook.LogEntry
	Act       = logbook.Act
	LogFilter = logbook.LogFilter
	Happened  = logbook.Happened
)

// Rows of imports.
type (
	Import       = imports.Import
	ImportState  = imports.ImportState
	ImportFile   = imports.ImportFile
	ImportLine   = imports.ImportLine
	ImportPost   = imports.ImportPost
	ImportRecipe = imports.ImportRecipe
	LineState    = imports.LineState
	ReadyLine    = imports.ReadyLine
	Feed         = imports.Feed
)

const (
	FeedPosts        = imports.FeedPosts
	FeedMessages     = imports.FeedMessages
	FeedLinks        = imports.FeedLinks
	ImportCollecting = imports.Collecting
	ImportReading    = imports.Reading
	ImportProposed   = imports.Proposed
	ImportLanding    = imports.Landing
	ImportPaused     = imports.Paused
	ImportDone       = imports.Done
	ImportCancelled  = imports.Cancelled
	ImportFailed     = imports.Failed
	ImportUndoing    = imports.Undoing
	ImportUndone     = imports.Undone
	LineReady        = imports.LineReady
	LineUpdate       = imports.LineUpdate
	LineLeft         = imports.LineLeft
	LineSame         = imports.LineSame
	LineClash        = imports.LineClash
	LineLanded       = imports.LineLanded
	LineUpdated      = imports.LineUpdated
	LineUndone       = imports.LineUndone
	LineKept         = imports.LineKept
)

// Rows of calendars.
type (
	CalendarFeed  = calendars.CalendarFeed
	CalendarEntry = calendars.CalendarEntry
)

const (
	CalendarScheduled = calendars.CalendarScheduled
	CalendarOut       = calendars.CalendarOut
	CalendarCancelled = calendars.CalendarCancelled
)

// Rows of where posts go.
type (
	Destination      = destinations.Destination
	DestinationSetup = destinations.Setup
	Copy             = destinations.Copy
	TitledCopy       = destinations.TitledCopy
	CopyTally        = destinations.Tally
	HubTelling       = destinations.Telling
)

// What becomes of archived posts at a destination, and the states of copies.
const (
	KeepArchived   = destinations.KeepArchived
	RemoveArchived = destinations.RemoveArchived
	CopyNone       = destinations.CopyNone
	CopyThere      = destinations.CopyThere
	CopyRemoved    = destinations.CopyRemoved
	CopyLost       = destinations.CopyLost
)
