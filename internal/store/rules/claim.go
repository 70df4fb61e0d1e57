package rules

import (
	"context"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/store/sharing"
)

// claim is what PostgreSQL can say of a test of a condition: where `sure` is true the test holds, and where it holds `maybe` is true. Both are
// expressions that are never null. What lies between is for core to decide.
type claim struct {
	sure, maybe string
	cost        int     // about how long it takes, in comparisons of numbers
	parts       []claim // all of which must hold, where it is made of such
}

// About what tests cost.
const (
	cheap   = 1
	ofJoin  = 2 // with what is joined to posts
	ofText  = 10
	ofField = 40
)

func exactly(sql string) claim { return claim{sure: sql, maybe: sql, cost: cheap} }

// unsure is a test that only core can decide, where it may hold at all.
func unsure(maybe string) claim { return between("false", maybe, cheap) }

// between is a test that PostgreSQL decides for most posts.
func between(sure, maybe string, cost int) claim { return claim{sure: sure, maybe: maybe, cost: cost} }

// costing is the claim with what it costs.
func (c claim) costing(cost int) claim {
	c.cost = cost
	return c
}

func (c claim) not() claim {
	return between(negated(c.maybe), negated(c.sure), c.cost)
}

func negated(sql string) string {
	switch sql {
	case "true":
		return "false"
	case "false":
		return "true"
	}
	return "not (" + sql + ")"
}

// when is the claim or what it denies.
func (c claim) when(is bool) claim {
	if is {
		return c
	}
	return c.not()
}

// isExact tells whether nothing is left for core.
func (c claim) isExact() bool { return c.sure == c.maybe }

// split parts a claim in two, which together are the claim: what leaves out posts at no cost, for PostgreSQL to find posts by, and
// what is asked of the others.
func (c claim) split() (gate string, rest claim) {
	parts := c.parts
	if parts == nil {
		parts = []claim{c}
	}
	var gates []string
	var others []claim
	for _, p := range slices.SortedStableFunc(slices.Values(parts), func(a, b claim) int { return a.cost - b.cost }) {
		if p.maybe != "true" && p.cost == cheap {
			gates = append(gates, " and "+bare(p.maybe))
		}
		if !p.isExact() || p.cost > cheap {
			others = append(others, p)
		}
	}
	return strings.Join(gates, ""), allOf(others)
}

// bare is an expression that leaves out a post where it is null, too.
func bare(sql string) string {
	if inner, is := strings.CutPrefix(sql, "coalesce("); is && strings.Count(sql, "coalesce(") == 1 {
		if inner, is = strings.CutSuffix(inner, ", false)"); is {
			return inner
		}
	}
	return sql
}

func allOf(claims []claim) claim {
	all := between(joined(claims, claim.surely, " and ", "true"), joined(claims, claim.perhaps, " and ", "true"), costOf(claims))
	for _, c := range claims {
		if c.parts == nil {
			c.parts = []claim{c}
		}
		all.parts = append(all.parts, c.parts...)
	}
	return all
}

func anyOf(claims []claim) claim {
	if len(claims) == 1 {
		return claims[0]
	}
	return between(joined(claims, claim.surely, " or ", "false"), joined(claims, claim.perhaps, " or ", "false"), costOf(claims))
}

func costOf(claims []claim) (all int) {
	for _, c := range claims {
		all += c.cost
	}
	return all
}

func (c claim) surely() string  { return c.sure }
func (c claim) perhaps() string { return c.maybe }

// joined leaves out parts that are the joint's neutral value. What costs least is asked first.
func joined(claims []claim, side func(claim) string, joint, neutral string) string {
	var parts []string
	for _, c := range slices.SortedStableFunc(slices.Values(claims), func(a, b claim) int { return a.cost - b.cost }) {
		if part := side(c); part != neutral {
			parts = append(parts, part)
		}
	}
	switch len(parts) {
	case 0:
		return neutral
	case 1:
		return parts[0]
	}
	return "(" + strings.Join(parts, joint) + ")"
}

// claims makes the claims of a condition's tests: with the arguments of the statement and the tables that they join to posts.
type claims struct {
	q     Queries
	site  int64
	takes bool // the blog takes comments
	days  int  // for how many days; 0 for ever
	args  []any
	joins []string
}

