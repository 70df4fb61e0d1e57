package main

import (
	"os"
	"testing"

	"github.com/alecthomas/kong"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What can be configured is documented, all in one table.
func TestEveryVariableIsDocumented(t *testing.T) {
	text, err := os.ReadFile("../../docs/operations.md")
	require.NoError(t, err)
	parser, err := kong.New(&cli{})
	require.NoError(t, err)
	found := 0
	var look func(*kong.Node)
	look = func(n *kong.Node) {
		for _, flag := range n.Flags {
			for _, name := range flag.Envs {
				found++
				assert.Contains(t, string(text), "| `"+name+"` |", "flag --%s", flag.Name)
			}
		}
		for _, child := range n.Children {
			look(child)
		}
	}
	look(parser.Model.Node)
	assert.Greater(t, found, 20)
}
