// Package tour plans a series of outings of one post: which sentences it is told by (Lines), when (Shape), and what each
// stop says on each channel (Deal). It is pure: the same post, shape and seed give the same tour.
package tour

// Hand is what has been dealt to one stop on one channel.
type Hand struct {
	Line    int // the number of a line, from 0
	Wording int
	Picture int // -1: none
}

// Deal gives stops their lines, wordings and pictures, of as many as there are. None of them comes again on a channel before all have
// had their turn. A stop has the same line on all channels; wordings and pictures are moved on by one from channel to channel, so that no two
// channels show the same at once where there is a choice.
func Deal(stop, channel, lines, wordings, pictures int) Hand {
	hand := Hand{Picture: -1}
	if lines > 0 {
		hand.Line = stop % lines
	}
	if wordings > 0 {
		hand.Wording = (stop + channel) % wordings
	}
	if pictures > 0 {
		hand.Picture = (stop + channel) % pictures
	}
	return hand
}
