// Package hostile makes what somebody might send who wants the program to fall over: texts,
// pictures and calendars that cost far more than they weigh. Only tests and scripts use it.
package hostile

import "strings"

// Texts are Markdown of about n bytes that costs far more than it says, by name.
var Texts = map[string]func(n int) string{
	"open links":       func(n int) string { return strings.Repeat("[a](", n/4) },
	"open images":      func(n int) string { return strings.Repeat("![a](", n/5) },
	"brackets":         func(n int) string { return strings.Repeat("[", n/2) + strings.Repeat("]", n/2) },
	"emphasis":         func(n int) string { return strings.Repeat("*a_", n/3) },
	"asterisks":        func(n int) string { return strings.Repeat("*a ", n/3) + strings.Repeat("a* ", n/3) },
	"tildes":           func(n int) string { return strings.Repeat("~~a", n/3) },
	"quotes":           func(n int) string { return strings.Repeat(">", n) },
	"quotes in lines":  func(n int) string { return strings.Repeat(strings.Repeat(">", 200)+"\n", n/200) },
	"lists":            func(n int) string { return strings.Repeat("- ", n/2) },
	"numbered lists":   func(n int) string { return strings.Repeat("1. ", n/3) },
	"indented lists":   func(n int) string { return stairs(n) },
	"backticks":        func(n int) string { return ticks(n) },
	"tags":             func(n int) string { return strings.Repeat("<a ", n/3) },
	"closed tags":      func(n int) string { return strings.Repeat("<div>", n/5) },
	"comments":         func(n int) string { return strings.Repeat("<!-- ", n/5) },
	"addresses":        func(n int) string { return strings.Repeat("a@a.b ", n/6) },
	"one long address": func(n int) string { return strings.Repeat("_a", n/2) + "@" },
	"entities":         func(n int) string { return strings.Repeat("&amp;", n/5) },
	"footnotes": func(n int) string {
		return strings.Repeat("[^1]", n/8) + "\n\n[^1]: x" + strings.Repeat("\n\n[^2]: y", n/20)
	},
	"headings":    func(n int) string { return strings.Repeat("# a\n", n/4) },
	"paragraphs":  func(n int) string { return strings.Repeat("a\n\n", n/3) },
	"short lines": func(n int) string { return strings.Repeat("a\n", n/2) },
	"rules":       func(n int) string { return strings.Repeat("---\n\n", n/5) },
	"a wide table": func(n int) string {
		return "|" + strings.Repeat("a|", n/8) + "\n|" + strings.Repeat("-|", n/8) + "\n" + strings.Repeat("|a\n", n/6)
	},
	"a reference": func(n int) string {
		return "[a]: /" + strings.Repeat("x", n/2) + "\n\n" + strings.Repeat("[a] ", n/8)
	},
	"references":   func(n int) string { return strings.Repeat("[a]: b\n", n/7) },
	"tabs":         func(n int) string { return strings.Repeat("\t-\t", n/3) },
	"spaces":       func(n int) string { return strings.Repeat(" ", n) + "a" },
	"hard breaks":  func(n int) string { return strings.Repeat("a\\\n", n/3) },
	"typography":   func(n int) string { return strings.Repeat(`"'--...`, n/7) },
	"attributes":   func(n int) string { return "<a " + strings.Repeat(`x="y" `, n/6) + ">" },
	"setext":       func(n int) string { return strings.Repeat("a\n=\n", n/4) },
	"fences":       func(n int) string { return strings.Repeat("```\n", n/4) },
	"task lists":   func(n int) string { return strings.Repeat("- [ ] a\n", n/8) },
	"one big word": func(n int) string { return strings.Repeat("a", n) },
}

func stairs(n int) string {
	var b strings.Builder
	for i := 0; b.Len() < n; i++ {
		b.WriteString(strings.Repeat(" ", 2*(i%500)) + "- a\n")
	}
	return b.String()
}

func ticks(n int) string {
	var b strings.Builder
	for i := 1; b.Len() < n; i++ {
		b.WriteString(strings.Repeat("`", i) + " ")
	}
	return b.String()
}
