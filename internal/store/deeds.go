package store

// Deeds that the logbook knows, beside the kinds of core's deeds.
const (
	DeedPublish  = "publish"
	DeedCommit   = "commit"
	DeedRetime   = "retime"
	DeedShelve   = "shelve"
	DeedClear    = "clear"
	DeedUnclear  = "unclear"
	DeedReorder  = "reorder"
	DeedRhythm   = "rhythm"
	DeedBounds   = "bounds"
	DeedSettings = "settings"
	DeedPause    = "pause"
	DeedResume   = "resume"
	DeedRelease  = "release" // a held post was let go before its time
	DeedCloseUp  = "close-up"
	DeedMove     = "move"
	DeedUndo     = "undo"
	DeedRule     = "rule"    // a rule was made, changed or deleted
	DeedArm      = "arm"     // a rule was armed, or let go on
	DeedDisarm   = "disarm"  // a rule was put out of action
	DeedExclude  = "exclude" // a post was excluded from a rule, or let in again
	DeedUpkeep   = "upkeep"  // a post's own expiry and the like
	DeedChannel  = "channel" // a channel was changed
	DeedDelivery = "delivery"
	DeedBin      = "bin"
	DeedRestore  = "restore" // out of the bin
	DeedDelete   = "delete"  // for good
	DeedHandIn   = "hand in"
	DeedGiveBack = "give back" // a draft that was handed in
	DeedEdit     = "edit"      // fields of a post were changed in a list
	DeedAddress  = "address"   // a post that is out got another address
	DeedOuting   = "outing"    // an outing was planned, changed or dropped
	DeedAnnounce = "announce"  // what is shared when posts come out, or a list of words, was changed
	DeedComments = "comments"  // readers' comments were approved, put into the bin or brought back
	DeedImport   = "import"    // posts were brought in
	DeedPrepare  = "prepare"   // a timed edit was prepared, changed or dropped by hand
	DeedText     = "text"      // a post says again what an earlier version of it said
	DeedPeople   = "people"    // somebody was invited, joined, left or got another role
)