// arg is the place of an argument.
func (b *claims) arg(v any) string {
	b.args = append(b.args, v)
	return "$" + strconv.Itoa(len(b.args))
}

// inPlaces are the places of arguments in a statement.
var inPlaces = regexp.MustCompile(`\$[0-9]+`)

// statement is a statement with those of the arguments that it uses.
func (b *claims) statement(sql string) (string, []any) {
	var used []any
	places := make(map[string]string)
	sql = inPlaces.ReplaceAllStringFunc(sql, func(place string) string {
		if places[place] == "" {
			n, _ := strconv.Atoi(place[1:]) // it is one of b.arg's
			used = append(used, b.args[n-1])
			places[place] = "$" + strconv.Itoa(len(used))
		}
		return places[place]
	})
	return sql, used
}

// join joins a reading that has at most one row a post, and returns its name.
func (b *claims) join(reading string) string {
	name := "j" + strconv.Itoa(len(b.joins)+1)
	b.joins = append(b.joins, fmt.Sprintf(" left join (%s) %s on %s.post_id = posts.id", reading, name, name))
	return name
}

// of is the claim of a condition at a moment.
func (b *claims) of(ctx context.Context, k condition.Moment) (claim, error) {
	return b.node(ctx, k.Node(), k)
}

func (b *claims) node(ctx context.Context, n condition.Node, k condition.Moment) (claim, error) {
	if !n.IsGroup() {
		return b.test(ctx, n, k)
	}
	parts := make([]claim, len(n.Parts))
	for i, p := range n.Parts {
		var err error
		if parts[i], err = b.node(ctx, p, k); err != nil {
			return claim{}, err
		}
	}
	switch n.Group {
	case condition.AllOf:
		return allOf(parts), nil
	case condition.AnyOf:
		return anyOf(parts), nil
	}
	return anyOf(parts).not(), nil
}

func (b *claims) test(ctx context.Context, n condition.Node, k condition.Moment) (claim, error) {
	is := n.Match == condition.MatchYes
	switch n.Test {
	case condition.Kind:
		return b.among("kind", n), nil
	case condition.Status:
		return b.among("status", n), nil
	case condition.Category:
		return b.named(ctx, "category_id", `select id, name from categories where site_id = $1 and %s`, n, b.site)
	case condition.Author:
		return b.named(ctx, "author_id", `select id, name from users where $1::bigint > 0 and %s`, n, b.site)
	case condition.Import:
		return b.several(n, func(v string) claim { return b.equals("import", v) }), nil
	case condition.Tags:
		return b.tags(ctx, n)
	case condition.TaggedLike:
		return b.taggedLike(ctx, n)
	case condition.Title:
		return b.contains("title", n.Values[0]), nil
	case condition.Slug:
		return b.slug(n), nil
	case condition.Age:
		return b.age("published_at", n, k), nil
	case condition.SinceChange:
		return b.age("coalesce(changed_at, posts.created_at)", n, k), nil
	case condition.Field:
		return b.field(n, k), nil
	case condition.OnTop:
		return exactly("on_top").when(is), nil
	case condition.TakesComments:
		return exactly(b.open()).when(is), nil
	case condition.CommentsOpen:
		return b.stillOpen(k).when(is), nil
	case condition.Comments:
		return exactly(count(b.join(`select post_id, n from comment_counts`)+".n", n)).costing(ofJoin), nil
	case condition.Image:
		return exactly("featured_image <> ''").when(is), nil
	case condition.Evergreen:
		return exactly("evergreen").when(is), nil
	case condition.WordCount:
		return exactly(count("words", n)), nil
	case condition.Clicks:
		return b.clicks(n, k), nil
	case condition.Shared:
		return exactly(count(b.join(`select post_id, count(*) as n from outings where site_id = `+b.arg(b.site)+` and post_id is not null and `+
			sharing.WentOut+` group by post_id`)+".n", n)).costing(ofJoin), nil
	case condition.Republished:
		return exactly(count("times_republished", n)), nil
	case condition.NeverExpires:
		return exactly("never_expires").when(is), nil
	case condition.KeptForNow:
		return exactly("coalesce(kept_until > " + b.arg(k.Now()) + ", false)").when(is), nil
	case condition.HasNotice:
		return exactly("notice <> ''").when(is), nil
	}
	return unsure("true"), nil // a text is for core to read
}

