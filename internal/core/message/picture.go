package message

// Picture says which picture a message brings along.
type Picture struct {
	// From is where it comes from; "" means FeaturedPicture.
	From PictureFrom `json:"from,omitempty"`
	ID   int64       `json:"id,omitempty"` // of the library; of ThisPicture
}

// PictureFrom is where a picture comes from.
type PictureFrom string

// Where pictures come from.
const (
	FeaturedPicture PictureFrom = "featured" // the post's featured image
	TextPicture     PictureFrom = "text"     // the first picture in the post's text
	ThisPicture     PictureFrom = "library"  // one that an editor chose
	NoPicture       PictureFrom = "none"
)

// PicturesFrom lists where pictures may come from.
var PicturesFrom = []PictureFrom{FeaturedPicture, TextPicture, ThisPicture, NoPicture}

// IsThere tells whether a message will have a picture, by what its post has.
func (p Picture) IsThere(featured, inText bool) bool {
	switch p.From {
	case NoPicture:
		return false
	case ThisPicture:
		return p.ID != 0
	case TextPicture:
		return inText
	}
	return featured
}
