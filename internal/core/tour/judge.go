package tour

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"dapper.example/internal/core/message"
)

// judge scores sentences of one post.
type judge struct {
	headings [][]string
	terms    map[string]bool
}

// judgeOf is a judge for a post with these headings, its title among them.
func judgeOf(headings, tags []string) *judge {
	j := &judge{terms: make(map[string]bool)}
	for _, h := range headings {
		words := wordsOf(h)
		j.headings = append(j.headings, words)
		for _, w := range words {
			if len(w) > 3 && !common[w] {
				j.terms[w] = true
			}
		}
	}
	for _, t := range tags {
		for _, w := range wordsOf(t) {
			j.terms[w] = true
		}
	}
	return j
}

// What is won and lost; see Lines.
const (
	start         = 50
	bestLength    = 18
	goodLength    = 8
	tooShort      = -40
	tooLong       = -35
	pointsBack    = -32
	ofSeveral     = -18
	joins         = -18
	ofThePage     = -22
	noEnd         = -30
	leadsOn       = -40
	isOpen        = -20
	beginsSmall   = -15
	echo          = -45
	inList        = -6
	hasNumber     = 8
	hasName       = 8
	hasTerm       = 5
	mostTerms     = 15
	atBeginning   = 8
	opensText     = 4
	asksSomething = -6
)

// score gives a sentence its points, and says what speaks against it most.
func (j *judge) score(s *sentence, of int) {
	worst := 0
	s.Score = start
	add := func(points int, why string) {
		s.Score += points
		if points < worst {
			worst, s.Why = points, why
		}
	}
	switch n := message.Graphemes(s.Text); {
	case n < 25:
		add(tooShort, "it is very short")
	case n > 280:
		add(tooLong, "it is very long")
	case n >= 60 && n <= 160:
		add(bestLength, "")
	case n >= 40 && n <= 220:
		add(goodLength, "")
	}
	first := s.words[0]
	if len(s.words) > 1 && first == "for" && (s.words[1] == "example" || s.words[1] == "instance") {
		first = "for example"
	}
	switch {
	case pointing[first] && !isSettled(s.words):
		add(pointsBack, "it begins with “"+firstWord(s.Text)+"”, which points back")
	case first == "the" && len(s.words) > 1 && ofMany[s.words[1]]:
		add(ofSeveral, "it begins with “The "+s.words[1]+"”, which is one of several")
	case joining[first]:
		add(joins, "it begins with “"+firstWord(s.Text)+"”, which joins it to what was before")
	}
	for _, phrase := range ofPage {
		if strings.Contains(" "+strings.Join(s.words, " ")+" ", phrase) {
			add(ofThePage, "it refers to the page (“"+strings.TrimSpace(phrase)+"”)")
			break
		}
	}
	j.shape(s, add)
	if j.isEcho(s.words) {
		add(echo, "it repeats a heading")
	}
	if s.ofList {
		add(inList, "it is an item of a list")
	}
	add(j.worth(s), "")
	switch {
	case s.Place == 0:
		add(atBeginning, "")
	case s.opens || s.Place == of-1:
		add(opensText, "")
	}
}

// isSettled tells whether a sentence begins with a pronoun that points to nothing.
func isSettled(words []string) bool {
	if len(words) < 2 {
		return false
	}
	return words[0] == "it" && settled[words[1]] || words[0] == "there" && existing[words[1]]
}

