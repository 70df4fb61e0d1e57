// Package followers is the model of those who follow the simulated networks: how many click a link in a message, and
// when. It is pure: the same message at the same moment always has the same clicks.
package followers

import (
	"hash/fnv"
	"math"
	"math/rand/v2"
	"slices"
	"time"

	"dapper.example/internal/core/civil"
)

// Said is a message with a link.
type Said struct {
	Network string
	Text    string // as it was sent
	Wording string // what tells it from other ways to say the same; its text where that is not known
	Nth     int    // of the messages with this link on this network, from 1
	At      time.Time
}

// Most is the most clicks of one message.
const Most = 60

// audience is where followers live, and which share of them.
var audience = []struct {
	zone  civil.Zone
	share float64
}{
	{civil.MustZone("America/Halifax"), 0.45},
	{civil.MustZone("Europe/Lisbon"), 0.30},
	{civil.MustZone("America/Vancouver"), 0.15},
	{civil.MustZone("Pacific/Auckland"), 0.10},
}

// reading is how readily people read at an hour of their day, against the best hour.
var reading = [24]float64{0.15, 0.06, 0.03, 0.02, 0.02, 0.05, 0.2, 0.5, 0.65, 0.5, 0.4, 0.45, 0.6, 0.5, 0.4, 0.4, 0.5, 0.65, 0.8, 0.95, 1, 0.9, 0.6, 0.3}

// reach is how many clicks a message has that is new, at the best hour of everybody, by the network.
var reach = map[string]float64{"lantern": 9, "vitrine": 6, "hearth": 12, "crier": 5}

const (
	// worn is what is left of the clicks with each further message of the same link.
	worn = 0.78
	// spread is by how much a wording does better or worse, at most.
	spread = 0.35
	// halfLife is after how long half of those who click have done so.
	halfLife = 35 * time.Minute
	// over is after how long nobody comes any more.
	over = 8 * time.Hour
)

// Expected is how many clicks a message has on average.
func (s Said) Expected() float64 {
	awake := 0.0
	for _, a := range audience {
		awake += a.share * reading[a.zone.In(s.At).Hour()]
	}
	taste := 1 + spread*(2*unit(s.Network, s.Wording)-1)
	return reach[s.Network] * awake * math.Pow(worn, float64(max(s.Nth, 1)-1)) * taste
}

// Clicks are how long after it the message is clicked, in order; at most Most of them.
func (s Said) Clicks() []time.Duration {
	h := fnv.New64a()
	h.Write([]byte(s.Network + "\x00" + s.Text + "\x00" + s.At.UTC().Format("2006-01-02 15:04")))
	chance := rand.New(rand.NewPCG(h.Sum64(), 1))
	n := min(poisson(chance, s.Expected()), Most)
	after := make([]time.Duration, 0, n)
	for range n {
		d := time.Duration(chance.ExpFloat64() / math.Ln2 * float64(halfLife))
		after = append(after, min(d, over).Truncate(time.Second))
	}
	slices.Sort(after)
	return after
}

// poisson draws a number with a mean (Knuth, The Art of Computer Programming 2, 3.4.1).
func poisson(chance *rand.Rand, mean float64) int {
	limit, product := math.Exp(-mean), chance.Float64()
	n := 0
	for product > limit && n < Most {
		product *= chance.Float64()
		n++
	}
	return n
}

// unit is a number from 0 to 1 that always is the same for the same words.
func unit(words ...string) float64 {
	h := fnv.New64a()
	for _, w := range words {
		h.Write([]byte(w + "\x00"))
	}
	return float64(h.Sum64()>>11) / (1 << 53)
}
