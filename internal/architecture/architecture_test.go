// Package architecture holds the test that keeps imports running downward.
package architecture

import (
	"encoding/json"
	"errors"
	"io"
	"os/exec"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const module = "dapper.example/"

// layers from the top; a package may import those of lower layers only. Packages of
// core may import one another.
var layers = [][]string{
	{"cmd/dapper", "e2e", "packaging"},
	{"internal/api"},
	{"internal/api/blogs"},
	{"internal/api/forecasts", "internal/api/accounts", "internal/api/plan"},
	{"internal/api/posts", "internal/api/comments", "internal/api/imports", "internal/api/destinations", "internal/api/rhythms", "internal/api/logbook", "internal/api/rules",
		"internal/api/tours", "internal/api/results"},
	{"internal/api/channels"},
	{"internal/api/operation"},
	{"internal/engine", "internal/demo", "internal/standin", "internal/desktest", "web"},
	{"internal/undo", "internal/gate", "internal/founding", "internal/takeout", "internal/guide"},
	{"internal/tours"},
	{"internal/outings", "internal/channels", "internal/digests"},
	{"internal/siterules"},
	{"internal/deliver", "internal/enact"},
	{"internal/pgtest"},
	{"internal/imports", "internal/destinations", "internal/revisions", "internal/notices"},
	{"internal/blog", "internal/bundle"},
	{"internal/people", "internal/topics"},
	{"internal/planning", "internal/writing", "internal/library", "internal/reports", "internal/remarks", "internal/comments", "internal/webhooks", "internal/letters", "internal/tokens"},
	{"internal/channel", "internal/status", "internal/sitesettings", "internal/formats", "internal/intake/sheet", "internal/intake/feed", "internal/intake/page", "internal/picture",
		"internal/demo/pictures",
		"internal/backup", "internal/calendar"},
	{"internal/act"},
	{"internal/intake/articles"},
	{"internal/intake/charset"},
	{"internal/store", "internal/budget", "internal/secrets", "internal/reach", "docs"},
	{"internal/store/posts", "internal/store/rules", "internal/store/sites"},
	{"internal/store/plan", "internal/store/sharing"},
	{"internal/store/accounts", "internal/store/calendars", "internal/store/comments", "internal/store/destinations", "internal/store/imports", "internal/store/logbook", "internal/store/turns"},
	{"internal/store/db"},
	{"internal/core"},
}

// forTests are packages that only tests and scripts import; they import nothing of ours.
var forTests = []string{"internal/hostile", "internal/limited"}

// forbidden in core: whatever reads a clock, draws by itself, keeps or talks.
var forbidden = []string{"database/sql", "net", "net/http", "os", "math/rand", "log", "log/slog", "sync"}

func layerOf(path string) int {
	layer, longest := -1, ""
	for i, names := range layers {
		for _, name := range names {
			if (path == module+name || strings.HasPrefix(path, module+name+"/")) && len(name) > len(longest) {
				layer, longest = i, name
			}
		}
	}
	return layer
}

type goPackage struct {
	ImportPath string
	Imports    []string
}

func packages(t *testing.T) []goPackage {
	t.Helper()
	list := exec.Command("go", "list", "-json=ImportPath,Imports", module+"...")
	out, err := list.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, list.Start())
	var all []goPackage
	for decoder := json.NewDecoder(out); ; {
		var p goPackage
		err := decoder.Decode(&p)
		if errors.Is(err, io.EOF) {
			break
		}
		require.NoError(t, err)
		all = append(all, p)
	}
	require.NoError(t, list.Wait())
	require.NotEmpty(t, all)
	return all
}

func TestImportsRunDownward(t *testing.T) {
	for _, p := range packages(t) {
		from := layerOf(p.ImportPath)
		if p.ImportPath == module+"internal/architecture" || strings.HasPrefix(p.ImportPath, module+"scripts/") {
			continue
		}
		if slices.Contains(forTests, strings.TrimPrefix(p.ImportPath, module)) {
			assert.False(t, slices.ContainsFunc(p.Imports, func(path string) bool {
				return strings.HasPrefix(path, module)
			}), "%s imports something of ours", p.ImportPath)
			continue
		}
		if !assert.GreaterOrEqual(t, from, 0, "%s has no layer; give it one", p.ImportPath) {
			continue
		}
		for _, imported := range p.Imports {
			if !strings.HasPrefix(imported, module) {
				continue
			}
			to := layerOf(imported)
			core := len(layers) - 1
			assert.True(t, to > from || from == core && to == core, "%s imports %s, which is not below it",
				p.ImportPath, imported)
		}
	}
}

// The parts of the store are seen as one, so that no SQL of a blog's data is run anywhere else.
func TestThePartsOfTheStoreAreItsOwn(t *testing.T) {
	const store = module + "internal/store"
	for _, p := range packages(t) {
		if p.ImportPath == store || strings.HasPrefix(p.ImportPath, store+"/") {
			continue
		}
		for _, imported := range p.Imports {
			assert.False(t, strings.HasPrefix(imported, store+"/"), "%s imports %s", p.ImportPath, imported)
		}
	}
}

func TestCoreIsPure(t *testing.T) {
	for _, p := range packages(t) {
		if !strings.HasPrefix(p.ImportPath, module+"internal/core/") {
			continue
		}
		for _, imported := range p.Imports {
			assert.NotContains(t, forbidden, imported, "%s imports %s", p.ImportPath, imported)
			assert.False(t, strings.HasPrefix(imported, module) &&
				!strings.HasPrefix(imported, module+"internal/core/"),
				"%s imports %s, which is outside core", p.ImportPath, imported)
		}
	}
}

// So the race detector has nothing to see in core, and scripts/test leaves it out there.
func TestCoreStartsNoGoroutine(t *testing.T) {
	nowhere(t, `^[[:space:]]*go (func|[a-z])`, "internal/core")
}

func TestOnlyCommandsReadTheRealClock(t *testing.T) {
	nowhere(t, `time\.(Now|Since|Until)\(|NewRealClock`, "internal")
}

// nowhere fails where the code in a folder, but for tests, has a line like that.
func nowhere(t *testing.T, line, folder string) {
	t.Helper()
	grep := exec.Command("git", "grep", "-nE", line, "--", folder, ":!*_test.go")
	grep.Dir = "../.."
	out, err := grep.Output()
	if exit, ok := errors.AsType[*exec.ExitError](err); ok && exit.ExitCode() == 1 {
		return // nothing found
	}
	require.NoError(t, err)
	assert.Empty(t, string(out))
}
