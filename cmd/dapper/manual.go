package main

import (
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/alecthomas/kong"
	mangokong "github.com/alecthomas/mango-kong"
	"github.com/muesli/roff"
)

type manualCmd struct{}

// Run prints the manual page: the commands, their flags, and what they read from the environment.
func (manualCmd) Run(app *kong.Kong, out io.Writer) error {
	page := mangokong.NewManPage(1, app.Model).
		WithSection("Environment", environment(app.Model)).
		WithSection("Files", "/etc/dapper.env: the environment of the service, where it was installed by a package.")
	_, err := fmt.Fprint(out, page.Build(roff.NewDocument()))
	return err
}

// environment lists the variables that commands read, each once.
func environment(app *kong.Application) string {
	var lines []string
	var look func(*kong.Node)
	look = func(n *kong.Node) {
		for _, flag := range n.Flags {
			for _, name := range flag.Envs {
				lines = append(lines, fmt.Sprintf("%s: %s", name, flag.Help))
			}
		}
		for _, child := range n.Children {
			look(child)
		}
	}
	look(app.Node)
	slices.Sort(lines)
	return strings.Join(slices.Compact(lines), "\n\n")
}
