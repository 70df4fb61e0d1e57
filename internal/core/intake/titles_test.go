package intake_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/intake"
)

func TestTitlesThatAreNearlyTheSame(t *testing.T) {
	t.Parallel()
	titles := intake.NewTitles()
	for _, one := range []string{"Cables that can be found in the dark", "Moonrise", "The roof, greased", "Four ways up", "What to see in week 12", "…"} {
		titles.Add(one)
	}
	for title, want := range map[string]string{
		"cables that can be found in the DARK!":     "Cables that can be found in the dark",
		"Cables that can be found in the night":     "Cables that can be found in the dark", // one word is another
		"Cables that can be found in dark":          "Cables that can be found in the dark", // one less
		"Cables that can be found in the dark soon": "Cables that can be found in the dark", // one more
		"In the dark, cables can be found that":     "Cables that can be found in the dark", // another order
		"Cables that can be lost in the night":      "",
		"Moonset":                                   "",
		"Moonrise today":                            "",
		"Greased: the roof":                         "The roof, greased",
		"The roof, painted":                         "", // too few words to be sure
		"What to see in week 13":                    "", // numbers tell them apart
		"What to see by week 12":                    "What to see in week 12",
		"Four ways":                                 "",
		"…":                                         "",
		"":                                          "",
	} {
		got, ok := titles.Near(title)
		assert.Equal(t, want, got, title)
		assert.Equal(t, want != "", ok, title)
	}
}
