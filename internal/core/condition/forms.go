package condition

// Need is one thing that a way of comparing needs.
type Need string

// What a test may need.
const (
	NeedValues Need = "values" // names to choose from a list, or words
	NeedValue  Need = "value"  // exactly one, written by hand
	NeedField  Need = "field"  // a custom field's name
	NeedNumber Need = "number"
	NeedSpan   Need = "span" // a number and a unit of time
	NeedDate   Need = "date"
	NeedDays   Need = "days" // the last so many days
)

// Way is one way of comparing: how it is said, and what it needs.
type Way struct {
	Match Match  `json:"match"`
	Label string `json:"label"`
	Needs []Need `json:"needs"`
}

// Form describes one test: what an editor can build, and what Check asks for.
type Form struct {
	Test  Test   `json:"test"`
	Label string `json:"label"`
	// From says where values come from: the site's categories, tags, authors or imports;
	// a fixed list (Choices); or nowhere, where they are written by hand.
	From    string   `json:"from,omitempty"`
	Choices []string `json:"choices,omitempty"`
	Ways    []Way    `json:"ways"`
}

// Statuses and kinds of posts that conditions know.
var (
	Kinds    = []string{"post", "page", "link"}
	Statuses = []string{"draft", "scheduled", "published", "archived", "binned"}
)

var (
	oneOf = []Way{{MatchAny, "is one of", []Need{NeedValues}}, {MatchNone, "is none of", []Need{NeedValues}}}
	times = []Way{{MatchOver, "more than", []Need{NeedNumber}}, {MatchUnder, "fewer than", []Need{NeedNumber}}}
	ages  = []Way{
		{MatchOver, "older than", []Need{NeedSpan}}, {MatchUnder, "younger than", []Need{NeedSpan}},
		{MatchBefore, "before", []Need{NeedDate}}, {MatchAfter, "after", []Need{NeedDate}},
	}
	yesNo = []Way{{MatchYes, "yes", nil}, {MatchNo, "no", nil}}
)

// Forms lists every test with its ways of comparing.
var Forms = []Form{
	{Test: Category, Label: "Category", From: "categories", Ways: oneOf},
	{Test: Tags, Label: "Tags", From: "tags", Ways: []Way{
		{MatchAny, "any of", []Need{NeedValues}}, {MatchAll, "all of", []Need{NeedValues}}, {MatchNone, "none of",
			[]Need{NeedValues}}}},
	{Test: Author, Label: "Author", From: "authors", Ways: oneOf},
	{Test: Age, Label: "Out", Ways: ages},
	{Test: SinceChange, Label: "Last changed", Ways: ages},
	{Test: Field, Label: "Custom field", Ways: []Way{
		{MatchPassed, "holds a date past by", []Need{NeedField, NeedSpan}},
		{MatchRound, "comes round, each year, within", []Need{NeedField, NeedSpan}},
		{MatchPresent, "is there", []Need{NeedField}}, {MatchMissing, "is missing", []Need{NeedField}},
		{MatchEquals, "is", []Need{NeedField, NeedValue}}, {MatchDiffers, "is not", []Need{NeedField, NeedValue}},
		{MatchOver, "is more than", []Need{NeedField, NeedValue}}, {MatchUnder, "is less than",
			[]Need{NeedField, NeedValue}}}},
	{Test: Evergreen, Label: "Evergreen", Ways: yesNo},
	{Test: Title, Label: "Title", Ways: []Way{{MatchContains, "contains", []Need{NeedValue}}}},
	{Test: Text, Label: "Text", Ways: []Way{
		{MatchAny, "has any of the words", []Need{NeedValues}}, {MatchAll, "has all of the words", []Need{NeedValues}},
		{MatchNone, "has none of the words", []Need{NeedValues}}}},
	{Test: Slug, Label: "Slug", Ways: []Way{
		{MatchEquals, "is", []Need{NeedValue}}, {MatchBegins, "begins with", []Need{NeedValue}}, {MatchContains,
			"contains", []Need{NeedValue}}}},
	{Test: WordCount, Label: "Words", Ways: times},
	{Test: Clicks, Label: "Clicks", Ways: []Way{
		{MatchOver, "more than", []Need{NeedNumber, NeedDays}}, {MatchUnder, "fewer than",
			[]Need{NeedNumber, NeedDays}}}},
	{Test: Shared, Label: "Times shared", Ways: times},
	{Test: Republished, Label: "Times republished", Ways: times},
	{Test: Kind, Label: "Kind", From: "list", Choices: Kinds, Ways: oneOf},
	{Test: Status, Label: "Status", From: "list", Choices: Statuses, Ways: oneOf},
	{Test: OnTop, Label: "Kept on top", Ways: yesNo},
	{Test: CommentsOpen, Label: "Comments open", Ways: yesNo},
	{Test: Comments, Label: "Comments", Ways: times},
	{Test: Image, Label: "Featured image", Ways: yesNo},
	{Test: Import, Label: "Import", From: "imports", Ways: oneOf},
}

// wayOf returns the form and the way of a test; ok tells whether both are known.
func wayOf(n Node) (form Form, way Way, ok bool) {
	for _, f := range Forms {
		if f.Test != n.Test {
			continue
		}
		for _, w := range f.Ways {
			if w.Match == n.Match {
				return f, w, true
			}
		}
		return f, Way{}, false
	}
	return Form{}, Way{}, false
}
