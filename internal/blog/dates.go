package blog

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-playground/locales"
	"github.com/go-playground/locales/ar"
	"github.com/go-playground/locales/bg"
	"github.com/go-playground/locales/cs"
	"github.com/go-playground/locales/da"
	"github.com/go-playground/locales/de"
	"github.com/go-playground/locales/el"
	"github.com/go-playground/locales/en_AU"
	"github.com/go-playground/locales/en_CA"
	"github.com/go-playground/locales/en_GB"
	"github.com/go-playground/locales/en_US"
	"github.com/go-playground/locales/es"
	"github.com/go-playground/locales/fi"
	"github.com/go-playground/locales/fr"
	"github.com/go-playground/locales/fr_CA"
	"github.com/go-playground/locales/ga"
	"github.com/go-playground/locales/he"
	"github.com/go-playground/locales/hi"
	"github.com/go-playground/locales/hr"
	"github.com/go-playground/locales/hu"
	"github.com/go-playground/locales/is"
	"github.com/go-playground/locales/it"
	"github.com/go-playground/locales/ja"
	"github.com/go-playground/locales/ko"
	"github.com/go-playground/locales/nb"
	"github.com/go-playground/locales/nl"
	"github.com/go-playground/locales/pl"
	"github.com/go-playground/locales/pt_BR"
	"github.com/go-playground/locales/pt_PT"
	"github.com/go-playground/locales/ro"
	"github.com/go-playground/locales/sk"
	"github.com/go-playground/locales/sl"
	"github.com/go-playground/locales/sv"
	"github.com/go-playground/locales/tr"
	"github.com/go-playground/locales/uk"
	"github.com/go-playground/locales/zh_Hans"
	"github.com/go-playground/locales/zh_Hant"
	"golang.org/x/text/language"

	"dapper.example/internal/store"
)

// tongues write dates as the readers of a language do (Unicode CLDR).
var tongues = map[string]locales.Translator{
	"en-GB":   en_GB.New(),
	"en-US":   en_US.New(),
	"en-CA":   en_CA.New(),
	"en-AU":   en_AU.New(),
	"de":      de.New(),
	"fr":      fr.New(),
	"fr-CA":   fr_CA.New(),
	"es":      es.New(),
	"pt-PT":   pt_PT.New(),
	"pt-BR":   pt_BR.New(),
	"it":      it.New(),
	"nl":      nl.New(),
	"da":      da.New(),
	"sv":      sv.New(),
	"nb":      nb.New(),
	"fi":      fi.New(),
	"is":      is.New(),
	"ga":      ga.New(),
	"pl":      pl.New(),
	"cs":      cs.New(),
	"sk":      sk.New(),
	"sl":      sl.New(),
	"hr":      hr.New(),
	"hu":      hu.New(),
	"ro":      ro.New(),
	"bg":      bg.New(),
	"el":      el.New(),
	"tr":      tr.New(),
	"uk":      uk.New(),
	"ja":      ja.New(),
	"ko":      ko.New(),
	"zh-Hans": zh_Hans.New(),
	"zh-Hant": zh_Hant.New(),
	"hi":      hi.New(),
	"ar":      ar.New(),
	"he":      he.New(),
}

// tongueOf is that of a language, else of what it belongs to, else British English.
func tongueOf(tag string) locales.Translator {
	for t := language.Make(tag); t != language.Und; t = t.Parent() {
		if tongue, known := tongues[t.String()]; known {
			return tongue
		}
	}
	return tongues["en-GB"]
}

// dateOf is a moment's date as the readers of a site see it.
func dateOf(s store.Site, at time.Time) string {
	return dateIn(s.Language, s.DateStyle, s.Zone().In(at))
}

// dateIn is the date of a moment in a language, in one of the store's date styles.
func dateIn(language, style string, at time.Time) string {
	tongue := tongueOf(language)
	switch style {
	case "full":
		return strings.Replace(tongue.FmtDateFull(at), "cccc", tongue.WeekdayWide(at.Weekday()), 1) // Finnish asks for it standing alone
	case "medium":
		return tongue.FmtDateMedium(at)
	case "numeric":
		return at.Format(time.DateOnly)
	}
	return tongue.FmtDateLong(at)
}

// declined are languages whose names of months are other ones where no day stands before them, which the formats
// do not know.
var declined = []string{"cs", "el", "fi", "hr", "pl", "sk", "uk"}

// monthOf is a month as the readers of a site see it, by its number where its name is not known.
func monthOf(s store.Site, month time.Month) string {
	if slices.Contains(declined, baseOf(s.Language)) {
		return strconv.Itoa(int(month))
	}
	return tongueOf(s.Language).MonthWide(month)
}

// monthIn is a month with its year as the readers of a site see it.
func monthIn(s store.Site, year int, month time.Month) string {
	name := monthOf(s, month)
	switch base := baseOf(s.Language); {
	case base == "ja" || base == "zh":
		return fmt.Sprintf("%d年%s", year, name)
	case base == "ko":
		return fmt.Sprintf("%d년 %s", year, name)
	case base == "hu":
		return fmt.Sprintf("%d. %s", year, name)
	case slices.Contains(declined, base):
		return fmt.Sprintf("%s/%d", name, year)
	}
	return fmt.Sprintf("%s %d", name, year)
}

func baseOf(tag string) string {
	base, _ := language.Make(tag).Base()
	return base.String()
}

// DateExamples are how a date looks in each of the store's date styles, in their order.
func DateExamples(language string, at time.Time) (examples []string) {
	for _, style := range store.DateStyles {
		examples = append(examples, dateIn(language, style, at))
	}
	return examples
}
