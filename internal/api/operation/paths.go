package operation

// SitePath is in the path of every operation on a site.
type SitePath struct {
	Site string `path:"site" doc:"the site's name in addresses" example:"quillmoor"`
}

// PostPath is in the path of every operation on a post.
type PostPath struct {
	SitePath
	ID int64 `path:"id" minimum:"1"`
}

// ItemPath is in the path of every operation on one thing of a site: a rule, a channel, an outing.
type ItemPath struct {
	SitePath
	ID int64 `path:"id" minimum:"1"`
}
