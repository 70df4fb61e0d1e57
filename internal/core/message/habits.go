package message

import (
	"slices"
	"strconv"
	"strings"
)

// Habits are what all messages of a channel have in common.
type Habits struct {
	Before string  `json:"before,omitempty"` // a text before each message, as it stands
	After  string  `json:"after,omitempty"`  // and one after it
	Params []Param `json:"params,omitempty"` // added to links
	Short  bool    `json:"short,omitempty"`  // links are short ones, which count clicks
}

// MaxAround is the longest text before or after messages, in graphemes.
const MaxAround = 500

// MergeParams is the parameters of a channel with those of a rule, which win where both have
// one of a name.
func MergeParams(channel, rule []Param) []Param {
	merged := slices.Clone(channel)
	for _, p := range rule {
		i := slices.IndexFunc(merged, func(other Param) bool { return other.Name == p.Name })
		if i < 0 {
			merged = append(merged, p)
			continue
		}
		merged[i] = p
	}
	return merged
}

// FillParams puts the names of the channel and the rule, and the number of the wording counted
// from 1, where the values of parameters ask for {channel}, {rule} and {wording}.
func FillParams(params []Param, channel, rule string, wording int) []Param {
	names := strings.NewReplacer("{channel}", plainName(channel), "{rule}", plainName(rule), "{wording}",
		strconv.Itoa(wording+1))
	filled := make([]Param, len(params))
	for i, p := range params {
		filled[i] = Param{p.Name, names.Replace(p.Value)}
	}
	return filled
}

// plainName is a name as statistics of links like it: in lower case, parted by hyphens.
func plainName(name string) string { return strings.Join(strings.Fields(strings.ToLower(name)), "-") }
