package condition

import (
	"fmt"
	"slices"
	"strings"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/words"
)

// Sentence reads the condition aloud: "Posts in Viewing Nights whose “event” passed 1
// day ago or more." A test that is not finished reads as "…".
func Sentence(n Node) string {
	if n.IsZero() || n.IsGroup() && len(n.Parts) == 0 {
		return "Every post."
	}
	if n.Test == Evergreen {
		n = Node{Group: AllOf, Parts: []Node{n}}
	}
	if n.Group == AllOf {
		// An adjective stands before what it tells of: "Evergreen posts in Sky Guide."
		rest := slices.DeleteFunc(slices.Clone(n.Parts), Node.isEvergreen)
		switch {
		case len(rest) == 0:
			return "Evergreen posts."
		case len(rest) < len(n.Parts):
			return "Evergreen posts " + phrase(Node{Group: AllOf, Parts: rest}, false) + "."
		}
	}
	return "Posts " + phrase(n, false) + "."
}

func (n Node) isEvergreen() bool { return n.Test == Evergreen && n.Match == MatchYes }

// phrase is a node in words that follow "posts"; inside another group, groups of
// several parts stand in brackets.
func phrase(n Node, inside bool) string {
	if !n.IsGroup() {
		if _, _, ok := wayOf(n); !ok {
			return "…"
		}
		return testPhrase(n)
	}
	if n.Group == NoneOf {
		return "other than those " + words.List(phrases(n.Parts), "or")
	}
	if len(n.Parts) == 1 {
		return phrase(n.Parts[0], inside)
	}
	var text string
	if n.Group == AnyOf {
		text = "either " + words.List(phrases(n.Parts), "or")
	} else {
		text = allPhrase(n.Parts)
	}
	if inside {
		return "(" + text + ")"
	}
	return text
}

func phrases(nodes []Node) []string {
	var all []string
	for _, n := range nodes {
		all = append(all, phrase(n, true))
	}
	return all
}

// allPhrase says what all must hold, and after it what is ruled out.
func allPhrase(nodes []Node) string {
	var asked, ruledOut []Node
	for _, n := range nodes {
		if n.Group == NoneOf {
			ruledOut = append(ruledOut, n.Parts...)
		} else {
			asked = append(asked, n)
		}
	}
	text := strings.Join(phrases(asked), ", ")
	switch {
	case len(ruledOut) == 0:
	case len(asked) == 0:
		text = "other than those " + words.List(phrases(ruledOut), "or")
	default:
		text += ", but not those " + words.List(phrases(ruledOut), "or")
	}
	return text
}

// yesPhrases are the yes-no tests, said both ways.
var yesPhrases = map[Test][2]string{
	OnTop:        {"kept on top", "not kept on top"},
	CommentsOpen: {"with comments open", "with comments closed"},
	Image:        {"with a featured image", "without a featured image"},
	Evergreen:    {"that are evergreen", "that are not evergreen"},
}

func testPhrase(n Node) string {
	values := words.List(n.Values, "or")
	quoted := "“" + values + "”"
	if both, ok := yesPhrases[n.Test]; ok {
		if n.Match == MatchYes {
			return both[0]
		}
		return both[1]
	}
	not := ""
	if n.Match == MatchNone {
		not = "not "
	}
	switch n.Test {
	case Kind:
		return not + "of the kind " + strings.Replace(values, "link", "link item", 1)
	case Status:
		return "that are " + not + values
	case Category:
		return not + "in " + values
	case Author:
		return not + "by " + values
	case Import:
		return not + "from the import " + values
	case Tags:
		if n.Match == MatchAll {
			values = words.List(n.Values, "and")
		}
		return not + "tagged " + values
	case Text:
		return textPhrase(n)
	case Title:
		return "with " + quoted + " in the title"
	case Slug:
		return map[Match]string{MatchEquals: "with the slug ", MatchBegins: "with a slug that begins with ",
			MatchContains: "with a slug that contains "}[n.Match] + quoted
	case Age:
		return agePhrase(n, "out for", "published")
	case SinceChange:
		return agePhrase(n, "unchanged for", "last changed")
	case Field:
		return fieldPhrase(n, quoted)
	case WordCount:
		return "of " + thanPhrase(n, "word")
	case Comments:
		return "with " + thanPhrase(n, "comment")
	case Clicks:
		return fmt.Sprintf("with %s in the last %s", thanPhrase(n, "click"), words.Count(n.Days, "day"))
	case Shared:
		return "shared " + thanPhrase(n, "time")
	}
	return "republished " + thanPhrase(n, "time")
}

func textPhrase(n Node) string {
	noun := words.For(len(n.Values), "word ", "words ")
	switch n.Match {
	case MatchAll:
		return "with the " + noun + words.List(n.Values, "and")
	case MatchNone:
		return "without the " + noun + words.List(n.Values, "or")
	}
	return "with the " + noun + words.List(n.Values, "or")
}

func thanPhrase(n Node, thing string) string {
	if n.Match == MatchOver {
		return "more than " + words.Count(n.N, thing)
	}
	return "fewer than " + words.Count(n.N, thing)
}

func agePhrase(n Node, lasting, event string) string {
	span := Span{n.N, n.Unit}
	switch n.Match {
	case MatchOver:
		return lasting + " " + span.String() + " or more"
	case MatchUnder:
		return lasting + " less than " + span.String()
	}
	date := n.Date
	if d, err := civil.ParseDate(n.Date); err == nil {
		date = d.Format("Mon 2 Jan 2006") // a condition has no day from which it is seen
	}
	return strings.Join([]string{event, string(n.Match), date}, " ")
}

func fieldPhrase(n Node, quoted string) string {
	field := "“" + n.Field + "”"
	switch n.Match {
	case MatchPassed:
		if n.N == 0 {
			return "whose " + field + " has passed"
		}
		return "whose " + field + " passed " + Span{n.N, n.Unit}.String() + " ago or more"
	case MatchRound:
		if n.N == 0 {
			return "whose " + field + " has its day today"
		}
		return "whose " + field + " comes round within " + Span{n.N, n.Unit}.String()
	case MatchPresent:
		return "with a field " + field
	case MatchMissing:
		return "without a field " + field
	case MatchEquals:
		return "whose " + field + " is " + quoted
	case MatchDiffers:
		return "whose " + field + " is not " + quoted
	case MatchOver:
		return "whose " + field + " is more than " + quoted
	}
	return "whose " + field + " is less than " + quoted
}
