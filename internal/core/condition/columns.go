package condition

import (
	"cmp"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/core/civil"
)

// Columns are what conditions ask of the posts of a site, laid out fact by fact rather than post by post, so that a condition is
// judged for a million posts in a fraction of the time and of the memory that their Facts take. What they leave out is long or
// changes all the time: texts, and clicks. A Sieve asks them.
//
// Columns never change and may be shared; With returns others, which have all blocks in common that no changed post is in. The zero
// Columns hold no post.
type Columns struct {
	lists  [dictionaries]dictionary
	blocks []*block // by their posts, ascending
}

// The dictionaries: each post has one value of the first five, and any number of the others.
const (
	ofKinds = iota
	ofStatuses
	ofCategories
	ofAuthors
	ofImports
	ofTags
	ofFields
	dictionaries

	single = ofTags // how many columns of single values there are
)

// dictionary numbers the different values of a fact.
type dictionary struct {
	values []string
	codes  map[string]uint32
}

// code is the number of a value, which it gets if it has none. A dictionary that is not the asker's own is copied for that.
func (d *dictionary) code(value string, own *bool) uint32 {
	if code, known := d.codes[value]; known {
		return code
	}
	if !*own {
		if d.codes = maps.Clone(d.codes); d.codes == nil {
			d.codes = make(map[string]uint32)
		}
		d.values, *own = slices.Clip(d.values), true
	}
	value = strings.Clone(value) // not the row that it is a part of
	code := uint32(len(d.values))
	d.codes[value], d.values = code, append(d.values, value)
	return code
}

// blockPosts is how many posts a block holds at most: what fits a processor's cache, and is soon made anew where a post changes.
const blockPosts = 1024

// block is some posts, in the order of their ids; what is of a post stands at its row.
type block struct {
	posts              []int64
	published, changed []int64       // in µs since 1970; none: never
	kept               map[int]int64 // until when, of the few rows that are
	codes              [single][]uint32
	words, republished []int32
	comments, shared   []int32
	openDays           []int32
	flags              []uint8
	titles, slugs      texts
	tags               lists
	fields             lists
	values             texts // of fields
}

// none is the time of what has none.
const none = math.MinInt64

// The flags of a post.
const (
	onTop = 1 << iota
	withImage
	isEvergreen
	neverExpires
	hasNotice
	takesComments
)

// texts are many short texts in one.
type texts struct {
	all     string
	ends    []uint32
	written []byte // while texts are added
}

func (t *texts) add(text string) {
	t.written = append(t.written, text...)
	t.ends = append(t.ends, uint32(len(t.written)))
}

func (t *texts) close() {
	t.all, t.ends, t.written = string(t.written), slices.Clone(t.ends), nil
}

// at is the text with a number. It is a part of all of them: whoever keeps it keeps those.
func (t *texts) at(i int) string { return t.all[start(t.ends, i):t.ends[i]] }

// lists are many short lists of codes in one.
type lists struct {
	all  []uint32
	ends []uint32
}

// end ends the list to which codes have been added.
func (l *lists) end() { l.ends = append(l.ends, uint32(len(l.all))) }

// span is where the list with a number stands.
func (l *lists) span(i int) (from, to int) { return start(l.ends, i), int(l.ends[i]) }

func (l *lists) at(i int) []uint32 { return l.all[start(l.ends, i):l.ends[i]] }

func start(ends []uint32, i int) int {
	if i == 0 {
		return 0
	}
	return int(ends[i-1])
}

// Len is how many posts there are.
func (c *Columns) Len() int {
	n := 0
	for _, b := range c.blocks {
		n += len(b.posts)
	}
	return n
}

// Bytes is about how much memory the columns take.
func (c *Columns) Bytes() int {
	const ofRow = 3*8 + single*4 + 5*4 + 1 + 5*4 // what each post takes beside its texts and lists
	n := 0
	for _, b := range c.blocks {
		n += len(b.posts)*ofRow + len(b.titles.all) + len(b.slugs.all) + len(b.values.all) + 4*(len(b.values.ends)+len(b.tags.all)+len(b.fields.all)) + 32*len(b.kept)
	}
	const ofValue = 64 // two strings' headers, a code, and the map's
	for _, d := range c.lists {
		for _, v := range d.values {
			n += len(v) + ofValue
		}
	}
	return n
}