// shape looks at how a sentence begins and ends.
func (j *judge) shape(s *sentence, add func(int, string)) {
	bare := strings.TrimRight(s.Text, `"”’')]»`)
	last, _ := utf8.DecodeLastRuneInString(bare)
	switch {
	case last == ':' || last == '：':
		add(leadsOn, "it leads on to something else")
	case last == '?' || last == '？':
		add(asksSomething, "it is a question")
	case !strings.ContainsRune(".!…。！", last):
		add(noEnd, "it does not end like a sentence")
	}
	for _, pair := range []string{"()", "“”", "[]", "«»"} {
		o, size := utf8.DecodeRuneInString(pair)
		c, _ := utf8.DecodeRuneInString(pair[size:])
		if strings.Count(s.Text, string(o)) != strings.Count(s.Text, string(c)) {
			add(isOpen, "a bracket or quotation in it is left open")
			break
		}
	}
	if strings.Count(s.Text, `"`)%2 != 0 {
		add(isOpen, "a bracket or quotation in it is left open")
	}
	if r, _ := utf8.DecodeRuneInString(s.Text); unicode.IsLower(r) {
		add(beginsSmall, "it begins with a small letter")
	}
}

// worth is what numbers, names and the post's terms add.
func (j *judge) worth(s *sentence) (points int) {
	if strings.ContainsFunc(s.Text, unicode.IsDigit) || slices.ContainsFunc(s.words, func(w string) bool { return numberWords[w] }) {
		points += hasNumber
	}
	fields := strings.Fields(s.Text)
	for _, w := range fields[1:] {
		if r, size := utf8.DecodeRuneInString(strings.TrimLeft(w, `"“(‘'`)); unicode.IsUpper(r) && size < len(w) && w != "I’m" && w != "I'm" {
			points += hasName
			break
		}
	}
	terms := 0
	for i, w := range s.words {
		if j.terms[w] && slices.Index(s.words, w) == i {
			terms += hasTerm
		}
	}
	return points + min(terms, mostTerms)
}

// isEcho tells whether a sentence says hardly more than a heading.
func (j *judge) isEcho(words []string) bool {
	for _, h := range j.headings {
		if len(h) < 3 {
			continue
		}
		common := 0
		for _, w := range h {
			if slices.Contains(words, w) {
				common++
			}
		}
		if common*5 >= len(h)*4 && len(words) <= len(h)+3 {
			return true
		}
	}
	return false
}

func firstWord(text string) string {
	word, _, _ := strings.Cut(text, " ")
	return strings.Trim(word, `"“”‘’'(),;:`)
}

func setOf(words string) map[string]bool {
	set := make(map[string]bool)
	for w := range strings.FieldsSeq(words) {
		set[w] = true
	}
	return set
}

var (
	// pointing are words that, at the beginning, point back to what was said before.
	pointing = setOf("it this that these those they he she them him her his its their such both neither either another others here there it's that's they're he's she's it’s that’s they’re he’s she’s")
	// settled follow "it" where that points to nothing: "It takes an hour". existing follow "there" where that does: "There is".
	settled, existing = setOf("takes rains costs"), setOf("is are was were has have will can")
	// ofMany follow "the" where one of several is meant that were named before.
	ofMany = setOf("first second third fourth fifth other others one ones same rest last middle")
	// joining are words that join a sentence to the one before.
	joining = map[string]bool{"but": true, "and": true, "so": true, "or": true, "however": true, "therefore": true, "then": true, "also": true, "besides": true,
		"because": true, "instead": true, "still": true, "yet": true, "thus": true, "moreover": true, "meanwhile": true, "otherwise": true, "for example": true,
		"nor": true, "hence": true, "consequently": true, "furthermore": true, "similarly": true, "likewise": true, "finally": true, "secondly": true,
		"firstly": true, "next": true, "again": true, "well": true, "nevertheless": true, "nonetheless": true}
	// ofPage refer to what stands elsewhere on the page.
	ofPage = []string{" above ", " below ", " the following ", " this post ", " this article ", " this page ", " as follows ", " see figure ", " in the picture ",
		" the former ", " the latter ", " as i said ", " as we said ", " mentioned "}
	numberWords = setOf("two three four five six seven eight nine ten eleven twelve twenty thirty forty fifty sixty hundred thousand million half quarter once twice")
	// common words are no terms, wherever they stand.
	common = setOf("with from that this what when where which your have will into than then they them their about after before does more most over under very just only some such like make made")
)
