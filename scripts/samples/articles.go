package main

import (
	"archive/zip"
	"bytes"
	"fmt"

	"golang.org/x/text/encoding/charmap"

	"dapper.example/internal/intake/sheet"
)

// articles are in the forms in which they come: Markdown with YAML or TOML before it, plain text, HTML, .docx, another encoding.
var articles = []struct{ path, text string }{
	{"sky/long-nights.md", `---
title: The longest nights of the year
category: Sky Guide
tags: [winter, solstice]
author: Ines Abara
excerpt: Five weeks in which the dome hardly closes.
picture: ../pictures/winter-chart.jpg
picture_description: A chart of the winter sky
---

From the end of November to the first days of January it is dark when the kettle boils for tea and dark when it boils for breakfast.

## What to look at first

Begin with the Pleiades, high in the south by nine. Then let the eye fall along the line to Aldebaran and on to Orion.

![The winter sky at nine](../pictures/winter-chart.jpg)

Bring a second pair of socks. The moon is out of the way until the sixth.
`},
	{"sky/moon-over-the-ridge.md", `+++
title = "The Moon over the ridge"
category = "Sky Guide"
tags = ["moon", "winter"]
picture = "../pictures/moon-over-the-ridge.jpg"
+++

On four evenings a year the full moon rises in the notch of the ridge, and the whole valley sees it at once.

Stand by the gate, not by the dome: the roof is in the way. It takes three minutes from the first gleam to the whole disc.
`},
	{"sky/2026-02-08-venus-before-breakfast.md", `# Venus before breakfast

She stands in the south-east an hour before the sun, bright enough to throw a shadow on snow. Try it: hold a glove over a clean drift and look for the edge.

The telescope shows a half disc. Binoculars, rested on the rail, show that it is not round.
`},
	{"sky/counting-the-geminids.md", `---
categories: [Meteor Diary]
keywords: geminids; meteors
---

# Counting the Geminids

You need a deckchair, a blanket, a pencil on a string and no telescope at all.

1. Face north-east and look halfway up.
2. Make a stroke for every meteor, and a dot when your mind wandered.
3. Stop every hour and walk round the dome.

Last year Tobias counted 84 between ten and two, and says that he saw 83.
`},
	{"workbench/eyepieces.html", `<!doctype html>
<html><head><title>Cleaning an eyepiece without harm</title>
<meta name="description" content="Air first, water last, and never a sleeve.">
<meta name="author" content="Tobias Wren"><meta name="keywords" content="optics, cleaning"></head>
<body><nav><a href="/">Home</a></nav>
<article><h1>Cleaning an eyepiece without harm</h1>
<p>Nine times in ten an eyepiece is not dirty but <em>dewed</em>. Warm it in a pocket and look again.</p>
<img src="pictures/eyepieces.jpg" alt="How light goes through an eyepiece">
<h2>If it is dirty</h2>
<ul><li>Blow, with a bulb, not with your breath.</li><li>Brush, once, outwards.</li><li>One drop of distilled water on a cotton bud, and roll it.</li></ul>
<p>Never <strong>ever</strong> a sleeve.</p></article>
<footer>Printed on recycled paper.</footer></body></html>
`},
	{"workbench/red-torch.txt", `A red torch for nothing

Take the wrapper of a caramel, the red one, and a rubber band.

Fold the wrapper twice and put it over the glass of any torch. It is dim enough when you can read the chart and no more.

* Batteries last three times as long.
* Nobody borrows it.
`},
	{"workbench/frost-on-the-corrector.md", string(must(charmap.Windows1252.NewEncoder().String(`---
title: Frost on the corrector – and what it isn’t
category: Workbench
---

It looks like frost; at –4° it is usually dew that has thought better of it. A hair dryer on its lowest setting, held at arm’s length, takes a minute.

Then ask why: the dew shield was left in the cupboard again.
`)))},
	{"workbench/ladder-check.docx", docx("The yearly look at the ladder", "Once a year, before the nights get long, somebody who is not the person who climbs it looks at the ladder.",
		"Feet: are all four there?", "Rungs: does any of them turn?", "The hook at the top: does it still know its wall?")},
	{"members/a-letter-about-the-gate.md", `---
title: A letter about the gate
category: Members Write
author: Marguerite Oyelaran
---

Dear Dome, the gate has squeaked since the clocks went back. I do not mind it. It tells me that somebody is on the hill.

Yours in the dark, a neighbour.
`},
	{"members/thank-you-for-the-soup.md", `# Thank you for the soup

Whoever left the pot of soup by the stove on the night of the fog: it was finished by ten, and so were we.
`},
	{"members/unfinished.md", "---\ntitle: Something about owls\ndraft: true\n---\n\nTo be written.\n"},
	{"members/empty.md", ""},
	{"read-me.pdf", "%PDF-1.4 not an article"},
}

func must(text string, err error) string {
	if err != nil {
		panic(err) // it is our own text
	}
	return text
}

// docx is a small .docx file: a title, a paragraph and a list.
func docx(title, paragraph string, items ...string) string {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	body := fmt.Sprintf(`<w:p><w:pPr><w:pStyle w:val="Title"/></w:pPr><w:r><w:t>%s</w:t></w:r></w:p><w:p><w:r><w:t>%s</w:t></w:r></w:p>`, title, paragraph)
	for _, item := range items {
		body += fmt.Sprintf(`<w:p><w:pPr><w:numPr><w:numId w:val="1"/></w:numPr></w:pPr><w:r><w:t>%s</w:t></w:r></w:p>`, item)
	}
	for _, part := range [][2]string{
		{"[Content_Types].xml", `<?xml version="1.0" encoding="UTF-8"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>`},
		{"_rels/.rels", `<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="word/document.xml"/></Relationships>`},
		{"word/document.xml", `<?xml version="1.0" encoding="UTF-8"?><w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>` + body + `</w:body></w:document>`},
	} {
		w, err := z.CreateHeader(&zip.FileHeader{Name: part[0], Method: zip.Deflate, Modified: made})
		if err == nil {
			_, err = w.Write([]byte(part[1]))
		}
		if err != nil {
			panic(err) // writing to memory
		}
	}
	if err := z.Close(); err != nil {
		panic(err)
	}
	return out.String()
}

// instruments are what the observatory lends to its members, for posts with a composed text.
var instruments = sheet.Table{Name: "To borrow", Headings: []string{"No.", "Instrument", "What it is good for", "Weight", "Lent by", "Since"}, Rows: func(yield func([]any, error) bool) {
	things := []string{"Brass refractor", "Red torch", "Planisphere", "Field binoculars", "Moon map", "Tripod with one short leg", "Dew shield", "Sketching lamp", "Night chair", "Star diagonal",
		"Barlow lens", "Solar filter", "Grey card", "Anemometer", "Wide eyepiece", "Pocket level", "Chart table", "Wind screen", "Hand warmer", "Log of the first winter"}
	uses := []string{"rings and double stars", "reading charts without losing the dark", "finding out what rises when", "comets and the Milky Way", "telling the seas from the craters"}
	lenders := []string{"Ines Abara", "Tobias Wren", "Marguerite Oyelaran"}
	for n, thing := range things {
		row := []any{n + 1, thing, uses[n%len(uses)], fmt.Sprintf("%d g", 150+137*n), lenders[n%len(lenders)], fmt.Sprintf("%d", 1994+n)}
		if n == 11 {
			row[2] = "" // nobody has said yet
		}
		if !yield(row, nil) {
			return
		}
	}
}}