func count(column string, n condition.Node) string {
	sign := "<"
	if n.Match == condition.MatchOver {
		sign = ">"
	}
	return fmt.Sprintf("coalesce(%s, 0) %s %d", column, sign, n.N)
}

func (b *claims) clicks(n condition.Node, k condition.Moment) claim {
	after := k.Zone().DateOf(k.Now()).Add(-n.Days)
	return exactly(count(b.join(`select post_id, sum(n) as n from clicks where site_id = `+b.arg(b.site)+` and date > `+b.arg(after)+
		` group by post_id`)+".n", n)).costing(ofJoin)
}

// among asks for one of a few words of the schema's.
func (b *claims) among(column string, n condition.Node) claim {
	among := column + " = any(" + b.arg(folded(n.Values)) + ")"
	if n.Test == condition.Status && len(n.Values) == 1 && n.Values[0] == "published" {
		among = onlyOut
	}
	return exactly(among).when(n.Match == condition.MatchAny)
}

// several joins what is asked of each value as the match says.
func (b *claims) several(n condition.Node, has func(value string) claim) claim {
	each := make([]claim, len(n.Values))
	for i, v := range n.Values {
		each[i] = has(v)
	}
	switch n.Match {
	case condition.MatchAll:
		return allOf(each)
	case condition.MatchAny:
		return anyOf(each)
	}
	return anyOf(each).not()
}

// ids are those rows of names that core holds to be one of the values.
func (b *claims) ids(ctx context.Context, query string, values []string, site int64) ([]int64, error) {
	var rows []struct {
		ID   int64
		Name string
	}
	query = fmt.Sprintf(query, `(lower(name) = any($2) or octet_length(name) <> length(name))`)
	if err := b.q.run.All(ctx, &rows, query, site, folded(values)); err != nil {
		return nil, fmt.Errorf("looking for names: %w", err)
	}
	ids := []int64{}
	for _, r := range rows {
		for _, v := range values {
			if letters.Equal(v, r.Name) {
				ids = append(ids, r.ID)
				break
			}
		}
	}
	return ids, nil
}

// named asks for rows by their names; the empty name is that of none.
func (b *claims) named(ctx context.Context, column, query string, n condition.Node, site int64) (claim, error) {
	ids, err := b.ids(ctx, query, n.Values, site)
	if err != nil {
		return claim{}, err
	}
	found := fmt.Sprintf("coalesce(%s = any(%s), false)", column, b.arg(ids))
	for _, v := range n.Values {
		if v == "" {
			found = fmt.Sprintf("(%s or %s is null)", found, column)
		}
	}
	return exactly(found).when(n.Match == condition.MatchAny), nil
}

// tagged asks for any of some tags.
func (b *claims) tagged(ids []int64) claim {
	if len(ids) == 1 { // each post has it but once
		return exactly(b.join(`select post_id from post_tags where tag_id = `+b.arg(ids[0])) + ".post_id is not null").costing(ofJoin)
	}
	return exactly(b.join(`select distinct post_id from post_tags where tag_id = any(`+b.arg(ids)+`)`) + ".post_id is not null").costing(ofJoin)
}

// taggedLike asks for tags by their form in addresses, which core makes of their names.
func (b *claims) taggedLike(ctx context.Context, n condition.Node) (claim, error) {
	var ids []int64
	slug := address.Slug(n.Values[0])
	err := b.q.run.Each(ctx, func(rows *sqlx.Rows) error {
		var id int64
		var name string
		if err := rows.Scan(&id, &name); err != nil {
			return err
		}
		if address.Slug(name) == slug {
			ids = append(ids, id)
		}
		return nil
	}, `select id, name from tags where site_id = $1`, b.site)
	return b.tagged(ids).when(n.Match == condition.MatchAny), err
}

