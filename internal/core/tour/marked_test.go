package tour_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/tour"
)

// marked are posts of the demo in which somebody who read them marked the sentences that would stand well alone in a message, by
// how they begin. They were marked before any of these posts was ranked.
var marked = map[string][]string{
	"059-castor-is-six-stars-and-you-can-see-two.md": {"Of the Twins, Pollux is", "Few things in the sky", "Three pairs, six suns"},
	"066-albireo-s-rivals-five-pairs-with-colour.md": {"Everybody is shown Albireo", "In winter there is number 145", "In spring there is Izar",
		"Delta Lyrae is a wide pair", "If others at the telescope", "Put the eyepiece slightly"},
	"080-mars-in-the-years-between.md": {"Every two years and two months"},
	"087-sharpening-a-view-what-to-try-before-you-buy.md": {"People bring us telescopes", "A tube that comes out", "If the planet stands above", "Grass is better than asphalt",
		"An eyepiece fogs from below", "Begin at the lowest", "In eleven years we have found"},
	"094-rebuilding-the-old-drive-clock.md": {"The ten-inch was driven", "Oil is where people ruin", "Two pivots were worn oval", "On open nights we hang",
		"Visitors can hear the clock"},
	"101-a-battery-box-that-survives-winter.md": {"Batteries hate the cold", "What gives twelve hours", "Fit a fuse next"},
	"115-geminids-at-eighteen-below.md": {"The Geminids are the best", "In December, on the hill", "The rate went up as Gemini", "About half past midnight",
		"We had counted 145", "Breath freezes on the scarf"},
	"157-what-my-father-wrote-in-the-margins.md":      {"When we cleared the house"},
	"164-thirty-nights-in-a-fishing-hut.md":           {"After I stopped work", "I wrote to you, and you told me"},
	"192-twilight-has-three-parts.md":                 {"When the Sun has set", "On the twenty-first of June", "First there is civil twilight"},
	"199-an-evening-with-nothing-but-the-ecliptic.md": {"The Sun, the Moon, and all", "In autumn, in the evening", "What you are looking at is a disc"},
	"213-the-stars-over-the-oil-rig.md":               {"There is a flare"},
}

// Of as many sentences as were marked in a post, the ranking has most of those that were.
func TestTheRankingFindsWhatReadersMarked(t *testing.T) {
	found, all := 0, 0
	for file, begin := range marked {
		raw, err := os.ReadFile(filepath.Join("..", "..", "demo", "posts", file))
		require.NoError(t, err)
		head, body, _ := strings.Cut(strings.TrimPrefix(string(raw), "---\n"), "\n---\n")
		_, title, _ := strings.Cut(head, `title: "`)
		title, _, _ = strings.Cut(title, `"`)
		lines, err := tour.Lines(title, body, nil, nil)
		require.NoError(t, err)
		for _, b := range begin {
			require.Contains(t, strings.Join(strings.Fields(body), " "), b, file)
		}
		all += len(begin)
		for _, l := range lines[:len(begin)] {
			for _, b := range begin {
				if strings.HasPrefix(l.Text, b) {
					found++
				}
			}
		}
	}
	t.Logf("%d of %d marked sentences are among the first", found, all)
	assert.GreaterOrEqual(t, float64(found), 0.5*float64(all))
}