// WithStatus counts the posts of a status.
func (c *Columns) WithStatus(status string) int {
	n := 0
	code, known := c.lists[ofStatuses].codes[status]
	for _, b := range c.blocks {
		for _, one := range b.codes[ofStatuses] {
			if known && one == code {
				n++
			}
		}
	}
	return n
}

// With returns the columns with the facts of some posts in place of what was known of them: facts are of the posts among `changed`
// that there are, both in the order of their posts. Facts are copied, times to the microsecond.
func (c *Columns) With(changed []int64, facts []*Facts) *Columns {
	b := c.builder()
	for i, old := range c.blocks {
		until := len(changed) // those that are in this block, or before the next one
		if i+1 < len(c.blocks) {
			until, _ = slices.BinarySearch(changed, c.blocks[i+1].posts[0])
		}
		if until == 0 {
			b.share(old)
			continue
		}
		here, rest := split(facts, changed[until-1])
		b.merge(old, changed[:until], here)
		changed, facts = changed[until:], rest
	}
	for _, f := range facts {
		b.Add(f)
	}
	return b.Columns()
}

// split parts facts after those of a post.
func split(facts []*Facts, last int64) (before, after []*Facts) {
	n, found := slices.BinarySearchFunc(facts, last, func(f *Facts, post int64) int { return cmp.Compare(f.Post, post) })
	if found {
		n++
	}
	return facts[:n], facts[n:]
}

// Builder makes columns of facts that are added one by one.
type Builder struct {
	made Columns
	own  [dictionaries]bool // dictionaries that are no longer another Columns'
	open *block             // that is being filled
}

// NewBuilder begins without a post.
func NewBuilder() *Builder { return (&Columns{}).builder() }

func (c *Columns) builder() *Builder {
	return &Builder{made: Columns{lists: c.lists, blocks: make([]*block, 0, len(c.blocks)+1)}}
}

// Columns are those of all that was added.
func (b *Builder) Columns() *Columns {
	b.close()
	made := b.made
	b.own = [dictionaries]bool{}
	return &made
}

// Bytes is about how much memory what was added takes, but for the last few posts.
func (b *Builder) Bytes() int { return b.made.Bytes() }

func (b *Builder) close() {
	if b.open != nil {
		b.made.blocks = append(b.made.blocks, b.open.clipped())
		b.open = nil
	}
}

// share adds a block as it is.
func (b *Builder) share(old *block) {
	b.close()
	b.made.blocks = append(b.made.blocks, old)
}

// merge adds the rows of a block that are not among the changed posts, and facts, in the order of posts.
func (b *Builder) merge(old *block, changed []int64, facts []*Facts) {
	b.close()
	var f Facts
	for row, post := range old.posts {
		for len(facts) > 0 && facts[0].Post < post {
			b.Add(facts[0])
			facts = facts[1:]
		}
		if _, is := slices.BinarySearch(changed, post); !is {
			b.made.facts(old, row, &f)
			b.Add(&f)
		}
	}
	for _, f := range facts {
		b.Add(f)
	}
	b.close()
}

// Add adds a post, whose id is greater than those of all before it.
func (b *Builder) Add(f *Facts) {
	if b.open != nil && len(b.open.posts) == blockPosts {
		b.close()
	}
	if b.open == nil {
		b.open = &block{}
	}
	to := b.open
	if !f.KeptUntil.IsZero() {
		if to.kept == nil {
			to.kept = make(map[int]int64)
		}
		to.kept[len(to.posts)] = micros(f.KeptUntil)
	}
	to.posts = append(to.posts, f.Post)
	to.published, to.changed = append(to.published, micros(f.Published)), append(to.changed, micros(f.Changed))
	for list, value := range [single]string{f.Kind, f.Status, f.Category, f.Author, f.Import} {
		to.codes[list] = append(to.codes[list], b.code(list, value))
	}
	to.words, to.republished = append(to.words, small(f.Words)), append(to.republished, small(f.Republished))
	to.comments, to.shared = append(to.comments, small(f.Comments)), append(to.shared, small(f.Shared))
	to.openDays = append(to.openDays, small(f.CommentDays))
	to.flags = append(to.flags, flagsOf(f))
	to.titles.add(f.Title)
	to.slugs.add(f.Slug)
	for _, tag := range f.Tags {
		to.tags.all = append(to.tags.all, b.code(ofTags, tag))
	}
	to.tags.end()
	for name, value := range f.Fields {
		to.fields.all = append(to.fields.all, b.code(ofFields, name))
		to.values.add(value)
	}
	to.fields.end()
}