func (b *claims) tags(ctx context.Context, n condition.Node) (claim, error) {
	const query = `select id, name from tags where site_id = $1 and %s`
	tagged := func(values []string) (claim, error) {
		ids, err := b.ids(ctx, query, values, b.site)
		if err != nil {
			return claim{}, err
		}
		return b.tagged(ids), nil
	}
	if n.Match != condition.MatchAll {
		c, err := tagged(n.Values)
		return c.when(n.Match == condition.MatchAny), err
	}
	var each []claim
	for _, v := range n.Values {
		c, err := tagged([]string{v})
		if err != nil {
			return c, err
		}
		each = append(each, c)
	}
	return allOf(each), nil
}

// becomesASCII has the letters beyond ASCII that become ASCII, or begin or end so, where case and composition are set aside
// (see letters.Fold): of a text without them what is ASCII stays so, and nothing else becomes it.
const becomesASCII = `[` + "\u00df\u0130\u0149\u017f\u01f0\u0307\u037e\u1e96-\u1e9b\u1e9e\u1fef\u212a\ufb00-\ufb06" + `]`

// isASCII asks whether a text is plain ASCII, whose case PostgreSQL folds as core does.
func isASCII(column string) string { return "octet_length(" + column + ") = length(" + column + ")" }

// isPlain tells whether a folded value is ASCII.
func isPlain(folded string) bool {
	for i := range len(folded) {
		if folded[i] >= 0x80 {
			return false
		}
	}
	return true
}

// compared asks something of a text with a value, both in lower case. Of texts beyond ASCII core decides.
func (b *claims) compared(column, value string, ask func(lower, value string) string) claim {
	value = letters.Fold(value)
	if !isPlain(value) { // a text of ASCII has nothing of the kind
		return unsure("not (" + isASCII(column) + ")")
	}
	asked := ask("lower("+column+` collate "C")`, b.arg(value))
	return between(fmt.Sprintf("(%s and %s)", asked, isASCII(column)),
		fmt.Sprintf("(%s or octet_length(%s) <> length(%s) and %s ~ '%s')", asked, column, column, column, becomesASCII), ofText)
}

func (b *claims) equals(column, value string) claim {
	return b.compared(column, value, func(lower, value string) string { return lower + " = " + value })
}

func (b *claims) contains(column, value string) claim {
	return b.compared(column, value, func(lower, value string) string { return "strpos(" + lower + ", " + value + ") > 0" })
}

func (b *claims) slug(n condition.Node) claim {
	switch v := n.Values[0]; n.Match {
	case condition.MatchEquals:
		return b.equals("posts.slug", v)
	case condition.MatchBegins:
		return b.compared("posts.slug", v, func(lower, value string) string { return "starts_with(" + lower + ", " + value + ")" })
	default:
		return b.contains("posts.slug", v)
	}
}

// age asks how long ago a moment was. What has none is neither old nor young.
func (b *claims) age(column string, n condition.Node, k condition.Moment) claim {
	is := func(sign string, t time.Time) string {
		return fmt.Sprintf("coalesce(%s %s %s, false)", column, sign, b.arg(t))
	}
	switch n.Match {
	case condition.MatchBefore, condition.MatchAfter:
		date, err := civil.ParseDate(n.Date)
		switch {
		case err != nil:
			return unsure("true")
		case n.Match == condition.MatchBefore:
			return exactly(is("<", k.Zone().At(date, 0)))
		}
		return exactly(is(">=", k.Zone().At(date.Add(1), 0)))
	}
	sure, maybe := condition.Span{N: n.N, Unit: n.Unit}.Since(k.Now(), k.Zone())
	if !isKept(sure) || !isKept(maybe) {
		return unsure(column + " is not null")
	}
	sign := ">"
	if n.Match == condition.MatchOver {
		sign = "<="
	}
	switch {
	case sure.Equal(maybe):
		return exactly(is(sign, sure))
	case n.Match == condition.MatchOver:
		return between(is(sign, sure), is(sign, maybe), cheap)
	}
	return between(is(sign, maybe), is(sign, sure), cheap)
}

// isKept tells whether the database keeps such a moment.
func isKept(t time.Time) bool { return t.Year() > 0 && t.Year() < 10_000 }

// open asks whether the blog and the post take comments.
func (b *claims) open() string {
	if !b.takes {
		return "false"
	}
	return "(comments_open and kind = 'post')"
}

