package deed

import "time"

// KindAsk is the name of a rule's question.
const KindAsk Kind = "ask"

// Ask holds a rule until an editor has looked at its catch. What it changes is the rule
// (see Run.Asks), and nothing for readers.
type Ask struct{ Base }

// Describe tells what the deed is.
func (d Ask) Describe() Description { return d.describe(KindAsk, NothingOf) }

func (d Ask) apply(*World, time.Time) {}
