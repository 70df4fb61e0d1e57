// Package docs is the guide for editors, which ships inside the program.
package docs

import "embed"

// Guide holds the pages of the guide, as Markdown.
//
//go:embed your-own-blog.md guide.md planning-a-month.md how-times-are-chosen.md rules.md timed-edits.md upkeep.md tours.md results.md mails.md sharing.md channels.md webhooks.md forecast.md bringing-it-in.md taking-it-out.md
var Guide embed.FS