func (b *claims) stillOpen(k condition.Moment) claim {
	if b.days == 0 || !b.takes {
		return exactly(b.open())
	}
	sure, maybe := condition.Span{N: b.days, Unit: condition.Days}.Since(k.Now(), k.Zone())
	within := func(t time.Time) string {
		return fmt.Sprintf("(%s and (published_at is null or published_at > %s))", b.open(), b.arg(t))
	}
	return between(within(maybe), within(sure), cheap)
}

const (
	// aDate is a date that is on every calendar; 29 February, which is not, is for core.
	aDate = `^` + onCalendar + `$`
	// onCalendar is its year, month and day.
	onCalendar = `[12][0-9]{3}-((0[1-9]|1[0-2])-(0[1-9]|1[0-9]|2[0-8])|(0[13-9]|1[0-2])-(29|30)|(0[13578]|1[02])-31)`
	// aNumber is one that everybody reads alike.
	aNumber = `^[+-]?[0-9]{1,15}([.][0-9]{1,15})?$`
)

// blankAtAnEnd is a blank beyond ASCII at an end of a text, which core trims (see strings.TrimSpace) and PostgreSQL does not.
const blankAtAnEnd = "^" + blanks + "|" + blanks + "$"

const blanks = "[\u0085\u00a0\u1680\u2000-\u200a\u2028\u2029\u202f\u205f\u3000]"

func (b *claims) field(n condition.Node, k condition.Moment) claim {
	raw := `(fields->>` + b.arg(n.Field) + `) collate "C"`
	value := `btrim(coalesce(` + raw + `, ''), E' \t\n\v\f\r')`
	there := between(value+` ~ '[[:alnum:]]'`, value+` <> ''`, ofField)
	switch n.Match {
	case condition.MatchPresent:
		return there
	case condition.MatchMissing:
		return there.not()
	case condition.MatchEquals, condition.MatchDiffers:
		same := unsure(there.maybe)
		if wanted := strings.TrimSpace(n.Values[0]); wanted != "" {
			same = b.equals(value, wanted)
			same.maybe = fmt.Sprintf("(%s or octet_length(%s) <> length(%s) and %s ~ '%s')", same.maybe, value, value, value, blankAtAnEnd)
		}
		return same.when(n.Match == condition.MatchEquals).costing(ofField)
	case condition.MatchPassed:
		return b.passed(raw, n, k)
	case condition.MatchOver, condition.MatchUnder:
		return b.numbers(value, n)
	}
	return unsure(there.maybe).costing(ofField)
}

// passed asks whether a date is over by a span. What is not a plain date, such as a text with a time of day, is for core.
func (b *claims) passed(raw string, n condition.Node, k condition.Moment) claim {
	there := fmt.Sprintf("coalesce(%s > '', false)", raw)
	sure, maybe := condition.Span{N: n.N, Unit: n.Unit}.Since(k.Now(), k.Zone())
	if !isKept(sure) || !isKept(maybe) {
		return unsure(there).costing(ofField)
	}
	const apart = 2 // days that a moment's date may differ from that of another zone, and one that the date itself lasts
	last, latest := k.Zone().DateOf(sure).Add(-apart).String(), k.Zone().DateOf(maybe).Add(apart).String()
	// A text that begins with a blank, or is later, begins before '0' or after the latest date.
	return between(fmt.Sprintf("coalesce(%s between '1' and %s and %s ~ '%s', false)", raw, b.arg(last), raw, aDate),
		fmt.Sprintf("coalesce(left(%s, 10) between '0' and %s or %s > '' and (%s < '0' or %s > '~'), false)", raw, b.arg(latest), raw, raw, raw), ofField)
}

// numbers compares a field as a number, where it and what it is compared with are.
func (b *claims) numbers(value string, n condition.Node) claim {
	than, err := strconv.ParseFloat(strings.TrimSpace(n.Values[0]), 64)
	if err != nil || math.IsNaN(than) || math.IsInf(than, 0) {
		return unsure(value + " <> ''")
	}
	sign := "<"
	if n.Match == condition.MatchOver {
		sign = ">"
	}
	compared := func(otherwise string) string {
		return fmt.Sprintf("(case when %s ~ '%s' then (%s)::float8 %s %s::float8 else %s end)", value, aNumber, value, sign, b.arg(than), otherwise)
	}
	return between(compared("false"), compared(value+" <> ''"), ofField)
}
