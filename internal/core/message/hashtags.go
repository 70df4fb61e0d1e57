package message

import (
	"strings"
	"unicode"

	"dapper.example/internal/core/letters"
)

// Source is where hashtags come from.
type Source string

// The sources of hashtags.
const (
	FromCategory Source = "category"
	FromTags     Source = "tags"
	FromList     Source = "list"
	FromField    Source = "field" // of words parted by commas
)

// Sources lists the sources.
var Sources = []Source{FromCategory, FromTags, FromList, FromField}

// Style is how words become one.
type Style string

// The styles of hashtags of several words.
const (
	Joined     Style = "joined"     // #SkyGuide
	Lower      Style = "lower"      // #skyguide
	Underlined Style = "underlined" // #sky_guide
)

// Styles lists the styles.
var Styles = []Style{Joined, Lower, Underlined}

// Hashtags says how a rule makes hashtags: of which sources, in that order, in which
// style.
type Hashtags struct {
	Sources []Source `json:"sources"`
	List    []string `json:"list,omitempty" doc:"the fixed ones"`
	Field   string   `json:"field,omitempty" doc:"the custom field that holds some"`
	Style   Style    `json:"style"`
}

// Of makes the post's hashtags, without repeats, whatever their case.
func (h Hashtags) Of(p Post) []string {
	var tags []string
	seen := make(map[string]bool)
	add := func(words string) {
		tag := h.tag(words)
		if key := letters.Fold(tag); tag != "" && !seen[key] {
			seen[key] = true
			tags = append(tags, tag)
		}
	}
	for _, source := range h.Sources {
		switch source {
		case FromCategory:
			add(p.Category)
		case FromTags:
			for _, t := range p.Tags {
				add(t)
			}
		case FromList:
			for _, t := range h.List {
				add(t)
			}
		case FromField:
			for t := range strings.SplitSeq(p.Fields[h.Field], ",") {
				add(t)
			}
		}
	}
	return tags
}

// tag makes one hashtag of words; "" where no letter or digit is left, or no letter.
func (h Hashtags) tag(words string) string {
	parts := strings.FieldsFunc(words, func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && !unicode.IsMark(r) && r != '\'' && r != '’'
	})
	if !strings.ContainsFunc(words, unicode.IsLetter) {
		return ""
	}
	for i, part := range parts {
		if strings.ContainsAny(part, "'’") {
			part = strings.ReplaceAll(strings.ReplaceAll(part, "'", ""), "’", "")
		}
		switch h.Style {
		case Lower, Underlined:
			part = strings.ToLower(part)
		default:
			part = capitalised(part)
		}
		parts[i] = part
	}
	between := ""
	if h.Style == Underlined {
		between = "_"
	}
	return "#" + strings.Join(parts, between)
}

func capitalised(word string) string {
	for i, r := range word {
		return string(unicode.ToUpper(r)) + word[i+len(string(r)):]
	}
	return word
}
