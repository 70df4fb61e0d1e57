package condition

// Tests that rules ask beside a condition. They are in no Form, so no editor can build them and Check refuses them.
const (
	NeverExpires  Test = "never expires"
	KeptForNow    Test = "kept for now"   // KeptUntil is still to come
	HasNotice     Test = "has a notice"   // to readers, above its text
	TakesComments Test = "takes comments" // by the blog and by itself, however old it is
	TaggedLike    Test = "tagged like"    // has a tag of the same form in addresses as the one value
)

// With is a condition that holds where this one does and all of the tests do as well. The tests are not checked.
func (c *Condition) With(tests ...Node) *Condition {
	all := &Condition{node: Node{Group: AllOf, Parts: append([]Node{c.node}, tests...)}, zone: c.zone, tests: make(map[Test]bool)}
	all.root = all.part(all.node, "")
	return all
}