func (b *Builder) code(list int, value string) uint32 {
	return b.made.lists[list].code(value, &b.own[list])
}

// small is a count; what is beyond is as good as the most.
func small(n int) int32 { return int32(min(n, math.MaxInt32)) }

func micros(t time.Time) int64 {
	if t.IsZero() {
		return none
	}
	return t.UnixMicro()
}

func timeOf(micros int64) time.Time {
	if micros == none {
		return time.Time{}
	}
	return time.UnixMicro(micros).UTC()
}

func flagsOf(f *Facts) (flags uint8) {
	for i, is := range [...]bool{f.OnTop, f.FeaturedImage, f.Evergreen, f.NeverExpires, f.Notice != "", f.CommentsOpen} { // in the order of the flags
		if is {
			flags |= 1 << i
		}
	}
	return flags
}

// facts writes what is known of a row. Of a notice that is no more than that there is one.
func (c *Columns) facts(b *block, row int, f *Facts) {
	*f = Facts{Post: b.posts[row], Published: timeOf(b.published[row]), Changed: timeOf(b.changed[row]), Words: int(b.words[row]),
		Republished: int(b.republished[row]), Comments: int(b.comments[row]), Shared: int(b.shared[row]), CommentDays: int(b.openDays[row]),
		Title: b.titles.at(row), Slug: b.slugs.at(row)}
	for list, value := range [single]*string{&f.Kind, &f.Status, &f.Category, &f.Author, &f.Import} {
		*value = c.lists[list].values[b.codes[list][row]]
	}
	if until, is := b.kept[row]; is {
		f.KeptUntil = timeOf(until)
	}
	flags := b.flags[row]
	f.OnTop, f.FeaturedImage, f.Evergreen = flags&onTop != 0, flags&withImage != 0, flags&isEvergreen != 0
	f.NeverExpires, f.CommentsOpen = flags&neverExpires != 0, flags&takesComments != 0
	if flags&hasNotice != 0 {
		f.Notice = someNotice
	}
	for _, tag := range b.tags.at(row) {
		f.Tags = append(f.Tags, c.lists[ofTags].values[tag])
	}
	if from, to := b.fields.span(row); from < to {
		f.Fields = make(map[string]string, to-from)
		for i := from; i < to; i++ {
			f.Fields[c.lists[ofFields].values[b.fields.all[i]]] = b.values.at(i)
		}
	}
}

// someNotice stands for whatever a notice says.
const someNotice = "…"

// clipped is the block without room for more.
func (b *block) clipped() *block {
	for _, column := range []*[]int64{&b.posts, &b.published, &b.changed} {
		*column = slices.Clone(*column)
	}
	for i := range b.codes {
		b.codes[i] = slices.Clone(b.codes[i])
	}
	for _, column := range []*[]int32{&b.words, &b.republished, &b.comments, &b.shared, &b.openDays} {
		*column = slices.Clone(*column)
	}
	b.flags = slices.Clone(b.flags)
	for _, t := range []*texts{&b.titles, &b.slugs, &b.values} {
		t.close()
	}
	for _, l := range []*lists{&b.tags, &b.fields} {
		l.all, l.ends = slices.Clone(l.all), slices.Clone(l.ends)
	}
	return b
}

// Undated yields, in the order of their posts, the facts of those of which one of some custom fields holds what is no date.
func (c *Columns) Undated(fields []string, zone civil.Zone, yield func(*Facts) bool) {
	var codes []uint32
	for _, name := range fields {
		if code, known := c.lists[ofFields].codes[name]; known {
			codes = append(codes, code)
		}
	}
	known := make(map[string]bool)
	isBad := func(text string) bool {
		bad, is := known[text]
		if !is {
			if text = strings.TrimSpace(text); text != "" {
				_, ok := dateOf(text, zone)
				bad = !ok
			}
			if len(known) < mostKnown {
				known[text] = bad
			}
		}
		return bad
	}
	for _, b := range c.blocks {
		for row := range b.posts {
			if !slices.ContainsFunc(codes, func(code uint32) bool { value, has := b.field(row, code); return has && isBad(value) }) {
				continue
			}
			var f Facts
			if c.facts(b, row, &f); !yield(&f) {
				return
			}
		}
	}
}
