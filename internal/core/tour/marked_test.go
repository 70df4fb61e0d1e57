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
	"157-what-my-father-wrote-in-the-margins.md":                 {"When we cleared the house"},
	"164-thirty-nights-in-a-fishing-hut.md":                      {"After I stopped work", "I wrote to you, and you told me"},
	"192-twilight-has-three-parts.md":                            {"When the Sun has set", "On the twenty-first of June", "First there is civil twilight"},
	"199-an-evening-with-nothing-but-the-ecliptic.md":            {"The Sun, the Moon, and all", "In autumn, in the evening", "What you are looking at is a disc"},
	"213-the-stars-over-the-oil-rig.md":                          {"There is a flare"},
	"003-a-patient-person-s-guide-to-the-zodiacal-light.md":      {"For about two weeks in October"},
	"010-the-autumn-milky-way-is-better-than-the-summer-one.md":  {"Everyone comes in August", "In October it is dark by seven"},
	"017-how-we-time-an-occultation-with-a-kitchen-radio.md":     {"When the Moon covers a star", "Everyone has a delay of their own"},
	"024-how-we-count-so-that-the-numbers-can-be-used.md":        {"A count without a limiting star"},
	"031-the-lane-is-closed-at-the-bridge-until-friday.md":       {"Cyclists may walk across"},
	"038-on-the-smell-of-an-old-observatory.md":                  {`"Machine oil, wet wool and apples`, "The loft held the harvest"},
	"045-counting-orionids-from-the-south-lawn.md":               {"Fast, white and gone"},
	"073-the-great-square-and-a-way-to-count-what-you-cannot.md": {"The Square of Pegasus", "After a year you will know"},
	"108-the-lamp-over-our-own-door.md":                          {"It is not pleasant to find", "The lamp over the door"},
	"122-ursids-in-company-of-a-thermos.md":                      {"The last shower of the year"},
	"129-open-night-the-first-quarter-and-the-straight-wall.md":  {"The Moon is at first quarter", "If it is cloudy, Tobias"},
	"136-galaxies-for-those-who-can-wait.md":                     {"There will be no more than twelve", "Nobody will be told"},
	"143-telephone-out-of-order.md":                              {"The squirrels have been"},
	"150-bees-in-the-shutter-motor.md":                           {"A swarm has moved"},
	"171-a-dimmer-for-the-hut.md":                                {"The lamp in the hut"},
	"178-open-night-for-the-longest-dark.md":                     {"The longest night of the year", "There will be fifteen hours"},
	"185-our-library-and-how-to-borrow-from-it.md":               {"There are two hundred and twelve", "Bring it back before"},
	"220-open-night-five-stars-that-change.md":                   {"Some stars are not the same", "It has always turned out"},
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
