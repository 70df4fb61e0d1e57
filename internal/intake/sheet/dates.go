package sheet

import (
	"regexp"
	"strings"

	"github.com/xuri/excelize/v2"
)

// How dates are read from a book, whatever they look like in it: “4/12/26” is a day in April to some and in December to others.
const (
	day    = "yyyy-mm-dd"
	moment = "yyyy-mm-dd hh:mm"
)

// The built-in formats of numbers that show dates (ECMA-376, part 1, 18.8.30), and whether they show times, too.
var builtIn = map[int]string{14: day, 15: day, 16: day, 17: day, 22: moment, 27: day, 28: day, 29: day, 30: day, 31: day, 34: day, 35: day, 36: day,
	50: day, 51: day, 52: day, 53: day, 54: day, 57: day, 58: day}

// literal is what of a format is no code: text in quotes, a sign after a backslash, an underscore or a star, colours and conditions.
var literal = regexp.MustCompile(`"[^"]*"|\\.|_.|\*.|\[[^\]]*\]`)

// plainly is how the dates are written that a format shows; "" for a format of anything else.
func plainly(format string) string {
	first, _, _ := strings.Cut(format, ";") // of what is above zero, as dates are
	code := strings.ToLower(literal.ReplaceAllString(first, ""))
	switch {
	case !strings.ContainsAny(code, "yd"), strings.Contains(code, "general"):
		return ""
	case strings.ContainsAny(code, "hs"):
		return moment
	}
	return day
}

// writeDatesPlainly gives the cells of a book that show dates formats in which those can be read in one way only.
func writeDatesPlainly(book *excelize.File) error {
	formats := make(map[string]int, 2)
	for _, code := range []string{day, moment} {
		style, err := book.NewStyle(&excelize.Style{CustomNumFmt: &code})
		if err != nil {
			return err
		}
		formats[code] = *book.Styles.CellXfs.Xf[style].NumFmtID
	}
	custom := make(map[int]string)
	if book.Styles.NumFmts != nil {
		for _, f := range book.Styles.NumFmts.NumFmt {
			custom[f.NumFmtID] = plainly(f.FormatCode)
		}
	}
	for i, style := range book.Styles.CellXfs.Xf {
		if style.NumFmtID == nil {
			continue
		}
		code, own := custom[*style.NumFmtID]
		if !own {
			code = builtIn[*style.NumFmtID]
		}
		if code != "" {
			id := formats[code]
			book.Styles.CellXfs.Xf[i].NumFmtID = &id
		}
	}
	return nil
}
