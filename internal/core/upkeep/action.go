package upkeep

import (
	"fmt"
	"strings"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/post"
)

// Action is what an expiry rule does to a post.
type Action string

// The actions.
const (
	Archive       Action = "archive"  // out of lists, feeds and sitemap; what readers of the page get is the rule's to say
	ToDraft       Action = "draft"    // back to being written
	Bin           Action = "bin"      // whence it is deleted after the blog's limit
	ToCategory    Action = "category" // into another category
	AddTag        Action = "tag"      // with one more tag
	PutNotice     Action = "notice"   // with a notice to readers above it; it stays out
	CloseComments Action = "comments" // no more of them
	Delete        Action = "delete"   // for good, out of the bin
)

// Actions lists the actions.
var Actions = []Action{Archive, ToDraft, Bin, ToCategory, AddTag, PutNotice, CloseComments, Delete}

// TakesAway tells whether readers do not find a post in lists any more once the action is done.
func (a Action) TakesAway() bool { return a == Archive || a == ToDraft || a == Bin }

// Extras are what actions need beside the post. Each uses some of it.
type Extras struct {
	Category     int64  // of ToCategory
	CategoryName string // its name; "" where it was deleted
	Tag          string // of AddTag
	// Notice is what readers see, of PutNotice and Archive, with {date} for the date of the run and {published} for that of
	// publication; "": the usual one.
	Notice  string
	Answer  post.Answer // what readers of an archived post get
	LeadsTo int64       // with Elsewhere; 0 where the post is gone
}

// MaxNotice is the longest notice, in characters as readers count them.
const MaxNotice = 500

// UsualNotice is the notice of a post that stays out, where a rule has none of its own.
const UsualNotice = "This is from {published}. What it says may no longer hold."

// notice is what readers see of a post.
func (x Extras) notice(usual string, c deed.Case, zone civil.Zone) string {
	text := x.Notice
	if text == "" {
		text = usual
	}
	const layout = "2 January 2006"
	return strings.NewReplacer("{date}", zone.In(c.At).Format(layout), "{published}", zone.In(c.Published).Format(layout)).Replace(text)
}

// misses says why an action would do nothing to a post, or cannot be done to it; "" where it can.
func (a Action) misses(x Extras, f *condition.Facts) string {
	switch {
	case a == Delete && f.Status != "binned":
		return "it is " + f.Status + "; only posts in the bin are deleted for good"
	case a == Delete:
		return ""
	case f.Status == "linked" && a != Bin:
		return "it is a link item, which can only go to the bin"
	case a == Archive && f.Status != "published":
		return "it is " + f.Status + "; only published posts are archived"
	case a == ToDraft && f.Status == "draft", a == Bin && f.Status == "binned":
		return "it is " + f.Status + " already"
	case f.Status == "binned":
		return "it is in the bin"
	case a == ToCategory && letters.Fold(f.Category) == letters.Fold(x.CategoryName):
		return "it is in " + f.Category + " already"
	case a == AddTag && address.IsAmong(x.Tag, f.Tags):
		return "it has the tag “" + x.Tag + "” already"
	case a == PutNotice && f.Status != "published":
		return "it is " + f.Status + "; only published posts get a notice"
	case a == PutNotice && f.Notice != "":
		return "it has a notice already"
	case a == CloseComments && !f.CommentsOpen:
		return "its comments are closed already"
	}
	return ""
}

// deed is what the action does to a post.
func (a Action) deed(x Extras, b deed.Base, c deed.Case, zone civil.Zone) deed.Deed {
	switch a {
	case ToDraft:
		return deed.ToDraft{Base: b}
	case Bin:
		return deed.Bin{Base: b}
	case ToCategory:
		return deed.Refile{Base: b, Category: x.Category, Name: x.CategoryName}
	case AddTag:
		return deed.AddTag{Base: b, Tag: x.Tag}
	case PutNotice:
		return deed.PutNotice{Base: b, Notice: x.notice(UsualNotice, c, zone)}
	case CloseComments:
		return deed.CloseComments{Base: b}
	case Delete:
		return deed.Delete{Base: b}
	}
	d := deed.Archive{Base: b, Notice: x.notice(deed.Notice(c.At, zone), c, zone), Answer: x.Answer, LeadsTo: x.LeadsTo}
	if d.Answer == post.Elsewhere && (d.LeadsTo == 0 || d.LeadsTo == c.Post) {
		d.Answer, d.LeadsTo = post.Page, 0 // there is nowhere else
	}
	return d
}

// will says what the action will do, before "it".
func (a Action) will(x Extras) string {
	switch a {
	case ToDraft:
		return "takes back to draft"
	case Bin:
		return "puts into the bin"
	case ToCategory:
		return fmt.Sprintf("moves to “%s”", x.CategoryName)
	case AddTag:
		return fmt.Sprintf("adds the tag “%s” to", x.Tag)
	case PutNotice:
		return "puts a notice above"
	case CloseComments:
		return "closes the comments of"
	case Delete:
		return "deletes for good"
	}
	return "archives"
}
