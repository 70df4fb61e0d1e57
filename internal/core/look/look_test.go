package look_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/look"
)

// The ratios are those that WCAG's own definition gives, worked out by hand.
func TestContrast(t *testing.T) {
	white, black := look.Colour{R: 255, G: 255, B: 255}, look.Colour{}
	assert.InDelta(t, 21, look.Contrast(white, black), 1e-9)
	assert.InDelta(t, 21, look.Contrast(black, white), 1e-9)
	assert.InDelta(t, 1, look.Contrast(white, white), 1e-9)
	assert.InDelta(t, 4.54, look.Contrast(look.MustColour("#767676"), white), 0.005)
	assert.InDelta(t, 4.00, look.Contrast(look.MustColour("#ff0000"), white), 0.005)
	assert.InDelta(t, 1.07, look.Contrast(look.MustColour("#ffff00"), white), 0.005)
}

func TestColoursAreRead(t *testing.T) {
	for text, want := range map[string]look.Colour{
		"#15506b": {R: 0x15, G: 0x50, B: 0x6b}, "15506B": {R: 0x15, G: 0x50, B: 0x6b}, " #0f8 ": {R: 0, G: 0xff, B: 0x88},
	} {
		got, err := look.ParseColour(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
	for _, text := range []string{"", "#", "#12345", "#1234567", "#12345g", "red", "rgb(1,2,3)", "#15506b;}", "##15506b", "#15506b80"} {
		_, err := look.ParseColour(text)
		assert.Error(t, err, text)
	}
	assert.Equal(t, look.Accents()[0].Colour, look.AccentOr(""))
	assert.Equal(t, look.Accents()[0].Colour, look.AccentOr("no colour"))
}

func TestPagesCanBeRead(t *testing.T) {
	for _, l := range look.Looks {
		require.True(t, l.Known())
		for _, page := range []look.Page{l.Day(), l.Night()} {
			assert.GreaterOrEqual(t, page.Contrast(page.Text), 7.0, l)
			assert.GreaterOrEqual(t, page.Contrast(page.Soft), look.Readable, l)
		}
		assert.Greater(t, look.Contrast(l.Day().Page, l.Night().Page), 7.0, "day and night differ")
	}
	assert.False(t, look.Look("other").Known())
}

// The offered accents are shown by day as they are.
func TestAccentsCanBeRead(t *testing.T) {
	seen := map[string]bool{}
	for _, a := range look.Accents() {
		for _, l := range look.Looks {
			assert.False(t, a.Colour.On(l.Day()).Moved, "%s on %s", a.Name, l)
		}
		assert.False(t, seen[a.Name])
		seen[a.Name] = true
	}
}

func TestAnyAccentIsShownSoThatItCanBeRead(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		accent := look.Colour{R: rapid.Byte().Draw(t, "r"), G: rapid.Byte().Draw(t, "g"), B: rapid.Byte().Draw(t, "b")}
		l := rapid.SampledFrom(look.Looks).Draw(t, "look")
		for page, least := range map[look.Page]float64{l.Day(): look.Readable, l.Night(): 7} {
			shade := accent.On(page)
			if page.Contrast(shade.Colour) < least || math.Abs(page.Contrast(shade.Colour)-shade.Contrast) > 1e-9 {
				t.Fatalf("%s is shown as %s", accent, shade.Colour)
			}
			if shade.Moved == (accent == shade.Colour) {
				t.Fatalf("%s is shown as %s, moved: %t", accent, shade.Colour, shade.Moved)
			}
		}
		style := look.Style(l, accent)
		if !strings.Contains(style, "--link:"+accent.On(l.Day()).Colour.String()) || strings.Count(style, "{") != strings.Count(style, "}") {
			t.Fatal(style)
		}
	})
}

func ExampleColour_On() {
	yellow := look.MustColour("#ffd500")
	day := yellow.On(look.Book.Day())
	fmt.Printf("%s is shown as %s by day, %.1f : 1\n", yellow, day.Colour, day.Contrast)
	fmt.Println(yellow.On(look.Book.Night()).Moved)
	// Output:
	// #ffd500 is shown as #7f6a00 by day, 4.5 : 1
	// false
}
