// Package look says how a blog looks to its readers: three typographic looks, each with its pages'
// colours by day and by night, and an accent colour that can be read on them. The package is pure.
package look

import (
	"cmp"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// Look is one of the typographic looks.
type Look string

// The looks.
const (
	Book      Look = "book"      // a book page: serifs, a centred title, dates in the margin
	Plain     Look = "plain"     // without serifs, everything from the left edge
	Broadside Look = "broadside" // large headlines of high contrast, short columns
)

// Looks are all looks, the first for blogs that have chosen none.
var Looks = []Look{Book, Plain, Broadside}

// Colour is one of sRGB, without transparency.
type Colour struct{ R, G, B uint8 }

var hex = regexp.MustCompile(`^#?([0-9a-fA-F]{3}|[0-9a-fA-F]{6})$`)

// ParseColour reads a colour as #rrggbb or #rgb, with or without its sign (CSS Color 4, section 5.2).
func ParseColour(text string) (Colour, error) {
	found := hex.FindStringSubmatch(strings.TrimSpace(text))
	if found == nil {
		return Colour{}, fmt.Errorf("%q is no colour; write it as #15506b", text)
	}
	digits := found[1]
	if len(digits) == 3 {
		digits = string([]byte{digits[0], digits[0], digits[1], digits[1], digits[2], digits[2]})
	}
	n, err := strconv.ParseUint(digits, 16, 32)
	return Colour{uint8(n >> 16), uint8(n >> 8), uint8(n)}, err
}

// MustColour is ParseColour for constants; it panics.
func MustColour(text string) Colour {
	c, err := ParseColour(text)
	if err != nil {
		panic(err)
	}
	return c
}

// String is the colour as #rrggbb.
func (c Colour) String() string { return fmt.Sprintf("#%02x%02x%02x", c.R, c.G, c.B) }

// luminance is the relative luminance, 0 to 1 (WCAG 2.2).
func (c Colour) luminance() float64 {
	part := func(v uint8) float64 {
		s := float64(v) / 255
		if s <= 0.04045 {
			return s / 12.92
		}
		return math.Pow((s+0.055)/1.055, 2.4)
	}
	return 0.2126*part(c.R) + 0.7152*part(c.G) + 0.0722*part(c.B)
}

// Contrast is the contrast ratio of two colours, 1 to 21 (WCAG 2.2).
func Contrast(a, b Colour) float64 {
	la, lb := a.luminance(), b.luminance()
	return (max(la, lb) + 0.05) / (min(la, lb) + 0.05)
}

// Readable is the least contrast of text with what it stands on (WCAG 2.2, 1.4.3).
const Readable = 4.5

// atNight is the least contrast of an accent on a dark page, where what is only just readable looks dull (WCAG 2.2, 1.4.6).
const atNight = 7

// Page is what a look's pages are coloured with, by day or by night.
type Page struct {
	Page, Text, Soft, Line, Raised Colour
}

// Contrast is that of a colour of text with whichever of the page's grounds is nearer to it.
func (p Page) Contrast(c Colour) float64 { return min(Contrast(c, p.Page), Contrast(c, p.Raised)) }

var pages = map[Look][2]Page{
	Book: {
		{MustColour("#fbf9f3"), MustColour("#24222a"), MustColour("#625c66"), MustColour("#d8d2c4"), MustColour("#f1ede2")},
		{MustColour("#15151b"), MustColour("#e6e1d6"), MustColour("#a9a3a4"), MustColour("#38353d"), MustColour("#201f27")},
	},
	Plain: {
		{MustColour("#fdfdfc"), MustColour("#1d2322"), MustColour("#59625f"), MustColour("#d9dedb"), MustColour("#f0f3f1")},
		{MustColour("#131716"), MustColour("#e2e7e4"), MustColour("#9faaa6"), MustColour("#323a37"), MustColour("#1d2321")},
	},
	Broadside: {
		{MustColour("#f6f5f0"), MustColour("#191817"), MustColour("#5b5751"), MustColour("#bdb8ab"), MustColour("#ebe8de")},
		{MustColour("#171614"), MustColour("#ece7db"), MustColour("#aaa397"), MustColour("#45413a"), MustColour("#23211d")},
	},
}

// Day and Night are the colours of a look's pages for readers who have set their devices to
// light and to dark.
func (l Look) Day() Page { return pages[l][0] }

// Night is described at Day.
func (l Look) Night() Page { return pages[l][1] }

// Known tells whether there is such a look.
func (l Look) Known() bool { _, known := pages[l]; return known }

// Shade is how an accent is shown on a page.
type Shade struct {
	Colour   Colour
	Contrast float64 // with the page
	Moved    bool    // the accent itself would be too hard to read there
}

// On is an accent as it is shown on a page: itself where it can be read there, else the nearest
// mixture with black or white that can.
func (c Colour) On(p Page) Shade {
	to, least := Colour{}, Readable
	if p.Page.luminance() < p.Text.luminance() {
		to, least = Colour{255, 255, 255}, atNight
	}
	if contrast := p.Contrast(c); contrast >= least {
		return Shade{c, contrast, false}
	}
	const steps = 256
	for step := 1; step < steps; step++ {
		if mixed := c.mix(to, float64(step)/steps); p.Contrast(mixed) >= least {
			return Shade{mixed, p.Contrast(mixed), true}
		}
	}
	return Shade{to, p.Contrast(to), true}
}

func (c Colour) mix(to Colour, share float64) Colour {
	part := func(a, b uint8) uint8 { return uint8(math.Round(float64(a) + share*(float64(b)-float64(a)))) }
	return Colour{part(c.R, to.R), part(c.G, to.G), part(c.B, to.B)}
}

// Accent is a colour to choose.
type Accent struct {
	Name   string
	Colour Colour
}

// Accents are colours to choose from; the first is that of blogs that have chosen none.
func Accents() []Accent {
	return []Accent{
		{"Harbour", MustColour("#15506b")}, {"Moss", MustColour("#3f6212")}, {"Pine", MustColour("#0f5c4a")}, {"Plum", MustColour("#7a2a5e")},
		{"Brick", MustColour("#9a3416")}, {"Bronze", MustColour("#80560c")}, {"Dusk", MustColour("#4b4a9c")}, {"Graphite", MustColour("#44484b")},
	}
}

// Style is the style sheet that colours the pages of a look with an accent. A look that there
// is none of is the first.
func Style(l Look, accent Colour) string {
	if !l.Known() {
		l = Looks[0]
	}
	return ":root{" + l.Day().style(accent) + "}\n@media (prefers-color-scheme: dark){:root{" + l.Night().style(accent) + "}}\n"
}

func (p Page) style(accent Colour) string {
	return fmt.Sprintf("--page:%s;--text:%s;--soft:%s;--line:%s;--raised:%s;--link:%s", p.Page, p.Text, p.Soft, p.Line, p.Raised,
		accent.On(p).Colour)
}

// AccentOr is the colour that is written, or the first of the accents where none is.
func AccentOr(text string) Colour {
	c, err := ParseColour(cmp.Or(text, Accents()[0].Colour.String()))
	if err != nil {
		return Accents()[0].Colour
	}
	return c
}
