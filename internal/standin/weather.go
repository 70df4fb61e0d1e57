package standin

import (
	"net/http"
	"slices"
	"time"
)

// Weather is what trouble a network makes.
type Weather string

// The weathers.
const (
	Fair       Weather = "fair"
	Slow       Weather = "slow"        // each answer takes eight seconds
	Refusing   Weather = "refusing"    // no message is taken
	Expired    Weather = "expired"     // no sign-in is valid any more
	NoPictures Weather = "no pictures" // messages with pictures are refused
	Silent     Weather = "silent"      // messages are taken, and the connection is cut without an answer
	Rubbish    Weather = "rubbish"     // it answers that all is well, with nothing that makes sense
	Busy       Weather = "busy"        // it asks to come back in a minute
	Down       Weather = "down"        // it answers 503
)

// Weathers lists them with what they are, in words.
var Weathers = []struct {
	Weather Weather
	Says    string
}{
	{Fair, "Fair: all works"}, {Slow, "Slow: eight seconds for each answer"}, {Refusing, "Refuses every message"},
	{Expired, "Signed out: no token is valid"}, {NoPictures, "Rejects pictures"},
	{Silent, "Takes messages, then falls silent"}, {Rubbish, "Answers rubbish"}, {Busy, "Asks to wait a minute"},
	{Down, "Down"},
}

// slowness is how long each answer takes where it is slow.
const slowness = 8 * time.Second

// Weather is the network's weather.
func (n *Network) Weather() Weather {
	n.mu.Lock()
	defer n.mu.Unlock()
	return n.weather
}

// Turn changes the weather.
func (n *Network) Turn(to Weather) {
	n.mu.Lock()
	defer n.mu.Unlock()
	n.weather = to
}

func (n *Network) setWeather(w http.ResponseWriter, r *http.Request) {
	to := Weather(r.PostFormValue("weather"))
	if !slices.ContainsFunc(Weathers, func(one struct {
		Weather Weather
		Says    string
	}) bool {
		return one.Weather == to
	}) {
		http.Error(w, "There is no such weather.", http.StatusBadRequest)
		return
	}
	n.Turn(to)
	http.Redirect(w, r, home(r, "/weather")+"/", http.StatusSeeOther)
}

// strike answers instead of the network where the weather is bad; it tells whether it did.
func (w Weather) strike(out http.ResponseWriter, r *http.Request, p posted) bool {
	switch w {
	case Slow:
		select {
		case <-time.After(slowness):
		case <-r.Context().Done():
		}
		return false
	case Refusing:
		refuse(out, http.StatusUnprocessableEntity, "This message is against our rules.")
	case NoPictures:
		if len(p.Media) == 0 {
			return false
		}
		refuse(out, http.StatusUnsupportedMediaType, "This picture cannot be shown here.")
	case Rubbish:
		out.Write([]byte("<p>ok!!</p>"))
	case Busy:
		out.Header().Set("Retry-After", "60")
		refuse(out, http.StatusTooManyRequests, "Come back in a minute.")
	case Down:
		refuse(out, http.StatusServiceUnavailable, "Back soon.")
	default:
		return false
	}
	return true
}
